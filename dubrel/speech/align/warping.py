"""Dynamic time warping of two sounds in NumPy (Sakoe and Chiba, 1978)."""

from __future__ import annotations

from functools import cache

import numpy as np

from dubrel.speech.sound.mel import mel_filters

RATE = 16_000
_WINDOW, _FFT, _MELS, _COEFFICIENTS = 400, 512, 40, 13
_STANDING = 0.5  # what standing still in one sound costs more than going on in both


def features(samples: np.ndarray, hop: int = 160, *, scaled: bool = True) -> np.ndarray:
    """Cepstral coefficients of the mel spectrum and their slopes, as a rule scaled to mean 0 and spread 1.

    Parameters
    ----------
    samples : ndarray, shape (n,), float32
        16 kHz, mono.
    hop : int
        Samples between two frames.
    scaled : bool
        Off for parts of a whole that is scaled later.

    Returns
    -------
    ndarray, shape (frames, 26), float32
        After Davis and Mermelstein (1980).
    """
    if len(samples) < _WINDOW:
        samples = np.pad(samples, (0, _WINDOW - len(samples)))
    emphasised = np.append(samples[0], samples[1:] - 0.97 * samples[:-1]).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(emphasised, _WINDOW)[::hop]
    parts = []
    for start in range(0, len(frames), 4000):  # an hour at once would not fit
        power = np.abs(np.fft.rfft(frames[start : start + 4000] * np.hanning(_WINDOW), _FFT)) ** 2
        logs = np.log(power @ mel_filters(_FFT, _MELS).T + 1e-7)
        parts.append((logs @ _cosines()).astype(np.float32))
    cepstra = np.concatenate(parts)
    slopes = np.gradient(cepstra, axis=0) if len(cepstra) > 1 else np.zeros_like(cepstra)
    whole = np.concatenate([cepstra, 2 * slopes], axis=1)
    return even(whole) if scaled else whole


@cache
def _cosines() -> np.ndarray:
    """The first columns of the orthonormal cosine transform of type II, shape (mels, coefficients)."""
    made = np.cos(np.pi / _MELS * np.outer(np.arange(_MELS) + 0.5, np.arange(_COEFFICIENTS)))
    return np.asarray(made * np.sqrt(np.where(np.arange(_COEFFICIENTS) == 0, 1, 2) / _MELS))


def even(rows: np.ndarray) -> np.ndarray:
    """Each column scaled to mean 0 and spread 1."""
    return ((rows - rows.mean(axis=0)) / (rows.std(axis=0) + 1e-5)).astype(np.float32)


def warp(one: np.ndarray, other: np.ndarray, *, band: int | None = None) -> np.ndarray:
    """The cheapest way that lays one sound along another.

    Parameters
    ----------
    one : ndarray, shape (n, d)
        Features of the first sound.
    other : ndarray, shape (m, d)
        Of the second.
    band : int, optional
        How far the way may stray from the straight line, in frames of the second.

    Returns
    -------
    ndarray, shape (n,), float
        For each frame of ``one``, the frame of ``other`` (the middle, where it meets several).
    """
    rows, columns = len(one), len(other)
    wide = columns if band is None else min(columns, 2 * band + 1)
    lows = np.zeros(rows, int)
    if wide < columns:
        middle = np.arange(rows) * (columns - 1) / max(1, rows - 1)
        lows = np.clip(np.round(middle).astype(int) - band, 0, columns - wide)
    steps = np.zeros((rows, wide), np.int8)  # 0 both on, 1 the first on, 2 the second on
    squares = (other**2).sum(axis=1)
    before = np.full(wide, np.inf)
    for row in range(rows):
        low = lows[row]
        near = other[low : low + wide]
        cost = np.sqrt(np.maximum(0, squares[low : low + wide] + one[row] @ one[row] - 2 * near @ one[row]))
        if row == 0:
            steps[0], before = 2, np.cumsum(cost)
            continue
        shift = low - lows[row - 1]
        straight = _shifted(before, shift)
        diagonal = _shifted(before, shift - 1)
        above = straight + _STANDING * cost
        step = np.where(diagonal <= above, 0, 1).astype(np.int8)
        arrived = np.minimum(diagonal, above) + cost
        # along the second sound: the best of having entered further left and walked
        walked = np.cumsum(cost * (1 + _STANDING))
        best = np.minimum.accumulate(arrived - walked) + walked
        step[best < arrived - 1e-9] = 2
        steps[row] = step
        before = best
    return _way(steps, lows)


def _shifted(row: np.ndarray, by: int) -> np.ndarray:
    if by == 0:
        return row
    moved = np.full(len(row), np.inf)
    if by > 0:
        moved[: len(row) - by] = row[by:]
    else:
        moved[-by:] = row[:by]
    return moved


def _way(steps: np.ndarray, lows: np.ndarray) -> np.ndarray:
    rows, column = len(steps), steps.shape[1] - 1
    first, last = np.zeros(rows), np.zeros(rows)
    row = rows - 1
    last[row] = column + lows[row]
    while True:
        step = steps[row, column]
        if step == 2 and column > 0:
            column -= 1
            continue
        first[row] = column + lows[row]
        if row == 0:
            break
        above = column + lows[row] - (step == 0)
        row -= 1
        column = int(np.clip(above - lows[row], 0, steps.shape[1] - 1))
        last[row] = column + lows[row]
    return (first + last) / 2
