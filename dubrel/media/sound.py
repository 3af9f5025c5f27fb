"""Decode a recording once: 16 kHz mono samples on disk for every engine, and peaks.

The samples are kept as 16-bit integers in the cache and mapped into memory by
whoever needs a stretch of them, so three hours cost no memory to hold.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from dubrel.errors import MediaError
from dubrel.media.cache import cache_folder, trim_cache
from dubrel.media.peaks import PeakBuilder
from dubrel.media.probe import open_media
from dubrel.model import Media
from dubrel.timecode import ms_to_samples, rounded, samples_to_ms

RATE = 16_000
_BLOCK = RATE * 4
_JUMP = RATE // 10  # a hole in the stream's own clock longer than this is filled with silence


def sound_path(media: Media) -> Path:
    """Where the samples of a recording are kept."""
    return cache_folder(media.fingerprint) / "sound-16k.i16"


def peaks_path(media: Media) -> Path:
    """Where the peaks of a recording are kept."""
    return cache_folder(media.fingerprint) / "peaks.npy"


def is_read(media: Media) -> bool:
    """Whether the samples and the peaks are in the cache."""
    return sound_path(media).is_file() and peaks_path(media).is_file()


def samples_of(media: Media) -> np.ndarray:
    """The samples of a recording that has been read.

    Returns
    -------
    ndarray, shape (n,), int16
        Mapped from disk, 16 kHz, mono.
    """
    path = sound_path(media)
    if path.stat().st_size == 0:
        return np.zeros(0, np.int16)
    return np.memmap(path, np.int16, mode="r")


def stretch(samples: np.ndarray, start_ms: int, end_ms: int) -> np.ndarray:
    """The samples between two times."""
    return samples[max(0, ms_to_samples(start_ms, RATE)) : max(0, ms_to_samples(end_ms, RATE))]


def read_sound(media: Media) -> Iterator[float]:
    """Decode the sound of a recording into the cache.

    Yields
    ------
    float
        The fraction done.

    Raises
    ------
    MediaError
        If there is no sound, it cannot be decoded at all, or the cache's disk is full.
    """
    if not media.has_audio:
        raise MediaError(f"“{media.path}” has no sound. Choose a recording with a sound track.")
    total = max(1, ms_to_samples(media.duration_ms, RATE))
    target, peaks, count = sound_path(media), PeakBuilder(), 0
    part = target.with_suffix(f".{os.getpid()}.part")
    try:
        with part.open("wb") as file:
            for block in decode_blocks(Path(media.path)):
                file.write(block.tobytes())
                peaks.add(block)
                count += len(block)
                yield min(0.99, count / total)
        if count == 0:
            raise MediaError(
                f"No sound could be decoded from “{media.path}”. The file is damaged; choose another."
            )
        peaks.save(peaks_path(media))
        os.replace(part, target)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise MediaError(
                f"The disk of “{target.parent}” is full. Free some space and try again."
            ) from error
        raise MediaError(
            f"“{media.path}” could not be read to its end: {error.strerror}. Try again."
        ) from error
    finally:
        part.unlink(missing_ok=True)
    trim_cache(media.fingerprint)
    yield 1.0


def decoded_ms(media: Media) -> int:
    """How long the sound that could be decoded is."""
    return samples_to_ms(sound_path(media).stat().st_size // 2, RATE)


def decode_blocks(path: Path) -> Iterator[np.ndarray]:
    """Decode sound to 16 kHz mono in blocks of about four seconds.

    Holes in the stream's own clock are filled with silence, so that a sample's
    place is its time. A file that breaks off gives what there was before.

    Yields
    ------
    ndarray, shape (n,), int16
    """
    with open_media(path) as container:
        stream = container.streams.audio[0]
        stream.thread_type = "AUTO"
        resampler = av.AudioResampler(format="s16", layout="mono", rate=RATE)
        origin = Fraction(container.start_time or 0, 1_000_000)
        held: list[np.ndarray] = []
        size, written, first = 0, 0, True
        for frame in _frames(container, stream):
            hole = _hole(frame, origin, written + size)
            if hole > (0 if first else _JUMP):
                held.append(np.zeros(hole, np.int16))
                size += hole
            first = False
            for part in resampler.resample(frame):
                held.append(part.to_ndarray()[0])
                size += part.samples
            if size >= _BLOCK:
                yield np.concatenate(held)
                written += size
                held, size = [], 0
        held += [part.to_ndarray()[0] for part in resampler.resample(None)]
        if held:
            yield np.concatenate(held)


def _frames(container: Any, stream: Any) -> Iterator[Any]:
    """Frames of sound up to the end or to where the file breaks."""
    damaged = 0
    for packet in container.demux(stream):
        try:
            yield from packet.decode()
        except av.error.InvalidDataError:
            damaged += 1
            if damaged > 200:
                return


def _hole(frame: Any, origin: Fraction, have: int) -> int:
    """Samples that are missing before a frame by its own time stamp."""
    if frame.pts is None or frame.time_base is None:
        return 0
    return rounded((Fraction(frame.pts) * frame.time_base - origin) * RATE) - have
