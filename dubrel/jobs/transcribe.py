"""From a recording to timed words: read, find speech, hear, align."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dubrel.edits.intake import HeardWord
from dubrel.jobs.events import Event, Heard, Pace, Progress, Warning_
from dubrel.media.cache import is_read
from dubrel.media.sound import RATE, decoded_ms, read_sound, samples_of, stretch
from dubrel.model import Media, Timing
from dubrel.speech.activity import FRAME, FRAME_MS, Chunk, cut_chunks, frame_loudness, speech_probability
from dubrel.speech.align import EnglishAligner
from dubrel.speech.doubt import DoubtJudge
from dubrel.speech.engines import Recogniser, recogniser

_READING = 0.06  # share of the whole job
_SURE_PAUSE = 16  # frames of silence at which the chunks before are settled
_WAIT_FRAMES = 900


def read_recording(media: Media) -> Iterator[Event]:
    """Read the sound into the cache if it is not there yet."""
    if is_read(media):
        return
    pace = Pace()
    for fraction in read_sound(media):
        yield pace.at("Reading the sound", fraction)
    missing = media.duration_ms - decoded_ms(media)
    if missing > max(2000, media.duration_ms // 50):
        yield Warning_(
            f"“{media.name}” breaks off: {decoded_ms(media) / 1000:.0f} of {media.duration_ms / 1000:.0f} "
            "seconds could be read. What was read can be used."
        )


def transcribe(media: Media, engine: str = "builtin") -> Iterator[Event]:
    """Turn the sound of a recording into words with times.

    Parameters
    ----------
    media : Media
    engine : str
        A name from :func:`dubrel.speech.engines.engine_names`.

    Yields
    ------
    Event
        Progress, and words as soon as their chunk is heard and aligned.

    Raises
    ------
    MediaError, EngineError
    """
    pace = Pace()
    for event in read_recording(media):
        yield pace.at(event.stage, event.fraction * _READING) if isinstance(event, Progress) else event
    samples = samples_of(media)
    hearer, aligner, judge = recogniser(engine), EnglishAligner(), DoubtJudge()
    total = max(1, len(samples))
    uneven = 0
    for chunk in speech_chunks(samples):
        words = hear_chunk(hearer, aligner, samples, chunk)
        uneven += any(word.timing is Timing.SPREAD for word in words)
        if words:
            yield Heard(tuple(judge.judge(words)))
        done = chunk.end_ms * RATE / 1000 / total
        yield pace.at("Hearing", _READING + (1 - _READING) * min(1.0, done))
    if uneven:
        yield Warning_(f"{uneven} stretches could not be lined up with the sound; their words are marked.")


def speech_chunks(samples: np.ndarray) -> Iterator[Chunk]:
    """Chunks for the recogniser, given out as soon as a sure pause settles them."""
    waiting = np.zeros(0, np.float32)
    origin = 0  # frames already given out
    for found in speech_probability(samples):
        waiting = np.concatenate([waiting, found])
        cut = _settled(waiting)
        if cut:
            yield from _chunks_from(samples, waiting[:cut], origin)
            waiting, origin = waiting[cut:], origin + cut
    yield from _chunks_from(samples, waiting, origin)


def _settled(probability: np.ndarray) -> int:
    """Up to which frame no later sound can change the cuts: the middle of the last sure pause."""
    quiet = probability < 0.3
    runs = np.flatnonzero(np.diff(np.concatenate([[0], quiet.view(np.int8), [0]])))
    pauses = [(a, b) for a, b in zip(runs[::2], runs[1::2]) if b - a >= _SURE_PAUSE]
    if not pauses:
        return 0
    begin, end = pauses[-1]
    cut = int(begin + end) // 2
    return cut if cut >= _WAIT_FRAMES // 3 or not np.any(~quiet[:cut]) else 0


def _chunks_from(samples: np.ndarray, probability: np.ndarray, origin: int) -> Iterator[Chunk]:
    piece = samples[origin * FRAME : (origin + len(probability)) * FRAME]
    loudness = frame_loudness(piece)[: len(probability)]
    for chunk in cut_chunks(probability[: len(loudness)], loudness):
        shift = origin * FRAME_MS
        yield Chunk(chunk.start_ms + shift, chunk.end_ms + shift)


def hear_chunk(
    hearer: Recogniser, aligner: EnglishAligner, samples: np.ndarray, chunk: Chunk
) -> list[HeardWord]:
    """Hear one chunk and line its words up with its sound."""
    sound = np.array(stretch(samples, chunk.start_ms, chunk.end_ms))
    text = hearer.hear(levelled(sound))
    words = text.split()
    return aligner.align(sound, words, chunk.start_ms) if words else []


def levelled(sound: np.ndarray) -> np.ndarray:
    """Samples between -1 and 1, quiet passages raised to an even loudness."""
    floats = sound.astype(np.float32) / 32768
    level = float(np.percentile(np.abs(floats), 99.5)) if len(floats) else 0.0
    return np.clip(floats * np.clip(0.5 / max(level, 1e-4), 1.0, 20.0), -1, 1)
