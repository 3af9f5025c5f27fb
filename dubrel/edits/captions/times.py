"""The times of captions: shifted, stretched, tapped, nudged, their edges moved, gaps opened and closed."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from fractions import Fraction

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import LATEST_MS, frame_beside, rounded, snap_to_frame
from dubrel.base.value import Value, replace
from dubrel.edits.captions.shape import SHORTEST_MS, found_in, neighbour
from dubrel.model import Caption, Project, Timing, Word
from dubrel.project.captiontext import rows_of
from dubrel.project.index import caption_with, index_of, place_in, track_index, words_with
from dubrel.project.tracks import holding, with_captions


class Move(Value):
    """Times stretched about a point and shifted.

    Attributes
    ----------
    shift_ms : int
    factor : Fraction
        Exact, as 25/24 or 1001/1000.
    from_ms : int
        Captions that begin before stay; times are stretched about here.
    """

    shift_ms: int = 0
    factor: Fraction = Fraction(1)
    from_ms: int = 0

    def time(self, ms: int) -> int:
        """Where a time goes."""
        return rounded((ms - self.from_ms) * self.factor) + self.from_ms + self.shift_ms


def moved(project: Project, move: Move) -> Project:
    """The captions of the active track from a time on shifted and stretched by the user's own numbers."""
    captions = project.captions.captions if project.captions else ()
    return retimed(project, moved_times(move, [one for one in captions if one.start_ms >= move.from_ms]))


def moved_times(move: Move, captions: Iterable[Caption]) -> dict[int, tuple[int, int]]:
    """In and out times of captions after a move, by id.

    Raises
    ------
    DubrelError
        If one would lie before the recording begins, or later than any recording ends.
    """
    times = {one.id: (move.time(one.start_ms), move.time(one.end_ms)) for one in captions}
    early = sum(end <= 0 for _, end in times.values())
    if early or any(end > LATEST_MS for _, end in times.values()):
        where = tr("before the recording begins") if early else tr("later than any recording ends")
        many = counted(early or len(times), "caption")
        raise DubrelError(
            tr("{many} would lie {where}. Choose a smaller shift.").format(many=many, where=where)
        )
    return {one: (max(0, start), end) for one, (start, end) in times.items()}


def retimed(project: Project, times: Mapping[int, tuple[int, int]]) -> Project:
    """Give captions of the active track other times.

    Words whose times are only a share of their caption's (``Timing.SPREAD``)
    are spread over the new one; words with times from the sound stay.

    Parameters
    ----------
    times : mapping of caption id to (in time, out time)
    """
    track = project.captions
    if track is None:
        return project
    index, changed = track_index(project, track.id), dict[int, Caption | None]()
    spread: list[Caption] = []
    for caption_id, (start, end) in times.items():
        caption = index.captions.get(caption_id)
        if caption is not None and (start, end) != (caption.start_ms, caption.end_ms):
            changed[caption_id] = moved = replace(caption, start_ms=start, end_ms=end)
            words = words_with(project, caption.words)
            if words and all(word.timing is Timing.SPREAD for word in words):
                spread.append(moved)
    spans = _shares(project, spread)
    project = with_captions(project, track.id, changed)
    ids = {index_of(project).turn_of[one] for one in spans}
    turns = tuple(
        replace(turn, words=tuple(_moved(word, spans) for word in turn.words)) if turn.id in ids else turn
        for turn in project.transcript.turns
    )
    return replace(project, transcript=replace(project.transcript, turns=turns)) if ids else project


def _shares(project: Project, captions: Sequence[Caption]) -> dict[int, tuple[int, int]]:
    """The spread words of captions, over their times by their lengths, as far as the order of words allows.

    Words that stay, and those of captions before, are borders that nothing crosses: a caption
    that moves past them takes along only what has room.
    """
    if not captions:
        return {}
    moving = {word for caption in captions for word in caption.words}
    order = [word for turn in project.transcript.turns for word in turn.words]
    place = {word.id: nth for nth, word in enumerate(order) if word.id in moving}
    found: dict[int, tuple[int, int]] = {}
    following: dict[int, int | None] = {}  # when the next word that stays begins, by place
    ahead: int | None = None
    for nth in range(len(order) - 1, -1, -1):
        if order[nth].id in moving:
            following[nth] = ahead
        else:
            ahead = order[nth].start_ms
    for caption in sorted(captions, key=lambda one: place[one.words[0]]):
        words = words_with(project, caption.words)
        first = place[words[0].id]
        before = order[first - 1] if first else None
        low = found.get(before.id, (before.start_ms, 0))[0] if before else 0
        high = following[place[words[-1].id]]
        start, end = max(low, caption.start_ms), caption.end_ms if high is None else min(high, caption.end_ms)
        if (
            start >= end
        ):  # all of it lies past a border: the words stay as near to where they were as they can
            ends = [word.start_ms for word in words]
            start, end = max(low, ends[0]), max(low, words[-1].end_ms)
            if high is not None:
                start, end = min(start, high), min(end, high)
        found |= _spread_over(words, start, max(start, end))
    return _in_order(order, found, following)


def _in_order(
    order: Sequence[Word], found: Mapping[int, tuple[int, int]], following: Mapping[int, int | None]
) -> dict[int, tuple[int, int]]:
    """The spans, none across a word that stays in the middle of a caption (one that is in no caption)."""
    kept, low = dict[int, tuple[int, int]](), 0
    for nth, word in enumerate(order):
        start, end = found.get(word.id, (word.start_ms, word.end_ms))
        if word.id in found:
            high = following[nth]
            high = max(low, end) if high is None else high
            start = min(max(low, start), high)
            kept[word.id] = start, max(start, min(end, high))
        low = max(low, start)
    return kept


def _spread_over(words: Sequence[Word], start: int, end: int) -> dict[int, tuple[int, int]]:
    total, done, found = sum(len(word.text) for word in words), 0, {}
    for word in words:
        begin = start + (end - start) * done // total
        done += len(word.text)
        found[word.id] = (begin, start + (end - start) * done // total)
    return found


def _moved(word: Word, spans: Mapping[int, tuple[int, int]]) -> Word:
    if word.id not in spans:
        return word
    start, end = spans[word.id]
    return replace(word, start_ms=start, end_ms=end)


def move_edge(project: Project, caption_id: int, edge: str, ms: int) -> Project:
    """Move the in time or the out time of a caption of the active track.

    Parameters
    ----------
    edge : {"in", "out"}
    ms : int
        Where the edge should be. It stops at the neighbour, less the least gap
        of the house style, and where the caption would be too short to see.

    Returns
    -------
    Project
        The same object where the caption is gone or nothing moves.
    """
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        return project
    place = place_in(track.captions, caption)
    gap = track.style.least_gap(project.frame_rate)
    if edge == "in":
        before = track.captions[place - 1] if place else None
        low = min(before.end_ms + gap, caption.start_ms) if before else 0
        start = max(low, min(ms, caption.end_ms - SHORTEST_MS))
        moved = replace(caption, start_ms=min(start, caption.end_ms))
    else:
        after = track.captions[place + 1] if place + 1 < len(track.captions) else None
        end = max(ms, caption.start_ms + SHORTEST_MS)
        if after is not None:
            end = min(end, max(after.start_ms - gap, caption.end_ms))
        moved = replace(caption, end_ms=end)
    if moved == caption:
        return project
    return with_captions(project, track.id, {caption_id: holding(moved, "times")})


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
