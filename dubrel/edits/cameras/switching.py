"""The cut of the picture, by hand: another camera from a moment on, a switch moved or taken away."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.cameras.gathering import plain_switches
from dubrel.model import CutPassage, Project, Switch


def switched(project: Project, ms: int, camera_id: int) -> Project:
    """The project with another camera from the frame that is shown at a time, up to the next switch.

    Parameters
    ----------
    ms : int
        In time of the recording.
    """
    camera = project.cameras.camera(camera_id)
    if camera is None or not camera.seen:
        return project
    at = _frame_at(project, ms)
    others = [one for one in project.cameras.switches if one.ms != at]
    return _with(project, [*others, Switch(at, camera_id)])


def unswitched(project: Project, ms: int) -> Project:
    """The project without the last switch at or before a time: what was shown before it goes on."""
    last = switch_at(project, ms)
    return (
        project if last is None else _with(project, (one for one in project.cameras.switches if one != last))
    )


def switch_at(project: Project, ms: int) -> Switch | None:
    """The last switch at or before a time."""
    return next((one for one in reversed(project.cameras.switches) if one.ms <= ms), None)


def switch_moved(project: Project, switch: Switch, ms: int) -> Project:
    """The project with a switch at another frame, at least one away from those beside it."""
    rows = project.cameras.switches
    if switch not in rows:
        return project
    nth = rows.index(switch)
    step = frames_to_ms(1, project.frame_rate) if project.frame_rate else 1
    low = rows[nth - 1].ms + step if nth else 0
    high = rows[nth + 1].ms - step if nth + 1 < len(rows) else (project.length_ms or ms)
    at = _frame_at(project, min(max(ms, low), max(low, high)))
    return _with(project, [*rows[:nth], replace(switch, ms=at), *rows[nth + 1 :]])


def switches_between(project: Project, start_ms: int, end_ms: int, rows: Iterable[Switch]) -> Project:
    """The project with other switches within a passage; after it what was shown is shown again."""
    after = project.cameras.at(end_ms)
    kept = [one for one in project.cameras.switches if not start_ms <= one.ms < end_ms]
    if after is not None and end_ms < (project.length_ms or 0) and all(one.ms != end_ms for one in kept):
        kept.append(Switch(_frame_at(project, end_ms), after.id))
    return _with(project, [*kept, *rows])


def shown_as(project: Project, passages: Sequence[CutPassage], rows: Iterable[Switch] | None) -> Project:
    """The project with the switches of a cut list in place of its own, where the list plays."""
    spans = [(one.start_ms, one.end_ms) for one in passages if one.plays != "gap"]
    if rows is None or not spans:
        return project
    start, end = min(a for a, _ in spans), max(b for _, b in spans)
    return switches_between(project, start, end, rows)


def _frame_at(project: Project, ms: int) -> int:
    """When the frame that is shown at a time begins."""
    at, rate = max(0, ms), project.frame_rate
    if rate is None:
        return at
    frame = ms_to_frames(at, rate)
    return frames_to_ms(frame - (frames_to_ms(frame, rate) > at), rate)


def _with(project: Project, switches: Iterable[Switch]) -> Project:
    """The project with switches; of two at one time the last stays."""
    cameras, switches = project.cameras, {one.ms: one for one in switches}.values()
    made = replace(cameras, switches=plain_switches(switches, cameras.all))
    return project if made == cameras else replace(project, cameras=made)
