"""The best lines of every run of words that could be a caption, all at once.

``table[a, w]`` is of the run of ``w + 1`` words that begins at word ``a``. The
lines of a run are the first line and the best lines of the rest, so that each
further line is one pass over the table.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.setting import costs
from dubrel.captions.setting.chain import Chain
from dubrel.model import HouseStyle

FAR = np.float32(1e9)
_WORDS = 2000  # whose tables are made at once: they stay near the processor
_LONGEST = 4096  # characters: longer words cost no more


class LineTables(Value):
    """What the best lines of each run cost, and where they break.

    Attributes
    ----------
    cost : ndarray of float32, shape (words, width)
        ``FAR`` where a run does not fit.
    lines : ndarray of int8, shape (words, width)
        How many lines are best.
    """

    cost: np.ndarray
    lines: np.ndarray
    _firsts: dict[int, np.ndarray]
    _rests: dict[int, np.ndarray]

    def breaks(self, start: int, stop: int) -> tuple[int, ...]:
        """Where the best lines of a run begin, but the first: places in the run."""
        count, at, found = int(self.lines[start, stop - start - 1]), start, []
        table = self._firsts
        while count > 1:
            at += int(table[count][at, stop - at - 1])
            found.append(at - start)
            count, table = count - 1, self._rests
        return tuple(found)


def width_of(chain: Chain) -> int:
    """How many words the longest run can have that might fit."""
    style = chain.style
    most = style.max_lines * (style.max_cpl + 1)
    reach = np.searchsorted(chain.sums, chain.sums[:-1] + most + 1, side="right") - 1 - np.arange(len(chain))
    width = int(reach.max(initial=1))
    return max(1, min(width, style.max_words or width, len(chain)))


def line_tables(chain: Chain, width: int) -> LineTables:
    """Compute the best lines of all runs of at most ``width`` words, those of some thousand words at once."""
    lows = range(0, max(1, len(chain)), _WORDS)
    parts = [partial(_tables, chain, width, low, min(low + _WORDS, len(chain))) for low in lows]
    if len(parts) == 1:
        return parts[0]()
    with ThreadPoolExecutor(2) as pool:
        found = list(pool.map(lambda part: part(), parts))
    cost, lines = (np.concatenate([getattr(one, name) for one in found]) for name in ("cost", "lines"))
    firsts, rests = (
        {
            count: np.concatenate([getattr(one, name)[count] for one in found])
            for count in getattr(found[0], name)
        }
        for name in ("_firsts", "_rests")
    )
    return LineTables(cost, lines, firsts, rests)


def _tables(chain: Chain, width: int, low: int, high: int) -> LineTables:
    """Those of the runs that begin at words from ``low`` to ``high``."""
    style, own = chain.style, high - low
    high = min(high + width, len(chain))  # the lines of the last runs begin behind it
    named = chain.named[low:high]
    bare = _run_lengths(chain, width, low, high)
    line = chain.line_costs[low:high].astype(np.float32)
    rest = {1: _single(bare, style, 0)}
    firsts: dict[int, np.ndarray] = {}
    rests: dict[int, np.ndarray] = {}
    for count in range(2, style.max_lines):
        rest[count], rests[count] = _broken(line, style, bare, bare, rest[count - 1], count)
    lengths = bare + named[:, None] if named.any() else bare
    best = _single(lengths, style, 0) + _over_single(lengths, style)
    best -= _even(lengths, 1, style)
    lines = np.ones(best.shape, np.int8)
    for count in range(2, style.max_lines + 1):
        cost, firsts[count] = _broken(line, style, lengths, bare, rest[count - 1], count)
        cost -= _even(lengths, count, style)
        np.copyto(lines, np.int8(count), where=cost < best)
        best = np.minimum(best, cost)
    if (last := style.max_words) and last < width:
        best[:, last:] = FAR
    cost = np.where(best < FAR / 2, best, FAR)[:own]
    return LineTables(cost, lines[:own], *({n: of[:own] for n, of in one.items()} for one in (firsts, rests)))


def lines_of_run(chain: Chain) -> tuple[int, ...] | None:
    """The best lines of a whole chain as one run: what the tables say, without those of any other run.

    Returns
    -------
    tuple of int or None
        Where they begin, but the first; ``None`` where they do not fit.
    """
    style, count = chain.style, len(chain)
    if style.max_lines > 2 or 0 < style.max_words < count:
        tables = line_tables(chain, count)
        return tables.breaks(0, count) if tables.cost[0, -1] < FAR else None
    sums, gaps, name = chain.sums, chain.gaps, int(chain.named[0])
    begin = (sums[1:] - gaps[0] + name)[None]  # of the first words, one and more
    one = float((_single(begin, style, 0) + _over_single(begin, style) - _even(begin, 1, style))[0, -1])
    plain = int(begin[0, -1]) <= style.max_cpl and not chain.before_verse.any()
    if style.max_lines < 2 or count < 2 or (plain and one <= 0):
        return () if one < FAR / 2 else None
    end = (sums[-1] - (sums[:-1] + gaps)[::-1])[None]  # of the last words, one and more
    above = (
        _single(begin, style, 1)[0, :-1] + chain.line_costs[:-1].astype(np.float32) + _orphans(begin)[0, :-1]
    )
    both = above + (_single(end, style, 0) + _orphans(end))[0, -2::-1]
    first = int(both.argmin())
    two = float(both[first] - _even(begin, 2, style)[0, -1])
    if min(one, two) >= FAR / 2:
        return None
    return (first + 1,) if two < one else ()


def _run_lengths(chain: Chain, width: int, low: int, high: int) -> np.ndarray:
    """Characters of each run in one line; of runs past the last word, far too many."""
    count, sums = len(chain), chain.sums
    stops = np.arange(low, high)[:, None] + np.arange(1, width + 1)[None, :]
    found = sums[np.minimum(stops, count)] - (sums[low:high] + chain.gaps[low:high])[:, None]
    found[stops > count] = 1 << 20
    return found.astype(np.int32)


def _single(lengths: np.ndarray, style: HouseStyle, below: int) -> np.ndarray:
    """What one line costs; ``below`` lines stand under it."""
    signs = np.minimum(lengths, _LONGEST).astype(np.float32)
    cost = signs * signs * np.float32(costs.IMBALANCE / style.max_cpl)
    if style.shape == "bottom-heavy" and below:
        cost += signs * np.float32(costs.TOP_HEAVY * below)
    over = lengths > style.max_cpl
    cost[:, 1:][over[:, 1:]] = FAR
    first = np.minimum(lengths[:, 0], 4 * style.max_cpl) - style.max_cpl
    cost[:, 0] = np.where(
        over[:, 0], np.float32(costs.VIOLATION) + first * np.float32(costs.OVER_LINE), cost[:, 0]
    )
    cost[lengths[:, 0] >= 1 << 20, 0] = FAR
    return cost


def _even(lengths: np.ndarray, count: int, style: HouseStyle) -> np.ndarray:
    """What even lines would cost, which is nothing: it is taken off."""
    signs = np.minimum(lengths, _LONGEST).astype(np.float32)
    return signs * signs * np.float32(costs.IMBALANCE / style.max_cpl / count)


def _over_single(lengths: np.ndarray, style: HouseStyle) -> np.ndarray:
    limit = style.single_cpl
    if not limit or style.max_lines < 2:
        return np.zeros(lengths.shape, np.float32)
    return np.where(lengths > limit, np.float32(costs.OVER_SINGLE), np.float32(0))


def _broken(
    line: np.ndarray, style: HouseStyle, lengths: np.ndarray, bare: np.ndarray, rest: np.ndarray, count: int
) -> tuple[np.ndarray, np.ndarray]:
    """The best cost of each run in so many lines, and how many words its first line has."""
    words, width = lengths.shape
    best = np.full((words, width), FAR, np.float32)
    split = np.zeros((words, width), np.int8 if width < 128 else np.int16)
    first = _single(lengths, style, count - 1)
    orphan = _orphans(lengths)
    below = rest + (_orphans(bare) if count == 2 else 0)
    reach = int(np.flatnonzero((below < FAR).any(axis=0)).max(initial=-1)) + 1  # words that fit below
    for taken in range(1, width):
        top = (
            first[: words - taken, taken - 1]
            + line[taken - 1 : words - 1]
            + orphan[: words - taken, taken - 1]
        )
        if not (top < FAR).any():
            break
        cost = top[:, None] + below[taken:, : min(width - taken, reach)]
        runs = slice(0, words - taken), slice(taken, taken + cost.shape[1])
        better = cost < best[runs]
        np.minimum(best[runs], cost, out=best[runs])
        np.copyto(split[runs], split.dtype.type(taken), where=better)
    return best, split


def _orphans(lengths: np.ndarray) -> np.ndarray:
    """What it costs that a line of several is one short word."""
    found = np.zeros(lengths.shape, np.float32)
    found[lengths[:, 0] <= costs.ORPHAN_LENGTH, 0] = costs.ORPHAN
    return found


def cost_of_lines(chain: Chain, edges: Sequence[int]) -> float:
    """What given lines of a run cost.

    Parameters
    ----------
    chain : Chain
    edges : sequence of int
        Places where the lines begin, and the end of the run.

    Returns
    -------
    float
        ``FAR`` where they do not fit.
    """
    style, count = chain.style, len(edges) - 1
    whole = chain.length(edges[0], edges[-1]) + int(chain.named[edges[0]])
    cost = -(whole**2) * costs.IMBALANCE / style.max_cpl / count
    cost += costs.OVER_SINGLE if count == 1 < style.max_lines and 0 < style.single_cpl < whole else 0.0
    for nth, (start, stop) in enumerate(zip(edges, edges[1:])):
        signs, below = chain.length(start, stop) + int(chain.named[start]) * (nth == 0), count - nth - 1
        cost += signs**2 * costs.IMBALANCE / style.max_cpl
        if signs > style.max_cpl:
            if stop > start + 1:
                return float(FAR)
            cost += costs.VIOLATION + min(signs - style.max_cpl, 3 * style.max_cpl) * costs.OVER_LINE
        cost += costs.TOP_HEAVY * below * signs if style.shape == "bottom-heavy" else 0.0
        cost += costs.ORPHAN if count > 1 and stop == start + 1 and signs <= costs.ORPHAN_LENGTH else 0.0
        cost += float(chain.line_costs[stop - 1]) if below else 0.0
    return cost
