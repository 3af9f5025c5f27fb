"""Paragraphs: turns of one speaker that follow each other, broken at pauses and sentence ends."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from itertools import groupby

from dubrel.base.text import ends_sentence
from dubrel.base.value import replace
from dubrel.edits.words.wording import with_turns
from dubrel.model import Project, Turn, Word

USUAL_WORDS = 60
_LONG_PAUSE_MS = 2500
_PAUSE_GAIN, _PAUSE_FULL_MS = 0.6, 1500


def goes_on(turns: Sequence[Turn], place: int) -> bool:
    """Whether a turn is only a new paragraph of the speaker before it."""
    if not 0 < place < len(turns):
        return False
    return turns[place].speaker is not None and turns[place].speaker == turns[place - 1].speaker


def set_paragraphs(project: Project, words: int = USUAL_WORDS) -> Project:
    """Break what each speaker says into paragraphs of about so many words.

    Paragraphs end at sentence ends, preferably where there is a pause. Proofed
    turns stay as they are.

    Returns
    -------
    Project
        The same object where nothing changes.
    """
    open_ones = {turn.id for turn in project.transcript.turns if not turn.proofed}
    return divided_anew(project, open_ones, lambda said: _parts(said, words))


def divided_anew(
    project: Project,
    turn_ids: Collection[int],
    parts_of: Callable[[list[Word]], Sequence[tuple[Word, ...]]],
) -> Project:
    """Some turns divided otherwise, those of one speaker that follow each other together.

    Parameters
    ----------
    project : Project
    turn_ids : collection of int
    parts_of : callable
        Gets what is said one after the other; gives the words of each turn that it becomes.

    Returns
    -------
    Project
        The same object where nothing changes; the first turn of each run keeps its id.
    """
    made: list[Turn] = []
    old, next_id, wanted = project.transcript.turns, project.next_id, set(turn_ids)
    for (chosen, *_), run in groupby(
        old, lambda one: (one.id in wanted, one.speaker, one.proofed, one.confirmed)
    ):
        turns = list(run)
        if not chosen:
            made += turns
            continue
        for place, words in enumerate(parts_of([word for turn in turns for word in turn.words])):
            one = turns[place] if place < len(turns) else replace(turns[-1], id=next_id)
            next_id += place >= len(turns)
            made.append(one if words == one.words else replace(one, words=words))
    if len(made) == len(old) and all(a is b for a, b in zip(made, old)):
        return project
    return replace(with_turns(project, 0, len(old), *made), next_id=next_id)


def _parts(words: Sequence[Word], target: int) -> list[tuple[Word, ...]]:
    """Cheapest cut into paragraphs: how far each is from the target, and how good its end is.

    Only sentence ends and long pauses can end a paragraph.
    """
    ends = [k for k in range(1, len(words)) if _may_end(words, k)] + [len(words)]
    places = [0, *ends]
    costs, cames = [0.0], [0]
    for nth in range(1, len(places)):
        best, came = float("inf"), 0
        for before in range(nth - 1, -1, -1):
            length = places[nth] - places[before]
            if length > 3 * target and before < nth - 1:
                break
            cost = costs[before] + ((length - target) / target) ** 2 + _end_cost(words, places[nth])
            if cost < best:
                best, came = cost, before
        costs.append(best)
        cames.append(came)
    parts, at = [], len(places) - 1
    while at > 0:
        parts.append(tuple(words[places[cames[at]] : places[at]]))
        at = cames[at]
    return parts[::-1]


def _may_end(words: Sequence[Word], place: int) -> bool:
    return ends_sentence(words[place - 1].text) or _pause(words, place) >= _LONG_PAUSE_MS


def _pause(words: Sequence[Word], place: int) -> int:
    return words[place].start_ms - words[place - 1].end_ms


def _end_cost(words: Sequence[Word], place: int) -> float:
    """Less where there is a pause."""
    if place == len(words):
        return 0.0
    return -_PAUSE_GAIN * min(1.0, max(0, _pause(words, place)) / _PAUSE_FULL_MS)
