"""Times for typed words: which must be found in the sound, and putting them in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dubrel.edits.index import turn_of, turn_place
from dubrel.edits.wording import with_turns
from dubrel.model import HeardWord, Project, Timing, Turn, Word

_AROUND_MS = 60
_MOST_MS = 30_000


@dataclass(frozen=True)
class Run:
    """Typed words that follow each other, with the words around them as a hold.

    Attributes
    ----------
    turn : int
        Id of the turn.
    ids : tuple of int
        The typed words.
    texts : tuple of str
        All words to be aligned: one before if there is one, the typed ones, one after.
    lead : int
        How many of the texts stand before the typed ones, 0 or 1.
    start_ms, end_ms : int
        The passage of sound.
    """

    turn: int
    ids: tuple[int, ...]
    texts: tuple[str, ...]
    lead: int
    start_ms: int
    end_ms: int


def typed_runs(turn: Turn) -> list[Run]:
    """The runs of a turn whose words only share a gap so far."""
    runs, words, k = [], turn.words, 0
    while k < len(words):
        if words[k].timing is not Timing.TYPED:
            k += 1
            continue
        stop = k
        while stop < len(words) and words[stop].timing is Timing.TYPED:
            stop += 1
        first, last = max(0, k - 1), min(len(words), stop + 1)
        start = words[first].start_ms - _AROUND_MS
        end = words[last - 1].end_ms + _AROUND_MS
        if words[k].start_ms < end and end - start <= _MOST_MS:
            typed = tuple(word.id for word in words[k:stop])
            texts = tuple(word.text for word in words[first:last])
            runs.append(Run(turn.id, typed, texts, k - first, max(0, start), end))
        k = stop
    return runs


def with_times(project: Project, run: Run, heard: Sequence[HeardWord]) -> Project:
    """Give typed words the times at which they are said.

    Returns
    -------
    Project
        The same object where the words were changed meanwhile, or do not fit the sound.
    """
    turn = turn_of(project, run.ids[0])
    if turn is None:
        return project
    place = turn_place(project, turn.id)
    first = turn.index_of.get(run.ids[0])
    found = heard[run.lead : run.lead + len(run.ids)]
    if first is None or any(one.timing is not Timing.ALIGNED for one in found):
        return project
    stop = first + len(run.ids)
    present = turn.words[first:stop]
    texts = run.texts[run.lead : run.lead + len(run.ids)]
    if tuple(word.id for word in present) != run.ids or tuple(word.text for word in present) != texts:
        return project
    low, high = _room(project, place, first, stop, run)
    words = list(turn.words)
    for k, one in enumerate(found, first):
        start = min(max(one.start_ms, low), high)
        low = min(max(one.end_ms, start), high)
        words[k] = replace(words[k], start_ms=start, end_ms=low, timing=Timing.ALIGNED)
    return with_turns(project, place, place + 1, replace(turn, words=tuple(words)))


def _room(project: Project, place: int, first: int, stop: int, run: Run) -> tuple[int, int]:
    """From when to when typed words may be, so that all words stay in order, also those of the turns beside."""
    turns = project.transcript.turns
    words = turns[place].words
    if first:
        low = words[first - 1].end_ms
    else:
        low = max(run.start_ms, turns[place - 1].words[-1].start_ms if place else 0)
    if stop < len(words):
        high = words[stop].start_ms
    else:
        high = min(run.end_ms, turns[place + 1].words[0].start_ms if place + 1 < len(turns) else run.end_ms)
    return low, max(low, high)


def retimed_words(project: Project, found: Mapping[int, HeardWord]) -> Project:
    """Give words the times at which they were found in the sound; captions are to be set anew.

    Parameters
    ----------
    project : Project
    found : mapping of word id to HeardWord

    Returns
    -------
    Project
        Words that were not found keep their distance from the found word
        before them (or after, at the beginning) and never leave their order.
    """
    words = [word for turn in project.transcript.turns for word in turn.words]
    sure = {one: new for one, new in found.items() if new.timing is Timing.ALIGNED}
    first = next((word for word in words if word.id in sure), None)
    if first is None:
        return project
    away, last, spans = sure[first.id].start_ms - first.start_ms, 0, {}
    for word in words:
        new = sure.get(word.id)
        start, end = (new.start_ms, new.end_ms) if new else (word.start_ms + away, word.end_ms + away)
        away = new.start_ms - word.start_ms if new else away
        start = max(start, last)
        last = max(start, end)
        spans[word.id] = (start, last)

    def placed(word: Word) -> Word:
        start, end = spans[word.id]
        return replace(word, start_ms=start, end_ms=end)

    turns = tuple(replace(turn, words=tuple(map(placed, turn.words))) for turn in project.transcript.turns)
    return replace(project, transcript=replace(project.transcript, turns=turns), tracks=(), active=0)
