"""Search over a series by sound: what else of all that is said would be spoken like this.

The words of the index are compared by their phones, each once however often it is said; the
places of those that sound alike are then found as they are written.
"""

from __future__ import annotations

from itertools import islice, product

import numpy as np

from dubrel.finding.phones import distances_to, likeness, sound_of
from dubrel.jobs.series.searchindex import ANYBODY, Said, SeriesIndex, Wanted

_WORST = 0.34  # of the phones of a word: more are other words
_MOST_WORDS, _MOST_PHRASES = 12, 400
_LONGEST = 30  # phones


class SoundSearch:
    """Finds by sound; holds the phones of all words while the index stays as it is."""

    def __init__(self, index: SeriesIndex) -> None:
        self._index = index
        self._version: object = None
        self._words: list[str] = []
        self._codes = np.zeros((0, 1), np.uint8)
        self._known: dict[str, bytes] = {}

    def find(self, text: str, wanted: Wanted = ANYBODY, most: int = 50) -> list[tuple[float, Said]]:
        """What sounds like some words and is written otherwise, the likest first, with the likeness.

        Words may be divided otherwise: “care a van” is found for “caravan” and the other way round.
        """
        words = text.split()
        if not words:
            return []
        self._follow()
        whole = b"".join(sound_of(word) for word in words)
        phrases: list[tuple[str, ...]] = [(word,) for word in self._alike(whole)]
        if 1 < len(words) <= 4:
            each = [[word, *self._alike(sound_of(word))] for word in words]
            phrases += islice(product(*each), _MOST_PHRASES)
        if len(words) == 1:
            phrases += self._divided(whole)
        asked = " ".join(word.casefold() for word in words)
        scored = {one: likeness(text, one) for phrase in phrases if (one := " ".join(phrase)) != asked}
        return self._places(scored, wanted, most)

    def _places(self, scored: dict[str, float], wanted: Wanted, most: int) -> list[tuple[float, Said]]:
        found: dict[Said, float] = {}
        for phrase in sorted(scored, key=lambda one: -scored[one]):
            if len(found) >= most:
                break
            numbers = self._index.matching('"' + phrase.replace('"', "") + '"')
            for said in self._index.in_order(numbers, wanted, most):
                found.setdefault(said, scored[phrase])
        return [(score, said) for said, score in islice(found.items(), most)]

    def _alike(self, sound: bytes) -> list[str]:
        """The words that sound like some phones, the likest first."""
        if not sound or not self._words:
            return []
        far = self._far(sound)
        limit = _WORST * len(sound)
        order = [int(one) for one in np.argsort(far, kind="stable")[:_MOST_WORDS] if far[one] <= limit]
        return [self._words[one] for one in order]

    def _divided(self, sound: bytes) -> list[tuple[str, ...]]:
        """Two words that together sound like one."""
        found = list[tuple[str, ...]]()
        for at in range(2, len(sound) - 1):
            first, last = self._alike(sound[:at])[:3], self._alike(sound[at:])[:3]
            found += product(first, last)
        return found[:_MOST_PHRASES]

    def _far(self, sound: bytes) -> np.ndarray:
        """The distance to each word; infinite where it cannot be small."""
        near = np.abs(self._lengths - len(sound)) <= max(1, _WORST * len(sound) / 0.8)
        far = np.full(len(self._words), np.inf, np.float32)
        places = np.flatnonzero(near)
        width = int(self._lengths[places].max(initial=1))
        far[places] = distances_to(sound, self._codes[places, :width])
        return far

    def _follow(self) -> None:
        if self._version == self._index.version():
            return
        words = [word for word in self._index.vocabulary() if not word.isdigit()]
        known = self._known
        for word in words:
            if word not in known:
                known[word] = sound_of(word)[:_LONGEST]
        self._words = [word for word in words if known[word]]
        self._lengths = np.fromiter((len(known[word]) for word in self._words), np.int64, len(self._words))
        width = int(self._lengths.max(initial=1))
        self._codes = np.zeros((len(self._words), width), np.uint8)
        for row, word in enumerate(self._words):
            self._codes[row, : len(known[word])] = np.frombuffer(known[word], np.uint8)
        self._version = self._index.version()
