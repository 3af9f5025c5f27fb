"""The times of captions by hand: nudge, tap, move, close and open gaps, snap to what is near."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

from dubrel.base.timecode import frame_beside, snap_to_frame
from dubrel.edits.captions.moving import SHORTEST_MS, move_edge
from dubrel.edits.captions.shape import found_in, neighbour
from dubrel.model import Caption, Project
from dubrel.project.captiontext import rows_of
from dubrel.project.index import caption_with
from dubrel.project.tracks import holding, with_captions


def nudge(project: Project, caption_id: int, edge: str, step: int, *, along: bool = False) -> Project:
    """Move an edge by one frame, or by 10 ms without a picture.

    Parameters
    ----------
    edge : {"in", "out"}
    step : int
        -1 earlier, 1 later.
    along : bool
        The neighbour's edge goes with it, so that the gap stays.
    """
    _, caption, _ = found_in(project, caption_id)
    rate = project.frame_rate
    now = caption.start_ms if edge == "in" else caption.end_ms
    ms = now + 10 * step if rate is None else frame_beside(now, step, rate)
    other = neighbour(project, caption_id, -1 if edge == "in" else 1) if along else None
    if other is None:
        return move_edge(project, caption_id, edge, ms)
    return _both_edges(project, caption, other, edge, max(0, ms))


def _both_edges(project: Project, caption: Caption, other: Caption, edge: str, ms: int) -> Project:
    """An edge with that of the neighbour; both stop where one would be too short."""
    left, right = (other, caption) if edge == "in" else (caption, other)
    gap = right.start_ms - left.end_ms
    start = ms if edge == "in" else ms + gap
    low, high = max(left.start_ms, left.start_ms + SHORTEST_MS + gap), right.end_ms - SHORTEST_MS
    start = min(max(start, low), high) if low <= high else right.start_ms
    track = project.captions
    assert track is not None
    changed = {
        left.id: holding(replace(left, end_ms=start - gap), "times"),
        right.id: holding(replace(right, start_ms=start), "times"),
    }
    return project if start == right.start_ms else with_captions(project, track.id, changed)


def move_whole(project: Project, caption_id: int, start_ms: int) -> Project:
    """Move a caption to begin at a time, as long as it is, between its neighbours."""
    track, caption, place = found_in(project, caption_id)
    gap = track.style.least_gap(project.frame_rate)
    span = caption.end_ms - caption.start_ms
    low = min(track.captions[place - 1].end_ms + gap, caption.start_ms) if place else 0
    high = None
    if place + 1 < len(track.captions):
        high = max(track.captions[place + 1].start_ms - gap - span, caption.start_ms)
    start = max(low, start_ms if high is None else min(start_ms, high))
    if start == caption.start_ms:
        return project
    made = holding(replace(caption, start_ms=start, end_ms=start + span), "times")
    return with_captions(project, track.id, {caption_id: made})


def tap_in(project: Project, caption_id: int, ms: int) -> Project:
    """A caption comes in at a time; the one before goes out just before, those after it give way."""
    track, caption, place = found_in(project, caption_id)
    rate = project.frame_rate
    gap, ms = track.style.least_gap(rate), snap_to_frame(ms, rate)
    changed: dict[int, Caption | None] = {}
    before = track.captions[place - 1] if place else None
    if before is not None:
        ms = max(ms, before.start_ms + SHORTEST_MS + gap)
        if before.end_ms > ms - gap:
            changed[before.id] = holding(replace(before, end_ms=ms - gap), "times")
    later = track.captions[place + 1 :]
    end = caption.end_ms
    if end <= ms + SHORTEST_MS:
        end = ms + caption.end_ms - caption.start_ms
        if later and later[0].start_ms - gap >= ms + SHORTEST_MS:
            end = min(end, later[0].start_ms - gap)
    changed[caption_id] = holding(replace(caption, start_ms=ms, end_ms=end), "times")
    if later and later[0].start_ms <= max(ms, end if end != caption.end_ms else ms):
        for one in later:
            away = end + gap - one.start_ms
            if away <= 0:
                break
            end = one.end_ms + away
            changed[one.id] = replace(one, start_ms=one.start_ms + away, end_ms=end)
    return with_captions(project, track.id, changed)


def tap_out(project: Project, caption_id: int, ms: int) -> Project:
    """A caption goes out at a time."""
    return move_edge(project, caption_id, "out", snap_to_frame(ms, project.frame_rate))


def close_gaps(project: Project, caption_ids: Collection[int] | None = None, most_ms: int = 1000) -> Project:
    """Let captions stay until the next comes in where the gap is short.

    Parameters
    ----------
    caption_ids : collection of int, optional
        All captions unless given.
    most_ms : int
        Longer gaps stay.
    """
    track = project.captions
    gap = track.style.least_gap(project.frame_rate) if track else 0
    return _gaps(project, caption_ids, lambda now: gap if gap < now <= most_ms else now)


def open_gaps(project: Project, caption_ids: Collection[int] | None = None) -> Project:
    """Let captions go out earlier where the gap to the next is less than the style's."""
    track = project.captions
    gap = track.style.least_gap(project.frame_rate) if track else 0
    return _gaps(project, caption_ids, lambda now: max(now, gap))


def _gaps(project: Project, caption_ids: Collection[int] | None, wished: Callable[[int], int]) -> Project:
    track = project.captions
    changed = {}
    for one, following in zip(track.captions, track.captions[1:]) if track else ():
        if caption_ids is not None and one.id not in caption_ids:
            continue
        gap = following.start_ms - one.end_ms
        end = snap_to_frame(following.start_ms - wished(gap), project.frame_rate)
        if wished(gap) != gap and end - one.start_ms >= SHORTEST_MS and end != one.end_ms:
            changed[one.id] = holding(replace(one, end_ms=end), "times")
    return with_captions(project, track.id, changed) if track else project


def snapped(project: Project, caption_id: int, ms: int, playhead: int, near_ms: int) -> int:
    """A time that is dragged, at what is near: word edges, shot changes, neighbours, the playhead.

    Parameters
    ----------
    near_ms : int
        No further away.

    Returns
    -------
    int
        On a frame where there is a picture.
    """
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        return ms
    rate = project.frame_rate
    gap = track.style.least_gap(rate)
    before, after = neighbour(project, caption_id, -1), neighbour(project, caption_id, 1)
    marks = [playhead]
    marks += [before.end_ms + gap] if before else []
    marks += [after.start_ms - gap] if after else []
    for row in rows_of(project, caption):
        marks += [edge for word in row for edge in (word.start_ms, word.end_ms)]
    marks += _around(project.shots, ms)
    best = min(marks, key=lambda mark: abs(mark - ms))
    return snap_to_frame(best if abs(best - ms) <= near_ms else ms, rate)


def _around(shots: Sequence[int], ms: int) -> list[int]:
    place = bisect_left(shots, ms)
    return list(shots[max(0, place - 1) : place + 1])
