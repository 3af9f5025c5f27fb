"""SubRip captions (.srt), read as they come and written plainly."""

from __future__ import annotations

import re
from pathlib import Path

from dubrel.edits.captiontext import shown_captions
from dubrel.formats.common import Reading, read_text, reading_of
from dubrel.model import Cue, Project
from dubrel.timecode import format_clock, parse_clock

_TIMES = re.compile(r"^\s*(-?[\d:]+(?:[.,]\d+)?)\s*--?>\s*(-?[\d:]+(?:[.,]\d+)?)(?:\s+.*)?$")
_TAGS = re.compile(r"</?(?:[bius]|font|ruby|rt)\b[^>]*>|\{\\[^}]*\}|\{/?[bius]\}", re.IGNORECASE)


def write(project: Project) -> str:
    """The caption track as SubRip text."""
    blocks = []
    for number, (caption, text) in enumerate(shown_captions(project, project.captions), 1):
        times = " --> ".join(format_clock(ms, mark=",") for ms in (caption.start_ms, caption.end_ms))
        blocks.append(f"{number}\n{times}\n" + "\n".join(text.lines) + "\n")
    return "\n".join(blocks)


def read(path: Path) -> Reading:
    """Read captions, correcting what can be corrected and warning of it.

    Raises
    ------
    FormatError
        If there is no caption in the file.
    """
    cues, warnings = read_cues(path)
    return reading_of(path, cues, warnings)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues as they stand in the file, and what is odd."""
    text, warnings = read_text(path)
    return cues_of(text, warnings), warnings


def cues_of(text: str, warnings: list[str]) -> list[Cue]:
    """The cues of a SubRip text; what is odd is added to ``warnings``."""
    lines = text.split("\n")
    marks = [(place, found) for place, line in enumerate(lines) if (found := _TIMES.match(line))]
    cues = []
    for nth, (place, found) in enumerate(marks):
        stop = marks[nth + 1][0] if nth + 1 < len(marks) else len(lines)
        body = [line.strip() for line in lines[place + 1 : stop]]
        if nth + 1 < len(marks) and body and body[-1].isdigit():
            body.pop()  # the number of the next cue
        rows = tuple(row for line in body if (row := _TAGS.sub("", line).strip()))
        if any(_TAGS.search(line) for line in body):
            _once(warnings, "Formatting tags were taken out of the text.")
        cue = _cue(found.group(1), found.group(2), rows, place + 1, warnings)
        if cue:
            cues.append(cue)
    if any(late.start_ms < early.start_ms for early, late in zip(cues, cues[1:])):
        warnings.append("The captions were out of order; they were sorted by time.")
    return cues


def _cue(start: str, end: str, rows: tuple[str, ...], line: int, warnings: list[str]) -> Cue | None:
    try:
        times = parse_clock(start), parse_clock(end)
    except ValueError as error:
        warnings.append(f"Line {line}: {error}; that caption was left out.")
        return None
    if not rows:
        return None
    if times[0] < 0:
        warnings.append(f"Line {line}: a time below zero was set to zero.")
        times = max(0, times[0]), max(0, times[1])
    if times[1] <= times[0]:
        warnings.append(f"Line {line}: the caption ended before it began; it was given one second.")
        times = times[0], times[0] + 1000
    return Cue(times[0], times[1], rows)


def _once(warnings: list[str], message: str) -> None:
    if message not in warnings:
        warnings.append(message)
