"""WebVTT captions (.vtt) after the W3C recommendation."""

from __future__ import annotations

import html
import re
from pathlib import Path

from dubrel.edits.captiontext import CaptionText, shown_captions
from dubrel.formats.common import Reading, read_text, reading_of
from dubrel.model import Cue, Project
from dubrel.timecode import format_clock, parse_clock

_TIMES = re.compile(r"^\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d+)\s*-->\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d+)")
_VOICE = re.compile(r"<v(?:\.[^\s>]*)?\s+([^>]*)>")
_TAGS = re.compile(r"</?[^>]*>")
_BLOCKS = ("NOTE", "STYLE", "REGION")


def write(project: Project) -> str:
    """The caption track as WebVTT, with voice tags where speakers are known."""
    blocks = ["WEBVTT\n"]
    for caption, text in shown_captions(project, project.captions):
        times = " --> ".join(format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
        blocks.append(f"{times}\n{_voiced(text)}\n")
    return "\n".join(blocks)


def _voiced(text: CaptionText) -> str:
    """The lines, each person's with a voice tag; a tag is closed only where another follows."""
    rows, before = [], ""
    several = len(set(text.speakers)) > 1
    for line, speaker in zip(text.lines, text.speakers):
        row = _escape(line)
        if speaker and speaker != before:
            row = f"<v {_escape(' '.join(speaker.split()))}>{row}"
        rows.append(f"{row}</v>" if several and speaker else row)
        before = "" if several else speaker
    return "\n".join(rows)


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def read(path: Path) -> Reading:
    """Read captions and voices; notes, styles and regions are passed over.

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
    if not text.startswith("WEBVTT"):
        warnings.append("The file does not begin with WEBVTT; it was read all the same.")
    cues = []
    for block in re.split(r"\n[ \t]*\n+", text):
        lines = block.strip("\n").split("\n")
        place = next((k for k, line in enumerate(lines) if "-->" in line), None)
        if place is None or lines[0].split(" ")[0] in _BLOCKS:
            continue
        cue = _cue(lines[place], lines[place + 1 :], warnings)
        if cue:
            cues.append(cue)
    return cues, warnings


def _cue(times: str, body: list[str], warnings: list[str]) -> Cue | None:
    found = _TIMES.match(times)
    if not found:
        warnings.append(f"“{times.strip()}” is not a cue's time line; that caption was left out.")
        return None
    start, end = parse_clock(found.group(1)), parse_clock(found.group(2))
    voices: dict[int, str] = {}
    rows: list[str] = []
    for line in body:
        row = html.unescape(_TAGS.sub("", line)).strip()
        if row:
            if voice := _VOICE.search(line):
                voices[len(rows)] = html.unescape(voice.group(1).strip())
            rows.append(row)
    if not rows:
        return None
    if end <= start:
        warnings.append(f"{found.group(1)}: the caption ended before it began; it was given one second.")
        end = start + 1000
    speaker = voices.pop(0, None)
    changes: dict[int, str | None] = {}
    for place, name in voices.items():
        if name != (changes[max(changes)] if changes else speaker):
            changes[place] = name
    return Cue(start, end, tuple(rows), speaker, changes)
