"""Where a translated sentence parts, so that each piece says what a caption of the original says.

A border of the original may fall at any place of the translation. Each place
is judged by the punctuation there, by how long the parts are, by words that
both languages share (numbers, names, cognates), by how tightly its words are
bound, and, where these leave a doubt, by what the parts mean. A dynamic
programme takes the best places that keep the order.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from rapidfuzz.distance import JaroWinkler

from dubrel.base.text import bare_word, ends_clause, ends_sentence, grapheme_count
from dubrel.base.value import Value
from dubrel.captions.bonds import bond_of

Encode = Callable[[Sequence[str]], np.ndarray]
_LENGTH, _MARK, _NO_MARK, _ANCHOR, _BOND, _MEANING = 3.0, 2.0, 1.0, 1.6, 1.2, 5.0
_TIGHT, _TIGHT_FROM = 8.0, 0.6  # an article, a preposition and the like is not parted from its noun
_SPREAD, _SPREAD_SHARE = 5.0, 0.10  # characters, and of the sentence's length
_COGNATE, _COGNATE_LEAST = 0.88, 4
_TRIED = 5  # places of a border whose meaning is compared
_SURE = 2.5  # points that the best place must be ahead for its meaning to need no look
_EMPTY = 6.0  # a caption of the original for which nothing is left


class Cut(Value):
    """A sentence to be parted.

    Attributes
    ----------
    source, target : tuple of str
        The words of both.
    edges : tuple of int
        Places in ``source`` before which another caption begins.
    language : str
        Of the translation.
    """

    source: tuple[str, ...]
    target: tuple[str, ...]
    edges: tuple[int, ...]
    language: str


def cut_all(cuts: Sequence[Cut], encode: Encode | None = None) -> list[tuple[int, ...]]:
    """The places in each translation that belong to the edges of its original.

    Parameters
    ----------
    encode : callable, optional
        Texts to unit vectors; without it the meaning of the parts is not looked at.
    """
    tables = [_scores(one) for one in cuts]
    if encode is not None:
        _add_meaning(cuts, tables, encode)
    return [_best(table, len(one.target)) for one, table in zip(cuts, tables)]


def _scores(cut: Cut) -> np.ndarray:
    """What speaks for each place, shape (edges, words of the translation + 1)."""
    count = len(cut.target)
    if not cut.edges:
        return np.zeros((0, count + 1))
    source, target = _shares(cut.source), _shares(cut.target)
    length = sum(map(len, cut.target)) + count
    spread = _SPREAD + _SPREAD_SHARE * length
    places = source[list(cut.edges)]
    found = -_LENGTH * ((places[:, None] - target[None, :]) * length / spread) ** 2 / 2
    clause = np.array([0.0, *(_mark(word) for word in cut.target)])
    for row, edge in zip(found, cut.edges):
        wanted = _mark(cut.source[edge - 1])
        row += _MARK * (clause > 0) if wanted else -_NO_MARK * 0.5 * (clause > 1)
        row -= _NO_MARK * (clause == 0) * bool(wanted)
    bonds = [min(100.0, bond_of(a, b, cut.language)) / 100 for a, b in zip(cut.target, cut.target[1:])]
    found[:, 1:count] -= _BOND * np.array(bonds) + _TIGHT * np.maximum(0.0, np.array(bonds) - _TIGHT_FROM)
    for one, other in _anchors(cut):
        for row, edge in zip(found, cut.edges):
            row[: other + 1] -= _ANCHOR * (one < edge)  # the word is before the edge: so it must be here
            row[other + 1 :] -= _ANCHOR * (one >= edge)
    return found


def _shares(words: Sequence[str]) -> np.ndarray:
    sums = np.concatenate(([0], np.cumsum([grapheme_count(word) + 1 for word in words])))
    return sums / max(1, sums[-1])


def _mark(word: str) -> int:
    return 2 if ends_sentence(word) else 1 if ends_clause(word) else 0


def _anchors(cut: Cut) -> list[tuple[int, int]]:
    """Words that stand for each other because they are written alike: their places in both."""
    ours, theirs = ([bare_word(word) for word in words] for words in (cut.source, cut.target))
    found = []
    free = set(range(len(theirs)))
    for nth, word in enumerate(ours):
        if not word or not (word.isdigit() or len(word) >= _COGNATE_LEAST):
            continue
        least = 1.0 if word.isdigit() else _COGNATE
        near = [
            (JaroWinkler.similarity(word, theirs[at]), -abs(at / len(theirs) - nth / len(ours)), at)
            for at in free
        ]
        best = max(near, default=(0.0, 0.0, 0))
        if best[0] >= least:
            free.discard(best[2])
            found.append((nth, best[2]))
    return found


def _add_meaning(cuts: Sequence[Cut], tables: Sequence[np.ndarray], encode: Encode) -> None:
    """Look at what the parts around an edge mean, where the rest leaves a doubt."""
    wanted: list[tuple[int, int, list[int]]] = []
    for nth, (cut, table) in enumerate(zip(cuts, tables)):
        for row in range(len(cut.edges)):
            order = (
                [int(at) for at in np.argsort(-table[row][1:-1])[:_TRIED] + 1] if len(cut.target) > 1 else []
            )
            if len(order) > 1 and table[row][order[0]] - table[row][order[1]] < _SURE:
                wanted.append((nth, row, sorted(order)))
    texts: dict[str, int] = {}
    for nth, row, order in wanted:
        cut = cuts[nth]
        for text in (
            *_parts(cut.source, cut.edges[row]),
            *(part for at in order for part in _parts(cut.target, at)),
        ):
            texts.setdefault(text, len(texts))
    if not texts:
        return
    vectors = encode(list(texts))
    for nth, row, order in wanted:
        cut = cuts[nth]
        before, after = (vectors[texts[text]] for text in _parts(cut.source, cut.edges[row]))
        for at in order:
            left, right = (vectors[texts[text]] for text in _parts(cut.target, at))
            tables[nth][row][at] += _MEANING * float(before @ left + after @ right - 1)


def _parts(words: Sequence[str], at: int) -> tuple[str, str]:
    return " ".join(words[:at]), " ".join(words[at:])


def _best(table: np.ndarray, count: int) -> tuple[int, ...]:
    """The best places that keep the order, one for each edge."""
    if not len(table):
        return ()
    best, ways = table[0] - _EMPTY * (np.arange(count + 1) == 0), []
    for row in table[1:]:
        reach = np.full(count + 1, -np.inf)
        way = np.zeros(count + 1, int)
        high = 0
        for at in range(count + 1):
            if at and best[at - 1] > best[high]:
                high = at - 1
            apart, same = best[high] if at else -np.inf, best[at] - _EMPTY
            reach[at], way[at] = (apart, high) if apart >= same else (same, at)
        ways.append(way)
        best = reach + row
    best = best - _EMPTY * (np.arange(count + 1) == count)
    at = int(best.argmax())
    found = [at]
    for way in reversed(ways):
        at = int(way[at])
        found.append(at)
    return tuple(found[::-1])
