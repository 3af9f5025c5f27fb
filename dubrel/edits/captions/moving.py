"""The times of captions: shifted, stretched, their edges moved."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from dubrel.base.errors import DubrelError
from dubrel.base.text import counted
from dubrel.base.timecode import LATEST_MS, rounded
from dubrel.model import Caption, Project, Timing, Word
from dubrel.project.index import caption_with, index_of, place_in, track_index, words_with
from dubrel.project.tracks import holding, with_captions

SHORTEST_MS = 100  # what an edge that is dragged always leaves of a caption


@dataclass(frozen=True)
class Move:
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
        where = "before the recording begins" if early else "later than any recording ends"
        many = counted(early or len(times), "caption")
        raise DubrelError(f"{many} would lie {where}. Choose a smaller shift.")
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
