"""The words of turns that follow each other, as arrays: what setting computes with."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from dubrel.base.text import gap_lengths, grapheme_count
from dubrel.base.value import Value
from dubrel.captions.bonds import CLAUSE, CLOSED, NEVER, SENTENCE, TABLE, traits_of
from dubrel.captions.marks import with_dash, with_name
from dubrel.captions.setting import costs
from dubrel.model import HouseStyle, Turn, Word, line_starts

_TABLE = np.array(TABLE)


class Part(Value):
    """A turn as far as setting needs it.

    Attributes
    ----------
    turn : Turn
    name : str
        Of who speaks; empty where it is not known.
    changed : bool
        Whether another person spoke before.
    edges : frozenset of int
        Ids of the words after which a caption should rather end than elsewhere:
        in a translation, where a caption of the original ends.
    not_before, not_after : int or None
        Out time of the caption that stays before it, and in time of the one that does after it.
    closed : bool
        No caption goes on into the next part: what stays stands between them.
    """

    turn: Turn
    name: str = ""
    changed: bool = True
    edges: frozenset[int] = frozenset()
    not_before: int | None = None
    not_after: int | None = None
    closed: bool = False


class Chain(Value, eq=False, dict=True):
    """Words that show, in order of time, with all that breaks depend on.

    Attributes
    ----------
    words : tuple of Word
    parts : tuple of Part
    part_of : ndarray of int, shape (words,)
        Which part each word is of.
    style : HouseStyle
        With the rules of the language.
    language : str
    """

    words: tuple[Word, ...]
    parts: tuple[Part, ...]
    part_of: np.ndarray
    style: HouseStyle
    language: str

    def __len__(self) -> int:
        return len(self.words)

    @cached_property
    def texts(self) -> list[str]:
        """The words as they are written."""
        return [word.text for word in self.words]

    @cached_property
    def start(self) -> np.ndarray:
        """In times of the words."""
        return np.array([word.start_ms for word in self.words], np.int64)

    @cached_property
    def end(self) -> np.ndarray:
        """Out times of the words."""
        return np.array([word.end_ms for word in self.words], np.int64)

    @cached_property
    def lengths(self) -> np.ndarray:
        """Characters of the words."""
        length = grapheme_count if self.style.wide_counts == 1 else self.style.length
        return np.array(list(map(length, self.texts)), np.int32)

    @cached_property
    def gaps(self) -> np.ndarray:
        """Characters before each word."""
        known = np.array(gap_lengths(self.texts), np.int32)
        return (
            np.maximum(known, [word.spaced for word in self.words]) if known[1:].min(initial=1) < 1 else known
        )

    @cached_property
    def _traits(self) -> np.ndarray:
        language = self.language
        flat = [trait for text in self.texts for trait in traits_of(text, language)]
        found = np.array(flat, np.int16).reshape(-1, 2)
        for nth, word in enumerate(self.words[1:]):
            if word.spaced:  # where a script puts no spaces between words, one stands where sense parts
                found[nth, 1] |= CLAUSE
        return found

    @cached_property
    def ends(self) -> np.ndarray:
        """2 where a word ends a sentence, 1 where it ends a clause."""
        return self._traits[:, 1] & (SENTENCE | CLAUSE)

    @cached_property
    def bonds(self) -> np.ndarray:
        """How tightly each word is bound to the next; the last to nothing."""
        classes, marks = self._traits[:, 0], self._traits[:, 1]
        inner = _TABLE[classes[:-1], classes[1:]]
        inner[self.ends[:-1] > 0] = 0.0
        inner[(marks[1:] & CLOSED) > 0] = NEVER
        inner[self.part_of[:-1] != self.part_of[1:]] = 0.0
        return np.append(inner, 0.0)

    @cached_property
    def pauses(self) -> np.ndarray:
        """Milliseconds of silence after each word; of the last, none."""
        return np.append(self.start[1:] - self.end[:-1], 0)

    @cached_property
    def sums(self) -> np.ndarray:
        """Characters before each place, with what stands between words; shape (words + 1,)."""
        return np.concatenate(([0], np.cumsum(self.lengths + self.gaps, dtype=np.int64))).astype(np.int32)

    @cached_property
    def named(self) -> np.ndarray:
        """Characters of the name that stands before a caption that begins at a word."""
        found = np.zeros(len(self), np.int32)
        for place, part, first in self.first_words():
            shows = [self.style.shows_name(part.changed), self.style.shows_name(False)]
            if part.name and any(shows):
                signs = self.style.length(with_name(part.name, ""))
                found[first] = signs * shows[0]
                found[first + 1 :][self.part_of[first + 1 :] == place] = signs * shows[1]
        return found

    def first_words(self) -> list[tuple[int, Part, int]]:
        """The parts with their places and their first words."""
        firsts = np.searchsorted(self.part_of, range(len(self.parts)))
        return [(nth, part, int(first)) for nth, (part, first) in enumerate(zip(self.parts, firsts))]

    def length(self, start: int, stop: int) -> int:
        """Characters of a run of words in one line, without a name."""
        return int(self.sums[stop] - self.sums[start] - self.gaps[start])

    @cached_property
    def hurts(self) -> np.ndarray:
        """How much a break after each word hurts: the bond, and the tight ones much more."""
        return self.bonds + costs.TIGHT * np.maximum(0.0, self.bonds - costs.TIGHT_FROM)

    @cached_property
    def end_costs(self) -> np.ndarray:
        """What it costs to end a caption after each word; after the last of a turn nothing."""
        inside = costs.END_INSIDE + costs.END_BOND * self.hurts
        found = np.where(self.ends == SENTENCE, 0.0, np.where(self.ends == CLAUSE, costs.END_CLAUSE, inside))
        eased = np.maximum(costs.PAUSE_LEAST, found - costs.PAUSE_GAIN)
        found = np.where((self.pauses >= costs.PAUSE_MS) & (found > 0), eased, found)
        if self._edges is not None:
            tight = np.minimum(found, costs.END_BOND * (self.hurts - self.bonds))  # hurts as much anywhere
            shared = tight + (found - tight) * costs.EDGE_SHARE
            found = np.where(self._edges, shared, found + costs.OFF_EDGE)
        found = np.where(self.before_verse, -costs.VERSE, found)
        found[self.part_ends] = 0.0
        return found

    @cached_property
    def _edges(self) -> np.ndarray | None:
        """After which words a caption should rather end; nothing where it makes no difference."""
        wanted = frozenset().union(*(part.edges for part in self.parts))
        return np.array([word.id in wanted for word in self.words]) if wanted else None

    @cached_property
    def line_costs(self) -> np.ndarray:
        """What it costs to end a line after each word, the line itself with it."""
        inside = costs.LINE_INSIDE + costs.LINE_BOND * self.hurts
        found = np.where(self.ends == SENTENCE, 0.0, np.where(self.ends == CLAUSE, costs.LINE_CLAUSE, inside))
        return np.where(self.before_verse, -costs.VERSE, found) + costs.LINE

    @cached_property
    def before_verse(self) -> np.ndarray:
        """After which words a line of a song ends."""
        begins = {
            one
            for part in self.parts
            for one in line_starts(part.turn.words, [word for word in part.turn.words if not word.struck])
        }
        if not begins:
            return np.zeros(len(self), bool)
        return np.array([*(word.id in begins for word in self.words[1:]), False])

    @cached_property
    def inner_costs(self) -> np.ndarray:
        """What it costs to go on in the same caption after each word."""
        found = np.where(self.pauses >= costs.SILENCE_MS, costs.INNER_SILENCE, 0.0)
        if self._edges is not None:
            found = found + self._edges * costs.OVER_EDGE
        sentence = self.ends == SENTENCE
        if self.style.one_sentence:
            return found + sentence * costs.VIOLATION
        return found + (sentence & (self.pauses >= costs.PAUSE_MS)) * costs.INNER_SENTENCE

    @cached_property
    def part_ends(self) -> np.ndarray:
        """Whether a word is the last of its turn."""
        return np.append(self.part_of[1:] != self.part_of[:-1], True) if len(self) else np.zeros(0, bool)


def make_chain(parts: Sequence[Part], style: HouseStyle, language: str) -> Chain:
    """The words of some turns that show; ``style`` has the rules of the language already."""
    words: list[Word] = []
    owners: list[int] = []
    for place, part in enumerate(parts):
        shown = [word for word in part.turn.words if not word.struck]
        words += shown
        owners += [place] * len(shown)
    return Chain(tuple(words), tuple(parts), np.array(owners, np.int32), style, language)


def dash_length(style: HouseStyle) -> int:
    """Characters of a dash with what follows it."""
    return style.length(with_dash("x")) - 1
