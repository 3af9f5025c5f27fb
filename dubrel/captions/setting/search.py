"""The cheapest way to set a chain of words into captions: ends, lines and times together.

A dynamic programme over places between words. A state is a place and the in
time of the caption that begins there; a step is a caption, with its best lines
(:mod:`linetables`) and its best out time (:mod:`timing`). No setting that the
rules of :mod:`timing` allow is cheaper; a test compares with all there are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import cached_property

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.setting import costs
from dubrel.captions.setting.chain import Chain, dash_length
from dubrel.captions.setting.linetables import FAR, LineTables, line_tables, width_of
from dubrel.captions.setting.timing import FAR_AHEAD, Bounds, Clock, Steps
from dubrel.captions.setting.walking import Block, block_of, walk
from dubrel.model import HouseStyle

_STOPS = 1200  # places whose steps are computed at once
_THREADS = 2  # the machines that we have in mind have two cores at least


class Run(Value):
    """Words that become one caption, with its lines and times.

    Attributes
    ----------
    start, stop : int
        Places in the chain.
    breaks : tuple of int
        Places in the run that begin a line.
    dashed : bool
        Two people, the second in the second line.
    start_ms, end_ms : int
    """

    start: int
    stop: int
    breaks: tuple[int, ...]
    dashed: bool
    start_ms: int
    end_ms: int


class Search(Value, eq=False, dict=True):
    """All steps of a chain; made once, asked for its cheapest way."""

    chain: Chain
    bounds: Bounds

    @cached_property
    def clock(self) -> Clock:
        """The rules of time."""
        return Clock(self.chain.style, self.bounds)

    @cached_property
    def lines(self) -> LineTables:
        """The best lines of every run."""
        return line_tables(self.chain, width_of(self.chain))

    @cached_property
    def ins(self) -> np.ndarray:
        """In times that there may be, shape (words + 1, candidates)."""
        return self.clock.in_times(self.chain)

    @cached_property
    def in_costs(self) -> np.ndarray:
        """What they cost; the one after the last word is not ours."""
        found = self.clock.in_cost(self.ins[:-1], self.chain.start[:, None])
        return np.vstack([found, np.zeros((1, found.shape[1]))])

    @cached_property
    def _inner(self) -> np.ndarray:
        return np.concatenate(([0.0], np.cumsum(self.chain.inner_costs)))

    @cached_property
    def dashes(self) -> dict[tuple[int, int], float]:
        """Runs in which two people speak, with what their text costs."""
        return (
            dict(_dash_runs(self.chain)) if self.chain.style.dashes and self.chain.style.max_lines > 1 else {}
        )

    @cached_property
    def first(self) -> np.ndarray:
        """The first word at which a caption can begin that ends at each place; shape (words + 1,)."""
        chain, style = self.chain, self.chain.style
        stops = np.arange(1, len(chain) + 1)
        room = style.max_lines * (style.max_cpl + 1)
        low = np.searchsorted(chain.sums, chain.sums[1:] - room - 1)
        low = np.maximum(low, stops - self.lines.cost.shape[1])
        low = np.maximum(low, np.searchsorted(chain.start, chain.end - style.max_ms))
        firsts = np.searchsorted(chain.part_of, chain.part_of)
        low = np.maximum(low, firsts)
        found = np.concatenate(([0], np.minimum(low, stops - 1)))
        for start, stop in self.dashes:
            found[stop] = min(found[stop], start)
        return found

    def steps(self, starts: np.ndarray, stops: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Out times of captions, and what they cost with the next in time, for each pair of in times.

        Parameters
        ----------
        starts, stops : ndarray of int, shape (steps,)
            Places of the words.

        Returns
        -------
        end, cost : ndarray, shape (steps, candidates, candidates)
        """
        shape = (len(starts), *2 * self.ins.shape[1:])
        ends, price = np.zeros(shape, np.int64), np.full(shape, np.inf, np.float32)
        for rows, own, step, end, cost in self._priced(starts, stops):
            ends[rows, own], price[rows, own] = step.absolute(end), cost
        return ends, price

    def _priced(
        self, starts: np.ndarray, stops: np.ndarray
    ) -> Iterator[tuple[slice | np.ndarray, slice, Steps, np.ndarray, np.ndarray]]:
        """Some of the captions with some of their in times: their steps, best out times and costs."""
        main = self.clock.main_ins if not self.clock.has_shots else self.ins.shape[1]
        text, least = self._texts(starts, stops)
        step = self._steps(starts, stops, slice(0, main), text, least)
        end, cost = self.clock.best_out(step)
        yield slice(None), slice(0, main), step, end, cost
        if main == self.ins.shape[1]:
            return
        # coming in before the first word is worth its cost only where there is too little time to read
        wanted = np.maximum(step.least, np.float32(self.chain.style.min_ms))
        some = np.flatnonzero((end[:, :1] - step.start[:, :1] < wanted).any(axis=(1, 2)))
        if len(some):
            early = self._steps(starts[some], stops[some], slice(main, None), text[some], least[some])
            yield some, slice(main, None), early, *self.clock.best_out(early)

    def _texts(self, starts: np.ndarray, stops: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """What the text of captions costs with each next in time, and how long it needs to be read."""
        text = self.text_costs(starts, stops)[:, None] + self.in_costs[stops]
        return text.astype(np.float32), _least_ms(
            self.lengths(starts, stops), stops - starts, self.chain.style
        )

    def _steps(
        self, starts: np.ndarray, stops: np.ndarray, own: slice, text: np.ndarray, least: np.ndarray
    ) -> Steps:
        """Captions for some of their own in times."""
        chain, grid, style = self.chain, self.clock.grid, self.chain.style
        low, high = int(starts.min()), int(stops.max())
        base = int(self.ins[low : high + 1, own].min())
        first, last, after = starts - low, stops - 1 - low, stops - low

        def brought(ms: np.ndarray) -> np.ndarray:
            return np.minimum(ms - base, FAR_AHEAD).astype(np.float32)

        def table(of: np.ndarray) -> np.ndarray:
            return brought(of[low : high + 1])  # each place once, and not once for each step

        begins = self.ins[:, own][starts]
        readable = brought(grid.after(begins + np.maximum(least, style.min_ms)[:, None]))
        spoken = table(self._spoken)[last][:, None]
        return Steps(
            base,
            start=table(self.ins[:, own])[first][:, :, None],
            latest=table(self._latest)[after][:, None, :],
            word=table(chain.end)[last][:, None, None],
            spoken=spoken[:, :, None],
            most=np.minimum(table(self._longest[:, own])[first], table(self._stays)[last][:, None])[
                :, :, None
            ],
            shortest=table(self._shortest[:, own])[first][:, :, None],
            wanted=np.maximum(readable, spoken)[:, :, None],
            least=least.astype(np.float32)[:, None, None],
            text=text[:, None, :],
        )

    @cached_property
    def _shortest(self) -> np.ndarray:
        return self.clock.grid.after(self.ins + costs.LEAST_MS)

    @cached_property
    def _latest(self) -> np.ndarray:
        found = self.clock.before_gap(self.ins)
        for place, part in enumerate(self.chain.parts):
            if part.not_after is not None:
                stop = int(np.searchsorted(self.chain.part_of, place + 1))
                found[stop] = np.minimum(found[stop], self.clock.before_gap(np.array([part.not_after])))
        return found

    @cached_property
    def _closes(self) -> np.ndarray:
        """Whether a border is one behind which something that stays stands; shape (words + 1,)."""
        found = np.zeros(len(self.chain) + 1, bool)
        for place, part in enumerate(self.chain.parts):
            if part.closed:
                found[int(np.searchsorted(self.chain.part_of, place + 1))] = True
        return found

    @cached_property
    def _spoken(self) -> np.ndarray:
        return self.clock.grid.after(self.chain.end)

    @cached_property
    def _stays(self) -> np.ndarray:
        stays = self.clock.grid.before(self.chain.end + self.chain.style.linger_ms)
        return np.maximum(stays, self._spoken)

    @cached_property
    def _longest(self) -> np.ndarray:
        return self.clock.grid.before(self.ins + self.chain.style.max_ms)

    def lengths(self, starts: np.ndarray, stops: np.ndarray) -> np.ndarray:
        """Characters of captions with their names and dashes."""
        found = (
            self.chain.sums[stops]
            - self.chain.sums[starts]
            - self.chain.gaps[starts]
            + self.chain.named[starts]
        )
        for place in self._dashed_places(starts, stops):
            found[place] += _dash_extra(self.chain, int(starts[place]), int(stops[place]))
        return found

    def text_costs(self, starts: np.ndarray, stops: np.ndarray) -> np.ndarray:
        """What the text of captions costs: ends, lines, and what they go on over."""
        found = costs.CAPTION + self.chain.end_costs[stops - 1] + self._inner[stops - 1] - self._inner[starts]
        apart = self.chain.part_of[starts] != self.chain.part_of[stops - 1]
        found += np.where(
            apart, FAR, self.lines.cost[starts, np.minimum(stops - starts, self.lines.cost.shape[1]) - 1]
        )
        for place in self._dashed_places(starts, stops):
            found[place] = self.dashes[int(starts[place]), int(stops[place])]
        return found

    def _dashed_places(self, starts: np.ndarray, stops: np.ndarray) -> Iterator[int]:
        if self.dashes:
            apart = np.flatnonzero(self.chain.part_of[starts] != self.chain.part_of[stops - 1])
            yield from (int(one) for one in apart if (int(starts[one]), int(stops[one])) in self.dashes)

    def cheapest(self) -> tuple[list[Run], float]:
        """The captions that cost the least, and what they cost together."""
        count = len(self.chain)
        best = np.full((count + 1, self.ins.shape[1]), np.inf)
        best[0] = self.in_costs[0]
        blocks: list[np.ndarray] = []
        for stops, block in self._blocks():
            blocks.append(block.cost)  # what led to it is asked for no more
            walk(best, block, int(stops[0]))
        return self._traced(best, blocks), float(best[count, 0])

    def _blocks(self) -> Iterator[tuple[np.ndarray, Block]]:
        """Borders in order, some at a time, with the costs of their steps and where each one's begin.

        Those of borders to come are computed in threads while the way is sought over the ones before.
        """
        count = len(self.chain)
        borders = [np.arange(low, min(low + _STOPS, count + 1)) for low in range(1, count + 1, _STOPS)]
        firsts = [self.first[stops] for stops in borders]  # and with them the lines, before threads ask
        if len(borders) < 2:
            yield from zip(borders, map(self._block, borders, firsts))
            return
        with ThreadPoolExecutor(_THREADS) as pool:
            yield from zip(borders, pool.map(self._block, borders, firsts))

    def _block(self, stops: np.ndarray, firsts: np.ndarray) -> Block:
        """All steps to some borders, with what they cost."""
        sizes = stops - firsts
        reach, width = int(sizes.max()), self.ins.shape[1]
        border = np.repeat(np.arange(len(stops)), sizes)
        place = np.arange(len(border)) + np.repeat(reach - np.cumsum(sizes), sizes)
        cost = np.full((len(stops), reach, width, width), np.inf, np.float32)
        for rows, own, _, _, price in self._priced(stops[border] + place - reach, stops[border]):
            cost[border[rows], place[rows], own] = price
        return block_of(cost)

    def times_of(self, edges: Sequence[int]) -> list[tuple[int, int]]:
        """The best times of given captions; ``edges`` are the places where they begin, and the end."""
        starts, stops = np.array(edges[:-1]), np.array(edges[1:])
        ends, cost = self.steps(starts, stops)
        best, ways = self.in_costs[starts[0]], []
        for step in cost:
            reached = best[:, None] + step
            ways.append(reached.argmin(axis=0))
            best = reached.min(axis=0)
        way, found = 0, []
        for nth in range(len(starts) - 1, -1, -1):
            own = int(ways[nth][way])
            found.append((int(self.ins[starts[nth], own]), int(ends[nth, own, way])))
            way = own
        return found[::-1]

    def _traced(self, best: np.ndarray, blocks: list[np.ndarray]) -> list[Run]:
        """The way back from the end, with the out times that belong to it."""
        steps, stop, way, width = [], len(self.chain), 0, self.ins.shape[1]
        while stop:
            block, nth = divmod(stop - 1, _STOPS)
            first = int(self.first[stop])
            ways = blocks[block][nth, first - stop :, :, way] + best[first:stop]
            start, before = divmod(int(ways.argmin()) + first * width, width)
            steps.append((start, stop, before, way))
            stop, way = start, before
        if not steps:
            return []
        table = np.array(steps[::-1])
        ends = np.empty(len(table), np.int64)
        for low in range(0, len(table), _STOPS // 2):
            part = table[low : low + _STOPS // 2]
            found, _ = self.steps(part[:, 0], part[:, 1])
            ends[low : low + len(part)] = found[np.arange(len(part)), part[:, 2], part[:, 3]]
        begins = self._no_earlier_than_needed(table, ends)
        ends = self._up_to_the_next(table, begins, ends)
        return [
            self.run(start, stop, begin, end)
            for (start, stop, _, _), begin, end in zip(table.tolist(), begins.tolist(), ends.tolist())
        ]

    def _up_to_the_next(self, table: np.ndarray, begins: np.ndarray, ends: np.ndarray) -> np.ndarray:
        """Out times that stood just before the next in time, where that has become later."""
        before, after = self.ins[table[1:, 0], table[1:, 2]], begins[1:]
        stays = np.minimum(self._stays[table[:-1, 1] - 1], begins[:-1] + self.chain.style.max_ms)
        latest = np.maximum(np.minimum(self.clock.before_gap(after), stays), ends[:-1])
        close = (ends[:-1] == self.clock.before_gap(before)) & ~self._closes[table[:-1, 1]]
        return np.append(np.where(close & (after > before), latest, ends[:-1]), ends[-1])

    def _no_earlier_than_needed(self, part: np.ndarray, ends: np.ndarray) -> np.ndarray:
        """In times; without a picture few are tried, as late as reading allows, the word at the latest."""
        begins = self.ins[part[:, 0], part[:, 2]]
        if self.clock.grid.rate is not None:
            return begins
        _, least = self._texts(part[:, 0], part[:, 1])
        enough = ends - np.maximum(least, self.chain.style.min_ms)
        return np.maximum(begins, np.minimum(self.chain.start[part[:, 0]], enough))

    def run(self, start: int, stop: int, start_ms: int, end_ms: int) -> Run:
        """A run with its best lines."""
        if self.chain.part_of[start] != self.chain.part_of[stop - 1]:
            second = int(np.searchsorted(self.chain.part_of, self.chain.part_of[stop - 1])) - start
            return Run(start, stop, (second,), True, start_ms, end_ms)
        return Run(start, stop, self.lines.breaks(start, stop), False, start_ms, end_ms)


def _least_ms(length: np.ndarray, words: np.ndarray, style: HouseStyle) -> np.ndarray:
    """``HouseStyle.least_ms`` of many captions."""
    from fractions import Fraction

    speed = Fraction(style.max_cps).limit_denominator(1000)
    least = -(-length.astype(np.int64) * 1000 * speed.denominator // speed.numerator)
    return np.maximum(least, -(-words * 60_000 // style.max_wpm)) if style.max_wpm else least


# -- two people in one caption -----------------------------------------------------------


def _dash_runs(chain: Chain) -> Iterator[tuple[tuple[int, int], float]]:
    """Runs over the border of two turns in which each person has one line."""
    style = chain.style
    firsts = [first for _, _, first in chain.first_words()] + [len(chain)]
    for before, here, after in zip(firsts, firsts[1:], firsts[2:]):
        one, other = chain.parts[chain.part_of[before]], chain.parts[chain.part_of[here]]
        if one.closed or one.turn.speaker == other.turn.speaker:
            continue
        if chain.start[here] - chain.end[here - 1] > costs.ANSWER_MS:
            continue
        for start in range(here - 1, before - 1, -1):
            if _line_length(chain, start, here) + _mark(chain, start, here) > style.max_cpl:
                break
            for stop in range(here + 1, after + 1):
                if _line_length(chain, here, stop) + _mark(chain, here, start) > style.max_cpl:
                    break
                yield (start, stop), _dash_cost(chain, start, here, stop)


def _line_length(chain: Chain, start: int, stop: int) -> int:
    return chain.length(start, stop)


def _both_named(chain: Chain, one: int, other: int) -> bool:
    return bool(chain.named[one] and chain.named[other])


def _mark(chain: Chain, own: int, other: int) -> int:
    """Characters before a line: the name where both have one, and else a dash."""
    return int(chain.named[own]) if _both_named(chain, own, other) else dash_length(chain.style)


def _dash_extra(chain: Chain, start: int, stop: int) -> int:
    """Characters of the marks of two lines, beyond the name that is counted already."""
    here = int(np.searchsorted(chain.part_of, chain.part_of[stop - 1]))
    return _mark(chain, start, here) + _mark(chain, here, start) - int(chain.named[start])


def _dash_cost(chain: Chain, start: int, here: int, stop: int) -> float:
    inner = float(chain.inner_costs[start : here - 1].sum() + chain.inner_costs[here : stop - 1].sum())
    return costs.CAPTION + costs.LINE + float(chain.end_costs[stop - 1]) + inner
