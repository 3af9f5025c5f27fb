"""Prints of sound: sixteen bits for each moment that stay nearly the same through noise, coding and level.

Each bit says whether the difference of energy between two neighbouring bands has grown since a moment
ago (after Haitsma and Kalker, "A highly robust audio fingerprinting system", 2002).
"""

from __future__ import annotations

import numpy as np
from scipy import fft

RATE = 8000
_WINDOW = 1024  # samples: an eighth of a second
_LOW, _HIGH, _BANDS = 200.0, 3400.0, 33
_BACK = 4  # steps of 10 ms back to what a moment is compared with
_PIECE = 8000  # frames at once


def halved(samples: np.ndarray) -> np.ndarray:
    """Samples at 16 kHz as samples at 8 kHz.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
    """
    whole = samples[: len(samples) // 2 * 2].astype(np.float32)
    if len(whole) < 4:
        return np.zeros(0, np.float32)
    smooth = whole.copy()
    smooth[1:-1] = 0.25 * whole[:-2] + 0.5 * whole[1:-1] + 0.25 * whole[2:]
    return smooth[::2]


def band_energies(samples: np.ndarray, step: int, window: int = _WINDOW) -> np.ndarray:
    """Log energies of bands over time.

    Parameters
    ----------
    samples : ndarray, shape (n,), float32
        At 8 kHz.
    step : int
        Samples from frame to frame.

    Returns
    -------
    ndarray, shape (frames, 33), float32
        The frame with number k is centred on sample ``k * step``.
    """
    count = max(0, -(-len(samples) // step))
    padded = np.pad(samples, (window // 2, window))
    shape = np.hanning(window).astype(np.float32)
    edges = np.geomspace(_LOW, _HIGH, _BANDS + 1)
    places = np.clip(np.round(edges * window / RATE).astype(int), 1, window // 2)
    places = np.maximum.accumulate(places + np.arange(_BANDS + 1) * 0)
    for nth in range(1, len(places)):  # low bands of a short window would be empty
        places[nth] = max(places[nth], places[nth - 1] + 1)
    found = np.empty((count, _BANDS), np.float32)
    for low in range(0, count, _PIECE):
        high = min(count, low + _PIECE)
        part = padded[low * step : (high - 1) * step + window]
        frames = np.lib.stride_tricks.sliding_window_view(part, window)[::step][: high - low]
        power = np.abs(fft.rfft(frames * shape, axis=1, workers=2)) ** 2
        sums = np.cumsum(power, axis=1, dtype=np.float64)
        found[low:high] = np.log(sums[:, places[1:] - 1] - sums[:, places[:-1] - 1] + 1e-3)
    return found


def prints(energies: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two prints of sixteen bits for each frame: of every other pair of bands.

    Parameters
    ----------
    energies : ndarray, shape (frames, 33)
        At steps of 10 ms.

    Returns
    -------
    tuple of ndarray, shape (frames,), uint16
    """
    rises = energies[:, 1:] - energies[:, :-1]
    before = np.concatenate([rises[:1].repeat(_BACK, axis=0), rises[:-_BACK]])[: len(rises)]
    bits = rises > before
    first, second = (np.packbits(bits[:, nth::2], axis=1).view(">u2")[:, 0] for nth in (0, 1))
    return first.astype(np.uint16), second.astype(np.uint16)


def active(energies: np.ndarray) -> np.ndarray:
    """Frames in which there is something to know again: none of a silence."""
    loud = energies.max(axis=1)
    if not len(loud):
        return np.zeros(0, bool)
    floor = np.percentile(loud, 10)
    return loud > floor + 0.15 * (np.percentile(loud, 95) - floor)
