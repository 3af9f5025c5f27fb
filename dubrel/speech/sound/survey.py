"""Look over a recording: levels, clipping, kinds of sound, channels."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence

import numpy as np

from dubrel.model.survey import Kind, Survey
from dubrel.speech.sound.activity import FRAME, frame_loudness
from dubrel.speech.sound.soundclasses import RATE, STEP_MS, SoundClassifier

FULL_SCALE = 32768
_QUIET_DB, _OVER_FLOOR_DB = -62.0, 6.0
_CLIPPED, _RUN = 32_700, 3
_LEAST = 0.25  # a score that says something is there
_STARTING_S, _SLOWER = 2.5, 13.0  # measured: transcribing takes so many times as long as classifying
_APART_DB = 12.0  # by how much the channels' levels differ, as a rule, when each has a person of its own


def survey(samples: np.ndarray, *, channels_apart: bool | None = None) -> Iterator[float | Survey]:
    """Look over a recording.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.
    channels_apart : bool, optional
        See :func:`are_apart`.

    Yields
    ------
    float or Survey
        How far it is, 0 to 1; at the end what was found.

    Raises
    ------
    EngineError
        If the sound classes are not installed.
    """
    loudness = level_db(frame_loudness(samples))
    classifier, found, began = SoundClassifier(), [np.zeros((0, 2))], time.monotonic()
    total = max(1, len(samples))
    for scores in classifier.over(samples):
        found.append(scores)
        yield min(1.0, sum(map(len, found)) * STEP_MS * RATE / 1000 / total)
    took = time.monotonic() - began
    kinds = kinds_of(np.concatenate(found), loudness)
    speech = np.repeat(kinds == Kind.SPEECH, STEP_MS * RATE // 1000 // FRAME)[: len(loudness)]
    spoken = loudness[: len(speech)][speech & (loudness[: len(speech)] > _QUIET_DB)]
    yield Survey(
        kinds.astype(np.uint8).tobytes(),
        STEP_MS,
        float(np.percentile(spoken, 75)) if len(spoken) else None,
        float(np.percentile(loudness, 10)) if len(loudness) else -96.0,
        clipped_seconds(samples),
        channels_apart,
        _STARTING_S + _SLOWER * took * float(np.mean(kinds != Kind.SILENCE)) if len(kinds) else 0.0,
    )


def level_db(loudness: np.ndarray) -> np.ndarray:
    """Root mean squares of int16 samples in dB below full scale, not under -96."""
    return 20 * np.log10(np.maximum(loudness, 0.5) / FULL_SCALE)


def kinds_of(scores: np.ndarray, loudness: np.ndarray) -> np.ndarray:
    """The kind of each step.

    Parameters
    ----------
    scores : ndarray, shape (steps, 2)
        Of speech and of music.
    loudness : ndarray, shape (frames,)
        In dB below full scale.

    Returns
    -------
    ndarray, shape (steps,), int
        Of :class:`Kind`. What speaks over music is speech.
    """
    frames = STEP_MS * RATE // 1000 // FRAME
    padded = np.pad(loudness, (0, max(0, len(scores) * frames - len(loudness))), constant_values=-96.0)
    level = padded[: len(scores) * frames].reshape(-1, frames).max(axis=1)
    speech, music = scores[:, 0], scores[:, 1]
    kinds = np.where(speech >= np.maximum(_LEAST, music * 0.5), Kind.SPEECH, Kind.OTHER)
    kinds = np.where((kinds == Kind.OTHER) & (music >= _LEAST), Kind.MUSIC, kinds)
    floor = np.percentile(loudness, 10) if len(loudness) else -96.0
    return np.where(level < max(_QUIET_DB, floor + _OVER_FLOOR_DB), Kind.SILENCE, kinds)


def clipped_seconds(samples: np.ndarray) -> int:
    """In how many seconds the sound stays at full scale for some samples in a row."""
    seconds = 0
    for start in range(0, len(samples), 60 * RATE):
        block = np.asarray(samples[start : start + 60 * RATE])
        full = np.abs(block.astype(np.int32)) >= _CLIPPED
        run = full[:-2] & full[1:-1] & full[2:]
        seconds += len(np.unique(np.flatnonzero(run) // RATE))
    return seconds


def are_apart(channels: Sequence[np.ndarray]) -> bool:
    """Whether channels carry different people: where one is loud, the others are not.

    Parameters
    ----------
    channels : sequence of ndarray, shape (n,), int16
    """
    count = min(len(one) for one in channels)
    levels = np.stack([level_db(frame_loudness(one[:count])) for one in channels])
    loud = levels.max(axis=0) > levels.max() - 30
    if not loud.any():
        return False
    ordered = np.sort(levels[:, loud], axis=0)
    turns = len(np.unique(levels[:, loud].argmax(axis=0))) > 1
    return bool(turns and np.median(ordered[-1] - ordered[-2]) >= _APART_DB)
