"""An audit as JSON for programs and as text for people."""

from __future__ import annotations

from typing import Any

from dubrel.speech.audit import Audit, Course
from dubrel.timecode import format_clock


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
        "lines": [
            {
                "number": line.number,
                "start_ms": line.start_ms,
                "end_ms": line.end_ms,
                "text": line.text,
                "agreement": line.agreement,
                "heard_start_ms": line.heard[0] if line.heard else None,
                "heard_end_ms": line.heard[1] if line.heard else None,
                "offset_start_ms": line.offset_ms,
                "offset_end_ms": line.heard[1] - line.end_ms if line.heard else None,
                "mark": line.mark,
            }
            for line in report.lines
        ],
        "uncovered": [
            {"start_ms": one.start_ms, "end_ms": one.end_ms, "text": one.text} for one in report.uncovered
        ],
    }


def course_in_words(course: Course) -> str:
    """What is wrong with the whole, in one sentence."""
    if course.kind == "shift":
        return f"All lines are {_way(course.shift_ms)}."
    if course.kind == "drift":
        name = course.known_factor or f"{course.factor:.5f}"
        return f"The lines drift: times must be multiplied by {name} and moved by {course.shift_ms / 1000:+.2f} s."
    if course.kind == "jump":
        clock = format_clock(course.jump_at_ms, digits=1)
        before = "" if abs(course.shift_ms) < 100 else f" Before it they are {_way(course.shift_ms)}."
        return f"At {clock} the lines jump: from there on they are {_way(course.jump_ms + course.shift_ms)}.{before}"
    return "The times as a whole are true."


def _way(offset_ms: float) -> str:
    return f"{abs(offset_ms) / 1000:.2f} s too {'early' if offset_ms > 0 else 'late'}"


def as_text(report: Audit) -> str:
    """The report for reading: the course, then every line that is not true."""
    rows = [course_in_words(report.course)]
    for line in report.lines:
        if line.mark != "true":
            clock = format_clock(line.start_ms)
            much = f" by {abs(line.offset_ms or 0) / 1000:.2f} s" if line.heard else ""
            rows.append(f"{line.number:>5}  {clock}  {line.mark}{much}: {line.text}")
    for one in report.uncovered:
        rows.append(f"    –  {format_clock(one.start_ms)}  no line covers: {one.text}")
    return "\n".join(rows)
