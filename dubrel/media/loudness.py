"""Loudness by ITU-R BS.1770, from the energy of tenths of a second: of any length, in pieces."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import numpy as np

STEP_S = 0.1
_BLOCK, _SHORT = 4, 30  # steps: 400 ms of the gate, 3 s of the short term
_ABSOLUTE, _RELATIVE = -70.0, -10.0
_TAPS = 48
_OVER = 4
BETWEEN = 0.5
"""A waveform goes beyond its samples by less than twice (by 3 dB at a quarter of the rate)."""


@lru_cache(maxsize=8)
def _stages(rate: int) -> tuple[tuple[np.ndarray, np.ndarray], ...]:
    """The two filters that weigh a sound as an ear does."""
    from pyloudnorm import Meter  # type: ignore[import-untyped]

    return tuple((one.b, one.a) for one in Meter(rate, filter_class="DeMan")._filters.values())


class EnergyMeter:
    """Weighs a sound that comes in pieces.

    Parameters
    ----------
    rate : int
        Samples a second.
    """

    def __init__(self, rate: int) -> None:
        self._step = round(rate * STEP_S)
        self._stages = _stages(rate)
        self._states: list[np.ndarray] | None = None
        self._rest = np.zeros((1, 0))

    def add(self, block: np.ndarray) -> np.ndarray:
        """Energies of the tenths of a second that a block of shape (channels, n) completes."""
        from scipy.signal import lfilter

        sound = np.atleast_2d(block).astype(np.float64)
        if self._states is None:
            self._states = [np.zeros((len(sound), len(a) - 1)) for _, a in self._stages]
            self._rest = np.zeros((len(sound), 0))
        for nth, (b, a) in enumerate(self._stages):
            sound, self._states[nth] = lfilter(b, a, sound, axis=1, zi=self._states[nth])
        sound = np.concatenate([self._rest, sound], axis=1)
        whole = sound.shape[1] // self._step
        used, self._rest = sound[:, : whole * self._step], sound[:, whole * self._step :]
        return (used.reshape(len(sound), whole, self._step) ** 2).mean(axis=2).sum(axis=0)


def loudness_of(energy: np.ndarray) -> np.ndarray:
    """Energies as loudness, in LUFS."""
    return np.asarray(-0.691 + 10 * np.log10(np.maximum(energy, 1e-12)))


def integrated(energies: np.ndarray) -> float:
    """The loudness of a whole programme, in LUFS; silence is gated away.

    Parameters
    ----------
    energies : ndarray, shape (n,)
        Of tenths of a second, in order.

    Returns
    -------
    float
        -70 where nothing is loud enough to be counted.
    """
    if len(energies) < _BLOCK:
        return _ABSOLUTE
    blocks = np.convolve(energies, np.full(_BLOCK, 1 / _BLOCK), "valid")
    kept = blocks[loudness_of(blocks) > _ABSOLUTE]
    if not len(kept):
        return _ABSOLUTE
    kept = kept[loudness_of(kept) > loudness_of(kept.mean()) + _RELATIVE]
    return float(loudness_of(kept.mean()))


def momentary(energies: np.ndarray) -> np.ndarray:
    """The energy of the 400 ms around each tenth."""
    padded = np.pad(energies, (_BLOCK // 2, _BLOCK - _BLOCK // 2 - 1), mode="edge")
    return np.convolve(padded, np.full(_BLOCK, 1 / _BLOCK), "valid")


def short_term(energies: np.ndarray, counted: np.ndarray) -> np.ndarray:
    """The loudness of the three seconds around each tenth, in LUFS.

    Parameters
    ----------
    energies : ndarray, shape (n,)
    counted : ndarray of bool, shape (n,)
        Which tenths count; where none of the three seconds does, the loudness is very low.
    """
    places, count = np.arange(len(energies)), len(energies)
    first, after = np.maximum(places - _SHORT // 2, 0), np.minimum(places + _SHORT // 2, count)
    total, many = (np.concatenate([[0.0], np.cumsum(one)]) for one in (energies * counted, counted))
    return loudness_of((total[after] - total[first]) / np.maximum(many[after] - many[first], 1))


def true_peaks(block: np.ndarray) -> np.ndarray:
    """The highest value that the waveform reaches between one sample and the next (4 × oversampled).

    Parameters
    ----------
    block : ndarray, shape (channels, n)

    Returns
    -------
    ndarray, shape (n,)
        Of all channels together.
    """
    from scipy.signal import resample_poly

    count = block.shape[1]
    if not count:
        return np.zeros(0)
    fine = resample_poly(block, _OVER, 1, axis=1)[:, : count * _OVER]
    return np.asarray(np.abs(fine).reshape(len(block), count, _OVER).max(axis=(0, 2)))


def measured(blocks: Iterable[np.ndarray], rate: int) -> tuple[float, float]:
    """Integrated loudness (LUFS) and true peak (dBTP) of a sound that comes in pieces."""
    meter, energies, peak = EnergyMeter(rate), list[np.ndarray](), 0.0
    held, first = np.zeros((1, 0)), 0  # the edges of what is held say nothing, but for its very ends
    for block in blocks:
        energies.append(meter.add(block))
        held = np.concatenate([held, block], axis=1) if held.shape[1] else block
        if np.abs(held).max(initial=0.0) > peak * BETWEEN:
            peak = max(peak, float(true_peaks(held)[first : held.shape[1] - _TAPS].max(initial=0.0)))
        first = min(_TAPS, max(0, held.shape[1] - _TAPS))
        held = held[:, -2 * _TAPS :]
    peak = max(peak, float(true_peaks(held)[first:].max(initial=0.0)))
    found = np.concatenate(energies) if energies else np.zeros(0)
    return integrated(found), 20 * float(np.log10(max(peak, 1e-6)))
