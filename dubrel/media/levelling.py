"""Even the level of speech: slowly enough that nothing pumps, and no peak over what is allowed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import numpy as np

from dubrel.media.loudness import BETWEEN, STEP_S, loudness_of, momentary, short_term, true_peaks

LISTENING = -20.0  # LUFS: what one listens to
_MOST_UP, _MOST_DOWN = 18.0, -12.0  # decibels
_BELOW = 22.0  # how far under the louder parts what is no speech lies
_LOUDER = 90  # percent
_SILENT, _GATE = -55.0, 10.0
_SMOOTH_S = 3.0
LOSSLESS, LOSSY = 10 ** (-1.1 / 20), 10 ** (-2.0 / 20)
"""Ceilings under -1 dBTP: what an encoder adds has room."""
_AROUND_S = 0.02
_TAPS = 48


def evening_gains(energies: np.ndarray, target: float = LISTENING) -> np.ndarray:
    """By how much each tenth of a second is raised or lowered so that speech is about equally loud.

    Where nobody speaks, the gain goes evenly from that before to that after: a pause is not raised.

    Parameters
    ----------
    energies : ndarray, shape (n,)
        Of tenths of a second; zero where nothing is known yet.
    target : float
        LUFS.

    Returns
    -------
    ndarray, shape (n,)
        Factors, at the middle of each tenth.
    """
    around = short_term(energies, np.ones(len(energies), bool))
    said = around > _SILENT
    if not said.any():
        return np.ones(len(energies))
    said &= around > np.percentile(around[said], _LOUDER) - _BELOW
    blocks = momentary(energies)
    said &= loudness_of(blocks) > around - _GATE  # as the standard gates: pauses between words do not count
    wished = np.clip(target - short_term(blocks, said)[said], _MOST_DOWN, _MOST_UP)
    gains = np.interp(np.arange(len(around)), np.flatnonzero(said), wished)
    width = max(1, round(_SMOOTH_S / STEP_S)) | 1
    shape = np.hanning(width + 2)[1:-1]
    padded = np.pad(gains, width // 2, mode="edge")
    return np.asarray(10 ** (np.convolve(padded, shape / shape.sum(), "valid") / 20))


def gains_between(gains: np.ndarray, first: int, count: int, rate: int) -> np.ndarray:
    """Gains of tenths of a second as gains of samples, without steps."""
    if not len(gains):
        return np.ones(count, np.float32)
    places = (np.arange(first, first + count) / rate) / STEP_S - 0.5
    return np.interp(places, np.arange(len(gains)), gains).astype(np.float32)


def limited(blocks: Iterable[np.ndarray], rate: int, ceiling: float = LOSSLESS) -> Iterator[np.ndarray]:
    """The same sound with its true peaks under a ceiling.

    The gain goes down before a peak and comes back after it, both along half a cosine: nothing is clipped.

    Parameters
    ----------
    blocks : iterable of ndarray, shape (channels, n)
    ceiling : float
        Of the waveform between samples, 0 to 1.
    """
    around = round(rate * _AROUND_S)
    context = 2 * around + _TAPS
    held: np.ndarray | None = None
    done = 0  # samples of what is held that were given already, and are kept as context
    for block in blocks:
        held = block if held is None else np.concatenate([held, block], axis=1)
        until = held.shape[1] - context
        if until - done < rate // 10:
            continue
        yield _under(held, done, until, around, ceiling)
        first = max(0, until - context)
        held, done = held[:, first:], until - first
    if held is not None:
        yield _under(held, done, held.shape[1], around, ceiling)


def _under(held: np.ndarray, first: int, after: int, around: int, ceiling: float) -> np.ndarray:
    part = held[:, first:after]
    if np.abs(held).max(initial=0.0) < ceiling * BETWEEN:
        return part
    peaks = true_peaks(held)
    if peaks.max(initial=0.0) <= ceiling:
        return part
    wished = np.minimum(1.0, ceiling / np.maximum(peaks, 1e-9))
    lowest = _lowest(np.pad(wished, 2 * around, mode="edge"), 2 * around + 1)
    shape = np.hanning(2 * around + 3)[1:-1]
    gain = np.convolve(lowest, shape / shape.sum(), mode="valid")
    return np.asarray(part * gain[first:after], np.float32)


def _lowest(values: np.ndarray, span: int) -> np.ndarray:
    """The least of every ``span`` values that follow each other, in linear time (van Herk, 1992).

    NumPy alone: each process that writes sound would load half a second of SciPy for it.
    """
    count = len(values) - span + 1
    rows = np.pad(values, (0, -len(values) % span), constant_values=np.inf).reshape(-1, span)
    ahead = np.minimum.accumulate(rows, axis=1).ravel()
    back = np.minimum.accumulate(rows[:, ::-1], axis=1)[:, ::-1].ravel()
    return np.asarray(np.minimum(back[:count], ahead[span - 1 : span - 1 + count]))
