"""What the sound says of how lively a recording is, by sentence."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

import numpy as np

from dubrel.base.value import Value, field
from dubrel.edits.cuts.pauses import Levels
from dubrel.model.recognised import SoundSpot
from dubrel.project.sentences import Sentence
from dubrel.speech.sound.pitch import STEP_MS

LIVELY = ("laughter", "applause", "cheering", "clapping")
_NO_LEVELS = Levels(np.zeros(0, np.float32), 10.0)


class Heard(Value):
    """Level, pitch and sounds of a recording; empty where there is none.

    Attributes
    ----------
    levels : Levels
    pitches : ndarray, shape (n,), float32
        Hertz for each 50 ms, NaN where there is no voice.
    spots : tuple of SoundSpot
        Laughter, applause and the like, in order of time.
    """

    levels: Levels = field(default=_NO_LEVELS)
    pitches: np.ndarray = field(default_factory=lambda: np.zeros(0, np.float32))
    spots: tuple[SoundSpot, ...] = ()

    @property
    def lively(self) -> list[SoundSpot]:
        """Laughter and applause."""
        return [one for one in self.spots if one.name in LIVELY]


def risen(sentences: Sequence[Sentence], heard: Heard) -> np.ndarray:
    """How far each sentence stands above its speaker's own average.

    Returns
    -------
    ndarray, shape (n, 3), float64
        Decibels, semitones, and pace as a share of the average; 0 where it cannot be known.
    """
    starts = np.array([one.start_ms for one in sentences], np.float64)
    ends = np.array([one.end_ms for one in sentences], np.float64)
    power = 10.0 ** (heard.levels.decibels.astype(np.float64) / 10)
    decibels = _over(power, heard.levels.step_ms, starts, ends, lambda mean: 10 * np.log10(mean + 1e-9))
    semitones = _over(
        12 * np.log2(np.maximum(heard.pitches.astype(np.float64), 1)), STEP_MS, starts, ends, lambda x: x
    )
    signs = np.array([len(one.text) for one in sentences], np.float64)
    pace = np.where((ends - starts > 800) & (signs > 12), signs / np.maximum(ends - starts, 1) * 1000, np.nan)
    who: list[Hashable] = [one.speaker for one in sentences]
    made = np.stack([decibels, semitones, pace], axis=1)
    for speaker in set(who):
        rows = np.array([one == speaker for one in who])
        for column in range(3):
            known = made[rows, column]
            usual = np.nanmedian(known) if np.isfinite(known).any() else np.nan
            made[rows, column] = known / usual - 1 if column == 2 else known - usual
    return np.nan_to_num(made)


def _over(
    values: np.ndarray,
    step_ms: float,
    starts: np.ndarray,
    ends: np.ndarray,
    shown: Callable[[np.ndarray], np.ndarray],
) -> np.ndarray:
    """The mean of what is known of some values between times; NaN where nothing is."""
    known = np.isfinite(values)
    sums = np.concatenate([[0.0], np.cumsum(np.where(known, values, 0))])
    counts = np.concatenate([[0], np.cumsum(known)])
    first = np.clip(np.round(starts / step_ms).astype(int), 0, len(values))
    last = np.clip(np.round(ends / step_ms).astype(int), 0, len(values))
    many = counts[last] - counts[first]
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(many > 0, shown((sums[last] - sums[first]) / np.maximum(many, 1)), np.nan)
