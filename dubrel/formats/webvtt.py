"""WebVTT captions (.vtt) after the W3C recommendation."""

from __future__ import annotations

import html
import re
from pathlib import Path

from dubrel.edits.intake import Cue
from dubrel.formats.common import Reading, read_text, reading_of, shown_captions
from dubrel.model import Project
from dubrel.timecode import format_clock, parse_clock

_TIMES = re.compile(r"^\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d+)\s*-->\s*((?:\d+:)?\d{1,2}:\d{2}[.,]\d+)")
_VOICE = re.compile(r"<v(?:\.[^\s>]*)?\s+([^>]*)>")
_TAGS = re.compile(r"</?[^>]*>")
_BLOCKS = ("NOTE", "STYLE", "REGION")


def write(project: Project) -> str:
    """The caption track as WebVTT, with voice tags where speakers are known."""
    blocks = ["WEBVTT\n"]
    for caption in shown_captions(project):
        times = " --> ".join(format_clock(ms) for ms in (caption.start_ms, caption.end_ms))
        lines = "\n".join(_escape(line) for line in caption.lines)
        voice = f"<v {_escape(' '.join(caption.speaker.split()))}>" if caption.speaker else ""
        blocks.append(f"{times}\n{voice}{lines}\n")
    return "\n".join(blocks)


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def read(path: Path) -> Reading:
    """Read captions and voices; notes, styles and regions are passed over.

    Raises
    ------
    FormatError
        If there is no caption in the file.
    """
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
    return reading_of(path, cues, warnings)


def _cue(times: str, body: list[str], warnings: list[str]) -> Cue | None:
    found = _TIMES.match(times)
    if not found:
        warnings.append(f"“{times.strip()}” is no time line; that caption was left out.")
        return None
    start, end = parse_clock(found.group(1)), parse_clock(found.group(2))
    voice = next((v.group(1).strip() for line in body if (v := _VOICE.search(line))), None)
    rows = tuple(row for line in body if (row := html.unescape(_TAGS.sub("", line)).strip()))
    if not rows:
        return None
    if end <= start:
        warnings.append(f"{found.group(1)}: the caption ended before it began; it was given one second.")
        end = start + 1000
    return Cue(start, end, rows, html.unescape(voice) if voice else None)
