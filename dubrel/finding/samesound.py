"""Which passages of a recording another recording consists of, by the sound alone.

Moments that sound alike vote for how far apart the two are; the cheapest way through the votes makes
runs; each run is measured to the sample by cross-correlation, with its stretch; and where two runs meet
is the moment at which the one stops and the other begins to be like the recording.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy import fft

from dubrel.base.value import Value
from dubrel.finding.offsets import offset_near
from dubrel.finding.soundprints import RATE, active, band_energies, halved, prints

_STEP = RATE // 100  # 10 ms
_BLOCK, _HOP = 120, 25  # steps: a block votes together; blocks overlap
_QUERY = 2  # every other moment of the new recording votes
_COMMON = 40  # a print that comes more often says nothing
_BEST = 4  # candidates of a block
_LEAST_VOTES = 5
_SWITCH = 14.0  # what another run costs, in votes
_NOTHING = 6.0  # what a block counts that is nothing of the recording
_DRIFT = 3  # steps by which a run may shift from block to block: it is stretched, or badly voted
_MOST_STRETCH = 0.006
_ANCHOR_S, _ANCHORS = 0.7, 32
_FINE = 40  # samples: 5 ms, for the moment of a join
_FINE_WINDOW = 256
_LEVEL = 3000.0
_LEAST_POINTS = 3


class SamePassage(Value):
    """A passage of the new recording that is one of the old.

    Attributes
    ----------
    at_ms, until_ms : float
        In the new recording.
    start_ms, end_ms : float
        In the old one.
    """

    at_ms: float
    until_ms: float
    start_ms: float
    end_ms: float


@dataclass
class _Run:
    """A run with its line: a moment t of the new recording is ``rate * t + shift`` of the old (samples).

    The old one is ``gain`` times as loud.
    """

    first: float
    last: float
    rate: float
    shift: float
    gain: float = 1.0
    points: tuple[np.ndarray, np.ndarray] | None = None

    def old(self, at: float) -> float:
        return self.rate * at + self.shift


def same_passages(
    old: np.ndarray, new: np.ndarray, tell: Callable[[float], object] = lambda fraction: None
) -> list[SamePassage]:
    """The passages of an old recording of which a new one consists, in the order of the new one.

    Parameters
    ----------
    old, new : ndarray, shape (n,), int16
        16 kHz, mono.
    tell : callable, optional
        Gets how far it is, 0 to 1.

    Returns
    -------
    list of SamePassage
        None overlapping another in the new recording; what lies between them is new.
    """
    before, after = halved(old, _LEVEL), halved(new, _LEVEL)
    tell(0.05)
    energies = [band_energies(one, _STEP) for one in (before, after)]
    tell(0.55)
    offsets = _voted(*energies)
    tell(0.7)
    ways = _runs(offsets)
    measured = [one for way in ways if (one := _measured(before, after, way)) is not None]
    pace = _pace(measured)
    if pace != 1.0:  # what is stretched is compared again as it was before
        measured = [one for way in ways if (one := _measured(before, after, way, pace)) is not None]
    runs = _merged(_of_one_pace(measured, _pace(measured)))
    tell(0.85)
    runs = _met(before, after, runs)
    tell(1.0)
    return [
        SamePassage(
            one.first * 1000 / RATE,
            one.last * 1000 / RATE,
            max(0.0, one.old(one.first) * 1000 / RATE),
            one.old(one.last) * 1000 / RATE,
        )
        for one in runs
        if one.last - one.first > RATE * 0.05
    ]


# -- votes ---------------------------------------------------------------------------------------


def _voted(old: np.ndarray, new: np.ndarray) -> list[list[tuple[int, float]]]:
    """For each block of the new recording how far off the old one may be (steps), and with how many votes."""
    says_old, says_new = active(old), active(new)
    frames, shifts = [], []
    for ours, theirs in zip(prints(old), prints(new)):
        places = np.flatnonzero(says_old)
        order = places[np.argsort(ours[places], kind="stable")].astype(np.int32)
        keys = ours[order]
        asked = np.flatnonzero(says_new).astype(np.int32)
        asked = asked[asked % _QUERY == 0]
        low = np.searchsorted(keys, theirs[asked], "left")
        counts = np.searchsorted(keys, theirs[asked], "right") - low
        counts[counts > _COMMON] = 0
        owners = np.repeat(asked, counts)
        starts = np.repeat(low - np.concatenate([[0], np.cumsum(counts)[:-1]]), counts)
        frames.append(owners)
        shifts.append(order[starts + np.arange(len(owners))] - owners)
    frame, shift = np.concatenate(frames), np.concatenate(shifts)
    blocks = max(1, -(-len(new) // _HOP))
    return _counted(frame, shift, blocks, len(new), len(old))


def _counted(
    frame: np.ndarray, shift: np.ndarray, blocks: int, new: int, old: int
) -> list[list[tuple[int, float]]]:
    """The best shifts of each block."""
    wide = new + old + 8
    order = np.argsort(frame, kind="stable")
    frame, shift = frame[order], shift[order]
    found: list[list[tuple[int, float]]] = []
    edges = np.searchsorted(frame, np.arange(blocks) * _HOP - _BLOCK // 2)
    ends = np.searchsorted(frame, np.arange(blocks) * _HOP + _BLOCK // 2)
    for a, b in zip(edges, ends):
        if b - a < _LEAST_VOTES:
            found.append([])
            continue
        values, counts = np.unique(shift[a:b] + wide, return_counts=True)
        spread = counts.astype(float)  # a step to either side counts too
        near = np.flatnonzero(np.diff(values) == 1)
        spread[near] += counts[near + 1]
        spread[near + 1] += counts[near]
        best = np.argsort(spread)[::-1][: 4 * _BEST]
        rows: list[tuple[int, float]] = []
        for nth in best:
            value = int(values[nth]) - wide
            if spread[nth] >= _LEAST_VOTES and all(abs(value - other) > 2 for other, _ in rows):
                rows.append((value, float(spread[nth])))
        found.append(rows[:_BEST])
    return found


def _runs(votes: list[list[tuple[int, float]]]) -> list[tuple[int, int, list[tuple[int, int]]]]:
    """The cheapest way through the votes.

    Returns
    -------
    list of (first block, last block, list of (block, shift))
    """
    states = [[(None, _NOTHING), *rows] for rows in votes]
    best = [[value for _, value in states[0]]]
    ways: list[list[int]] = [[0] * len(states[0])]
    for before, here in zip(states, states[1:]):
        reached, way = [], []
        last = best[-1]
        leap = int(np.argmax(last))
        for shift, value in here:
            chosen, score = leap, last[leap] - _SWITCH
            for nth, (other, _) in enumerate(before):
                same = other is shift if shift is None or other is None else abs(other - shift) <= _DRIFT
                if same and last[nth] >= score:
                    chosen, score = nth, last[nth]
            reached.append(score + value)
            way.append(chosen)
        best.append(reached)
        ways.append(way)
    at, path = int(np.argmax(best[-1])), []
    for block in range(len(states) - 1, -1, -1):
        path.append((block, states[block][at][0]))
        at = ways[block][at]
    found: list[tuple[int, int, list[tuple[int, int]]]] = []
    before_shift: int | None = None
    for block, shift in reversed(path):
        if shift is None:
            before_shift = None
            continue
        if before_shift is not None and abs(shift - before_shift) <= _DRIFT:
            first, _, rows = found[-1]
            found[-1] = (first, block, [*rows, (block, shift)])
        else:
            found.append((block, block, [(block, shift)]))
        before_shift = shift
    return found


# -- measured ----------------------------------------------------------------------------------------


def _measured(
    old: np.ndarray, new: np.ndarray, run: tuple[int, int, list[tuple[int, int]]], pace: float = 1.0
) -> _Run | None:
    """A run with its exact line, by cross-correlation at places along it."""
    first, last, rows = run
    span = round(_ANCHOR_S * RATE)
    points, gains = [], []
    for block, shift in rows[:: max(1, len(rows) // _ANCHORS)]:
        at = block * _HOP * _STEP - span // 2
        offset = offset_near(old, new, at, at + shift * _STEP, span, pace=pace)
        if offset is not None:
            points.append((at + span / 2, at + span / 2 + shift * _STEP + offset))
            there = round(at + shift * _STEP + offset)
            gains.append(_power(old[there : there + span]) / max(1e-6, _power(new[at : at + span])))
    if len(points) < _LEAST_POINTS:
        return None
    x, y = np.array(points).T
    shifts = y - x
    usual = float(np.median(shifts))
    rate = 1.0
    if len(x) >= 5 and x[-1] - x[0] > 4 * RATE:
        gaps = [(x[b] - x[a], y[b] - y[a]) for a in range(len(x)) for b in range(a + 1, len(x))]
        slopes = [dy / dx for dx, dy in gaps if dx > (x[-1] - x[0]) / 4]
        rate = float(np.median(slopes)) if slopes else 1.0
        if abs(rate - 1) < 2e-5 or abs(rate - 1) > _MOST_STRETCH:
            rate = 1.0
    usual = float(np.median(y - rate * x)) if rate != 1.0 else usual
    good = np.abs(y - rate * x - usual) < RATE * 0.012
    if good.sum() < max(1, len(x) // 4):
        return None
    half = _BLOCK // 2 * _STEP
    begin, end = first * _HOP * _STEP, last * _HOP * _STEP
    last_ms = min(float(len(new)), end + half / 2)
    return _Run(max(0.0, begin - half / 2), last_ms, rate, usual, float(np.median(gains)), (x, y))


def _power(samples: np.ndarray) -> float:
    return float(np.sqrt(np.mean(samples.astype(np.float32) ** 2))) if len(samples) else 0.0


def _pace(runs: list[_Run]) -> float:
    """The pace of a whole edit, which has one clock: the middle one of its long runs."""
    long = [one for one in runs if one.last - one.first > 8 * RATE]
    if not long:
        return 1.0
    order = sorted(long, key=lambda one: one.rate)
    weights = np.cumsum([one.last - one.first for one in order])
    pace = order[int(np.searchsorted(weights, weights[-1] / 2))].rate
    return 1.0 if abs(pace - 1) < 1e-4 else pace


def _of_one_pace(runs: list[_Run], pace: float) -> list[_Run]:
    """Runs at the pace of the edit, where theirs is near to it or hardly known."""
    for one in runs:
        assert one.points is not None
        x, y = one.points
        if abs(one.rate - pace) < 1.5e-3 or x[-1] - x[0] < 8 * RATE:
            shift = float(np.median(y - pace * x))
            if np.median(np.abs(y - pace * x - shift)) < RATE * 0.006:
                one.rate, one.shift = pace, shift
    return runs


def _merged(runs: list[_Run]) -> list[_Run]:
    """Runs in order, those of one line as one."""
    found: list[_Run] = []
    for one in sorted(runs, key=lambda one: one.first):
        if found:
            before = found[-1]
            apart = abs(before.old(one.first) - one.old(one.first))
            if apart < RATE * 0.008 and one.first - before.last < 3 * RATE:
                found[-1] = _Run(
                    before.first, max(before.last, one.last), before.rate, before.shift, before.gain
                )
                continue
        found.append(one)
    return found


# -- where they meet -----------------------------------------------------------------------------------


def _met(old: np.ndarray, new: np.ndarray, runs: list[_Run]) -> list[_Run]:
    """Runs that begin and end where the sound does."""
    margin = RATE * 1.2
    for nth, one in enumerate(runs):
        if nth == 0:
            first = _edge(old, new, one, max(0.0, one.first - margin), one.first + margin, False)
            one.first = 0.0 if _alike(old, new, one, 0.0, first) else first
        after = runs[nth + 1] if nth + 1 < len(runs) else None
        if after is None:
            last = _edge(old, new, one, one.last - margin, one.last + margin, True)
            one.last = float(len(new)) if _alike(old, new, one, last, float(len(new))) else last
        elif after.first - one.last <= 2.4 * margin:
            low, high = min(one.last, after.first) - margin, max(one.last, after.first) + margin
            low, high = max(low, one.first), min(high, after.last)
            one.last, after.first = _join(old, new, one, after, low, high)
        else:
            one.last = _edge(old, new, one, one.last - margin, one.last + margin, True)
            after.first = _edge(old, new, after, after.first - margin, after.first + margin, False)
    return runs


def _unlike(old: np.ndarray, new: np.ndarray, run: _Run, low: float, high: float) -> np.ndarray:
    """How unlike the old recording the new one is under a run, every 5 ms between two moments."""
    times = np.arange(int(low), int(high), _FINE)
    window = np.hanning(_FINE_WINDOW).astype(np.float32)
    rows = []
    there = np.round(run.rate * times + run.shift).astype(int)
    for sound, places, gain in ((new, times, run.gain), (old, there, 1.0)):
        begin = places - _FINE_WINDOW // 2
        index = begin[:, None] + np.arange(_FINE_WINDOW)
        inside = (index >= 0) & (index < len(sound))
        frames = np.where(inside, sound[np.clip(index, 0, len(sound) - 1)], 0)
        rows.append(np.abs(fft.rfft(frames * window * np.float32(gain), axis=1))[:, 4:110])
    ours, theirs = rows
    level = np.sqrt((ours**2).sum(axis=1)) + np.sqrt((theirs**2).sum(axis=1)) + 60.0
    both = np.sqrt(((np.log(ours + 8) - np.log(theirs + 8)) ** 2).mean(axis=1))
    apart = np.sqrt(((ours - theirs) ** 2).sum(axis=1)) / level
    return both * 0.5 + apart


def _alike(old: np.ndarray, new: np.ndarray, run: _Run, low: float, high: float) -> bool:
    """Whether the little that is left of the new recording is of a run too: what is quiet tells little."""
    if high - low > RATE * 1.5 or run.old(low) < -_FINE or run.old(high) > len(old) + _FINE:
        return False
    unlike = _unlike(old, new, run, low, high)
    return not len(unlike) or float(unlike.mean()) < _usual(old, new, run)


def _usual(old: np.ndarray, new: np.ndarray, run: _Run) -> float:
    """How unlike the two are at the most within a run: more is something else."""
    middle, half = (run.first + run.last) / 2, min(RATE * 3.0, (run.last - run.first) / 4)
    unlike = _unlike(old, new, run, middle - half, middle + half)
    return max(0.9, 1.15 * float(np.percentile(unlike, 95))) if len(unlike) else 0.9


def _edge(old: np.ndarray, new: np.ndarray, run: _Run, low: float, high: float, ends: bool) -> float:
    """Where a run ends, or begins, with something else after or before it."""
    low, high = max(0.0, low), min(float(len(new)), high)
    if high - low < 4 * _FINE:
        return high if ends else low
    unlike = _unlike(old, new, run, low, high)
    usual = np.median(unlike)
    inside = unlike[: len(unlike) // 3] if ends else unlike[-len(unlike) // 3 :]
    level = min(max(float(np.median(inside)) + 0.35, 0.6), _usual(old, new, run))
    if usual < level and unlike.max() < level + 0.2:  # alike to the end
        return high if ends else low
    gain = np.concatenate([[0.0], np.cumsum(level - unlike)])
    place = int(np.argmax(gain)) if ends else int(np.argmax(gain[-1] - gain))
    return low + place * _FINE


def _join(
    old: np.ndarray, new: np.ndarray, one: _Run, after: _Run, low: float, high: float
) -> tuple[float, float]:
    """Where one run gives way to the next: the split that leaves the least unlike; a gap where neither is."""
    if high - low < 2 * _FINE:
        middle = (low + high) / 2
        return middle, middle
    first, second = _unlike(old, new, one, low, high), _unlike(old, new, after, low, high)
    cost = np.concatenate([[0.0], np.cumsum(first)]) + np.concatenate([np.cumsum(second[::-1])[::-1], [0.0]])
    place = int(np.argmin(cost))
    split = low + place * _FINE
    limit = max(_usual(old, new, one), _usual(old, new, after))
    neither = np.minimum(first, second) > limit
    if neither.sum() * _FINE > RATE * 0.3:  # something new stands between them
        nothing = np.full(len(first), limit)
        ends = np.concatenate([[0.0], np.cumsum(first - nothing)])
        begins = np.concatenate([[0.0], np.cumsum(second - nothing)])
        a = int(np.argmin(ends))
        b = int(np.argmin(begins[-1] - begins))
        if b - a > RATE * 0.25 / _FINE:
            return low + a * _FINE, low + b * _FINE
    return split, split
