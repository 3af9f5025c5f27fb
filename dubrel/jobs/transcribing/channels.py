"""Transcribe a recording channel by channel or track by track: one microphone a speaker."""

from __future__ import annotations

import heapq
import os
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.jobs.machinery.events import Event, Pace, RecognisedTurns, TurnsComplete
from dubrel.jobs.transcribing.crew import Crew, Part, listen
from dubrel.jobs.transcribing.tally import Tally
from dubrel.media.cache import track_path
from dubrel.media.sound import decode_blocks, samples_in
from dubrel.media.trackfile import MIX
from dubrel.model import Media, Speaker
from dubrel.model.choices import Choices
from dubrel.speech.recognise.channelspeech import Weaver, faded, own_frames, relative_levels, speaker_id
from dubrel.speech.sound.activity import (
    FRAME,
    FRAME_MS,
    Chunk,
    cut_chunks,
    frame_loudness,
    speech_probability,
)

_READING, _FINDING = 0.06, 0.15
_BLOCK = 3000  # frames


def transcribe_tracks(
    media: Media, choices: Choices, pace: Pace, crew: Crew | None = None
) -> Iterator[Event]:
    """Transcribe each channel or track by itself and weave one transcript with the speakers known.

    Yields
    ------
    Event
        Progress, and ``RecognisedTurns`` in order of time.

    Raises
    ------
    MediaError
        If there is only one channel.
    """
    sources = track_sources(media)
    names = [name or f"Channel {place}" for place, (_, _, name) in enumerate(sources, 1)]
    for done in _read_tracks(media, sources):
        yield pace.at(tr("Reading the tracks"), pace.part(_READING * done))
    paths = [track_path(media, place) for place in range(len(sources))]
    speech = []
    for place, path in enumerate(paths):
        pieces = []
        for piece in speech_probability(samples_in(path)):
            pieces.append(piece)
            share = (place + min(1.0, sum(map(len, pieces)) * FRAME_MS / max(1, media.duration_ms))) / len(
                paths
            )
            yield pace.at(
                "Detecting speech in each channel", pace.part(_READING + (_FINDING - _READING) * share)
            )
        speech.append(np.concatenate(pieces) if pieces else np.zeros(0, np.float32))
    levels, chunks = _own_chunks(paths, speech)
    weaver, tally = Weaver(levels, choices.language), Tally()
    yield RecognisedTurns((), tuple(Speaker(speaker_id(place), name) for place, name in enumerate(names)))
    for part, found in listen(
        _with_paths(chunks, paths, choices.span), choices, media.duration_ms, crew=crew
    ):
        tally.count(part, found)
        turns = weaver.take(part.chunk.start_ms)
        weaver.add(part.track, found.words)
        if turns:
            yield RecognisedTurns(tuple(turns))
        share = min(1.0, part.chunk.end_ms / max(1, media.duration_ms))
        yield pace.at(tr("Transcribing"), pace.part(_FINDING + (1 - _FINDING) * share))
    yield RecognisedTurns(tuple(weaver.take(float("inf"))))
    yield TurnsComplete()
    yield from tally.warnings()


def track_sources(media: Media) -> list[tuple[int, int | None, str]]:
    """What can be transcribed by itself: the sound track, the channel in it, a name.

    Raises
    ------
    MediaError
        If there is only one channel.
    """
    if media.tracks:
        return [(place, None, name) for place, name in enumerate(media.tracks) if name != MIX]
    if media.channels > 1:
        return [(0, channel, "") for channel in range(media.channels)]
    raise MediaError(
        tr(
            "“{name}” has only one channel, so its speakers cannot be transcribed separately. "
            "Transcribe it as one recording."
        ).format(name=media.name)
    )


def _read_tracks(media: Media, sources: Sequence[tuple[int, int | None, str]]) -> Iterator[float]:
    total = max(1, media.duration_ms * 16)
    for place, (track, channel, _) in enumerate(sources):
        count = 0
        try:
            target = track_path(media, place)
            part = target.with_suffix(f".{os.getpid()}.part")
            with part.open("wb") as file:
                os.fchmod(file.fileno(), 0o600)
                for block in decode_blocks(Path(media.path), track, channel):
                    file.write(block.tobytes())
                    count += len(block)
                    yield (place + min(1.0, count / total)) / len(sources)
            part.replace(target)
        except OSError as error:
            raise MediaError(
                tr(
                    "The tracks of “{name}” could not be kept: {strerror}. Free some space and try again."
                ).format(name=media.name, strerror=cause_of(error))
            ) from error


def _within(chunk: Chunk, start: int, end: int) -> Chunk:
    return Chunk(max(chunk.start_ms, start), min(chunk.end_ms, end))


def _own_chunks(paths: Sequence[Path], speech: list[np.ndarray]) -> tuple[np.ndarray, list[list[Chunk]]]:
    """Fade in each track what is not its own, and cut what is left into chunks."""
    frames = max(len(one) for one in speech)
    likely = np.zeros((len(paths), frames), np.float32)
    loudness = np.zeros((len(paths), frames), np.float32)
    for place, (path, found) in enumerate(zip(paths, speech)):
        likely[place, : len(found)] = found
        measured = frame_loudness(samples_in(path))
        loudness[place, : len(measured)] = measured[:frames]
    own = own_frames(loudness, likely)
    chunks = []
    for place, path in enumerate(paths):
        samples = samples_in(path, "r+")
        for start in range(0, len(samples), _BLOCK * FRAME):
            block = samples[start : start + _BLOCK * FRAME]
            block[:] = faded(block, own[place, start // FRAME :][:_BLOCK])
        chunks.append(cut_chunks(np.where(own[place], likely.max(axis=0), 0), loudness[place]))
    return relative_levels(loudness, likely), chunks


def _with_paths(chunks: list[list[Chunk]], paths: Sequence[Path], span: tuple[int, int]) -> Iterator[Part]:
    """The chunks of all tracks that lie in a passage, in order of their starts."""
    start, end = span
    rows = [
        [
            Part(_within(chunk, start, end), path, place)
            for chunk in mine
            if start < chunk.end_ms and chunk.start_ms < end
        ]
        for place, (mine, path) in enumerate(zip(chunks, paths))
    ]
    yield from heapq.merge(*rows, key=lambda part: part.chunk.start_ms)
