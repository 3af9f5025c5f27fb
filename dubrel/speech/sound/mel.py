"""Bands as the ear hears them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

RATE = 16_000


@lru_cache(maxsize=4)
def mel_filters(window: int, bands: int) -> np.ndarray:
    """Triangles of equal area on Slaney's mel scale (linear to 1000 Hz, then logarithmic).

    Parameters
    ----------
    window : int
        Samples in a Fourier transform, at 16 kHz.
    bands : int

    Returns
    -------
    ndarray, shape (bands, window // 2 + 1), float32
        After the Auditory Toolbox (Slaney, 1998).
    """
    step, knee, growth = 200 / 3, 1000.0, np.log(6.4) / 27

    def hertz(mel: np.ndarray) -> np.ndarray:
        return np.where(mel < knee / step, mel * step, knee * np.exp(growth * (mel - knee / step)))

    top = knee / step + np.log(RATE / 2 / knee) / growth
    edges = hertz(np.linspace(0, top, bands + 2))
    bins = np.fft.rfftfreq(window, 1 / RATE)
    up = (bins - edges[:-2, None]) / (edges[1:-1] - edges[:-2])[:, None]
    down = (edges[2:, None] - bins) / (edges[2:] - edges[1:-1])[:, None]
    area = 2 / (edges[2:] - edges[:-2])
    return (np.maximum(0, np.minimum(up, down)) * area[:, None]).astype(np.float32)


@lru_cache(maxsize=4)
def htk_filters(points: int, bands: int, low_hz: float) -> np.ndarray:
    """Triangles of height one, even on the logarithmic mel scale (O'Shaughnessy, 1987).

    Parameters
    ----------
    points : int
        Of a Fourier transform, at 16 kHz.
    bands : int
    low_hz : float
        Where the lowest band begins; the highest ends at 8 kHz.

    Returns
    -------
    ndarray, shape (bands, points // 2 + 1), float32
    """

    def mel(hertz: np.ndarray) -> np.ndarray:
        return 1127 * np.log1p(hertz / 700)

    low, high = mel(np.array([low_hz, RATE / 2]))
    edges = np.linspace(low, high, bands + 2)[:, None]
    places = mel(np.fft.rfftfreq(points, 1 / RATE))
    rising = (places - edges[:-2]) / (edges[1:-1] - edges[:-2])
    falling = (edges[2:] - places) / (edges[2:] - edges[1:-1])
    return np.maximum(0, np.minimum(rising, falling)).astype(np.float32)
