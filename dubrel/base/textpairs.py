"""Compare two texts word by word: the edits of least number, and the word error rate.

Levenshtein's distance by dynamic programming (Wagner and Fischer, 1974), a row
at a time in NumPy. Long texts are cut at runs of words that both have and that
occur only once in each, and, where there are none, where the best way passes,
so that memory stays bounded.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

_PIECE = 1200
_ANCHOR = 4
_CELLS = 60_000_000


@dataclass(frozen=True)
class Pairing:
    """What stands opposite what.

    Attributes
    ----------
    pairs : list of (int or None, int or None)
        Places in the reference and in the hypothesis; ``None`` where a word
        was left out or put in.
    substitutions, insertions, deletions : int
    """

    pairs: list[tuple[int | None, int | None]]
    substitutions: int
    insertions: int
    deletions: int

    @property
    def errors(self) -> int:
        """All edits."""
        return self.substitutions + self.insertions + self.deletions


def pair_words(reference: Sequence[str], hypothesis: Sequence[str]) -> Pairing:
    """Pair the words of two texts with the fewest edits.

    Parameters
    ----------
    reference, hypothesis : sequence of str
        Words, already normalised.

    Examples
    --------
    >>> pair_words("a b c".split(), "a x c d".split()).errors
    2
    """
    pairs: list[tuple[int | None, int | None]] = []
    at = (0, 0)
    for anchor in [*_anchors(reference, hypothesis), (len(reference), len(hypothesis))]:
        part = _pair_piece(reference[at[0] : anchor[0]], hypothesis[at[1] : anchor[1]])
        pairs += [(None if r is None else r + at[0], None if h is None else h + at[1]) for r, h in part]
        at = anchor
    wrong = sum(r is not None and h is not None and reference[r] != hypothesis[h] for r, h in pairs)
    return Pairing(pairs, wrong, sum(r is None for r, _ in pairs), sum(h is None for _, h in pairs))


def word_error_rate(reference: Sequence[str], hypothesis: Sequence[str]) -> float:
    """Edits over the words of the reference."""
    return pair_words(reference, hypothesis).errors / max(1, len(reference))


def _anchors(reference: Sequence[str], hypothesis: Sequence[str]) -> list[tuple[int, int]]:
    """Places where both may be cut: starts of runs that are unique in both, in order."""
    if max(len(reference), len(hypothesis)) <= _PIECE:
        return []
    ours, theirs = _unique_runs(reference), _unique_runs(hypothesis)
    meets = sorted((place, theirs[run]) for run, place in ours.items() if run in theirs)
    chain = _rising(meets)
    kept: list[tuple[int, int]] = []
    for meet in chain:
        if meet[0] - (kept[-1][0] if kept else 0) >= _PIECE // 3:
            kept.append(meet)
    return kept


def _unique_runs(words: Sequence[str]) -> dict[tuple[str, ...], int]:
    runs = [tuple(words[k : k + _ANCHOR]) for k in range(len(words) - _ANCHOR + 1)]
    counts = Counter(runs)
    return {run: place for place, run in enumerate(runs) if counts[run] == 1}


def _rising(meets: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """The longest part of the meets that rises in both (patience sorting)."""
    from bisect import bisect_left

    tails: list[int] = []
    ends: list[int] = []
    before: list[int] = []
    for place, (_, other) in enumerate(meets):
        at = bisect_left(tails, other)
        before.append(ends[at - 1] if at else -1)
        if at == len(tails):
            tails.append(other)
            ends.append(place)
        else:
            tails[at], ends[at] = other, place
    chain, at = [], ends[-1] if ends else -1
    while at >= 0:
        chain.append(meets[at])
        at = before[at]
    return chain[::-1]


def _pair_piece(reference: Sequence[str], hypothesis: Sequence[str]) -> list[tuple[int | None, int | None]]:
    codes: dict[str, int] = {}
    ours = np.array([codes.setdefault(word, len(codes)) for word in reference], np.int32)
    theirs = np.array([codes.setdefault(word, len(codes)) for word in hypothesis], np.int32)
    pairs: list[tuple[int | None, int | None]] = []
    for row, column, rows, columns in _parts(ours, theirs, 0, 0):
        part = _pair_codes(ours[row : row + rows], theirs[column : column + columns])
        pairs += [(None if r is None else r + row, None if c is None else c + column) for r, c in part]
    return pairs


def _parts(
    ours: np.ndarray, theirs: np.ndarray, row: int, column: int
) -> Iterator[tuple[int, int, int, int]]:
    """Cut what is too large for one table where the best way passes (Hirschberg, 1975)."""
    rows, columns = len(ours), len(theirs)
    if rows * columns <= _CELLS or rows < 2:
        yield row, column, rows, columns
        return
    half = rows // 2
    there = _costs(ours[:half], theirs)
    back = _costs(ours[half:][::-1], theirs[::-1])[::-1]
    cut = int(np.argmin(there + back))
    yield from _parts(ours[:half], theirs[:cut], row, column)
    yield from _parts(ours[half:], theirs[cut:], row + half, column + cut)


def _costs(ours: np.ndarray, theirs: np.ndarray) -> np.ndarray:
    """Edits from all of one text to each beginning of the other."""
    ramp = np.arange(len(theirs) + 1)
    costs = ramp
    for place, word in enumerate(ours, 1):
        best = np.concatenate([[place], np.minimum(costs[:-1] + (theirs != word), costs[1:] + 1)])
        costs = np.minimum.accumulate(best - ramp) + ramp
    return costs


def _pair_codes(ours: np.ndarray, theirs: np.ndarray) -> list[tuple[int | None, int | None]]:
    rows, columns = len(ours), len(theirs)
    steps = np.zeros((rows + 1, columns + 1), np.int8)  # 0 pair, 1 left out, 2 put in
    steps[0, 1:], steps[1:, 0] = 2, 1
    costs = np.arange(columns + 1)
    ramp = np.arange(columns + 1)
    for row in range(1, rows + 1):
        paired = costs[:-1] + (theirs != ours[row - 1])
        left_out = costs[1:] + 1
        best = np.concatenate([[row], np.minimum(paired, left_out)])
        after = np.minimum.accumulate(best - ramp) + ramp  # putting words in along the row
        steps[row, 1:] = np.where(after[1:] == paired, 0, np.where(after[1:] == left_out, 1, 2))
        costs = after
    pairs: list[tuple[int | None, int | None]] = []
    row, column = rows, columns
    while row or column:
        step = steps[row, column]
        row, column = row - (step != 2), column - (step != 1)
        pairs.append((None if step == 2 else row, None if step == 1 else column))
    return pairs[::-1]
