"""What is shown in a cut, shot by shot, in frames: by the switches, and by which cameras run."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import pairwise
from typing import Any

from dubrel.base.timecode import ms_to_frames
from dubrel.base.value import Value, replace
from dubrel.model import Camera, Cameras, Cut, Project
from dubrel.project.timeline import frames_of

SCRAP_MS = 400
"""What a join leaves of a shot and is shorter goes to the shot beside it."""


class CameraShot(Value):
    """Frames of one camera.

    Attributes
    ----------
    camera : int
        Its id; 0 where none runs.
    first, after : int
        Frames of the recording.
    at : int
        The frame of the cut at which it begins.
    joined : bool
        Whether it begins at a join, not at a switch.
    """

    camera: int
    first: int
    after: int
    at: int
    joined: bool = False

    @property
    def frames(self) -> int:
        """How many."""
        return self.after - self.first

    @property
    def until(self) -> int:
        """The frame of the cut after its last."""
        return self.at + self.frames


def camera_shots(project: Project, cut: Cut, rate: Fraction) -> list[CameraShot]:
    """The shots of a cut in the order in which they play; of a gap there is none.

    Where the camera that is to be shown does not run, the first one that does is shown.
    """
    cameras = project.cameras
    found, at = list[CameraShot](), 0
    for passage in cut.passages:
        first, after = frames_of(passage, rate)
        if after <= first:
            continue
        if passage.plays != "gap":
            found += _merged(_shots(cameras, project.length_ms, first, after, at, rate))
        at += after - first
    before, now = list[CameraShot](), _merged(found)
    while now != before:  # what took a scrap may be one itself
        before, now = now, _merged(_without_scraps(now, cameras, project.length_ms, rate))
    return now


def running(cameras: Cameras, length_ms: int | None, start_ms: float, end_ms: float) -> Camera | None:
    """The first camera that runs through a passage."""
    return next((one for one in cameras.seen if runs(one, length_ms, start_ms, end_ms)), None)


def runs(camera: Camera, length_ms: int | None, start_ms: float, end_ms: float) -> bool:
    """Whether a camera runs through a passage."""
    return bool(runs_through(camera, length_ms, start_ms, end_ms))


def runs_through(camera: Camera, length_ms: int | None, starts_ms: Any, ends_ms: Any) -> Any:
    """Whether a camera runs through each of some passages, given as floats or as arrays of them."""
    if camera.media is None:
        return (starts_ms >= 0) & (ends_ms <= (length_ms or 0) + 100)
    return (camera.starts_ms <= starts_ms + 1) & (ends_ms <= camera.ends_ms + 1)


def _shots(
    cameras: Cameras, length_ms: int | None, first: int, after: int, at: int, rate: Fraction
) -> Iterator[CameraShot]:
    """The shots of a passage, divided where a switch is or a camera begins or ends."""
    marks = {ms_to_frames(one.ms, rate) for one in cameras.switches}
    for one in cameras.seen:
        if one.media is not None:
            begins, ends = float(one.starts_ms * rate / 1000), float(one.ends_ms * rate / 1000)
            marks |= {int(-(-begins // 1)), int(ends // 1)}
    edges = [first, *sorted(mark for mark in marks if first < mark < after), after]
    for a, b in pairwise(edges):
        ms, until = float(a * 1000 / rate), float(b * 1000 / rate)
        wished = cameras.at(round(ms) + 1)
        if wished is None or not runs(wished, length_ms, ms, until):
            wished = running(cameras, length_ms, ms, until)
        yield CameraShot(wished.id if wished else 0, a, b, at + a - first, a == first)


def _merged(shots: Iterable[CameraShot]) -> list[CameraShot]:
    """Shots of one camera that follow each other in the recording as one."""
    found = list[CameraShot]()
    for one in shots:
        last = found[-1] if found else None
        if last is not None and (last.camera, last.after, last.until) == (one.camera, one.first, one.at):
            found[-1] = replace(last, after=one.after)
        else:
            found.append(one)
    return found


def _without_scraps(
    shots: list[CameraShot], cameras: Cameras, length_ms: int | None, rate: Fraction
) -> list[CameraShot]:
    """Shots of which a join left next to nothing, shown by the camera beside them in the passage."""
    least = max(1, round(SCRAP_MS * rate / 1000))
    found = list(shots)
    for nth, one in enumerate(found):
        if one.frames >= least:
            continue
        before = found[nth - 1] if nth and found[nth - 1].after == one.first else None
        after = found[nth + 1] if nth + 1 < len(found) and found[nth + 1].first == one.after else None
        if (before is None) == (after is None):
            continue  # between two switches it is as it was wished; alone there is nothing else
        beside = before or after
        assert beside is not None
        camera = cameras.camera(beside.camera)
        start, end = float(one.first * 1000 / rate), float(one.after * 1000 / rate)
        if camera is not None and runs(camera, length_ms, start, end):
            found[nth] = replace(one, camera=beside.camera)
    return found
