"""A column of blocks of which only those in sight are laid out.

Heights of blocks that were never seen are estimates; they become true when
the block comes into sight, or one after the other while nothing else is to do.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from itertools import accumulate
from typing import Any, Protocol

from dubrel.desk.session import Window


class Block(Protocol):
    """Something with a height that depends on the width of the page."""

    def measure(self) -> float:
        """The true height in pixels."""
        ...


class Column:
    """Blocks under each other.

    Parameters
    ----------
    estimate : callable
        ``item -> height`` before the block is laid out.
    build : callable
        ``item -> Block``.
    """

    def __init__(self, estimate: Callable[[Any], float], build: Callable[[Any], Any]) -> None:
        self._estimate, self._build = estimate, build
        self.items: Sequence[Any] = ()
        self._blocks: list[Any] = []
        self._heights: list[float] = []
        self._tops: list[float] = [0.0]
        self._unmeasured = 0

    def set_items(self, items: Sequence[Any]) -> None:
        """Forget everything and take other items."""
        self.items = items
        self._blocks = [None] * len(items)
        self._heights = [self._estimate(item) for item in items]
        self._unmeasured = 0
        self._stack()

    def replace(self, items: Sequence[Any], window: Window) -> None:
        """Take changed items; blocks outside the window stay."""
        if not window:
            return
        fresh = items[window.start : window.new_stop]
        kept = self._blocks[window.start : window.old_stop]
        heights = [self._estimate(item) for item in fresh]
        if len(fresh) == len(kept):  # a changed block is as high as before until it is laid out
            old = self._heights[window.start : window.old_stop]
            heights = [h if b is not None else e for h, b, e in zip(old, kept, heights)]
        self.items = items
        self._blocks[window.start : window.old_stop] = [None] * len(fresh)
        self._heights[window.start : window.old_stop] = heights
        self._unmeasured = min(self._unmeasured, window.start)
        self._stack()

    def _stack(self) -> None:
        self._tops = [0.0, *accumulate(self._heights)]

    @property
    def height(self) -> float:
        """Height of all blocks."""
        return self._tops[-1]

    def top(self, place: int) -> float:
        """Where a block begins."""
        return self._tops[place]

    def at(self, y: float) -> int:
        """The block at a height, the nearest one outside of the column; -1 if there is none."""
        if not len(self.items):
            return -1
        return min(max(bisect_right(self._tops, y) - 1, 0), len(self.items) - 1)

    def block(self, place: int) -> Any:
        """A block, laid out."""
        found = self._blocks[place]
        if found is None:
            found = self._blocks[place] = self._build(self.items[place])
            height = found.measure()
            if abs(height - self._heights[place]) > 0.01:
                self._heights[place] = height
                self._stack()
        return found

    def built(self, place: int) -> Any | None:
        """A block if it has been laid out."""
        return self._blocks[place]

    def measure_some(self, count: int) -> float:
        """Lay out a few blocks not yet seen; how much the column grew above the first of them."""
        before = self.height
        done = 0
        while self._unmeasured < len(self.items) and done < count:
            if self._blocks[self._unmeasured] is None:
                self.block(self._unmeasured)
                done += 1
            self._unmeasured += 1
        return self.height - before

    @property
    def settled(self) -> bool:
        """Whether every height is true."""
        return self._unmeasured >= len(self.items)

    def in_sight(self, top: float, bottom: float) -> range:
        """Places of the blocks between two heights, all laid out."""
        if not len(self.items):
            return range(0)
        first = place = self.at(top)
        while place < len(self.items) and self.top(place) < bottom:
            self.block(place)
            place += 1
        return range(first, place)
