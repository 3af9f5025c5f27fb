"""Sound with the voice brought forward and a loudness that is wished, in a file of its own or in the film."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.film.soundtracks.cutsound import FORMATS, SOUND_CODECS, SoundTrack
from dubrel.media.forwardtrack import RATE, ForwardTrack
from dubrel.media.levelling import LOSSLESS, evening_gains, gains_between, limited
from dubrel.media.loudness import measured
from dubrel.media.probe import open_media, origin_s, picture_of
from dubrel.media.soundreader import SoundReader

_BLOCK_S = 5
_CLOSE = 0.2  # LU
_TRIES = 3
Blocks = Iterator[np.ndarray]


def mixed(
    path: Path, length_ms: int, amount: float, track: ForwardTrack | None, tracks: Sequence[int] = ()
) -> Blocks:
    """The sound of a recording with its voice brought forward, block by block, at 48 kHz.

    Parameters
    ----------
    path : Path
        The recording.
    length_ms : int
    amount : float
        0 for the recording as it is, 1 for the voice alone.
    track : ForwardTrack or None
        What the speech enhancer made of it; not needed for an amount of 0.
    tracks : sequence of int
        The sound tracks of the recording that are mixed.
    """
    import soxr

    total = length_ms * RATE // 1000
    gains = evening_gains(track.energies) ** amount if track is not None and amount else np.ones(0)
    with closing(SoundReader(path, tracks=tracks)) as reader:
        stream = soxr.ResampleStream(reader.rate, RATE, reader.channels, dtype="float32")
        step, at, first = _BLOCK_S * reader.rate, 0, 0
        while first < total:
            block = reader.read(at, at + step)
            at += step
            fine = stream.resample_chunk(np.ascontiguousarray(block.T)) if reader.rate != RATE else block.T
            made = np.asarray(fine.T[:, : total - first], np.float32)
            if track is not None and amount:
                voice = track.read(first, first + made.shape[1])
                level = gains_between(gains, first, made.shape[1], RATE)
                made = np.asarray((made * (1 - amount) + voice * amount) * level, np.float32)
            first += made.shape[1]
            yield made


def at_loudness(
    blocks: Callable[[], Blocks], wished: float | None, ceiling: float = LOSSLESS
) -> tuple[float, Callable[[], Blocks]]:
    """The same sound at a loudness, no true peak over -1 dBTP, and the gain by which that is reached.

    Parameters
    ----------
    blocks : callable
        Gives the sound from its beginning, each time it is asked.
    wished : float or None
        LUFS; ``None`` for as loud as it is.
    ceiling : float
        Of the waveform between samples.
    """
    gain = 1.0

    def made() -> Blocks:
        return limited((block * np.float32(gain) for block in blocks()), RATE, ceiling)

    if wished is None:
        return gain, made
    for nth in range(_TRIES):
        loudness, peak = measured(made() if nth else blocks(), RATE)
        if loudness <= -70 or (nth and abs(wished - loudness) < _CLOSE):
            break
        gain *= 10 ** ((wished - loudness) / 20)
        if nth == 0 and 10 ** (peak / 20) * gain < ceiling:
            break  # nothing will be limited: it is exact
    return gain, made


def write_forward(
    source: Path, target: Path, suffix: str, blocks: Callable[[], Blocks], length_ms: int
) -> Iterator[float]:
    """Write sound to a file, or, for a film, in place of its sound; yields how far it is, 0 to 1.

    Parameters
    ----------
    source : Path
        The recording, of which the picture of a film is copied.
    suffix : str
        ``.mp4`` and ``.mkv`` are films, others are of sound alone.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the file not be written.
    """
    import av

    try:
        if suffix in SOUND_CODECS:
            with av.open(str(target), "w", format=FORMATS[suffix]) as out:
                yield from _encoded(out, SOUND_CODECS[suffix], blocks, length_ms)
        else:
            yield from _film(source, target, blocks, length_ms)
    except (av.FFmpegError, OSError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error
    yield 1.0


def _encoded(out: Any, codec: str, blocks: Callable[[], Blocks], length_ms: int) -> Iterator[float]:
    track: SoundTrack | None = None
    done = 0
    for block in blocks():
        if track is None:
            track = SoundTrack(out, codec, RATE, "stereo" if len(block) == 2 else "mono")
        track.add(block, RATE)
        done += block.shape[1]
        yield min(1.0, done * 1000 / RATE / max(1, length_ms))
    if track is not None:
        track.finish()


def _film(source: Path, target: Path, blocks: Callable[[], Blocks], length_ms: int) -> Iterator[float]:
    """The picture as it is, the sound anew; both begin where the recording begins."""
    import av

    with open_media(source) as film, av.open(str(target), "w") as out:
        picture, zero = picture_of(film), origin_s(film)
        copied = out.add_stream_from_template(picture)
        sound, first, done = blocks(), next(blocks(), np.zeros((1, 0), np.float32)), 0.0
        track = SoundTrack(out, "aac", RATE, "stereo" if len(first) == 2 else "mono")
        for packet in film.demux(picture):
            if packet.dts is None:
                continue
            base = packet.time_base or Fraction(1, 1000)
            at = float(packet.dts * base - zero)
            while done < at and (block := next(sound, None)) is not None:
                track.add(block, RATE)
                done += block.shape[1] / RATE
                yield min(1.0, done * 1000 / max(1, length_ms))
            packet.pts = packet.pts - round(zero / base) if packet.pts is not None else None
            packet.dts -= round(zero / base)
            packet.stream = copied
            out.mux(packet)
        for block in sound:
            track.add(block, RATE)
        track.finish()
