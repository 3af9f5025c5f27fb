"""What is said between two times, transcribed by itself: it takes the place of the words that stood there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.base.value import replace
from dubrel.edits.intake import add_heard
from dubrel.model import Project, RecognisedWord, Turn, Word
from dubrel.project.follow import rewords


def _inside(word: Word, start_ms: int, end_ms: int) -> bool:
    return start_ms <= (word.start_ms + word.end_ms) / 2 < end_ms


def words_between(project: Project, start_ms: int, end_ms: int) -> list[Word]:
    """The words whose middle lies between two times, in order."""
    turns = [one for one in project.transcript.turns if one.words]
    near = [one for one in turns if one.start_ms < end_ms and one.end_ms > start_ms]
    return [word for turn in near for word in turn.words if _inside(word, start_ms, end_ms)]


@rewords
def with_passage(project: Project, heard: Sequence[RecognisedWord], start_ms: int, end_ms: int) -> Project:
    """Other words between two times; what stands before and after them stays.

    Parameters
    ----------
    heard : sequence of RecognisedWord
        In order; those that begin outside are left out.

    Returns
    -------
    Project
        A turn that is parted by them keeps who speaks on both sides; so do the new words where all
        of them stand within one turn.
    """
    heard = [one for one in heard if start_ms <= (one.start_ms + one.end_ms) / 2 < end_ms]
    new = add_heard(Project(next_id=project.next_id), heard)
    next_id, before, after, owners = new.next_id, list[Turn](), list[Turn](), list[str | None]()
    for turn in project.transcript.turns:
        first = [one for one in turn.words if (one.start_ms + one.end_ms) / 2 < start_ms]
        last = [one for one in turn.words if (one.start_ms + one.end_ms) / 2 >= end_ms]
        if len(first) + len(last) < len(turn.words):
            owners.append(turn.speaker)
        if first:
            before.append(turn if len(first) == len(turn.words) else replace(turn, words=tuple(first)))
        if last:
            own = turn if not first else replace(turn, id=next_id)
            next_id += 1 if first else 0
            after.append(own if len(last) == len(turn.words) else replace(own, words=tuple(last)))
    speaker = owners[0] if len(set(owners)) == 1 else None
    made = [replace(one, speaker=speaker) for one in new.transcript.turns]
    turns = tuple(_in_order([*before, *made, *after]))
    return replace(project, transcript=replace(project.transcript, turns=turns), next_id=next_id)


def _in_order(turns: Sequence[Turn]) -> Iterator[Turn]:
    yield from sorted(turns, key=lambda one: one.words[0].start_ms if one.words else 0)
