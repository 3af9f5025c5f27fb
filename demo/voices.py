"""Speak a text with Debian's flite and keep the true time of every word."""

from __future__ import annotations

import re
import subprocess
import tempfile
import wave
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

RATE = 16_000
_PHONE = re.compile(r"(\S+?):(\d+\.\d+)")


@dataclass(frozen=True)
class SpokenWord:
    """A word and its true time in seconds."""

    text: str
    start: float
    end: float


@dataclass(frozen=True)
class Spoken:
    """Samples (float32, mono, 16 kHz) and the words in them."""

    samples: np.ndarray
    words: tuple[SpokenWord, ...]


def _flite(text: str, voice: str, out: str) -> list[tuple[str, float]]:
    command = ["flite", "-voice", voice, "-psdur", "-t", text, "-o", out]
    printed = subprocess.run(command, capture_output=True, text=True, check=True).stdout
    return [(phone, float(end)) for phone, end in _PHONE.findall(printed)]


@lru_cache(maxsize=4096)
def _phone_count(word: str, voice: str) -> int:
    return sum(phone != "pau" for phone, _ in _flite(word, voice, "none"))


def speak(text: str, voice: str) -> Spoken:
    """Speak a text.

    Parameters
    ----------
    text : str
    voice : str
        A voice of flite.

    Raises
    ------
    ValueError
        If the phones of the single words do not add up to those of the text,
        so that true word times are not known.
    """
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "spoken.wav"
        phones = _flite(text, voice, str(path))
        with wave.open(str(path)) as file:
            rate = file.getframerate()
            raw = np.frombuffer(file.readframes(file.getnframes()), "<i2")
    if rate != RATE:
        raise ValueError(f"voice {voice} speaks at {rate} Hz")
    samples = raw.astype(np.float32) / 32768
    return Spoken(samples, tuple(_word_times(text, voice, phones)))


def _word_times(text: str, voice: str, phones: list[tuple[str, float]]) -> list[SpokenWord]:
    spans, begin = [], 0.0
    for phone, end in phones:
        if phone != "pau":
            spans.append((begin, end))
        begin = end
    words, at = [], 0
    for word in text.split():
        count = _phone_count(word.strip(".,?!;:"), voice)
        if at + count > len(spans):
            raise ValueError(f"phones do not add up in {text!r}")
        words.append(SpokenWord(word, spans[at][0], spans[at + count - 1][1]))
        at += count
    if at != len(spans):
        raise ValueError(f"phones do not add up in {text!r}: {at} of {len(spans)}")
    return words
