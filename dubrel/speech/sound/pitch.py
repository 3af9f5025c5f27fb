"""The pitch of voices over time."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

STEP_MS = 50
_RATE, _HALF = 16_000, 8_000
_FRAME, _HOP, _POINTS = 320, 400, 1024  # at 8 kHz: 40 ms every 50 ms
_LOW_HZ, _HIGH_HZ = 70, 400
_VOICED, _LOUD = 0.55, 80.0  # of the sound's own power; of its size
_OCTAVE = 0.04  # how much an octave lower has to fit better
_BLOCK_S = 120


def pitches(samples: np.ndarray) -> Iterator[float | np.ndarray]:
    """The pitch of a recording, by the autocorrelation of its sound over that of its window.

    After Boersma, *Accurate short-term analysis of the fundamental frequency* (1993), without the
    search for the best path: an average over words needs none.

    Parameters
    ----------
    samples : ndarray of int16, shape (n,)
        16 kHz, mono.

    Yields
    ------
    float or ndarray
        How far it is, 0 to 1; at the end hertz for each 50 ms, shape (n // 800,), float32; NaN
        where nobody speaks with a voice.
    """
    found = [np.zeros(0, np.float32)]
    block = _BLOCK_S * _RATE
    for start in range(0, len(samples) // (2 * _HOP) * 2 * _HOP, block):
        found.append(_of_block(samples[start : start + block + 2 * _FRAME]))
        yield min(1.0, (start + block) / len(samples))
    whole = np.concatenate(found)[: len(samples) // (2 * _HOP)]
    yield whole


def _of_block(samples: np.ndarray) -> np.ndarray:
    pairs = samples[: len(samples) // 2 * 2].reshape(-1, 2).astype(np.float32).mean(axis=1)
    count = min(_BLOCK_S * _HALF, len(pairs)) // _HOP
    pairs = np.pad(pairs, (0, _FRAME))
    frames = np.lib.stride_tricks.sliding_window_view(pairs, _FRAME)[::_HOP][:count]
    window = np.hanning(_FRAME).astype(np.float32)
    part = (frames - frames.mean(axis=1, keepdims=True)) * window
    own = np.fft.irfft(np.abs(np.fft.rfft(part, _POINTS, axis=1)) ** 2, axis=1)
    shape = np.fft.irfft(np.abs(np.fft.rfft(window, _POINTS)) ** 2)
    low, high = _HALF // _HIGH_HZ, _HALF // _LOW_HZ
    power = np.maximum(own[:, :1], 1e-6)
    alike = (own[:, low - 1 : high + 2] / power) / (shape[low - 1 : high + 2] / shape[0])
    lags = np.log2(np.arange(low, high + 1) / low)
    best = (alike[:, 1:-1] - _OCTAVE * lags).argmax(axis=1) + 1  # a period twice as long fits as well
    rows = np.arange(len(alike))
    before, here, after = (alike[rows, best + step] for step in (-1, 0, 1))
    bend = before - 2 * here + after
    shift = np.where(np.abs(bend) > 1e-9, 0.5 * (before - after) / np.where(bend == 0, 1, bend), 0.0)
    hertz = _HALF / (best + low - 1 + np.clip(shift, -0.5, 0.5))
    loud = np.sqrt(power[:, 0] / _FRAME) > _LOUD
    return np.where((here > _VOICED) & loud, hertz, np.nan).astype(np.float32)
