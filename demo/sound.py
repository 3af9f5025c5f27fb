"""Weave spoken turns, music and room tone into one recording with known times."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import soxr
from scipy import signal
from voices import RATE, SpokenWord, speak

OUT_RATE = 48_000


@dataclass(frozen=True)
class TrueTurn:
    """Who says what, and when every word of it is said, in seconds."""

    speaker: str
    text: str
    words: tuple[SpokenWord, ...]


def weave(
    story: list[tuple[str, str, float]], voices: dict[str, str], *, seed: int, music: float
) -> tuple[np.ndarray, list[TrueTurn]]:
    """Speak a story.

    Returns
    -------
    samples : ndarray, shape (n,), float32, 16 kHz
    turns : list of TrueTurn
    """
    pieces, turns, at = [], [], 0.0
    for speaker, text, pause in story:
        spoken = speak(text, voices[speaker])
        start = round((at + pause) * RATE)
        offset = start / RATE
        words = tuple(SpokenWord(w.text, w.start + offset, w.end + offset) for w in spoken.words)
        gain = 0.09 / max(1e-6, float(np.sqrt(np.mean(spoken.samples**2))))
        pieces.append((start, spoken.samples * gain))
        turns.append(TrueTurn(speaker, text, words))
        at = words[-1].end
    samples = np.zeros(round((at + 2.5) * RATE), np.float32)
    for start, piece in pieces:
        end = min(len(samples), start + len(piece))
        samples[start:end] += piece[: end - start]
    rng = np.random.default_rng(seed)
    samples += _room_tone(rng, len(samples))
    tune = _music(music)
    samples[: len(tune)] += tune
    return np.clip(samples, -0.99, 0.99), turns


def _room_tone(rng: np.random.Generator, count: int) -> np.ndarray:
    taps = signal.firwin(255, [90, 1800], fs=RATE, pass_zero=False)
    tone = signal.lfilter(taps, 1.0, rng.standard_normal(count))
    return (tone / np.std(tone) * 0.0016).astype(np.float32)


def _music(seconds: float) -> np.ndarray:
    """A few plucked notes that fade under the first words."""
    out = np.zeros(round(seconds * RATE), np.float32)
    for nth, pitch in enumerate((196.0, 293.66, 246.94, 392.0, 329.63, 293.66)):
        start = round(nth * 0.42 * RATE)
        t = np.arange(len(out) - start) / RATE
        note = np.exp(-2.2 * t) * (np.sin(2 * np.pi * pitch * t) + 0.3 * np.sin(4 * np.pi * pitch * t))
        out[start:] += 0.05 * note.astype(np.float32)
    fade = min(len(out), RATE)
    out[-fade:] *= np.linspace(1, 0, fade, dtype=np.float32)
    return out


def write_opus(samples: np.ndarray, path: Path, bit_rate: int = 40_000) -> None:
    """Write mono sound as Opus in Ogg."""
    loud = soxr.resample(samples, RATE, OUT_RATE).astype(np.float32)
    with av.open(str(path), "w", format="ogg") as container:
        stream = container.add_stream("libopus", rate=OUT_RATE, layout="mono")
        stream.bit_rate = bit_rate
        encode_sound(container, stream, loud)


def encode_sound(container: av.container.OutputContainer, stream: av.AudioStream, loud: np.ndarray) -> None:
    """Encode float samples at 48 kHz and flush."""
    step = 960
    for start in range(0, len(loud), step):
        block = np.ascontiguousarray(loud[start : start + step][None, :])
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="mono")
        frame.rate = OUT_RATE
        frame.pts = start
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))
