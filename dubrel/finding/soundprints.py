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
_PIECE = 4000  # frames at once
_SAMPLES = 1 << 20
_FRAMES = 20_000


def halved(samples: np.ndarray, level: float) -> np.ndarray:
    """Samples at 16 kHz as samples at 8 kHz, as loud as speech usually is.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
    level : float
        What the loud parts are to have on average.

    Returns
    -------
    ndarray, shape (n // 2,), int16
        Made piece by piece: hours of sound are never in memory as numbers of four bytes.
    """
    made = np.zeros(len(samples) // 2, np.int16)
    thin = samples[:: max(1, len(samples) // 1_000_000)].astype(np.float32)
    thin = np.abs(thin)
    thin = thin[thin > np.percentile(thin, 70)] if len(thin) else thin
    usual = float(np.sqrt(np.mean(thin**2))) if len(thin) else 0.0
    if usual <= 0:
        return made
    for low in range(0, len(made), _SAMPLES):
        high = min(len(made), low + _SAMPLES)
        part = samples[max(0, 2 * low - 1) : 2 * high].astype(np.float32)
        if low == 0:
            part = np.concatenate([part[:1], part])
        part = np.append(part, part[-1:])
        smooth = 0.25 * part[:-2:2] + 0.5 * part[1:-1:2] + 0.25 * part[2::2]
        made[low:high] = np.clip(smooth[: high - low] * (level / usual), -32767, 32767)
    return made


def band_energies(samples: np.ndarray, step: int, window: int = _WINDOW) -> np.ndarray:
    """Log energies of bands over time.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
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
    made = np.zeros((2, len(energies)), np.uint16)
    for low in range(_BACK, len(energies), _FRAMES):
        part = energies[low - _BACK : low + _FRAMES]
        rises = part[:, 1:] - part[:, :-1]
        bits = rises[_BACK:] > rises[:-_BACK]
        for nth in (0, 1):
            said = np.packbits(bits[:, nth::2], axis=1).view(">u2")[:, 0]
            made[nth, low : low + len(said)] = said
    return made[0], made[1]


def active(energies: np.ndarray) -> np.ndarray:
    """Frames in which there is something to know again: none of a silence."""
    loud = energies.max(axis=1)
    if not len(loud):
        return np.zeros(0, bool)
    floor = np.percentile(loud, 10)
    return loud > floor + 0.15 * (np.percentile(loud, 95) - floor)
