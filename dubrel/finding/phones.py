"""Sounds like: where a name may have been transcribed as something else.

A name and every run of one to three words are compared by their phones with a
weighted edit distance (Wagner and Fischer, 1974; a vowel for a vowel or P for B
costs less than P for S). All runs are not compared: how often each phone occurs in
them gives a bound that no distance can be below, and only runs whose bound is
below the worst of the best twenty are looked at.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from dubrel.base.text import bare_word
from dubrel.base.value import Value
from dubrel.model import Project, Turn, Word, text_of_words
from dubrel.speech.align.pronounce import phones_of, spoken_forms

MOST_WORDS = 3
_MOST_PHONES = 30
_OTHER = 24  # buckets for letters of scripts that have no phones here
_VOWELS = ("AA AE AH AO AW AY EH ER EY IH IY OW OY UH UW").split()
_CONSONANTS = ("B CH D DH F G HH JH K L M N NG P R S SH T TH V W Y Z ZH").split()
_CODES = {phone: 1 + k for k, phone in enumerate([*_VOWELS, *_CONSONANTS])}
_COUNT = 1 + len(_CODES) + _OTHER
_NEAR = (
    "P B",
    "T D",
    "K G",
    "F V",
    "S Z",
    "SH ZH",
    "CH JH",
    "TH DH",
    "M N",
    "N NG",
    "L R",
    "W V",
    "S SH",
    "T TH",
    "D DH",
    "F TH",
    "CH SH",
    "JH ZH",
    "W UW",
    "Y IY",
    "K HH",
    "L W",
    "D T",
    "M NG",
    "Z ZH",
    "R ER",
)
_INDEL, _VOWEL_INDEL, _NEAR_COST, _VOWEL_COST = 1.0, 0.8, 0.35, 0.4
_LEAST_SUB = 0.3
_BLOCK = 512


def _costs() -> np.ndarray:
    table = np.full((_COUNT, _COUNT), 1.0, np.float32)
    vowels = [_CODES[one] for one in _VOWELS]
    table[np.ix_(vowels, vowels)] = _VOWEL_COST
    table[vowels, _CODES["HH"]] = table[_CODES["HH"], vowels] = 0.9
    for pair in _NEAR:
        one, other = (_CODES[phone] for phone in pair.split())
        table[one, other] = table[other, one] = _NEAR_COST
    for pair in ("AA AO", "AE EH", "IH IY", "UH UW", "AH IH", "AH AA", "AH EH", "EY EH", "OW AO", "AH ER"):
        one, other = (_CODES[phone] for phone in pair.split())
        table[one, other] = table[other, one] = _LEAST_SUB
    np.fill_diagonal(table, 0.0)
    return table


_SUB = _costs()
_GAP = np.full(_COUNT, _INDEL, np.float32)
_GAP[[_CODES[one] for one in _VOWELS]] = _VOWEL_INDEL
_GAP[0] = 0.0


@lru_cache(maxsize=50_000)
def sound_of(word: str) -> bytes:
    """The phones of a written word as codes; letters of other scripts stand for themselves."""
    phones = " ".join(phones_of(form) for form in spoken_forms(word) if form).split()
    codes = bytes(_CODES[one] for one in phones if one in _CODES)
    if codes:
        return codes
    letters = bare_word(word)
    return bytes(1 + len(_CODES) + ord(sign) % _OTHER for sign in letters)


class Alike(Value):
    """A run of words that sounds like what was looked for.

    Attributes
    ----------
    words : tuple of Word
        One to three.
    turn : int
    distance : float
        Weighted edits of phones.
    likeness : float
        1 for the same sound, 0 for nothing in common.
    """

    words: tuple[Word, ...]
    turn: int
    distance: float
    likeness: float

    @property
    def text(self) -> str:
        """What is written there."""
        return text_of_words(self.words)


class SoundIndex:
    """The runs of one to three words of some turns, by their phones.

    Parameters
    ----------
    turns : sequence of Turn
    """

    def __init__(self, turns: Sequence[Turn]) -> None:
        self.turns = turns
        places: list[tuple[int, int, int]] = []
        runs: dict[bytes, int] = {}
        which: list[int] = []
        for nth, turn in enumerate(turns):
            sounds = [sound_of(word.text) for word in turn.words]
            for first in range(len(sounds)):
                joined = b""
                for stop in range(first + 1, min(first + MOST_WORDS, len(sounds)) + 1):
                    joined += sounds[stop - 1]
                    if not joined or len(joined) > _MOST_PHONES:
                        break
                    places.append((nth, first, stop))
                    which.append(runs.setdefault(joined, len(runs)))
        self._places = places
        self._which = np.array(which, np.int64)
        self._order = np.argsort(self._which, kind="stable")
        self._begins = np.searchsorted(self._which[self._order], np.arange(len(runs) + 1))
        self._lengths = np.fromiter(map(len, runs), np.int64, len(runs))
        width = int(self._lengths.max(initial=1))
        self._codes = np.zeros((len(runs), width), np.uint8)
        for row, codes in enumerate(runs):
            self._codes[row, : len(codes)] = np.frombuffer(codes, np.uint8)
        self._bags = np.zeros((len(runs), _COUNT), np.int16)
        np.add.at(self._bags, (np.arange(len(runs))[:, None], self._codes), 1)
        self._bags[:, 0] = 0

    def find(self, name: str, most: int = 20, worst: float = 0.5) -> list[Alike]:
        """The runs that sound most like a name, the likest first.

        Parameters
        ----------
        name : str
        most : int
        worst : float
            Distance over the name's phones that still counts.

        Returns
        -------
        list of Alike
            Without runs that are written as the name is.
        """
        target = b"".join(sound_of(word) for word in name.split())
        if not target or not len(self._codes):
            return []
        limit = worst * len(target)
        bounds = self._bounds(target)
        order = np.argsort(bounds, kind="stable")
        order = order[bounds[order] <= limit]
        found: list[tuple[float, int, int]] = []
        kept: list[tuple[float, int, int]] = []
        written = " ".join(bare_word(word) for word in name.split())
        for start in range(0, len(order), _BLOCK):
            rows = order[start : start + _BLOCK]
            if len(kept) >= most and bounds[rows[0]] > kept[most - 1][0]:
                break
            distances = distances_to(target, self._codes[rows])
            for row, distance in zip(rows, distances):
                if distance <= limit:
                    found += [(float(distance), place, int(row)) for place in self._of(row)]
            kept = self._best(found, written)
        return [self._alike(one, target) for one in kept[:most]]

    def _of(self, row: int) -> list[int]:
        return [int(one) for one in self._order[self._begins[row] : self._begins[row + 1]]]

    def _best(self, found: list[tuple[float, int, int]], written: str) -> list[tuple[float, int, int]]:
        """In order, without what is written right, and of runs in one another the likest alone."""
        kept: list[tuple[float, int, int]] = []
        taken: set[tuple[int, int]] = set()
        for one in sorted(found):
            nth, first, stop = self._places[one[1]]
            words = self.turns[nth].words[first:stop]
            cells = {(nth, k) for k in range(first, stop)}
            if " ".join(bare_word(word.text) for word in words) == written:
                taken |= cells
                continue
            if not cells & taken:
                kept.append(one)
                taken |= cells
        return kept

    def _bounds(self, target: bytes) -> np.ndarray:
        """A distance below which no run of these phones can be."""
        bag = np.bincount(np.frombuffer(target, np.uint8), minlength=_COUNT).astype(np.int16)
        more = np.clip(self._bags - bag, 0, None).sum(axis=1)
        less = np.clip(bag - self._bags, 0, None).sum(axis=1)
        return np.minimum(more, less) * _LEAST_SUB + np.abs(more - less) * _VOWEL_INDEL

    def _alike(self, one: tuple[float, int, int], target: bytes) -> Alike:
        distance, place, row = one
        nth, first, stop = self._places[place]
        turn = self.turns[nth]
        longer = max(len(target), int(self._lengths[row]))
        return Alike(turn.words[first:stop], turn.id, distance, max(0.0, 1 - distance / longer))


def distances_to(target: bytes, codes: np.ndarray) -> np.ndarray:
    """Weighted edits from one run of phones to many.

    Parameters
    ----------
    target : bytes
        Codes, shape (m,).
    codes : ndarray, shape (n, width)
        Padded with 0.

    Returns
    -------
    ndarray, shape (n,)
    """
    wanted = np.frombuffer(target, np.uint8)
    n, width = codes.shape
    gaps = _GAP[codes]
    costs = np.concatenate([np.zeros((n, 1), np.float32), np.cumsum(gaps, axis=1)], axis=1)
    for phone in wanted:
        before = costs
        costs = np.empty_like(before)
        costs[:, 0] = before[:, 0] + _GAP[phone]
        paired = before[:, :-1] + _SUB[phone][codes]
        left_out = before[:, 1:] + _GAP[phone]
        best = np.minimum(paired, left_out)
        for column in range(width):
            costs[:, column + 1] = np.minimum(best[:, column], costs[:, column] + gaps[:, column])
    return costs[:, -1]  # padding costs nothing: the last column is that of the last phone


def likeness(one: str, other: str) -> float:
    """How alike two texts sound, 0 to 1."""
    first = b"".join(sound_of(word) for word in one.split())
    second = b"".join(sound_of(word) for word in other.split())
    if not first or not second:
        return 0.0
    codes = np.frombuffer(second, np.uint8)[None, :]
    return max(0.0, 1 - float(distances_to(first, codes)[0]) / max(len(first), len(second)))


def sound_index(project: Project) -> SoundIndex:
    """The index of a whole project."""
    return SoundIndex(project.transcript.turns)
