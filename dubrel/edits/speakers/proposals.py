"""Who would speak other words than now: proposals that are taken one by one."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import groupby

from dubrel.base.text import joined
from dubrel.base.value import Value, replace
from dubrel.edits.speakers.assigning import assign_speakers
from dubrel.model import Project


class Proposal(Value):
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
                    joined([word.text for word in words]),
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
    known = {one.id for one in present.transcript.speakers}
    wanted = {proposal.then for proposal in chosen} - known
    new = (one for one in proposed.transcript.speakers if one.id in wanted)
    speakers = (*present.transcript.speakers, *new)
    present = replace(present, transcript=replace(present.transcript, speakers=speakers))
    numbers = {one.id: place for place, one in enumerate(speakers)}
    labels, certainty, also = [], [], []
    for turn in present.transcript.turns:
        for word in turn.words:
            is_taken = word.id in taken
            labels.append(numbers.get((after if is_taken else before)[word.id] or "", -1))
            shown = proposed.transcript.words_by_id[word.id] if is_taken else word
            certainty.append(shown.sure)
            also.append(numbers.get(shown.also or "", -1))
    return assign_speakers(present, labels, certainty, also)
