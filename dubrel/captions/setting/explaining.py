"""Why a caption breaks where it does: what each place costs, and which would be next best."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.bonds import CLAUSE, SENTENCE
from dubrel.captions.setting import costs
from dubrel.captions.setting.chain import Chain
from dubrel.captions.setting.linetables import FAR, cost_of_lines
from dubrel.captions.setting.search import Search
from dubrel.captions.setting.timing import Bounds

MOST = 2000  # ways to break a caption's lines that are looked at


class Option(Value):
    """A way to break.

    Attributes
    ----------
    words : tuple of int
        Ids of the words that begin a line; for the end of a caption, the one
        that begins the next caption.
    cost : float
        In points (see :mod:`costs`).
    why : str
        What makes it cost so much, in words.
    chosen : bool
        It is as the caption is now.
    texts : tuple of str
        The words of ``words``.
    """

    words: tuple[int, ...]
    cost: float
    why: str
    chosen: bool = False
    texts: tuple[str, ...] = ()


def line_options(chain: Chain, breaks: tuple[int, ...]) -> list[Option]:
    """The ways to break the lines of a caption, the cheapest first.

    Parameters
    ----------
    chain : Chain
        The words of the caption that show.
    breaks : tuple of int
        Places where its lines begin now.
    """
    count, style = len(chain), chain.style
    ways = [()]  # type: list[tuple[int, ...]]
    for lines in range(1, style.max_lines):
        some = list(combinations(range(1, count), lines))
        ways += some if len(ways) + len(some) <= MOST else []
    ways = list(dict.fromkeys([*ways, breaks]))
    found = []
    for way in ways:
        cost = cost_of_lines(chain, [0, *way, count])
        if cost < FAR or way == breaks:
            ids = tuple(chain.words[at].id for at in way)
            texts = tuple(chain.words[at].text for at in way)
            found.append(Option(ids, min(cost, float(FAR)), _why_lines(chain, way), way == breaks, texts))
    return sorted(found, key=lambda one: one.cost)


def place_costs(chain: Chain) -> list[float]:
    """What it costs to break the lines before each word but the first, whatever the other breaks."""
    found = [float(FAR)] * len(chain)
    for lines in range(2, chain.style.max_lines + 1):
        for way in combinations(range(1, len(chain)), lines - 1):
            cost = cost_of_lines(chain, [0, *way, len(chain)])
            for at in way:
                found[at] = min(found[at], cost)
        if lines > 2 or len(chain) > 40:
            break
    return found[1:]


def end_options(chain: Chain, bounds: Bounds, border: int) -> list[Option]:
    """Where one caption could end and the next begin, the cheapest first.

    Parameters
    ----------
    chain : Chain
        The words of both.
    bounds : Bounds
        What stands around both.
    border : int
        The place where the second begins now.
    """
    search, count = Search(chain, bounds), len(chain)
    found = []
    for at in range(1, count):
        cost = _two_cost(search, at, count)
        if cost < FAR or at == border:
            word = chain.words[at]
            option = Option(
                (word.id,), min(cost, float(FAR)), _why_end(chain, at), at == border, (word.text,)
            )
            found.append(option)
    return sorted(found, key=lambda one: one.cost)


def _two_cost(search: Search, at: int, count: int) -> float:
    """What two captions cost together, with the best times."""
    if max(at, count - at) > search.lines.cost.shape[1]:
        return float(FAR)
    _, cost = search.steps(np.array([0, at]), np.array([at, count]))
    best = (search.in_costs[0][:, None] + cost[0]).min(axis=0)
    return float((best[:, None] + cost[1]).min())


def _why_lines(chain: Chain, way: tuple[int, ...]) -> str:
    edges = [0, *way, len(chain)]
    lengths = [chain.length(a, b) + int(chain.named[a]) * (a == 0) for a, b in zip(edges, edges[1:])]
    if len(lengths) == 1:
        return f"one line of {lengths[0]}"
    listed = ", ".join(str(one) for one in lengths[:-1]) + f" and {lengths[-1]}"
    return f"{_kind(chain, max(way, key=lambda at: chain.bonds[at - 1]))}, lines of {listed}"


def _why_end(chain: Chain, at: int) -> str:
    pause = int(chain.pauses[at - 1])
    return f"{_kind(chain, at)}, a pause of {pause} ms" if pause >= costs.PAUSE_MS else _kind(chain, at)


def _kind(chain: Chain, at: int) -> str:
    """What a break before a word parts."""
    ends = int(chain.ends[at - 1])
    if chain.part_ends[at - 1]:
        return "another turn"
    if ends == SENTENCE:
        return "sentence"
    if ends == CLAUSE:
        return "clause"
    return "inside a phrase" if chain.bonds[at - 1] >= 50 else "between phrases"
