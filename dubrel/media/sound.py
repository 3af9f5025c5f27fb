"""Decode a recording once: 16 kHz mono samples on disk for every engine, and peaks.

The samples are kept as 16-bit integers in the cache and mapped into memory by
whoever needs a passage of them, so three hours cost no memory to hold.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, Literal

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.timecode import LATEST_MS, ms_to_samples, samples_to_ms
from dubrel.media.cache import PEAKS, forget_reading, sound_path, trim_cache
from dubrel.media.peaks import PeakBuilder
from dubrel.media.probe import open_media
from dubrel.model import Media

RATE = 16_000
_BLOCK_S = 4
_BEYOND_S = 60


def samples_of(media: Media) -> np.ndarray:
    """The samples of a recording that has been read.

    Returns
    -------
    ndarray, shape (n,), int16
        Mapped from disk, 16 kHz, mono.
    """
    return samples_in(sound_path(media))


def samples_in(path: Path, mode: Literal["r", "r+"] = "r") -> np.ndarray:
    """The samples in a file of the cache, mapped; ``r+`` to change them in place."""
    empty = path.stat().st_size == 0
    return np.zeros(0, np.int16) if empty else np.memmap(path, np.int16, mode=mode)


def passage(samples: np.ndarray, start_ms: int, end_ms: int) -> np.ndarray:
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
        raise MediaError(
            tr("“{path}” has no sound. Choose a recording with a sound track.").format(path=media.path)
        )
    total = max(1, ms_to_samples(media.duration_ms, RATE))
    forget_reading(media)
    target, peaks, count = sound_path(media), PeakBuilder(), 0
    part = target.with_suffix(f".{os.getpid()}-{os.urandom(3).hex()}.part")
    try:
        with open(part, "wb", opener=_privately) as file:
            for block in mixed_blocks(Path(media.path), media.sound):
                file.write(block.tobytes())
                peaks.add(block)
                count += len(block)
                if count > ms_to_samples(LATEST_MS, RATE):
                    raise MediaError(
                        tr("“{path}” is longer than a hundred hours. Choose a shorter one.").format(
                            path=media.path
                        )
                    )
                yield min(0.99, count / total)
        _refuse_none(media, count, same=sound_path(media) == target)
        peaks.save(target.with_name(PEAKS))
        os.replace(part, target)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise MediaError(
                tr("The disk of “{parent}” is full. Free some space and try again.").format(
                    parent=target.parent
                )
            ) from error
        raise MediaError(
            tr("“{path}” could not be read to its end: {strerror}. Try again.").format(
                path=media.path, strerror=cause_of(error)
            )
        ) from error
    finally:
        part.unlink(missing_ok=True)
    trim_cache(target.parent)
    yield 1.0


def _refuse_none(media: Media, count: int, *, same: bool) -> None:
    """Raise where nothing was decoded, or the file is another one than when decoding began."""
    said = ""
    if count == 0 and media.duration_ms == 0:
        said = tr("“{path}” holds no sound: it is 0 seconds long. Choose another recording.")
    elif count == 0:
        said = tr("No sound could be decoded from “{path}”. The file is damaged; choose another.")
    elif not same:
        said = tr("“{path}” was changed while it was read. Try again when it is whole.")
    if said:
        raise MediaError(said.format(path=media.path))


def _privately(path: str, flags: int) -> int:
    return os.open(path, flags, 0o600)


def decoded_ms(media: Media) -> int:
    """How long the sound that could be decoded is."""
    return samples_to_ms(sound_path(media).stat().st_size // 2, RATE)


def mixed_blocks(path: Path, tracks: Sequence[int]) -> Iterator[np.ndarray]:
    """The same as :func:`decode_blocks` of several sound tracks, mixed; of the first where none is there."""
    with open_media(path) as container:
        tracks = [one for one in tracks if one < len(container.streams.audio)] or [0]
    if len(tracks) < 2:
        yield from decode_blocks(path, tracks[0])
        return
    streams = [decode_blocks(path, track) for track in tracks]
    held = [np.zeros(0, np.int16) for _ in tracks]
    ended = [False] * len(tracks)
    while True:
        for nth, stream in enumerate(streams):
            if not ended[nth] and len(held[nth]) < _BLOCK_S * RATE:
                block = next(stream, None)
                ended[nth] = block is None
                held[nth] = held[nth] if block is None else np.concatenate([held[nth], block])
        if all(ended) and not any(map(len, held)):
            return
        count = min((len(one) for one, end in zip(held, ended) if not end), default=max(map(len, held)))
        total = np.zeros(count, np.int32)
        for nth, one in enumerate(held):
            total[: min(count, len(one))] += one[:count]
            held[nth] = one[count:]
        if count:
            yield np.clip(total, -32768, 32767).astype(np.int16)


def decode_blocks(path: Path, track: int = 0, channel: int | None = None) -> Iterator[np.ndarray]:
    """Decode sound to 16 kHz mono in blocks of about four seconds.

    Holes in the stream's own clock are filled with silence, so that a sample's
    place is its time. A file that breaks off gives what there was before.

    Parameters
    ----------
    path : Path
    track : int
        Which sound track of the file, from 0.
    channel : int, optional
        Only this channel; all mixed if left out.

    Yields
    ------
    ndarray, shape (n,), int16
    """
    import soxr  # late, as av: starting the desk does not need them

    with open_media(path) as container:
        stream = container.streams.audio[track]
        stream.thread_type = "AUTO"
        rate = stream.rate
        resampler = soxr.ResampleStream(rate, RATE, 1, dtype="float32", quality="MQ")
        held: list[np.ndarray] = []
        size = 0
        for piece in _mono_pieces(container, stream, rate, channel):
            held.append(piece)
            size += len(piece)
            if size >= _BLOCK_S * rate:
                yield _as_integers(resampler.resample_chunk(np.concatenate(held)))
                held, size = [], 0
        held.append(np.zeros(0, np.float32))
        yield _as_integers(resampler.resample_chunk(np.concatenate(held), last=True))


def _as_integers(samples: np.ndarray) -> np.ndarray:
    return (np.clip(samples, -1, 1) * 32767).astype(np.int16)


def _mono_pieces(container: Any, stream: Any, rate: int, channel: int | None) -> Iterator[np.ndarray]:
    """Float pieces of one channel at the stream's rate, with silence where its clock has a hole."""
    from av import AudioResampler

    layout = "mono" if channel is None else None
    downmix = AudioResampler(format="fltp", layout=layout, rate=rate)
    origin = (container.start_time or 0) * rate // 1_000_000
    last = ((container.duration or 0) // 1_000_000 + _BEYOND_S) * rate  # a clock that jumps further is wrong
    have, least = 0, 0
    for frame in _frames(container, stream):
        if frame.pts is not None and frame.time_base is not None:
            base = frame.time_base
            hole = frame.pts * base.numerator * rate // base.denominator - origin - have
            if hole > least and have + hole <= last:
                have += hole
                while hole > 0:
                    yield np.zeros(min(hole, _BLOCK_S * rate), np.float32)
                    hole -= _BLOCK_S * rate
        least = rate // 10  # later, small differences are the container's rounding
        for piece in _mono(frame, rate, downmix, channel):
            yield piece
            have += len(piece)


def _mono(frame: Any, rate: int, downmix: Any, channel: int | None) -> Iterator[np.ndarray]:
    if channel is not None:
        for part in downmix.resample(frame):
            planes = part.to_ndarray()
            yield planes[min(channel, len(planes) - 1)]
    elif frame.rate == rate and frame.layout.nb_channels == 1 and frame.format.name in ("fltp", "flt"):
        yield frame.to_ndarray()[0]
    elif frame.rate == rate and frame.layout.nb_channels == 2 and frame.format.name == "fltp":
        yield frame.to_ndarray().mean(axis=0)
    else:
        for part in downmix.resample(frame):
            yield part.to_ndarray()[0]


def _frames(container: Any, stream: Any) -> Iterator[Any]:
    """Frames of sound up to the end or to where the file breaks."""
    from av.error import InvalidDataError

    damaged = 0
    for packet in container.demux(stream):
        try:
            yield from packet.decode()
        except InvalidDataError:
            damaged += 1
            if damaged > 200:
                return
