"""Align any language that espeak-ng speaks: the text is spoken and warped onto the sound."""

from __future__ import annotations

import numpy as np

from dubrel.model import RecognisedWord, Timing
from dubrel.speech.align.by_length import spread
from dubrel.speech.align.synthesis import speak
from dubrel.speech.align.warping import RATE, features, warp

_HOP = 160  # 10 ms
_FRAME_MS = 10


class SynthesisAligner:
    """Lines words of a language up with sound, some seconds at a time.

    Parameters
    ----------
    language : str
        A tag that espeak-ng has a voice for; see :func:`dubrel.speech.align.synthesis.speaks`.
    """

    def __init__(self, language: str) -> None:
        self.language = language

    def align(self, samples: np.ndarray, words: list[str], start_ms: int) -> list[RecognisedWord]:
        """Give every word its time; see :class:`dubrel.speech.align.english.EnglishAligner`."""
        end_ms = start_ms + len(samples) * 1000 // RATE
        spoken = speak(words, self.language)
        if not any(spoken.times) or len(samples) < RATE // 10:
            return spread(words, start_ms, max(end_ms, start_ms + 1))
        sound, first, _ = without_silence(samples.astype(np.float32) / 32768)
        theirs, begin, _ = without_silence(spoken.samples)
        way = warp(features(theirs, _HOP), features(sound, _HOP))
        offset = start_ms + first * 1000 / RATE

        def time_of(seconds: float) -> int:
            frame = (seconds - begin / RATE) * 1000 / _FRAME_MS
            place = float(np.interp(frame, np.arange(len(way)), way))
            return min(max(round(offset + place * _FRAME_MS), start_ms), end_ms)

        return _in_order(words, [(time_of(a), time_of(b)) for a, b in _pairs(spoken.times)])


def _pairs(times: list[tuple[float, float] | None]) -> list[tuple[float, float]]:
    """Times of all words; a word without sound stands where the one before ends."""
    found, last = [], 0.0
    for time in times:
        found.append(time if time is not None else (last, last))
        last = found[-1][1]
    return found


def _in_order(words: list[str], times: list[tuple[int, int]]) -> list[RecognisedWord]:
    heard, last = [], 0
    for word, (start, end) in zip(words, times):
        start = max(start, last)
        last = max(start, end)
        heard.append(RecognisedWord(word, start, last, timing=Timing.ALIGNED))
    return heard


def without_silence(samples: np.ndarray, below_db: float = 40.0) -> tuple[np.ndarray, int, int]:
    """The samples between the first and the last sound, and where that is.

    Parameters
    ----------
    samples : ndarray, shape (n,), float32
    below_db : float
        What is so much fainter than the loudest frame is silence.
    """
    frames = samples[: len(samples) // _HOP * _HOP].reshape(-1, _HOP)
    power = (frames**2).mean(axis=1)
    if not len(power) or power.max() <= 0:
        return samples, 0, len(samples)
    loud = np.flatnonzero(power > power.max() * 10 ** (-below_db / 10))
    first, last = int(loud[0]) * _HOP, (int(loud[-1]) + 1) * _HOP
    return samples[first:last], first, last
