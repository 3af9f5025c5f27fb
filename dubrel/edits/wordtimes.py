"""Word times by hand: the edge between two words, moved by a drag or a key."""

from __future__ import annotations

from dataclasses import replace

from dubrel.edits.index import turn_of, turn_place
from dubrel.edits.wording import with_turns
from dubrel.model import Project, Timing, Word

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
        The same object where the edge cannot move. All other words keep their times.
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
            made[beside.id] = replace(beside, **changed)  # type: ignore[arg-type]
    moved = _with_words(project, place, made)
    return moved if _in_order(moved, place) else project


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
