"""Whether two words sound the same in the recording.

A repeat that only the text has is the recogniser's own.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dubrel.media.sound import passage
from dubrel.model import Word
from dubrel.speech.align.warping import features, warp

_LEAST_MS = 60
_SAME, _OTHER = 0.45, 0.7  # mean cosine distance along the way: a word said twice, two words


def sound_alike(samples: np.ndarray) -> Callable[[Word, Word], float]:
    """A function that says how alike two words sound, 0 to 1.

    Both are laid along each other by dynamic time warping (Sakoe and Chiba,
    1978) over cepstral features.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        The recording, 16 kHz.
    """

    def alike(one: Word, other: Word) -> float:
        if min(one.end_ms - one.start_ms, other.end_ms - other.start_ms) < _LEAST_MS:
            return 0.5  # too short to tell
        first, second = (
            features(np.asarray(passage(samples, word.start_ms, word.end_ms), np.float32) / 32768)
            for word in (one, other)
        )
        if min(len(first), len(second)) < 3:
            return 0.5
        distance = mean_distance(first, second)
        return float(np.clip((_OTHER - distance) / (_OTHER - _SAME), 0, 1))

    return alike


def mean_distance(first: np.ndarray, second: np.ndarray) -> float:
    """The mean cosine distance of two runs of features along the best way."""
    columns = np.clip(np.round(warp(first, second)).astype(int), 0, len(second) - 1)
    a, b = first, second[columns]
    cosine = (a * b).sum(axis=1) / np.maximum(np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1), 1e-6)
    return float(np.mean(1 - cosine))
