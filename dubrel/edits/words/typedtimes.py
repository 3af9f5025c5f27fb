"""Times for typed words: which must be found in the sound, and putting them in."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from itertools import groupby

from dubrel.base.value import Value, replace
from dubrel.edits.words.wording import with_turns
from dubrel.model import Project, RecognisedWord, Timing, Turn, Word
from dubrel.project.index import turn_of, turn_place

_AROUND_MS = 60
_MOST_MS = 480_000  # as much is aligned at once in half a minute


class Run(Value):
    """Typed words that follow each other, with the words around them as a hold.

    Attributes
    ----------
    turn : int
        Id of the turn in which they begin.
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
    return _runs(turn.words, turn.id)


def typed_runs_over(project: Project, turn_ids: Collection[int]) -> list[Run]:
    """The same of several turns; where typed words go on over a change of turns, they are one run."""
    places = sorted(turn_place(project, one) for one in turn_ids)
    turns, runs = project.transcript.turns, list[Run]()
    for _, group in groupby(enumerate(places), lambda pair: pair[1] - pair[0]):
        chain: list[Turn] = []
        for _, place in group:
            if chain and not (_typed(chain[-1].words[-1]) and _typed(turns[place].words[0])):
                runs += _runs([word for turn in chain for word in turn.words], chain[0].id)
                chain = []
            chain.append(turns[place])
        runs += _runs([word for turn in chain for word in turn.words], chain[0].id)
    return runs


def _typed(word: Word) -> bool:
    return word.timing is Timing.TYPED


def _runs(words: Sequence[Word], turn_id: int) -> list[Run]:
    runs, k = [], 0
    while k < len(words):
        if not _typed(words[k]):
            k += 1
            continue
        stop = k
        while stop < len(words) and _typed(words[stop]):
            stop += 1
        first, last = max(0, k - 1), min(len(words), stop + 1)
        start = words[first].start_ms - _AROUND_MS
        end = words[last - 1].end_ms + _AROUND_MS
        if words[k].start_ms < end and end - start <= _MOST_MS:
            ids = tuple(word.id for word in words[k:stop])
            texts = tuple(word.text for word in words[first:last])
            runs.append(Run(turn_id, ids, texts, k - first, max(0, start), end))
        k = stop
    return runs


def with_times(project: Project, run: Run, heard: Sequence[RecognisedWord]) -> Project:
    """Give typed words the times at which they are said.

    Returns
    -------
    Project
        The same object where the words were changed meanwhile, or do not fit the sound.
    """
    found = heard[run.lead : run.lead + len(run.ids)]
    texts = run.texts[run.lead : run.lead + len(run.ids)]
    if any(one.timing is not Timing.ALIGNED for one in found):
        return project
    places = _places(project, run)
    if places is None:
        return project
    turns = project.transcript.turns
    present = [word for place, first, stop in places for word in turns[place].words[first:stop]]
    if tuple((word.id, word.text) for word in present) != tuple(zip(run.ids, texts)):
        return project
    low, high = _room(project, places, run)
    timed: list[Word] = []
    for word, one in zip(present, found):
        start = min(max(one.start_ms, low), high)
        low = min(max(one.end_ms, start), high)
        timed.append(replace(word, start_ms=start, end_ms=low, timing=Timing.ALIGNED))
    done = 0
    for place, first, stop in places:
        turn = project.transcript.turns[place]
        new = timed[done : done + stop - first]
        done += stop - first
        words = (*turn.words[:first], *new, *turn.words[stop:])
        project = with_turns(project, place, place + 1, replace(turn, words=words))
    return project


def _places(project: Project, run: Run) -> list[tuple[int, int, int]] | None:
    """Where the words of a run stand: place of each turn, and places in it (from, to)."""
    turn = turn_of(project, run.ids[0])
    if turn is None:
        return None
    place, first, left = turn_place(project, turn.id), turn.index_of[run.ids[0]], len(run.ids)
    found: list[tuple[int, int, int]] = []
    for at in range(place, len(project.transcript.turns)):
        stop = min(len(project.transcript.turns[at].words), first + left)
        found.append((at, first, stop))
        left -= stop - first
        first = 0
        if left <= 0:
            return found
    return None


def _room(project: Project, places: Sequence[tuple[int, int, int]], run: Run) -> tuple[int, int]:
    """From when to when typed words may be, so that all words stay in order, also with the turns beside."""
    turns = project.transcript.turns
    (place, first, _), (last, _, stop) = places[0], places[-1]
    if first:
        low = turns[place].words[first - 1].end_ms
    else:
        low = max(run.start_ms, turns[place - 1].words[-1].start_ms if place else 0)
    if stop < len(turns[last].words):
        high = turns[last].words[stop].start_ms
    else:
        high = min(run.end_ms, turns[last + 1].words[0].start_ms if last + 1 < len(turns) else run.end_ms)
    return min(low, high), high  # words that speak over each other: order comes first


def retimed_words(project: Project, found: Mapping[int, RecognisedWord]) -> Project:
    """Give words the times at which they were found in the sound; captions are to be set anew.

    Parameters
    ----------
    project : Project
    found : mapping of word id to RecognisedWord

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
