"""Chapters as WebVTT, as JSON for podcasts (the open podcast chapters form), and as a list of times."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from pathlib import Path

from dubrel.base.timecode import format_clock
from dubrel.edits.notes import CHAPTER, notes_in_order, time_of
from dubrel.formats.captions import webvtt
from dubrel.formats.shared.agreement import utf8
from dubrel.formats.shared.form import AROUND, Content, Form
from dubrel.formats.shared.inline import escaped
from dubrel.model import Project

Chapter = tuple[int, int, str]
"""When it begins and ends, in milliseconds, and its title."""


def chapters_of(project: Project) -> list[Chapter]:
    """The chapters in order; the first begins at the beginning, the last ends with the recording."""
    notes = notes_in_order(project, (CHAPTER,))
    times = [time_of(project, one) for one in notes]
    turns = project.transcript.turns
    end = project.media.duration_ms if project.media else max((turn.end_ms for turn in turns), default=0)
    starts = [0 if nth == 0 and ms < 5000 else ms for nth, ms in enumerate(times)]
    edges = [*starts[1:], max(end, starts[-1] + 1 if starts else 0)]
    return [
        (start, max(start + 1, stop), " ".join(one.text.split()))
        for start, stop, one in zip(starts, edges, notes)
    ]


def as_webvtt(chapters: Sequence[Chapter]) -> str:
    """A chapter track of WebVTT (W3C)."""
    cues = [
        f"{format_clock(start)} --> {format_clock(end)}\n{escaped(title)}\n" for start, end, title in chapters
    ]
    return "WEBVTT\n\n" + "\n".join(cues)


def as_json(chapters: Sequence[Chapter]) -> str:
    """The open JSON form that podcast players read (version 1.2.0)."""
    rows = [
        {"startTime": start / 1000, "endTime": end / 1000, "title": title} for start, end, title in chapters
    ]
    return json.dumps({"version": "1.2.0", "chapters": rows}, ensure_ascii=False, indent=1) + "\n"


def as_list(chapters: Sequence[Chapter]) -> str:
    """A time and a title a line, for a description; the first at 0:00."""
    long = bool(chapters) and chapters[-1][0] >= 3_600_000
    rows = [(0 if nth == 0 else start, title) for nth, (start, _, title) in enumerate(chapters)]
    return "".join(f"{_short(start, long)} {title}\n" for start, title in rows)


def _short(ms: int, long: bool) -> str:
    seconds = ms // 1000
    if long:
        return f"{seconds // 3600}:{seconds // 60 % 60:02}:{seconds % 60:02}"
    return f"{seconds // 60}:{seconds % 60:02}"


def _webvtt_agrees(content: Content, path: Path) -> bool:
    found = [(one.start_ms, one.end_ms, " ".join(one.lines)) for one in webvtt.read_cues(path)[0]]
    return found == [one for one in chapters_of(content.project) if one[2]]


def _json_agrees(content: Content, path: Path) -> bool:
    rows = json.loads(utf8(path))["chapters"]
    found = [(round(one["startTime"] * 1000), round(one["endTime"] * 1000), one["title"]) for one in rows]
    return found == chapters_of(content.project)


def _list_agrees(content: Content, path: Path) -> bool:
    return utf8(path) == as_list(chapters_of(content.project))


def _form(
    id: str,
    label: str,
    suffix: str,
    write: Callable[[Sequence[Chapter]], str],
    agrees: Callable[[Content, Path], bool],
) -> Form:
    return Form(
        id=id,
        label=label,
        suffixes=(suffix,),
        group=AROUND,
        write=lambda content: write(chapters_of(content.project)).encode("utf-8"),
        agrees=agrees,
        needs="chapters",
        each_track=False,
    )


FORMS = (
    _form("chapters-vtt", "Chapters, WebVTT", ".vtt", as_webvtt, _webvtt_agrees),
    _form("chapters-json", "Chapters, JSON for podcasts", ".json", as_json, _json_agrees),
    _form("chapters-txt", "Chapters, a list of times", ".txt", as_list, _list_agrees),
)
