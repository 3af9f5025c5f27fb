"""Word times by hand: the edge between two words, moved by a drag or a key."""

from __future__ import annotations

from collections.abc import Mapping

from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.edits.words.wording import with_turns
from dubrel.model import Caption, Project, Timing, Word
from dubrel.project.index import captions_of, place_in, turn_of, turn_place, word_with
from dubrel.project.tracks import with_captions

_SHORTEST_CAPTION_MS = 200
LEAST_MS = 20
"""No word is made shorter than this by hand."""


def word_edge_moved(project: Project, word_id: int, edge: str, ms: int, *, neighbour: bool = True) -> Project:
    """Move the in or the out time of a word.

    Parameters
    ----------
    word_id : int
    edge : {"in", "out"}
    ms : int
        Where the edge is wanted.
    neighbour : bool
        Whether the word beside it gives way or follows where it touches (up to the
        shortest a word may be); otherwise it stays and stops the edge.

    Returns
    -------
    Project
        The same object where the edge cannot move. All other words keep their times;
        a caption that comes in or goes out with the word follows it.
    """
    turn = turn_of(project, word_id)
    if turn is None:
        return project
    place, at = turn_place(project, turn.id), turn.index_of[word_id]
    word = turn.words[at]
    step = -1 if edge == "in" else 1
    beside = _beside(project, place, at + step)
    now = word.start_ms if edge == "in" else word.end_ms
    room = min(LEAST_MS, word.end_ms - word.start_ms)
    if edge == "in":
        low = min(now, _bound(beside, neighbour, before=True))
        wanted = min(max(ms, low), word.end_ms - room)
        made = {word_id: replace(word, start_ms=wanted, timing=Timing.ALIGNED)}
    else:
        high = max(now, _bound(beside, neighbour, before=False))
        wanted = max(min(ms, high), word.start_ms + room)
        made = {word_id: replace(word, end_ms=wanted, timing=Timing.ALIGNED)}
    if wanted == now:
        return project
    if beside is not None and neighbour:
        other = beside.end_ms if edge == "in" else beside.start_ms
        touches = other == now or (other > wanted if edge == "in" else other < wanted)
        if touches:
            changed = {"end_ms": wanted} if edge == "in" else {"start_ms": wanted}
            made[beside.id] = replace(beside, **changed)
    moved = _with_words(project, place, made)
    return _captions_followed(project, moved, made) if _in_order(moved, place) else project


def _beside(project: Project, place: int, at: int) -> Word | None:
    """The word before or after, also in the next turn."""
    turns = project.transcript.turns
    words = turns[place].words
    if 0 <= at < len(words):
        return words[at]
    other = place + (1 if at > 0 else -1)
    if not 0 <= other < len(turns):
        return None
    return turns[other].words[0 if at > 0 else -1]


def _bound(beside: Word | None, neighbour: bool, *, before: bool) -> int:
    if beside is None:
        return 0 if before else 1 << 40
    room = min(LEAST_MS, beside.end_ms - beside.start_ms)
    if before:
        return beside.start_ms + room if neighbour else max(beside.end_ms, beside.start_ms)
    return beside.end_ms - room if neighbour else beside.start_ms


def _captions_followed(old: Project, new: Project, made: Mapping[int, Word]) -> Project:
    """Captions that came in or went out with a word still do; those with times of their own stay."""
    rate = old.frame_rate
    for track in new.tracks:
        if not track.spoken:
            continue
        changed: dict[int, Caption | None] = {}
        for caption in captions_of(new, track.id, made).values():
            first, last = caption.words[0], caption.words[-1]
            start, end = caption.start_ms, caption.end_ms
            if first in made and start == snap_to_frame(_word(old, first).start_ms, rate):
                start = snap_to_frame(made[first].start_ms, rate)
            if last in made and end == snap_to_frame(_word(old, last).end_ms, rate):
                end = snap_to_frame(made[last].end_ms, rate)
            place = place_in(track.captions, caption)
            if place:
                start = max(start, track.captions[place - 1].end_ms)
            if place + 1 < len(track.captions):
                end = min(end, track.captions[place + 1].start_ms)
            if end - start >= _SHORTEST_CAPTION_MS and (start, end) != (caption.start_ms, caption.end_ms):
                changed[caption.id] = replace(caption, start_ms=start, end_ms=end)
        new = with_captions(new, track.id, changed)
    return new


def _word(project: Project, word_id: int) -> Word:
    word = word_with(project, word_id)
    assert word is not None
    return word


def _in_order(project: Project, place: int) -> bool:
    near = project.transcript.turns[max(0, place - 1) : place + 2]
    starts = [word.start_ms for turn in near for word in turn.words]
    return starts == sorted(starts)


def _with_words(project: Project, place: int, made: dict[int, Word]) -> Project:
    for near in range(max(0, place - 1), min(len(project.transcript.turns), place + 2)):
        turn = project.transcript.turns[near]
        if any(word.id in made for word in turn.words):
            words = tuple(made.get(word.id, word) for word in turn.words)
            project = with_turns(project, near, near + 1, replace(turn, words=words))
    return project
