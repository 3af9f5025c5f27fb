"""Where two tuples that share most of their objects differ."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Window:
    """Places that differ between two tuples: ``old[start:old_stop]`` became ``new[start:new_stop]``."""

    start: int
    old_stop: int
    new_stop: int

    def __bool__(self) -> bool:
        return self.start < max(self.old_stop, self.new_stop)


def difference(old: Sequence[Any], new: Sequence[Any]) -> Window:
    """The smallest window outside of which both hold the same objects."""
    if old is new:
        return Window(0, 0, 0)
    start, least = 0, min(len(old), len(new))
    while start < least and old[start] is new[start]:
        start += 1
    tail = 0
    while tail < least - start and old[-1 - tail] is new[-1 - tail]:
        tail += 1
    return Window(start, len(old) - tail, len(new) - tail)
