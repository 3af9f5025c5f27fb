"""Loudness by ITU-R BS.1770, from the energy of tenths of a second: of any length, in pieces."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import numpy as np

STEP_S = 0.1
_BLOCK, _SHORT = 4, 30  # steps: 400 ms of the gate, 3 s of the short term
_ABSOLUTE, _RELATIVE = -70.0, -10.0
_TAPS = 48
_OVER, _REACH = 4, 10  # as fine, from so many samples on both sides (a Kaiser window)
BETWEEN = 0.5
"""A waveform goes beyond its samples by less than twice (by 3 dB at a quarter of the rate)."""


_RINGS_S = 0.16  # of what the ear's weighing answers to one sample, less than 1e-15 is left after it
_MOST = 1 << 16


@lru_cache(maxsize=8)
def ear_filters(rate: int) -> tuple[tuple[np.ndarray, np.ndarray], ...]:
    """The two filters of BS.1770 that weigh a sound as an ear does, for any rate.

    Numerators and denominators as in Brecht De Man, “Evaluation of Implementations of the EBU R128 Loudness
    Measurement” (AES 145, 2018): at 48 kHz they are those of the recommendation.
    """
    gain, quality = 10 ** (3.99984385397 / 20), 0.7071752369554193
    turn = np.tan(np.pi * 1681.9744509555319 / rate)
    half = gain**0.499666774155
    shelf = np.array([gain + half * turn / quality, 0, gain - half * turn / quality]) + turn**2
    shelf[1] = 2 * (turn**2 - gain)
    low = np.tan(np.pi * 38.13547087613982 / rate)
    high_pass = np.array([1.0, -2.0, 1.0])
    return (
        (shelf / _poles(turn, quality)[0], _poles(turn, quality)[1]),
        (high_pass, _poles(low, 0.5003270373253953)[1]),
    )


def _poles(turn: float, quality: float) -> tuple[float, np.ndarray]:
    """A denominator of second order, and what its first coefficient was before it was made 1."""
    first = 1 + turn / quality + turn**2
    return first, np.array([1.0, 2 * (turn**2 - 1) / first, (1 - turn / quality + turn**2) / first])


@lru_cache(maxsize=16)
def _answer(rate: int, size: int) -> np.ndarray:
    """The spectrum, of some size, of what both filters make of one sample."""
    long = 1 << (round(2 * _RINGS_S * rate)).bit_length()
    whole = np.prod([np.fft.rfft(b, long) / np.fft.rfft(a, long) for b, a in ear_filters(rate)], axis=0)
    return np.fft.rfft(np.fft.irfft(whole, long)[: round(_RINGS_S * rate)], size)


class EnergyMeter:
    """Weighs a sound that comes in pieces.

    Parameters
    ----------
    rate : int
        Samples a second.
    """

    def __init__(self, rate: int) -> None:
        self._rate, self._step = rate, round(rate * STEP_S)
        self._ring = round(_RINGS_S * rate)
        self._after: np.ndarray | None = None  # what the samples before still have to say
        self._rest = np.zeros((1, 0))

    def add(self, block: np.ndarray) -> np.ndarray:
        """Energies of the tenths of a second that a block of shape (channels, n) completes."""
        sound = np.atleast_2d(block).astype(np.float64)
        if self._after is None:
            self._after = np.zeros((len(sound), self._ring))
            self._rest = np.zeros((len(sound), 0))
        piece = max(_MOST, 4 * self._ring) - self._ring
        weighed = [self._weigh(sound[:, at : at + piece]) for at in range(0, sound.shape[1], piece)]
        sound = np.concatenate([self._rest, *weighed], axis=1)
        whole = sound.shape[1] // self._step
        used, self._rest = sound[:, : whole * self._step], sound[:, whole * self._step :]
        return (used.reshape(len(sound), whole, self._step) ** 2).mean(axis=2).sum(axis=0)

    def _weigh(self, sound: np.ndarray) -> np.ndarray:
        """The next samples as an ear weighs them: overlap and add."""
        assert self._after is not None
        count = sound.shape[1]
        size = 1 << (count + self._ring).bit_length()
        made = np.fft.irfft(np.fft.rfft(sound, size) * _answer(self._rate, size), size)
        made = made[:, : count + self._ring]
        made[:, : self._ring] += self._after
        self._after = made[:, count:].copy()
        return made[:, :count]


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
    count = block.shape[1]
    if not count:
        return np.zeros(0)
    padded = np.pad(np.asarray(block, np.float64), ((0, 0), (_REACH, _REACH)))
    around = np.lib.stride_tricks.sliding_window_view(padded, 2 * _REACH + 1, axis=1)
    return np.asarray(np.abs(around @ _between()).max(axis=(0, 2)))


@lru_cache(maxsize=1)
def _between() -> np.ndarray:
    """How the samples around one give the waveform at it and at the three quarters after it."""
    quarters = _REACH * _OVER - np.arange(2 * _REACH + 1)[:, None] * _OVER + np.arange(_OVER)[None]
    inside = np.clip(1 - (quarters / (_REACH * _OVER)) ** 2, 0, None)
    shape = np.where(np.abs(quarters) <= _REACH * _OVER, np.i0(5.0 * np.sqrt(inside)) / np.i0(5.0), 0.0)
    taps = np.sinc(quarters / _OVER) * shape
    return np.asarray(taps / taps[:, :1].sum())


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
