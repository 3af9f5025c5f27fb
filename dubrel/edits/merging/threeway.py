"""What became of things that two people changed: one value, or lists of things that are known by their ids.

Lists are merged by the passages in which each differs from what both began with (Khanna, Kunal and
Pierce, *A Formal Investigation of Diff3*, 2007): a passage that only one changed is taken; where
passages of both touch the same things, they are one passage, and it is the same or in question.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Generic, Literal, TypeVar

from dubrel.base.value import Value

T = TypeVar("T")
Side = Literal["a", "b"]
Span = tuple[int, int]
"""From when to when, in milliseconds of the recording."""


class Question(Value):
    """What both changed, and differently.

    Attributes
    ----------
    key : str
        By which it is known again, whichever of both comes first.
    what : str
        What kind of thing it is about.
    texts : tuple of str
        What was there, what the first made of it, and what the second did, to be read.
    start_ms, end_ms : int
        Where it is in the recording; both 0 where that says nothing.
    """

    key: str
    what: str
    texts: tuple[str, ...]
    start_ms: int = 0
    end_ms: int = 0


@dataclass
class Choosing:
    """Decides what is in question, and remembers what was.

    Attributes
    ----------
    sides : dict of str to {"a", "b"}
        Decisions by key; what is not decided goes to ``usual``.
    usual : {"a", "b"}
    asked : list of Question
    """

    sides: dict[str, Side]
    usual: Side
    asked: list[Question] = field(default_factory=list)

    def side(self, question: Question) -> Side:
        """Which side has it."""
        self.asked.append(question)
        return self.sides.get(question.key, self.usual)

    def decide(self, three: Sequence[T], key: str, what: str, texts: Iterable[str], span: Span = (0, 0)) -> T:
        """One value of three; where both changed it differently, that is in question."""
        return either(three, lambda: self.side(Question(key, what, tuple(texts), *span)))


def changed(three: Sequence[T]) -> T:
    """One value of three, where it is of no weight which of two that both changed."""
    return either(three, lambda: "a")


def either(three: Sequence[T], ask: Callable[[], Side]) -> T:
    """One value of three (of before, the first, the second): what was changed.

    Where both changed it differently, what is chosen.
    """
    base, a, b = three
    if a == b or b == base:
        return a
    if a == base:
        return b
    return a if ask() == "a" else b


class Passage(Value, Generic[T]):
    """A passage of lists that are merged.

    Attributes
    ----------
    first, stop : int
        Places in the list that both began with; equal for things that only came.
    a, b : tuple
        What stands there on each side.
    by_a, by_b : bool
        Whether each changed it.
    """

    first: int
    stop: int
    a: tuple[T, ...]
    b: tuple[T, ...]
    by_a: bool
    by_b: bool


class _One(Generic[T]):
    """A list against what it came from: which places differ, and what came between them."""

    def __init__(
        self,
        base: Sequence[T],
        now: Sequence[T],
        key: Callable[[T], Hashable],
        same: Callable[[T, T], bool],
    ) -> None:
        places = {key(one): nth for nth, one in enumerate(base)}
        kept = _rising([places.get(key(one), -1) for one in now])
        self.stays: dict[int, T] = {}
        self.came: dict[int, list[T]] = {}  # before which place of the base
        at = 0
        for nth, one in enumerate(now):
            if nth in kept:
                self.stays[places[key(one)]] = one
                at = places[key(one)] + 1
            else:
                self.came.setdefault(at, []).append(one)
        changed = {
            2 * nth + 1
            for nth, one in enumerate(base)
            if nth not in self.stays or not same(one, self.stays[nth])
        }
        between = {2 * nth + 2 for nth in range(len(base)) if {2 * nth + 1, 2 * nth + 3} <= changed}
        self.changed = changed | between | {2 * at for at in self.came}

    def within(self, low: int, high: int) -> tuple[T, ...]:
        """What stands between two coordinates, both included."""
        found = list[T]()
        for at in range(low, high + 1):
            if at % 2 == 0:
                found += self.came.get(at // 2, [])
            elif at // 2 in self.stays:
                found.append(self.stays[at // 2])
        return tuple(found)


def _rising(places: Sequence[int]) -> set[int]:
    """Of a list of places those in a longest rising row, by where they stand; below zero is not a place."""
    tails, ends, before = list[int](), list[int](), dict[int, int]()
    for nth, place in enumerate(places):
        if place < 0:
            continue
        at = bisect_left(tails, place)
        if at:
            before[nth] = ends[at - 1]
        tails[at : at + 1], ends[at : at + 1] = [place], [nth]
    found = set[int]()
    nth = ends[-1] if ends else -1
    while nth >= 0:
        found.add(nth)
        nth = before.get(nth, -1)
    return found


def passages(
    base: Sequence[T],
    a: Sequence[T],
    b: Sequence[T],
    key: Callable[[T], Hashable],
    same: Callable[[T, T], bool],
) -> Iterator[Passage[T]]:
    """The passages of three lists, in order; those that nobody changed too, thing by thing.

    Things stand at odd coordinates, what comes between them at even ones.
    """
    one, other = _One(base, a, key, same), _One(base, b, key, same)
    spans = _spans(one.changed, other.changed)
    at = 0
    for low, high in [*spans, (2 * len(base) + 1, 0)]:
        for nth in range(at, low // 2):
            yield Passage(nth, nth + 1, (one.stays[nth],), (other.stays[nth],), False, False)
        if low > high:
            return
        ours = any(low <= k <= high for k in _near(one.changed, low, high))
        theirs = any(low <= k <= high for k in _near(other.changed, low, high))
        yield Passage(low // 2, (high + 1) // 2, one.within(low, high), other.within(low, high), ours, theirs)
        at = (high + 1) // 2


def _near(places: set[int], low: int, high: int) -> Iterator[int]:
    return (k for k in range(low, high + 1) if k in places)


def _spans(a: set[int], b: set[int]) -> list[tuple[int, int]]:
    """Runs of coordinates of one side that touch; those of both that share one are one."""
    runs = sorted([*_runs(sorted(a)), *_runs(sorted(b))])
    found = list[list[int]]()
    for low, high in runs:
        if found and low <= found[-1][1]:
            found[-1][1] = max(found[-1][1], high)
        else:
            found.append([low, high])
    return [(low, high) for low, high in found]


def _runs(places: Sequence[int]) -> list[tuple[int, int]]:
    found = list[list[int]]()
    for place in places:
        if found and place == found[-1][1] + 1:
            found[-1][1] = place
        else:
            found.append([place, place])
    return [(low, high) for low, high in found]


def merged_map(
    three: Sequence[dict[Any, T]],
    both: Callable[[Any, T | None, T, T], T],
) -> dict[Any, T]:
    """Things by id: what one side added, changed or removed; ``both`` makes one of two that differ.

    What one side removed and the other changed stays.
    """
    base, a, b = three
    found: dict[Any, T] = {}
    for key in dict.fromkeys((*base, *a, *b)):
        was, one, other = base.get(key), a.get(key), b.get(key)
        if one is None and other is None:
            continue
        if one is None or other is None:
            there = one if one is not None else other
            if was is None or there != was:
                found[key] = there  # type: ignore[assignment]
        elif one == other or other == was:
            found[key] = one
        else:
            found[key] = other if one == was else both(key, was, one, other)
    return found
