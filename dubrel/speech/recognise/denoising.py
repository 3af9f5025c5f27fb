"""Make a passage of sound easier to transcribe: steady noise taken down, loudness raised.

For recognisers only; times are found in the sound as it is.
"""

from __future__ import annotations

import numpy as np

_SIZE, _HOP = 512, 128  # samples at 16 kHz
_RATE = 16_000
_LOWEST_HZ = 80
_QUIET_SHARE, _BIAS = 0.1, 1.6
_STEADY = 0.96
_FLOOR = 10 ** (-12 / 20)
_SMOOTH = 5  # frames
_PEAK = 0.5
_MOST_GAIN = 20.0


def prepared(sound: np.ndarray) -> np.ndarray:
    """A passage of sound as a recogniser should get it: cleaned, then levelled.

    Parameters
    ----------
    sound : ndarray, shape (n,), int16
        16 kHz, mono.

    Returns
    -------
    ndarray, shape (n,), float32
        Between -1 and 1.
    """
    return levelled(cleaned(sound))


def cleaned(sound: np.ndarray) -> np.ndarray:
    """Take down what never stops: rumble, hum and hiss.

    The noise in each band is what is left in its quietest moments; each band
    of each moment is turned down by how little it stands out (Wiener's filter
    with the decision-directed estimate of Ephraim and Malah, 1984).

    Parameters
    ----------
    sound : ndarray, shape (n,)
        16 kHz, mono, in units of 16-bit samples.

    Returns
    -------
    ndarray, shape (n,), float32
        Between -1 and 1, as loud as before.
    """
    floats = sound.astype(np.float32) / 32768
    if len(floats) < 8 * _SIZE:
        return floats
    before = _SIZE - _HOP  # so that the first samples lie under as many windows as all others
    padded = np.pad(floats, (before, before + -len(floats) % _HOP))
    window = np.sqrt(np.hanning(_SIZE + 1)[:-1] * 2 * _HOP / _SIZE).astype(np.float32)
    frames = np.lib.stride_tricks.sliding_window_view(padded, _SIZE)[::_HOP]
    spectrum = np.fft.rfft(frames * window, axis=1)
    shaped = np.fft.irfft(spectrum * _gains(np.abs(spectrum) ** 2), axis=1) * window
    found = np.zeros(len(padded), np.float32)
    for part in range(_SIZE // _HOP):
        piece = shaped[:, part * _HOP : (part + 1) * _HOP].reshape(-1)
        found[part * _HOP : part * _HOP + len(piece)] += piece
    return found[before : before + len(floats)]


def _gains(power: np.ndarray) -> np.ndarray:
    """How much of each band of each frame is kept."""
    edges = np.pad(power, ((_SMOOTH // 2, _SMOOTH // 2), (0, 0)), mode="edge")
    smooth = sum(edges[k : k + len(power)] for k in range(_SMOOTH)) / _SMOOTH
    noise = np.quantile(smooth, _QUIET_SHARE, axis=0) * _BIAS + 1e-12
    above = power / noise
    kept = np.empty(power.shape, np.float32)
    before = np.ones(power.shape[1])
    for place, now in enumerate(above):
        prior = _STEADY * before + (1 - _STEADY) * np.maximum(now - 1, 0)
        gain = prior / (1 + prior)
        before = gain * gain * now
        kept[place] = gain
    kept = np.maximum(kept, _FLOOR)
    kept[:, : _LOWEST_HZ * _SIZE // _RATE + 1] = 0
    return kept


def levelled(floats: np.ndarray) -> np.ndarray:
    """Raise a quiet passage to an even loudness.

    Parameters
    ----------
    floats : ndarray, shape (n,), float32
        16 kHz, between -1 and 1.
    """
    level = float(np.percentile(np.abs(floats), 99.5)) if len(floats) else 0.0
    return np.clip(floats * np.clip(_PEAK / max(level, 1e-4), 1.0, _MOST_GAIN), -1, 1)
