"""What is spoken, over the recording or alone: a file, or a further sound track of the film."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.base.languages import three_letters
from dubrel.film.muxing import alike, dated, fits, opened
from dubrel.film.soundtracks.cutsound import SoundTrack
from dubrel.film.soundtracks.forwardsound import Blocks, mixed
from dubrel.media.forwardtrack import RATE
from dubrel.media.probe import open_media, origin_s

_BLOCK_S = 5
Spans = Sequence[tuple[int, int]]


def spoken_blocks(voice: np.ndarray, length_ms: int) -> Blocks:
    """The voice alone, block by block, as long as the recording.

    Parameters
    ----------
    voice : ndarray, shape (n,), int16
        At 48 kHz, from the beginning of the recording.
    """
    total = max(length_ms * RATE // 1000, len(voice))
    for first in range(0, total, _BLOCK_S * RATE):
        yield spoken_part(voice, first, min(first + _BLOCK_S * RATE, total))[None]


def spoken_over(
    path: Path,
    length_ms: int,
    voice: np.ndarray,
    spans: Spans,
    under_db: float,
    fade_ms: int,
    tracks: Sequence[int] = (),
) -> Blocks:
    """The voice over the recording, which goes down while it speaks.

    Parameters
    ----------
    spans : sequence of (int, int)
        From when to when somebody speaks, in milliseconds, in order.
    under_db : float
        By how much the recording goes down.
    fade_ms : int
        In which time it does, before and after.
    """
    times, levels = ducking(spans, under_db, fade_ms)
    first = 0
    for block in mixed(path, length_ms, 0.0, None, tracks):
        after = first + block.shape[1]
        yield block * kept(times, levels, first, after) + spoken_part(voice, first, after)
        first = after
    if first < len(voice):
        yield spoken_part(voice, first, len(voice))[None]


def ducking(spans: Spans, under_db: float, fade_ms: int) -> tuple[np.ndarray, np.ndarray]:
    """When the recording is how loud: times in milliseconds, and decibels, straight in between.

    Where less than two fades and a breath lie between two lines it stays down.
    """
    joined: list[list[int]] = []
    for start, end in spans:
        if joined and start - joined[-1][1] < 2 * fade_ms + 300:
            joined[-1][1] = max(joined[-1][1], end)
        else:
            joined.append([start, end])
    times, levels = [0.0], [0.0]
    for start, end in joined:
        times += [max(times[-1], start - fade_ms), max(times[-1], start), end, end + fade_ms]
        levels += [0.0, -under_db, -under_db, 0.0]
    return np.array(times), np.array(levels)


def kept(times: np.ndarray, levels: np.ndarray, first: int, after: int) -> np.ndarray:
    """Factors of the recording for samples at 48 kHz."""
    return np.asarray(
        10 ** (np.interp(np.arange(first, after) * 1000 / RATE, times, levels) / 20), np.float32
    )


def spoken_part(voice: np.ndarray, first: int, after: int) -> np.ndarray:
    """Samples of what is spoken as floats, shape (n,); silence after its end."""
    made = np.zeros(max(0, after - first), np.float32)
    found = voice[first:after]
    made[: len(found)] = found.astype(np.float32) / 32768
    return made


def write_further_track(
    source: Path, target: Path, suffix: str, blocks: Callable[[], Blocks], language: str, title: str
) -> Iterator[float]:
    """Copy a film with one sound track more; yields how far it is, 0 to 1.

    Raises
    ------
    MediaError
        If the film cannot be read, or the file not be written.
    """
    import av

    try:
        with open_media(source) as film, opened(target, suffix, film) as out:
            streams = {one.index: alike(out, one) for one in film.streams if fits(one, suffix)}
            sound = blocks()
            first = next(sound, np.zeros((1, 0), np.float32))
            track = SoundTrack(out, "aac", RATE, "stereo" if len(first) == 2 else "mono")
            track.stream.metadata["language"] = three_letters(language)
            track.stream.metadata["title"] = title
            track.add(first, RATE)
            zero, done = origin_s(film), first.shape[1] / RATE
            length = float(Fraction(film.duration or 1, 1_000_000))
            for packet in dated(film.demux(*[film.streams[nth] for nth in streams])):
                base = packet.time_base
                at, shift = float(packet.dts * base - zero), round(zero / base)
                while done < at and (block := next(sound, None)) is not None:
                    track.add(block, RATE)
                    done += block.shape[1] / RATE
                    yield min(1.0, done / length)
                packet.stream, packet.dts = streams[packet.stream.index], packet.dts - shift
                packet.pts = packet.pts - shift if packet.pts is not None else None
                out.mux(packet)
            for block in sound:
                track.add(block, RATE)
            track.finish()
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise MediaError(
            f"“{target.name}” could not be written: {reason}. Choose another form, or free some space."
        ) from error
    yield 1.0
