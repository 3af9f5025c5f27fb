"""An audit as JSON for programs and as text for people."""

from __future__ import annotations

from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.model import Audit
from dubrel.model.audit import ON_TIME

_SMALL_MS = 100


def as_json(report: Audit) -> dict[str, Any]:
    """The report as plain JSON values."""
    course = report.course
    return {
        "course": {
            "kind": course.kind,
            "shift_ms": round(course.shift_ms),
            "factor": round(course.factor, 7),
            "known_factor": course.known_factor,
            "jump_at_ms": course.jump_at_ms,
            "jump_ms": course.jump_ms,
        },
        "captions": [
            {
                "number": one.number,
                "start_ms": one.start_ms,
                "end_ms": one.end_ms,
                "text": one.text,
                "agreement": one.agreement,
                "spoken_start_ms": one.heard[0] if one.heard else None,
                "spoken_end_ms": one.heard[1] if one.heard else None,
                "offset_start_ms": one.offset_ms,
                "offset_end_ms": one.heard[1] - one.end_ms if one.heard else None,
                "mark": one.mark,
            }
            for one in report.captions
        ],
        "uncaptioned": [
            {"start_ms": one.start_ms, "end_ms": one.end_ms, "text": one.text} for one in report.uncaptioned
        ],
    }


def course_in_words(report: Audit) -> str:
    """What is wrong with the whole, in one sentence."""
    course = report.course
    if report.captions and not any(one.heard for one in report.captions):
        return tr("None of the captions is spoken in the recording.")
    if course.kind == "shift":
        return tr("All captions are {way}.").format(way=_way(course.shift_ms))
    if course.kind == "drift":
        name = course.known_factor or f"{course.factor:.5f}"
        shift = f"{course.shift_ms / 1000:+.2f} s"
        said = tr("The captions are drifting: stretch their times by {factor} and shift them by {shift}.")
        return said.format(factor=name, shift=shift)
    if course.kind == "jump":
        clock = format_clock(course.jump_at_ms, digits=1)
        later = _way(course.jump_ms + course.shift_ms)
        if abs(course.shift_ms) < _SMALL_MS:
            return tr("From {clock} on, the captions are {way}.").format(clock=clock, way=later)
        said = tr("From {clock} on, the captions are {way}. Before that they are {before}.")
        return said.format(clock=clock, way=later, before=_way(course.shift_ms))
    return tr("The captions are on time as a whole.")


def _way(offset_ms: float) -> str:
    way = tr("{by:.2f} s early") if offset_ms > 0 else tr("{by:.2f} s late")
    return way.format(by=abs(offset_ms) / 1000)


def as_text(report: Audit) -> str:
    """The report for reading: the course, then every caption that is not on time."""
    rows = [course_in_words(report)]
    for one in report.captions:
        if one.mark != ON_TIME:
            clock = format_clock(one.start_ms)
            much = f" by {abs(one.offset_ms or 0) / 1000:.2f} s" if one.heard else ""
            rows.append(f"{one.number:>5}  {clock}  {one.mark}{much}: {one.text}")
    for word in report.uncaptioned:
        rows.append(f"    –  {format_clock(word.start_ms)}  uncaptioned: {word.text}")
    return "\n".join(rows)
