"""Where the crop of an upright or square film lies: set by hand, moved, taken away."""

from __future__ import annotations

from collections.abc import Iterable

from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import replace
from dubrel.model import FrameKey, Framing, Project


def framed(project: Project, ms: int, x: float, y: float = 50.0, *, pans: bool = False) -> Project:
    """The project with the crop somewhere from a time on.

    Parameters
    ----------
    ms : int
        In time of the recording; from the frame that is shown then on.
    x, y : float
        Where its middle is, in percent of the picture; kept within it.
    pans : bool
        Whether it moves there; else it is there at once.
    """
    at, rate = max(0, ms), project.frame_rate
    if rate is not None:
        frame = ms_to_frames(at, rate)
        at = frames_to_ms(frame - (frames_to_ms(frame, rate) > at), rate)
    key = FrameKey(at, round(min(max(x, 0.0), 100.0), 2), round(min(max(y, 0.0), 100.0), 2), pans)
    keys = [one for one in project.framing.keys if one.ms != at]
    made = Framing(tuple(sorted([*keys, key], key=lambda one: one.ms)))
    return project if made == project.framing else replace(project, framing=made)


def key_at(project: Project, ms: int) -> FrameKey | None:
    """Where the crop was put last at a time."""
    before = [one for one in project.framing.keys if one.ms <= ms]
    return before[-1] if before else None


def panning(project: Project, ms: int) -> Project:
    """The crop moves where it was put last, instead of being there at once; or the other way round."""
    key = key_at(project, ms)
    return project if key is None else framed(project, key.ms, key.x, key.y, pans=not key.pans)


def unframed(project: Project, ms: int) -> Project:
    """The project without the place where the crop was put last."""
    key = key_at(project, ms)
    if key is None:
        return project
    keys = tuple(one for one in project.framing.keys if one is not key)
    return replace(project, framing=Framing(keys))


def followed(project: Project, start_ms: int, end_ms: int, keys: Iterable[FrameKey]) -> Project:
    """The project with other places of the crop within a passage; after it the crop is where it was.

    Parameters
    ----------
    start_ms, end_ms : int
    keys : iterable of FrameKey
        Within the passage; without any it stays as it is.
    """
    found = sorted(keys, key=lambda one: one.ms)
    if not found:
        return project
    x, y = project.framing.at(end_ms)
    outside = [one for one in project.framing.keys if not start_ms <= one.ms < end_ms]
    made = replace(project, framing=Framing(tuple(outside)))
    for one in found:
        made = framed(made, max(start_ms, one.ms), one.x, one.y, pans=one.pans)
    goes_on = end_ms < (project.length_ms or 0) and all(one.ms != end_ms for one in outside)
    return framed(made, end_ms, x, y) if goes_on else made
