"""Take another reading of some words: what a second engine heard, or what a reference says."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from dubrel.base.text import joined
from dubrel.base.value import Value, replace
from dubrel.edits.words.wording import replace_range, replace_text, with_turns
from dubrel.model import Project, RecognisedWord, Timing, Turn
from dubrel.project.index import turn_place, turn_with


class Difference(Value):
    """A place where two readings differ.

    Attributes
    ----------
    ours : tuple of int
        Ids of the words on the sheet; empty where only the other reading has words.
    theirs : tuple of RecognisedWord
        The other reading; empty where only the sheet has words. Words of a
        reference text have no time: start and end are the same.
    after : int or None
        Id of the word on the sheet before the difference.
    turn : int
        Id of the turn that it begins in.
    start_ms, end_ms : int
        Where to listen.
    """

    ours: tuple[int, ...]
    theirs: tuple[RecognisedWord, ...]
    after: int | None
    turn: int
    start_ms: int
    end_ms: int

    @property
    def text(self) -> str:
        """The other reading."""
        return joined([word.text for word in self.theirs])


def differences(
    project: Project,
    theirs: Sequence[RecognisedWord],
    pairs: Iterable[tuple[int | None, int | None]],
    same: Sequence[bool],
) -> list[Difference]:
    """Where the sheet and another reading differ.

    Parameters
    ----------
    project : Project
    theirs : sequence of RecognisedWord
    pairs : iterable of (int or None, int or None)
        Places in the words of the transcript and in ``theirs``, in order.
    same : sequence of bool
        For each pair, whether both say the same.
    """
    flat = [(turn.id, word) for turn in project.transcript.turns for word in turn.words]
    found: list[Difference] = []
    ours_run: list[int] = []
    theirs_run: list[int] = []
    before: int | None = None

    def close(following: int | None) -> None:
        if not ours_run and not theirs_run:
            return
        place = ours_run[0] if ours_run else before if before is not None else following
        if place is not None:
            words = [flat[k][1] for k in ours_run]
            start = words[0].start_ms if words else flat[before][1].end_ms if before is not None else 0
            last = (
                words[-1].end_ms if words else flat[following][1].start_ms if following is not None else start
            )
            found.append(
                Difference(
                    tuple(word.id for word in words),
                    tuple(theirs[k] for k in theirs_run),
                    flat[before][1].id if before is not None else None,
                    flat[place][0],
                    start,
                    max(start, last),
                )
            )
        ours_run.clear()
        theirs_run.clear()

    for (left, right), equal in zip(pairs, same):
        if equal and left is not None:
            close(left)
            before = left
            continue
        if left is not None:
            ours_run.append(left)
        if right is not None:
            theirs_run.append(right)
    close(None)
    return found


def take_reading(project: Project, difference: Difference) -> Project:
    """Put the other reading in place of the words on the sheet.

    Returns
    -------
    Project
        The same object where the words are no longer there.
    """
    if turn_with(project, difference.turn) is None:
        return project
    place = turn_place(project, difference.turn)
    turn = project.transcript.turns[place]
    if not difference.ours:
        return _insert(project, turn, difference)
    first = turn.index_of.get(difference.ours[0])
    if first is None:
        return project
    stop_turn, last = turn, turn.index_of.get(difference.ours[-1])
    if last is None:
        following = project.transcript.turns[place + 1 :]
        stop_turn = next((one for one in following if difference.ours[-1] in one.index_of), turn)
        last = stop_turn.index_of.get(difference.ours[-1])
        if last is None:
            return project
    end = stop_turn.offsets[last] + len(stop_turn.words[last].text)
    start = (turn.id, turn.offsets[first])
    changed = replace_range(project, start, (stop_turn.id, end), difference.text)
    return _with_times(changed, turn.id, first, difference.theirs)


def _insert(project: Project, turn: Turn, difference: Difference) -> Project:
    if difference.after is None:
        changed = replace_text(project, turn.id, 0, 0, difference.text + " ")
        return _with_times(changed, turn.id, 0, difference.theirs)
    at = turn.index_of.get(difference.after)
    if at is None:
        return project
    end = turn.offsets[at] + len(turn.words[at].text)
    changed = replace_text(project, turn.id, end, end, " " + difference.text)
    return _with_times(changed, turn.id, at + 1, difference.theirs)


def _with_times(project: Project, turn_id: int, first: int, heard: Sequence[RecognisedWord]) -> Project:
    """Give the words that were taken the times at which they were heard, between their neighbours."""
    if not heard or all(word.start_ms == word.end_ms for word in heard):
        return project
    place = turn_place(project, turn_id)
    turn = project.transcript.turns[place]
    words = list(turn.words)
    low = words[first - 1].end_ms if first else 0
    after = first + len(heard)
    high = words[after].start_ms if after < len(words) else max(heard[-1].end_ms, low)
    for k, one in enumerate(heard, first):
        start = min(max(one.start_ms, low), max(low, high))
        end = min(max(one.end_ms, start), max(start, high))
        words[k] = replace(words[k], start_ms=start, end_ms=end, doubt=0.0, timing=Timing.ALIGNED)
        low = end
    return with_turns(project, place, place + 1, replace(turn, words=tuple(words)))
