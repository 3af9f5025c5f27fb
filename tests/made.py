"""Recordings made for tests: several microphones, files of one speaker each."""

from __future__ import annotations

import wave
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from sound import TrueTurn, weave
from story import PODCAST, VOICES
from voices import RATE


@dataclass(frozen=True)
class Microphones:
    """One row of samples for each speaker, and who says what when."""

    names: list[str]
    samples: np.ndarray
    turns: list[TrueTurn]


def microphones(
    count: int = 8, bleed_db: float = -18.0, gains: tuple[float, ...] = (1.0, 0.5, 0.8)
) -> Microphones:
    """The first turns of the podcast, each speaker with a microphone that also hears the others."""
    story = PODCAST[:count]
    mix, turns = weave(story, VOICES, seed=4, music=0.0)
    names = list(dict.fromkeys(turn.speaker for turn in turns))
    alone = np.zeros((len(names), len(mix)), np.float32)
    for turn in turns:
        row = alone[names.index(turn.speaker)]
        begin, end = round(turn.words[0].start * RATE), round(turn.words[-1].end * RATE)
        row[begin:end] = mix[begin:end]
    bleed = 10 ** (bleed_db / 20)
    heard = alone + bleed * (alone.sum(axis=0) - alone)
    noise = np.random.default_rng(8).standard_normal(heard.shape).astype(np.float32) * 0.0008
    return Microphones(names, heard * np.array(gains[: len(names)])[:, None] + noise, turns)


def write_wav(path: Path, samples: np.ndarray, rate: int = RATE) -> Path:
    """Write float samples, shape (channels, n) or (n,), as 16-bit WAV."""
    rows = np.atleast_2d(samples)
    with wave.open(str(path), "wb") as file:
        file.setnchannels(len(rows))
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes((np.clip(rows.T, -1, 1) * 32767).astype("<i2").tobytes())
    return path
