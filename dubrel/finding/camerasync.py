"""When a camera ran: where its sound lies in that of the recording, and how its clock drifts.

Pieces of the camera's sound are looked for in the whole recording by how its bands swell; those that
agree on one place make a first line, along which the sounds are compared to the sample; a line through
what most places say gives the moment at which the camera began and the pace of its clock.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy import fft

from dubrel.base.value import Value
from dubrel.finding.offsets import offset_near
from dubrel.finding.soundprints import RATE, band_energies, halved

_LEVEL = 3000.0
_STEP = RATE // 100  # 10 ms
_GROUPS = 8  # bands of which swelling is followed
_PIECE, _PIECES, _LEAST_PIECE = 6000, 12, 400  # steps: a minute; how many at most; four seconds
_CLEAR = 9.0  # deviations by which the best place of a piece is above the others
_MOST_DRIFT = 5e-4
_NEAR = 4  # steps by which pieces of one line may be off it
_ANCHOR_S, _APART_S, _ANCHORS = 1.5, 4.0, 240
_REACH_MS = 120
_FITS_MS, _LOOSE_MS = 2.5, 12.0
_LEAST_ANCHORS, _LEAST_SHARE = 4, 0.4
_LINES = 4000


class Sync(Value):
    """Where a camera's sound lies in the recording.

    Attributes
    ----------
    starts_ms : float
        When the camera's first moment is, in time of the recording; below zero where it ran before.
    rate : float
        Milliseconds of the recording in one of the camera's: 1.00005 for a clock 50 ppm slow.
    spread_ms : float
        By how much places along it are off that line, on average.
    jumps_ms : float
        Where in the recording the camera's sound leaves the line for good; 0 where it never does.
    """

    starts_ms: float
    rate: float
    spread_ms: float = 0.0
    jumps_ms: float = 0.0


def synced(
    recording: np.ndarray, camera: np.ndarray, tell: Callable[[float], object] = lambda fraction: None
) -> Sync | None:
    """Where a camera's sound lies in that of a recording.

    Parameters
    ----------
    recording, camera : ndarray, shape (n,), int16
        16 kHz, mono.
    tell : callable, optional
        Gets how far it is, 0 to 1.

    Returns
    -------
    Sync or None
        Nothing where they share no sound.
    """
    old, new = halved(recording, _LEVEL), halved(camera, _LEVEL)
    if min(len(old), len(new)) < _LEAST_PIECE * _STEP:
        return None
    ours = _swelling(band_energies(old, _STEP))
    tell(0.25)
    theirs = _swelling(band_energies(new, _STEP))
    tell(0.5)
    first = _first_line(ours, theirs, tell)
    if first is None:
        return None
    places, offsets = _anchors(old, new, *first)
    tell(0.95)
    found = _line(places, offsets)
    tell(1.0)
    return found


def _swelling(energies: np.ndarray) -> np.ndarray:
    """How bands swell from moment to moment, shape (groups, frames): what rooms and levels change least."""
    edges = np.linspace(0, energies.shape[1], _GROUPS + 1).astype(int)
    groups = np.stack([energies[:, a:b].mean(axis=1) for a, b in zip(edges, edges[1:])])
    rises = np.zeros_like(groups)
    rises[:, 2:] = groups[:, 2:] - groups[:, :-2]
    rises = np.maximum(rises, 0)
    rises -= rises.mean(axis=1, keepdims=True)
    return np.clip(rises / (rises.std(axis=1, keepdims=True) + 1e-6), -1, 4).astype(np.float32)


def _first_line(
    old: np.ndarray, new: np.ndarray, tell: Callable[[float], object]
) -> tuple[float, float] | None:
    """Shift and drift in steps by which the camera lies in the recording, roughly; nothing for none."""
    length = min(_PIECE, new.shape[1])
    count = min(_PIECES, max(1, new.shape[1] // max(1, length // 2)))
    begins = np.linspace(0, new.shape[1] - length, count).astype(int)
    size = fft.next_fast_len(old.shape[1] + length, real=True)
    spectra = fft.rfft(old, size, axis=1, workers=2)
    found = list[tuple[int, int, float]]()
    for nth, begin in enumerate(begins):
        piece = fft.rfft(new[:, begin : begin + length], size, axis=1, workers=2)
        likeness = fft.irfft((spectra * np.conj(piece)).sum(axis=0), size)
        best = int(np.argmax(likeness))
        clear = (likeness[best] - likeness.mean()) / (likeness.std() + 1e-9)
        shift = (best if best < old.shape[1] else best - size) - int(begin)
        if clear >= _CLEAR:
            found.append((int(begin) + length // 2, shift, float(clear)))
        tell(0.5 + 0.3 * (nth + 1) / count)
    return _agreed(found)


def _agreed(found: list[tuple[int, int, float]]) -> tuple[float, float] | None:
    """The line on which most of the pieces lie, weighed by how clear they are."""
    best: tuple[float, list[tuple[int, int, float]]] = (0.0, [])
    for at, shift, _ in found:
        near = [one for one in found if abs(one[1] - shift) <= _NEAR + _MOST_DRIFT * abs(one[0] - at)]
        weight = sum(one[2] for one in near)
        if weight > best[0]:
            best = (weight, near)
    near = best[1]
    if not near:
        return None
    places, shifts = (np.array([one[nth] for one in near], float) for nth in (0, 1))
    if len(near) < 3 or np.ptp(places) < _PIECE:
        return float(np.median(shifts)), 0.0
    slope = float(np.clip(np.polyfit(places, shifts, 1)[0], -_MOST_DRIFT, _MOST_DRIFT))
    return float(np.median(shifts - slope * places)), slope


def _anchors(old: np.ndarray, new: np.ndarray, shift: float, slope: float) -> tuple[np.ndarray, np.ndarray]:
    """Moments of the camera and by how much later the recording has them, both in ms."""
    span = round(_ANCHOR_S * RATE)
    begin = max(0.0, -shift * _STEP)
    end = min(len(new), (len(old) / _STEP - shift) * _STEP) - span
    count = int(np.clip((end - begin) / RATE / _APART_S, 8, _ANCHORS))
    places, offsets = list[float](), list[float]()
    for at in np.linspace(begin, max(begin, end), count).astype(int):
        guess = round((shift + slope * at / _STEP) * _STEP)
        off = offset_near(old, new, int(at), int(at) + guess, span, reach_ms=_REACH_MS)
        if off is not None:
            places.append((at + span / 2) * 1000 / RATE)
            offsets.append((guess + off) * 1000 / RATE)
    return np.array(places), np.array(offsets)


def _line(places: np.ndarray, offsets: np.ndarray) -> Sync | None:
    """The line that most places agree on; nothing where too few do."""
    if len(places) < _LEAST_ANCHORS:
        return None
    slope, shift = _agreed_line(places, offsets)
    inside = np.ones(len(places), bool)
    for limit in (_LOOSE_MS, _FITS_MS * 2, _FITS_MS):
        inside = np.abs(offsets - slope * places - shift) < limit
        if inside.sum() < _LEAST_ANCHORS:
            return None
        if np.ptp(places[inside]) > 10_000:
            slope, shift = (float(one) for one in np.polyfit(places[inside], offsets[inside], 1))
        else:
            slope, shift = 0.0, float(np.median(offsets[inside]))
    if inside.mean() < _LEAST_SHARE or abs(slope) > _MOST_DRIFT * 2:
        return None
    off = offsets - slope * places - shift
    spread = float(np.abs(off[inside]).mean())
    rate = 1.0 + slope
    return Sync(shift, rate, spread, _jump(places, off, lambda ms: rate * ms + shift))


def _agreed_line(places: np.ndarray, offsets: np.ndarray) -> tuple[float, float]:
    """Slope and shift on which most places lie: of lines through two of them each, the best.

    A random sample of lines, counted (Fischler and Bolles, 1981).
    """
    a, b = np.triu_indices(len(places), 1)
    far = places[b] - places[a] > np.ptp(places) / 10
    a, b = a[far], b[far]
    if len(a) > _LINES:
        chosen = np.random.default_rng(0).choice(len(a), _LINES, replace=False)
        a, b = a[chosen], b[chosen]
    slopes = (offsets[b] - offsets[a]) / (places[b] - places[a])
    usual = np.abs(slopes) <= _MOST_DRIFT * 2
    shifts = offsets[a][usual] - slopes[usual] * places[a][usual]
    slopes, shifts = np.append(slopes[usual], np.zeros(len(places))), np.append(shifts, offsets)
    off = np.abs(offsets[None, :] - slopes[:, None] * places[None, :] - shifts[:, None])
    best = int(np.argmax((off < _FITS_MS).sum(axis=1) - off.clip(max=_FITS_MS).mean(axis=1) / _FITS_MS / 2))
    return float(slopes[best]), float(shifts[best])


def _jump(places: np.ndarray, off: np.ndarray, placed: Callable[[float], float]) -> float:
    """From when on the camera is off its line to its end, or up to when; 0 where it is not."""
    wrong = np.abs(off) > _LOOSE_MS
    for order in (slice(None, None, -1), slice(None)):
        run = wrong[order]
        count = int(np.argmin(run)) if not run.all() else len(run)
        if count >= 4 and np.std(off[order][:count]) < _LOOSE_MS:
            return float(placed(places[order][count - 1]))
    return 0.0
