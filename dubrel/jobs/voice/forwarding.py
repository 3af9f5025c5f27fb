"""Bring the voice of a recording forward, piece by piece, into the cache."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from contextlib import closing
from functools import lru_cache, partial
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.helper import Helper
from dubrel.base.value import replace
from dubrel.film.order import FilmOrder
from dubrel.film.soundtracks.forwardsound import at_loudness, mixed, write_forward
from dubrel.jobs.machinery.events import Event, Pace, Progress
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.cache import sound_path
from dubrel.media.forwardtrack import PIECE, RATE, ForwardTrack
from dubrel.media.levelling import LOSSLESS, LOSSY
from dubrel.media.loudness import EnergyMeter, measured
from dubrel.media.probe import probe
from dubrel.media.sound import samples_in
from dubrel.media.soundreader import SoundReader
from dubrel.model import Media
from dubrel.speech.sound.enhancer import DELAY, WARM_UP, Enhancer

_EDGE = RATE  # what resampling needs at both ends, and the energy to settle
_NICE = 5
_MAKING = 0.7  # of the time
_MOST_OFF, _PEAK = 1.0, -0.95  # LU, dBTP


def bring_forward(media: Media) -> Iterator[Event]:
    """Bring the whole recording forward, as far as it is not in the cache.

    Yields
    ------
    Event
        Progress.

    Raises
    ------
    MediaError, EngineError
    """
    yield from read_recording(media)
    track, pace, helper = ForwardTrack(media), Pace(), Helper()
    stage = tr("Bringing the voice forward")
    pace.base = track.count / track.pieces
    try:
        while (piece := track.missing(0, track.pieces)) is not None:
            yield pace.at(stage, track.count / track.pieces)
            helper.submit(make_piece, media, piece).result()
    finally:
        helper.close()


def forward_written(order: FilmOrder, part: Path) -> Iterator[float]:
    """Write what a deliverable asks for; yields how far it is, 0 to 1.

    Raises
    ------
    MediaError, EngineError
        Also where what was written is not as loud as was asked for.
    """
    media = replace(probe(Path(order.source)), sound=order.tracks)
    share = _MAKING if order.amount else 0.0
    track = None
    if order.amount:
        for event in bring_forward(media):
            if isinstance(event, Progress):
                yield event.fraction * share
        track = ForwardTrack(media)
    suffix = Path(order.target).suffix.lower()
    blocks = partial(mixed, Path(order.source), media.duration_ms, order.amount, track, order.tracks)
    _, made = at_loudness(blocks, order.loudness, LOSSLESS if suffix in (".wav", ".flac") else LOSSY)
    for found in write_forward(Path(order.source), part, suffix, made, media.duration_ms):
        yield share + found * (0.98 - share)
    _weigh(order, part)


def _weigh(order: FilmOrder, part: Path) -> None:
    """Whether a file is as loud as it should be, and clips nowhere."""
    with closing(SoundReader(part)) as reader:
        seconds = probe(part).duration_ms // 1000 + 1
        pieces = (reader.read(at * reader.rate, (at + 1) * reader.rate) for at in range(seconds))
        loudness, peak = measured(pieces, reader.rate)
    off = order.loudness is not None and loudness > -70 and abs(loudness - order.loudness) > _MOST_OFF
    if off or peak > _PEAK:
        raise MediaError(
            tr(
                "“{name}” came out at {loudness:.1f} LUFS with peaks of {peak:.1f} dBTP, not as "
                "asked for. Choose another loudness, or bring the voice less far forward."
            ).format(name=Path(order.target).name, loudness=loudness, peak=peak)
        )


def make_piece(media: Media, piece: int) -> None:
    """Make one piece and keep it; in a process of its own, for the engine is a native library."""
    with contextlib.suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, 0, _NICE)
    track = ForwardTrack(media)
    if not track.has(piece):
        seconds = -(-media.duration_ms // 1000)
        track.put(piece, *_maker(media.path, media.sound, sound_path(media), seconds).piece(piece))


@lru_cache(maxsize=1)
def _maker(path: str, tracks: tuple[int, ...], samples: Path, seconds: int) -> _Maker:
    """The recording that was worked on last in this process: pieces mostly follow each other."""
    return _Maker(SoundReader(Path(path), tracks=tracks, seeks=True, known=samples_in(samples)), seconds)


@lru_cache(maxsize=1)
def _enhancer() -> Enhancer:
    """The engine of this process."""
    return Enhancer()


class _Maker:
    """Makes pieces of one recording; one that follows the last needs no warming up."""

    def __init__(self, reader: SoundReader, seconds: int) -> None:
        self._reader, self._end = reader, seconds * RATE
        self._begin = self._fed = -1  # where what was made begins, and to where the engine was fed
        self._made = np.zeros(0, np.float32)

    def piece(self, number: int) -> tuple[np.ndarray, np.ndarray]:
        """The sound of a piece, and the energy of its tenths; the last ends with the recording."""
        first = number * PIECE
        after = min(first + PIECE, max(first + RATE, self._end))
        if self._fed != first + _EDGE:
            self._begin = self._fed = first - _EDGE - WARM_UP
            self._made = np.zeros(0, np.float32)
            self._feed(first - _EDGE)
        self._feed(after + _EDGE)
        place = first - self._begin
        energies = EnergyMeter(RATE).add(self._made[None, place - _EDGE : place + after - first])
        found = self._made[place : place + after - first].copy()
        self._made, self._begin = self._made[after - _EDGE - self._begin :], after - _EDGE
        return found, energies[10 * _EDGE // RATE :]

    def _feed(self, until: int) -> None:
        """Have the engine go on to a sample; what it gives stands where it was said."""
        made = _enhancer().feed(self._sound(self._fed, until))
        if not len(self._made):
            made = made[DELAY:]
        self._made = np.concatenate([self._made, made])
        self._fed = until

    def _sound(self, first: int, after: int) -> np.ndarray:
        """Mono sound at 48 kHz between two samples that are at whole seconds."""
        import soxr

        rate = self._reader.rate
        since, until = (round(at / RATE) * rate for at in (first - _EDGE, after + _EDGE))
        sound = self._reader.read(since, until).mean(axis=0)
        sound = soxr.resample(sound, rate, RATE) if rate != RATE else sound
        return np.asarray(sound[_EDGE : _EDGE + after - first])
