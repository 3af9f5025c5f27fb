"""A column of blocks of which only those in sight are laid out.

Heights of blocks that were never seen are estimates; they become true when
the block comes into sight, or one after the other while nothing else is to do.
"""

from __future__ import annotations

import time
from bisect import bisect_right
from collections.abc import Callable, Sequence
from itertools import accumulate
from operator import is_
from typing import Any, Protocol


class Block(Protocol):
    """Something with a height that depends on the width of the page."""

    def measure(self) -> float:
        """The true height in pixels."""
        ...


class Column:
    """Blocks, one below the other.

    Parameters
    ----------
    estimate : callable
        ``items -> heights`` before their blocks are laid out. Items have an ``id``.
    build : callable
        ``item -> Block``.
    """

    def __init__(
        self, estimate: Callable[[Sequence[Any]], Sequence[float]], build: Callable[[Any], Any]
    ) -> None:
        self._estimate, self._build = estimate, build
        self.items: Sequence[Any] = ()
        self._blocks: list[Any] = []
        self._heights: list[float] = []
        self._tops: list[float] = [0.0]
        self._unmeasured = 0
        self._earlier: dict[int, Any] = {}

    def set_items(self, items: Sequence[Any]) -> None:
        """Forget everything and take other items."""
        self.items = items
        self._blocks = [None] * len(items)
        self._heights = [*self._estimate(items)]
        self._earlier.clear()
        self._unmeasured = 0
        self._stack()

    def forget_layouts(self) -> None:
        """Lay blocks out anew where they are wanted, as high as they are."""
        self._blocks = [None] * len(self.items)
        self._earlier.clear()

    def replace(self, items: Sequence[Any]) -> tuple[int, int]:
        """Take changed items; blocks of those that are the same objects stay.

        Returns
        -------
        tuple of int
            The places between which something is another, from and to.
        """
        if items is self.items:
            return 0, 0
        same = list(map(is_, self.items, items))
        start = same.index(False) if False in same else len(same)
        if len(items) == len(self.items):
            stop = old_stop = len(same) - same[::-1].index(False) if False in same else start
        else:
            room = len(same) - start
            tails = list(
                map(is_, self.items[len(self.items) - room :][::-1], items[len(items) - room :][::-1])
            )
            tail = tails.index(False) if False in tails else len(tails)
            old_stop, stop = len(self.items) - tail, len(items) - tail
        self._take(items, start, old_stop, stop)
        self._stack()
        return start, stop

    def _take(self, items: Sequence[Any], start: int, old_stop: int, stop: int) -> None:
        """Replace the blocks from a place on; a changed one is as high as before until it is laid out."""
        kept = {
            id(self.items[place]): (self._blocks[place], self._heights[place])
            for place in range(start, old_stop)
        }
        before = {self.items[place].id: place for place in range(start, old_stop)}
        blocks, heights = [], []
        for item in items[start:stop]:
            block, height = kept.get(id(item), (None, 0.0))
            was = before.get(item.id)
            if block is None and was is not None and self._blocks[was] is not None:
                self._earlier[item.id] = self._blocks[was]
                height = height or self._heights[was]
            blocks.append(block)
            heights.append(height)
        unknown = [place for place, height in enumerate(heights) if not height]
        estimated = self._estimate([items[start + place] for place in unknown]) if unknown else ()
        for place, height in zip(unknown, estimated):
            heights[place] = height
        self.items = items
        self._blocks[start:old_stop] = blocks
        self._heights[start:old_stop] = heights
        if any(block is None for block in blocks):
            self._unmeasured = min(self._unmeasured, start)

    def rebuild(self, place: int) -> None:
        """Lay a block out again."""
        if self._blocks[place] is not None:
            self._earlier[self.items[place].id] = self._blocks[place]
        self._blocks[place] = None

    def earlier(self, item: Any) -> Any | None:
        """The block that an item had before it changed, once."""
        return self._earlier.pop(item.id, None)

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
        if self._measured(place):
            self._stack()
        return self._blocks[place]

    def _measured(self, place: int) -> bool:
        """Lay a block out where it is not; whether its height is another than was thought."""
        if self._blocks[place] is not None:
            return False
        found = self._blocks[place] = self._build(self.items[place])
        height = found.measure()
        if abs(height - self._heights[place]) <= 0.01:
            return False
        self._heights[place] = height
        return True

    def built(self, place: int) -> Any | None:
        """A block if it has been laid out."""
        return self._blocks[place]

    def measure_some(self, seconds: float) -> None:
        """Lay out blocks not yet seen, one at least, for so long."""
        until, moved = time.monotonic() + seconds, False
        while self._unmeasured < len(self.items):
            moved |= self._measured(self._unmeasured)
            self._unmeasured += 1
            if time.monotonic() > until:
                break
        if moved:
            self._stack()

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
