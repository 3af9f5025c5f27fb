"""Where the passages of a cut stand in time: from the recording's clock to that of the cut, and back."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from fractions import Fraction
from functools import cached_property
from typing import TypeVar

from dubrel.base.timecode import frames_to_ms, ms_to_frames, rounded
from dubrel.base.value import Value
from dubrel.model import Cut, CutPassage


class Placement(Value):
    """A passage of the recording and where it plays.

    Attributes
    ----------
    start_ms, end_ms : int
        In the recording.
    at_ms, until_ms : int
        In what is made of it; as long as the passage, unless it is stretched.
    heard : bool
        Whether its sound plays.
    """

    start_ms: int
    end_ms: int
    at_ms: int
    until_ms: int
    heard: bool = True

    def placed(self, ms: int) -> int:
        """Where a time of the recording comes; the nearest end of the passage where it lies outside."""
        ms = min(max(ms, self.start_ms), self.end_ms)
        long, plays = self.end_ms - self.start_ms, self.until_ms - self.at_ms
        if long == plays or not long:
            return self.at_ms + ms - self.start_ms
        return min(self.until_ms, self.at_ms + rounded(Fraction((ms - self.start_ms) * plays, long)))

    def source(self, ms: int) -> int:
        """Which time of the recording plays at a time."""
        ms = min(max(ms, self.at_ms), self.until_ms)
        long, plays = self.end_ms - self.start_ms, self.until_ms - self.at_ms
        if long == plays or not plays:
            return min(self.end_ms, self.start_ms + ms - self.at_ms)
        return min(self.end_ms, self.start_ms + rounded(Fraction((ms - self.at_ms) * long, plays)))


Lasting = TypeVar("Lasting", Placement, CutPassage)


def frames_of(passage: CutPassage, rate: Fraction) -> tuple[int, int]:
    """The first frame of a passage, and the one after its last."""
    return ms_to_frames(passage.start_ms, rate), ms_to_frames(passage.end_ms, rate)


def placements(cut: Cut, rate: Fraction | None) -> list[Placement]:
    """Where the passages of a cut play.

    Parameters
    ----------
    rate : Fraction or None
        Of the picture. With one, frames are counted and not milliseconds, so that
        what is rounded does not add up over thousands of joins.
    """
    found, at, frames = list[Placement](), 0, 0
    for one in cut.passages:
        if rate is None:
            until = at + one.end_ms - one.start_ms
        else:
            first, after = frames_of(one, rate)
            frames += after - first
            until = frames_to_ms(frames, rate)
        if until > at:
            found.append(Placement(one.start_ms, one.end_ms, at, until, one.plays == "all"))
        at = until
    return found


class Timeline(Value, dict=True):
    """Placements in the order in which they play."""

    placements: Sequence[Placement]

    @property
    def length_ms(self) -> int:
        """How long all of it plays."""
        return self.placements[-1].until_ms if self.placements else 0

    @cached_property
    def _starts(self) -> list[int]:
        return [one.at_ms for one in self.placements]

    def place_at(self, ms: int) -> int:
        """The number of the passage that plays at a time; of the last one after the end."""
        return max(0, bisect_right(self._starts, ms) - 1)

    def source(self, ms: int) -> int:
        """Which time of the recording plays at a time of the cut."""
        return self.placements[self.place_at(ms)].source(ms) if self.placements else 0

    @cached_property
    def _by_source(self) -> tuple[list[int], list[int]]:
        order = sorted(range(len(self.placements)), key=lambda nth: self.placements[nth].start_ms)
        return [self.placements[nth].start_ms for nth in order], order

    def placed(self, ms: int) -> int:
        """When a time of the recording plays first; where it was taken out, where the next passage begins."""
        starts, order = self._by_source
        if not order:
            return 0
        at = bisect_right(starts, ms) - 1
        within = [
            self.placements[order[nth]].placed(ms)
            for nth in range(max(0, at - 8), at + 1)
            if ms < self.placements[order[nth]].end_ms
        ]
        if within:
            return min(within)
        return self.placements[order[at + 1]].at_ms if at + 1 < len(order) else self.length_ms

    def plays(self, ms: int) -> bool:
        """Whether a time of the recording is in the cut."""
        starts, order = self._by_source
        at = bisect_right(starts, ms)
        return any(ms < self.placements[order[nth]].end_ms for nth in range(max(0, at - 8), at))


def timeline(cut: Cut, rate: Fraction | None) -> Timeline:
    """The timeline of a cut."""
    return Timeline(placements(cut, rate))


def runs(places: Iterable[Lasting]) -> list[list[Lasting]]:
    """Placements, or passages, that follow each other in the order of the recording, run by run."""
    found: list[list[Lasting]] = []
    for one in places:
        if found and one.start_ms >= found[-1][-1].end_ms:
            found[-1].append(one)
        else:
            found.append([one])
    return found


class RunClock:
    """Times of the recording in one run: what was taken out goes to the edge of what stayed."""

    def __init__(self, run: Sequence[Placement]) -> None:
        self.run = run
        self._starts = [one.start_ms for one in run]

    def place_from(self, ms: int) -> int:
        """The number of the passage in which something begins; of the next one where that was taken out."""
        at = bisect_right(self._starts, ms) - 1
        if at >= 0 and ms < self.run[at].end_ms:
            return at
        return min(at + 1, len(self.run) - 1)

    def place_until(self, ms: int) -> int:
        """The number of the passage in which something ends; of the one before where that was taken out."""
        return max(0, bisect_left(self._starts, ms) - 1)

    def span(self, start_ms: int, end_ms: int) -> tuple[int, int]:
        """In and out time of something; the out time is before the in time where nothing of it stayed."""
        first, last = self.run[self.place_from(start_ms)], self.run[self.place_until(end_ms)]
        return first.placed(start_ms), last.placed(end_ms)

    def within(self, start_ms: int, end_ms: int) -> bool:
        """Whether no join goes through something, and none of it was taken out."""
        one = self.run[self.place_from(start_ms)]
        return one.start_ms <= start_ms and end_ms <= one.end_ms
