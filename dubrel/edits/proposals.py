"""Who would speak other words than now: proposals that are taken one by one."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import groupby

from dubrel.edits.speakers import assign_speakers
from dubrel.model import Project


@dataclass(frozen=True)
class Proposal:
    """A run of words that would go from one speaker to another.

    Attributes
    ----------
    start_ms, end_ms : int
    words : tuple of int
        Their ids.
    text : str
    now, then : str or None
        Ids of the speakers.
    """

    start_ms: int
    end_ms: int
    words: tuple[int, ...]
    text: str
    now: str | None
    then: str | None


def proposals(present: Project, proposed: Project) -> list[Proposal]:
    """What would change, as runs of words with the same speakers before and after.

    Both must have the same words.
    """
    before = present.transcript.speaker_of
    found = []
    for turn in proposed.transcript.turns:
        for now, run in groupby(turn.words, lambda word: before.get(word.id)):
            if now == turn.speaker:
                continue
            words = list(run)
            found.append(
                Proposal(
                    words[0].start_ms,
                    words[-1].end_ms,
                    tuple(word.id for word in words),
                    " ".join(word.text for word in words),
                    now,
                    turn.speaker,
                )
            )
    return found


def take_proposals(present: Project, proposed: Project, chosen: Sequence[Proposal]) -> Project:
    """The present project with only the chosen proposals taken.

    Speakers that only proposals bring in come with them.
    """
    taken: Collection[int] = {one for proposal in chosen for one in proposal.words}
    before, after = present.transcript.speaker_of, proposed.transcript.speaker_of
    sure = {word.id: turn.certainty for turn in proposed.transcript.turns for word in turn.words}
    known = [one.id for one in present.transcript.speakers]
    numbers = {one: place for place, one in enumerate(known)}
    for one in proposed.transcript.speakers:
        if one.id not in numbers and any(proposal.then == one.id for proposal in chosen):
            numbers[one.id] = len(numbers)
    labels, certainty = [], []
    for turn in present.transcript.turns:
        for word in turn.words:
            who = after[word.id] if word.id in taken else before[word.id]
            labels.append(numbers[who] if who is not None else -1)
            certainty.append(sure[word.id] if word.id in taken else turn.certainty)
    return assign_speakers(present, labels, certainty)
