"""Pieces of sound for models that hear a fixed length."""

from __future__ import annotations

import numpy as np


def window(samples: np.ndarray, start: int, length: int) -> np.ndarray:
    """A piece of a recording for a model; what lies before or after it is silence.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
    start : int
        May be below zero.
    length : int

    Returns
    -------
    ndarray, shape (length,), float32
        -1 to 1.
    """
    low = max(0, start)
    sound = np.asarray(samples[low : max(0, start + length)], np.float32) / 32768
    before = min(low - start, length)
    return np.pad(sound, (before, length - before - len(sound)))


def evenly(count: int, most: int) -> np.ndarray:
    """Places of at most some of a number of things, from the first to the last, evenly apart."""
    return np.linspace(0, count - 1, min(most, count)).astype(int)
