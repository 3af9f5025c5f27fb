"""How far apart two sounds are that are nearly together: to the sample, by cross-correlation."""

from __future__ import annotations

import numpy as np
from scipy import fft

from dubrel.finding.soundprints import RATE

_REACH_MS = 45
_WEIGHT = 0.6  # between plain correlation (0) and that of phases alone (1)
_CLEAR, _SAME_PEAK = 3.2, 6  # deviations above the rest; samples that belong to a peak


def offset_near(
    old: np.ndarray,
    new: np.ndarray,
    at: int,
    there: int,
    span: int,
    *,
    pace: float = 1.0,
    reach_ms: int = _REACH_MS,
) -> float | None:
    """How many samples later than thought one recording has what is in another.

    Parameters
    ----------
    old, new : ndarray, shape (n,), int16
        At 8 kHz.
    at, there : int
        Where the passage begins in the new one, and about where in the old one.
    span : int
        Samples that are compared.
    pace : float
        How much faster the new one plays.
    reach_ms : int
        How far off it may be.

    Returns
    -------
    float or None
        Nothing where no place is clearly like it.
    """
    reach = round(reach_ms * RATE / 1000)
    if at < 0 or at + span > len(new) or there - reach < 0 or there + span + reach > len(old):
        return None
    ours = new[at : at + span].astype(np.float32)
    theirs = old[there - reach : there + span + reach].astype(np.float32)
    if pace != 1.0:
        places = span / 2 + (np.arange(span) - span / 2) / pace
        ours = np.interp(places, np.arange(span), ours).astype(np.float32)
    size = fft.next_fast_len(len(theirs) + len(ours), real=True)
    product = fft.rfft(theirs, size) * np.conj(fft.rfft(ours, size))
    found = fft.irfft(product / (np.abs(product) ** _WEIGHT + 1e-9), size)[: 2 * reach + 1]
    best = int(np.argmax(found))
    rest = np.delete(found, np.arange(max(0, best - _SAME_PEAK), min(len(found), best + _SAME_PEAK + 1)))
    if not len(rest) or found[best] < _CLEAR * rest.std() + rest.mean():
        return None
    return float(best - reach)
