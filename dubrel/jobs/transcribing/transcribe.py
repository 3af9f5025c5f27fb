"""From a recording to timed words: read, find speech, transcribe, align."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.jobs.machinery.events import Event, Pace, Progress, Recognised, Warning_
from dubrel.jobs.transcribing.crew import Crew, Part, listen
from dubrel.jobs.transcribing.tally import Tally
from dubrel.media.cache import is_read, sound_path
from dubrel.media.sound import RATE, decoded_ms, passage, read_sound, samples_of
from dubrel.media.wavheader import missing_ms
from dubrel.model import Media
from dubrel.model.choices import AS_USUAL, Choices, is_remote
from dubrel.speech.recognise.chunk_seams import Joins
from dubrel.speech.recognise.engines import check_engine
from dubrel.speech.recognise.otherlanguage import OtherLanguage
from dubrel.speech.sound.activity import (
    FRAME,
    FRAME_MS,
    Chunk,
    cut_chunks,
    frame_loudness,
    speech_probability,
)

_REAL_TIME = 0.15  # about how long the recogniser takes, times the length of the recording
_SURE_PAUSE = 16  # frames of silence at which the chunks before are settled
_WAIT_FRAMES = 900
_MISSED_MS = 200
_NOT_ENGLISH = tr("This does not sound like English, the one language that the built-in recogniser knows.")
_ON_ALL_THE_SAME = tr(
    "Name a model folder or a service with --engine, align a script with dubrel align, or write --language en"
    " to go on."
)
_CANCEL_IT = tr(
    "Cancel it and choose another recogniser, or align a script; going on loses nothing but time."
)


def read_recording(media: Media) -> Iterator[Event]:
    """Read the sound into the cache if it is not there yet."""
    pace = Pace()
    for fraction in () if is_read(media) else read_sound(media):
        yield pace.at(tr("Reading the file"), fraction)
    there = decoded_ms(media)
    missing = missing_ms(
        Path(media.path)
    )  # exact, where the form says it; a container's own length is about right
    whole = max(media.duration_ms, there + missing)
    if missing > _MISSED_MS or whole - there > max(2000, whole // 50):
        yield Warning_(
            tr(
                "“{name}” breaks off, or is still being written: {there:.0f} of {whole:.0f} seconds "
                "could be read. You can work with that part."
            ).format(name=media.name, there=there / 1000, whole=whole / 1000)
        )


def transcribe(media: Media, choices: Choices = AS_USUAL, crew: Crew | None = None) -> Iterator[Event]:
    """Turn the sound of a recording into words with times.

    Parameters
    ----------
    media : Media
    choices : Choices
    crew : Crew, optional
        Who transcribes in place of processes here.

    Yields
    ------
    Event
        Progress, and words as soon as their chunk is transcribed and aligned.

    Raises
    ------
    MediaError, EngineError
    """
    check_engine(choices.engine, choices.language)
    pace, rest_s, reading = Pace(), media.duration_ms / 1000 * _REAL_TIME, 0.0
    for event in read_recording(media):
        if isinstance(event, Progress):
            event = pace.before(event.stage, event.fraction, rest_s)
            reading = max(reading, event.fraction)
        yield event
    pace = Pace(base=reading)
    if is_remote(choices.engine):
        from dubrel.jobs.transcribing.remotely import transcribe_remotely

        yield from transcribe_remotely(media, choices, pace)
    elif choices.apart:
        from dubrel.jobs.transcribing.channels import transcribe_tracks

        yield from transcribe_tracks(media, choices, pace, crew)
    else:
        yield from _transcribe_mix(media, choices, pace, crew)


def _transcribe_mix(media: Media, choices: Choices, pace: Pace, crew: Crew | None) -> Iterator[Event]:
    samples, path = samples_of(media), sound_path(media)
    start, end = choices.span
    total = max(1, min(len(samples) * 1000 // RATE, end))
    parts = (Part(chunk, path) for chunk in chunks_between(samples, start, end))
    tally, joins = Tally(), Joins(choices.language)
    other = OtherLanguage(passage(samples, start, end)) if choices.engine == AS_USUAL.engine else None
    try:
        for part, found in listen(parts, choices, total, crew=crew):
            tally.count(part, found)
            if other is not None and other.hear(found.words):
                if not choices.language:
                    raise EngineError(f"{_NOT_ENGLISH} {_ON_ALL_THE_SAME}")
                yield Warning_(f"{_NOT_ENGLISH} {_CANCEL_IT}")
            words = joins.take(found.words)
            if words:
                yield Recognised(words)
            share = min(1.0, (part.chunk.end_ms - start) / max(1, total - start))
            yield pace.at(tr("Transcribing"), pace.part(share))
    except EngineError:
        if rest := joins.rest():
            yield Recognised(rest)
        raise
    if rest := joins.rest():
        yield Recognised(rest)
    yield from tally.warnings()


def chunks_between(samples: np.ndarray, start_ms: int, end_ms: int) -> Iterator[Chunk]:
    """Chunks of a passage, on the clock of the whole recording."""
    for chunk in speech_chunks(passage(samples, start_ms, end_ms)):
        yield Chunk(chunk.start_ms + start_ms, chunk.end_ms + start_ms)


def speech_chunks(samples: np.ndarray) -> Iterator[Chunk]:
    """Chunks for the recogniser, given out as soon as a sure pause settles them."""
    waiting = np.zeros(0, np.float32)
    origin = 0  # frames already given out
    for found in speech_probability(samples):
        waiting = np.concatenate([waiting, found])
        cut = settled_until(waiting)
        if cut:
            yield from _chunks_from(samples, waiting[:cut], origin)
            waiting, origin = waiting[cut:], origin + cut
    yield from _chunks_from(samples, waiting, origin)


def settled_until(probability: np.ndarray, least: int = _WAIT_FRAMES // 3) -> int:
    """Up to which frame no later sound can change the cuts: the middle of the last sure pause."""
    quiet = probability < 0.3
    runs = np.flatnonzero(np.diff(np.concatenate([[0], quiet.view(np.int8), [0]])))
    pauses = [(a, b) for a, b in zip(runs[::2], runs[1::2]) if b - a >= _SURE_PAUSE]
    if not pauses:
        return 0
    begin, end = pauses[-1]
    cut = int(begin + end) // 2
    return cut if cut >= least or not np.any(~quiet[:cut]) else 0


def _chunks_from(samples: np.ndarray, probability: np.ndarray, origin: int) -> Iterator[Chunk]:
    piece = samples[origin * FRAME : (origin + len(probability)) * FRAME]
    loudness = frame_loudness(piece)[: len(probability)]
    for chunk in cut_chunks(probability[: len(loudness)], loudness):
        shift = origin * FRAME_MS
        yield Chunk(chunk.start_ms + shift, chunk.end_ms + shift)
