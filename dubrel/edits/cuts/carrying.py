"""Words and turns carried into a cut: with their ids the first time, with new ones when they play again."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import replace
from dubrel.model import Turn, Word


class Carried:
    """What went over, run by run.

    Attributes
    ----------
    next_id : int
    first : dict of int to Word
        Every word that went over, by its id, as it plays first.
    run : dict of int to Word
        Those of the present run, by the ids that they had in the recording.
    runs : list of dict
        The same of all runs.
    """

    def __init__(self, next_id: int) -> None:
        self.next_id = next_id
        self.first: dict[int, Word] = {}
        self.run: dict[int, Word] = {}
        self.runs: list[dict[int, Word]] = []
        self._ids: set[int] = set()

    def begin_run(self) -> None:
        """What comes from here on plays after another order."""
        self.run = {}
        self.runs.append(self.run)

    def id(self, known: int) -> int:
        """The id of something that goes over: its own, or a new one where that was given already."""
        if known not in self._ids:
            self._ids.add(known)
            return known
        self.next_id += 1
        return self.next_id - 1

    def word(self, word: Word, start_ms: int, end_ms: int) -> Word:
        """A word at its new times; the same object where it stays as it is."""
        word_id = self.id(word.id)
        made = word
        if (word_id, start_ms, end_ms) != (word.id, word.start_ms, word.end_ms):
            made = Word(  # of thousands: replace would take three times as long
                word_id,
                word.text,
                start_ms,
                end_ms,
                word.doubt,
                word.timing,
                word.struck,
                word.also,
                word.sure,
                word.filler,
                word.spaced,
                word.verse,
            )
        self.run[word.id] = made
        self.first.setdefault(word_id, made)
        return made

    def turn(self, turn: Turn, words: Sequence[Word]) -> Turn:
        """A turn with those of its words that went over."""
        turn_id = self.id(turn.id)
        if turn_id == turn.id and len(words) == len(turn.words) and all(map(_same, words, turn.words)):
            return turn
        return replace(turn, id=turn_id, words=tuple(words))


def _same(one: Word, other: Word) -> bool:
    return one is other
