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
        width = self.ins.shape[1]
        main = self.clock.main_ins
        text, least = self._texts(starts, stops)
        if self.clock.has_shots or main == width:
            step = self._steps(starts, stops, slice(None), text, least)
            end, cost = self.clock.best_out(step)
            return step.absolute(end), cost
        step = self._steps(starts, stops, slice(0, main), text, least)
        end, cost = self.clock.best_out(step)
        # coming in before the first word is worth its cost only where there is too little time to read
        wanted = np.maximum(step.least, np.float32(self.chain.style.min_ms))
        some = np.flatnonzero((end[:, :1] - step.start[:, :1] < wanted).any(axis=(1, 2)))
        ends = np.zeros((len(starts), width, width), np.int64)
        costs_ = np.full((len(starts), width, width), np.inf, np.float32)
        ends[:, :main], costs_[:, :main] = step.absolute(end), cost
        if len(some):
            early = self._steps(starts[some], stops[some], slice(main, None), text[some], least[some])
            end, cost = self.clock.best_out(early)
            ends[some, main:], costs_[some, main:] = early.absolute(end), cost
        return ends, costs_

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
        begins = self.ins[:, own][starts]
        base = int(begins[:, 0].min())
        readable = grid.after(begins + np.maximum(least, style.min_ms)[:, None])
        spoken = self._spoken[stops - 1]
        most = np.minimum(self._longest[:, own][starts], self._stays[stops - 1][:, None])
        shortest = self._shortest[:, own][starts]

        def brought(ms: np.ndarray) -> np.ndarray:
            return np.minimum(ms - base, FAR_AHEAD).astype(np.float32)

        return Steps(
            base,
            start=brought(begins)[:, :, None],
            latest=brought(self._latest[stops])[:, None, :],
            word=brought(chain.end[stops - 1])[:, None, None],
            spoken=brought(spoken)[:, None, None],
            most=brought(most)[:, :, None],
            shortest=brought(shortest)[:, :, None],
            wanted=brought(np.maximum(readable, spoken[:, None]))[:, :, None],
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
        count, width = len(self.chain), self.ins.shape[1]
        best = np.full((count + 1) * width, np.inf)
        best[:width] = self.in_costs[0]
        blocks: list[tuple[np.ndarray, np.ndarray]] = []
        for stops, block in self._blocks():
            blocks.append(block)
            _walk(best, *block, self.first[stops] * width, stops * width)
        return self._traced(best, blocks), float(best[count * width])

    def _blocks(self) -> Iterator[tuple[np.ndarray, tuple[np.ndarray, np.ndarray]]]:
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

    def _block(self, stops: np.ndarray, firsts: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The costs of all steps to some borders, and where those of each border begin among them."""
        width = self.ins.shape[1]
        sizes = stops - firsts
        offsets = np.concatenate(([0], np.cumsum(sizes)))
        starts = np.arange(offsets[-1]) - np.repeat(offsets[:-1] - firsts, sizes)
        _, cost = self.steps(starts, np.repeat(stops, sizes))
        return cost.reshape(-1, width), offsets * width

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

    def _traced(self, best: np.ndarray, blocks: list[tuple[np.ndarray, np.ndarray]]) -> list[Run]:
        """The way back from the end, with the out times that belong to it."""
        steps, stop, way, width = [], len(self.chain), 0, self.ins.shape[1]
        while stop:
            cost, edges = blocks[(stop - 1) // _STOPS]
            nth, first = (stop - 1) % _STOPS, int(self.first[stop])
            ways = cost[edges[nth] : edges[nth + 1], way] + best[first * width : stop * width]
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


def _walk(
    best: np.ndarray, cost: np.ndarray, edges: np.ndarray, firsts: np.ndarray, stops: np.ndarray
) -> None:
    """Go over some borders: what each costs at the least, from those before it.

    Parameters
    ----------
    best : ndarray of float64
        For each border and in time the least cost so far; gets that of the borders.
    cost : ndarray of float32, shape (steps, in times)
    edges, firsts, stops : ndarray of int
        For each border where its steps begin in ``cost``, and where the first
        of the borders from which they come, and it itself, stand in ``best``.
    """
    low, width = int(firsts.min()), cost.shape[1]
    base = best[low : stops[0]].min()  # single precision is enough for the differences of some minutes
    here = np.empty(int(stops[-1]) + width - low, np.float32)
    here[: stops[0] - low] = best[low : stops[0]] - base
    reduce, ways = np.minimum.reduce, np.ascontiguousarray(cost.T)  # the least along a row is found faster
    for a, b, first, stop in zip(
        edges.tolist(), edges[1:].tolist(), (firsts - low).tolist(), (stops - low).tolist()
    ):
        reduce(ways[:, a:b] + here[first:stop], axis=1, out=here[stop : stop + width])
    best[stops[0] : stops[-1] + width] = here[stops[0] - low :] + base


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
