"""Spoken sound made faster, higher or lower, and freed of the silence around it."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np

RATE = 48_000
_QUIET = 10 ** (-34 / 20)  # of the loudest
_BEFORE_S, _AFTER_S = 0.01, 0.04
_FADE_S = 0.004
LEVEL = 0.09
"""The root mean square to which every line is brought, so that voices are equally loud."""


def trimmed(samples: np.ndarray, rate: int) -> tuple[np.ndarray, float]:
    """A text without the silence around it, and by how many seconds it begins later."""
    loud = np.flatnonzero(np.abs(samples) > max(1e-4, _QUIET * np.abs(samples).max(initial=0.0)))
    if not len(loud):
        return samples[:0], 0.0
    first = max(0, int(loud[0]) - round(_BEFORE_S * rate))
    after = min(len(samples), int(loud[-1]) + round(_AFTER_S * rate))
    made, ramp = samples[first:after].copy(), max(1, round(_FADE_S * rate))
    shape = np.linspace(0, 1, ramp, dtype=np.float32)[: len(made)]
    made[: len(shape)] *= shape
    made[-len(shape) :] *= shape[::-1]
    return made, first / rate


def levelled(samples: np.ndarray) -> np.ndarray:
    """The same at the level of all lines, with no peak beyond what fits."""
    power = float(np.sqrt((samples**2).mean())) if len(samples) else 0.0
    if power < 1e-5:
        return samples
    gain = min(LEVEL / power, 0.97 / float(np.abs(samples).max()))
    return np.asarray(samples * gain, np.float32)


def at_pace(samples: np.ndarray, rate: int, pace: float, semitones: float = 0.0) -> np.ndarray:
    """A text at another pace and pitch, at 48 kHz.

    Parameters
    ----------
    samples : ndarray, shape (n,), float32
    pace : float
        Times as fast.
    semitones : float
        Higher, or below zero lower.

    Returns
    -------
    ndarray
        ``n / rate / pace`` seconds, to the sample.
    """
    import soxr

    count = round(len(samples) * RATE / rate / pace)
    higher = 2 ** (semitones / 12)
    made = soxr.resample(samples, rate * higher, RATE).astype(
        np.float32
    )  # shorter by as much as it is higher
    return _tempo(made, len(made) / max(1, count))[:count] if abs(len(made) - count) > 2 else made[:count]


def _tempo(samples: np.ndarray, factor: float) -> np.ndarray:
    """So many times as fast at the same pitch (waveform similarity, as in FFmpeg's ``atempo``)."""
    import av
    from av.filter import Graph

    count = round(len(samples) / factor)
    graph: Any = Graph()
    source = graph.add_abuffer(sample_rate=RATE, format="flt", layout="mono", time_base=Fraction(1, RATE))
    last = source
    for step in _steps(factor):
        tempo = graph.add("atempo", f"{step:.6f}")
        last.link_to(tempo)
        last = tempo
    sink = graph.add("abuffersink")
    last.link_to(sink)
    graph.configure()
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples[None]), format="flt", layout="mono")
    frame.sample_rate, frame.pts, frame.time_base = RATE, 0, Fraction(1, RATE)
    graph.push(frame)
    graph.push(None)
    parts = []
    while True:
        try:
            parts.append(graph.pull().to_ndarray().ravel())
        except (av.BlockingIOError, av.EOFError):
            break
    made = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    return np.pad(made, (0, max(0, count - len(made))))[:count]


def _steps(factor: float) -> list[float]:
    """Factors within what one filter can do."""
    steps = []
    while factor < 0.5:
        steps.append(0.5)
        factor /= 0.5
    while factor > 2:
        steps.append(2.0)
        factor /= 2
    return [*steps, factor]
