"""In and out times: which there may be, what they cost, and the best out time for each pair of in times.

A caption's out time depends on its own in time and on the in time of the next
caption, and on nothing else; so an exact search needs only the in times as its
states, and the best out time of each pair follows in closed form.
"""

from __future__ import annotations

from fractions import Fraction
from functools import cached_property

import numpy as np

from dubrel.base.value import Value, part_names
from dubrel.captions.setting import costs
from dubrel.captions.setting.chain import Chain
from dubrel.captions.setting.frames import Grid
from dubrel.model import HouseStyle

OPEN_MS = 1 << 30
"""The in time of a caption that never comes."""
FAR_AHEAD = 1 << 23
"""The same in a passage, which is some minutes long."""


class Bounds(Value, dict=True):
    """What stands around a passage, and the picture under it.

    Attributes
    ----------
    rate : Fraction or None
        Frames a second of the picture.
    shots : tuple of int
        Shot changes in milliseconds, on frames.
    not_before : int or None
        Out time of the caption before.
    not_after : int or None
        In time of the caption after.
    length_ms : int or None
        Of the recording: no caption stays longer, but for words that do.
    """

    rate: Fraction | None = None
    shots: tuple[int, ...] = ()
    not_before: int | None = None
    not_after: int | None = None
    length_ms: int | None = None

    @cached_property
    def grid(self) -> Grid:
        """The times that there may be."""
        return Grid(self.rate)


Places = tuple[np.ndarray, ...]


class Steps(Value, eq=False):
    """Captions that might be, each for some in times of its own and of the next.

    All times are milliseconds after ``base``, so that single precision holds
    them exactly; arrays of shape (steps, own in times, next in times) or such
    as are broadcast to it.

    Attributes
    ----------
    base : int
    start : ndarray
        In time.
    latest : ndarray
        The latest out time before the next caption.
    word, spoken : ndarray
        Out time of the last word; the same on the grid.
    most : ndarray
        The latest out time by the longest time and by how long it may stay.
    shortest : ndarray
        The least out time that can be seen.
    wanted : ndarray
        The first out time that is late enough to be read and for the last word.
    least : ndarray
        How long the text needs to be read.
    text : ndarray
        What is to be paid besides.
    """

    base: int
    start: np.ndarray
    latest: np.ndarray
    word: np.ndarray
    spoken: np.ndarray
    most: np.ndarray
    shortest: np.ndarray
    wanted: np.ndarray
    least: np.ndarray
    text: np.ndarray

    def absolute(self, ms: np.ndarray) -> np.ndarray:
        """Times of the recording."""
        return ms.astype(np.int64) + self.base

    def relative(self, ms: np.ndarray) -> np.ndarray:
        """Times after ``base``; such as never come are far ahead."""
        return np.minimum(ms - self.base, FAR_AHEAD).astype(np.float32)

    def at(self, places: Places) -> Steps:
        """Some of the captions, one after the other."""
        arrays = {name: _taken(getattr(self, name), places) for name in part_names(self) if name != "base"}
        return Steps(self.base, **arrays)


class Clock:
    """The rules of time of a style on a grid, as milliseconds."""

    def __init__(self, style: HouseStyle, bounds: Bounds) -> None:
        self.style, self.bounds, self.grid = style, bounds, bounds.grid
        self.main_ins = 1
        """How many of the in times are not before the first word; those come first."""
        shots = self.bounds.shots if self.bounds.rate is not None else ()
        # one that never comes at either end spares every question whether there is one
        self.shots = np.array([-OPEN_MS, *shots, 4 * OPEN_MS], np.int64)

    @property
    def has_shots(self) -> bool:
        """Whether there are shot changes to mind."""
        return len(self.shots) > 2

    @cached_property
    def never_ms(self) -> int:
        """How long a caption has to stay on either side of a shot change."""
        return self.grid.span(self.style.shot_never_frames)

    @cached_property
    def snap_ms(self) -> int:
        """Nearer than this a time goes to a shot change."""
        return self.grid.span(self.style.shot_snap_frames)

    def before_gap(self, ms: np.ndarray) -> np.ndarray:
        """The latest out time before an in time."""
        found = self.grid.earlier(np.minimum(ms, OPEN_MS), self.style.gap_frames, self.style.gap_ms)
        return np.where(ms >= OPEN_MS, OPEN_MS, found)

    def before_shot(self, ms: np.ndarray) -> np.ndarray:
        """The out time of a caption that ends at a shot change."""
        return self.grid.earlier(ms, self.style.shot_gap_frames, 0)

    # -- costs ------------------------------------------------------------------------

    def in_cost(self, start: np.ndarray, word: np.ndarray) -> np.ndarray:
        """What in times cost, by the in time of the first word."""
        lead = word - start
        cost = np.where(lead > 0, lead * costs.LEAD, -lead * costs.LATE)
        if self.has_shots:
            behind = start - self.shots[np.searchsorted(self.shots, start, "right") - 1]
            at = (behind > 0) & (behind < self.snap_ms)
            cost = cost + at * costs.SHOT_NEAR
        return cost

    def out_cost(self, step: Steps, end: np.ndarray) -> np.ndarray:
        """What out times of captions cost, with their text.

        Parameters
        ----------
        step : Steps
        end : ndarray of float32
            Out times after ``step.base``, of the shape of the steps.
        """
        style, span, one = self.style, end - step.start, np.float32
        cost = _short_of(span, step.least, one(costs.OVER_SIGN * style.max_cps / 1000))
        cost += _short_of(span, one(style.min_ms), one(costs.SHORT))
        cost += step.text
        stays = end - step.word
        cost += stays * one(costs.LINGER)
        early = np.minimum(stays, 0, out=stays)
        if early.min(initial=0) < -costs.EARLY_FAR_MS:
            cost += (early < -costs.EARLY_FAR_MS) * one(costs.EARLY_FAR)
        cost -= early * one(costs.EARLY + costs.LINGER)
        gap = step.latest - end
        if gap.min(initial=0) < 0:
            cost += (gap < 0) * one(costs.CRAMPED)
        flickers = (gap > 0) & (gap < self.close_ms)
        if flickers.any():
            cost += flickers * one(costs.FLICKER)
        return cost + self.shot_cost(step, end) if self.has_shots else cost

    @cached_property
    def close_ms(self) -> int:
        """An out time this much before the latest one leaves a gap that should be closed."""
        return self.style.chain_ms - self.style.least_gap(self.grid.rate)

    def shot_cost(self, step: Steps, end: np.ndarray) -> np.ndarray:
        """What it costs to cross a shot change too near to either end, or to go out beside one."""
        shots, start, end = self.shots, step.absolute(step.start), step.absolute(end)
        first = shots[np.searchsorted(shots, start, "right")]
        place = np.searchsorted(shots, end, "left")
        last, ahead = shots[place - 1], shots[place] - end
        crossed = (first < end) & (first - start < self.never_ms)
        crossed |= (last > start) & (end - last < self.never_ms)
        near = (ahead < self.snap_ms) & (end != self.before_shot(np.minimum(shots[place], OPEN_MS)))
        return (crossed * costs.VIOLATION + near * costs.SHOT_NEAR).astype(np.float32)

    # -- candidates -------------------------------------------------------------------

    def in_times(self, chain: Chain) -> np.ndarray:
        """The in times that a caption may have at each word, and at the end of the chain.

        Returns
        -------
        ndarray of int64, shape (words + 1, candidates)
            Some stand more than once; the last row is when the next caption comes.
        """
        start, grid = chain.start, self.grid
        usual = grid.before(start)
        columns = [usual]
        if grid.rate is not None:
            columns.append(grid.nearest(start))
        overlapped = np.append([start[0]], np.minimum(chain.end[:-1], start[1:] + 500)) > start
        if overlapped.any():
            behind = np.append(start[:1], np.minimum(chain.end[:-1], start[1:] + 500))
            late = grid.after(behind + (self.style.least_gap(grid.rate)))
            columns.append(np.where(overlapped, late, usual))
        self.main_ins = len(columns)
        columns += self._leads(start, usual)
        if self.has_shots:
            columns += self._shot_ins(start, usual)
        found = np.maximum(np.stack(columns, axis=1), 0)
        if self.bounds.not_before is not None:
            gap = self.style.least_gap(grid.rate)
            found = np.maximum(found, grid.nearest(np.array(self.bounds.not_before + gap)))
        for place, part in enumerate(chain.parts):
            if part.not_before is not None:
                gap = self.style.least_gap(grid.rate)
                own = slice(*np.searchsorted(chain.part_of, [place, place + 1]))
                found[own] = np.maximum(found[own], grid.nearest(np.array(part.not_before + gap)))
        borders = (self.bounds.not_after, chain.parts[-1].not_after if chain.parts else None)
        after = min((one for one in borders if one is not None), default=OPEN_MS)
        return np.vstack([found, np.full((1, found.shape[1]), after)])

    def _leads(self, start: np.ndarray, usual: np.ndarray) -> list[np.ndarray]:
        """In times before the first words, as early as the style allows."""
        grid, lead = self.grid, self.style.lead_ms
        if grid.rate is None:
            step = grid.step()
            return [start - min(lead, nth * step) for nth in range(1, -(-lead // step) + 1)]
        frames = grid.frame(usual)
        earliest = np.minimum(grid.after(start - lead), usual)
        count = int(np.floor(lead / 1000 * float(grid.rate)))
        return [np.maximum(grid.ms(frames - nth), earliest) for nth in range(1, count + 1)]

    def _shot_ins(self, start: np.ndarray, usual: np.ndarray) -> list[np.ndarray]:
        """In times at the shot changes just before and just after a word, where they are near."""
        shots, snap = self.shots, self.snap_ms
        place = np.searchsorted(shots, usual, "right")
        before, after = shots[place - 1], shots[place]
        ahead = self.grid.earlier(after, self.style.shot_never_frames, 0)
        lead = self.style.lead_ms
        return [
            np.where(usual - before < snap, before, usual),
            np.where(after - usual < snap, after, usual),
            np.where((start - ahead <= lead) & (ahead < usual), ahead, usual),
        ]

    def best_out(self, step: Steps) -> tuple[np.ndarray, np.ndarray]:
        """The best out times after ``step.base``, and what the captions cost with them."""
        limit = np.maximum(np.minimum(step.latest, step.most), step.shortest)
        end = np.minimum(step.wanted, limit)
        gap = step.latest - end
        open_gaps = np.nonzero((gap > 0) & (gap < self.close_ms))
        closed = limit[open_gaps] == _taken(step.latest, open_gaps)
        end[open_gaps] = np.where(closed, limit[open_gaps], end[open_gaps])
        cost = self.out_cost(step, end)
        if len(open_gaps[0]):
            still = tuple(place[~closed] for place in open_gaps)
            ahead = _taken(step.latest, still) - np.float32(self.close_ms)
            if self.grid.rate is not None:
                ahead = step.relative(self.grid.before(step.absolute(ahead)))
            self._try(step, still, ahead, limit, end, cost)
        if self.has_shots:
            for at, instead in self._shot_outs(step, limit, end):
                self._try(step, at, instead, limit, end, cost)
        return end, cost

    def _try(
        self,
        step: Steps,
        at: Places,
        instead: np.ndarray,
        limit: np.ndarray,
        end: np.ndarray,
        cost: np.ndarray,
    ) -> None:
        """Take other out times at some places where they cost less."""
        if not len(at[0]):
            return
        there = step.at(at)
        tried = np.minimum(np.maximum(instead, there.shortest), limit[at])
        price = self.out_cost(there, tried)
        better = price < cost[at]
        end[at] = np.where(better, tried, end[at])
        cost[at] = np.where(better, price, cost[at])

    def _shot_outs(self, step: Steps, limit: np.ndarray, end: np.ndarray) -> list[tuple[Places, np.ndarray]]:
        """Out times at the shot changes around the usual one, or long enough after them."""
        shots, found = self.shots, []
        window = self.never_ms + self.snap_ms + costs.EARLY_FAR_MS
        for usual in (step.absolute(np.minimum(step.spoken, limit)), step.absolute(end)):
            place = np.searchsorted(shots, usual, "left")
            for shot in (shots[place - 1], np.minimum(shots[place], OPEN_MS)):
                at = np.nonzero(np.abs(shot - usual) < window)
                near, style = shot[at], self.style
                frames = (style.shot_snap_frames, style.shot_gap_frames, 0, -1, -style.shot_never_frames)
                tries = [self.grid.earlier(near, one, 0) for one in frames]
                found += [(at, step.relative(one)) for one in tries]
                found.append((at, limit[at]))
        return found


def _short_of(span: np.ndarray, least: np.ndarray | np.floating, rate: np.floating) -> np.ndarray:
    """What it costs that a caption stands for less time than it should; times are whole milliseconds."""
    missing = np.maximum(least - span, 0)
    broken = np.minimum(missing, 1) * np.float32(costs.VIOLATION)
    missing *= rate
    missing += broken
    return missing


def _taken(values: np.ndarray, at: Places) -> np.ndarray:
    """Values at some places of the shape that they are broadcast to."""
    return values[tuple(place if size > 1 else 0 for place, size in zip(at, values.shape))]
