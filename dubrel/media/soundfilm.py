"""A film for sound alone: the trace moves past, and the words stand on a plain ground."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.errors import MediaError
from dubrel.media.burning import Shown, _blend, _Stamps

WIDTH, HEIGHT, RATE = 1280, 720, 12
_AROUND_S = 4.0
_PAPER, _TRACE, _LIVE = (233, 126, 131), (160, 124, 131), (97, 98, 189)  # Y, Cb, Cr
_REPORT = 24


def film_of_sound(source: Path, target: Path, shown: Sequence[Shown], *, crf: int = 20) -> Iterator[float]:
    """Write a film of a recording without a picture; yields how far it is, 0 to 1. The sound is copied where it can be.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the film not be written.
    """
    import av

    from dubrel.media.sound import decode_blocks

    try:
        samples = np.concatenate(list(decode_blocks(source)))
        heights = _heights(samples)
        with av.open(str(source)) as sound, av.open(str(target), "w", format="mp4") as out:
            yield from _written(sound, out, shown, heights, crf)
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise MediaError(
            f"The film “{target.name}” could not be written: {reason}. Free some space and try again."
        ) from error


def _heights(samples: np.ndarray, rate: int = 16_000) -> np.ndarray:
    """The loudness of each column of the trace, 0 to 1; as many columns a second as stand in the picture."""
    step = round(rate * 2 * _AROUND_S / WIDTH)
    whole = len(samples) // step * step
    peaks = np.abs(samples[:whole].astype(np.int32)).reshape(-1, step).max(axis=1) / 32768
    return np.sqrt(peaks / max(1e-3, float(np.percentile(peaks, 99)) if len(peaks) else 1)).clip(0, 1)


def _written(sound: Any, out: Any, shown: Sequence[Shown], heights: np.ndarray, crf: int) -> Iterator[float]:
    import av

    stream = sound.streams.audio[0]
    picture = out.add_stream(
        "libx264", rate=RATE, options={"crf": str(crf), "preset": "veryfast", "tune": "stillimage"}
    )
    picture.width, picture.height, picture.pix_fmt = WIDTH, HEIGHT, "yuv420p"
    copied = stream.codec_context.name in ("aac", "mp3", "opus", "flac", "alac")
    track = out.add_stream_from_template(stream) if copied else out.add_stream("aac", rate=48_000)
    seconds = float(sound.duration or 0) / 1_000_000
    stamps, count = _Stamps(shown, WIDTH, HEIGHT), max(1, round(seconds * RATE))
    packets = _sound_packets(sound, stream, track, copied)
    waiting = next(packets, None)
    for nth in range(count):
        planes = _frame(heights, nth / RATE)
        if (stamp := stamps.at(nth * 1000 / RATE)) is not None:
            _blend(planes, stamp)
        flat = np.concatenate([one.reshape(-1) for one in planes]).reshape(HEIGHT * 3 // 2, WIDTH)
        frame = av.VideoFrame.from_ndarray(flat, format="yuv420p")
        frame.pts, frame.time_base = nth, Fraction(1, RATE)
        for packet in picture.encode(frame):
            out.mux(packet)
        while waiting is not None and float(waiting.dts * waiting.time_base) <= nth / RATE:
            out.mux(waiting)
            waiting = next(packets, None)
        if nth % _REPORT == 0:
            yield nth / count
    for packet in picture.encode(None):
        out.mux(packet)
    while waiting is not None:
        out.mux(waiting)
        waiting = next(packets, None)
    yield 1.0


def _sound_packets(sound: Any, stream: Any, track: Any, copied: bool) -> Iterator[Any]:
    if copied:
        for packet in sound.demux(stream):
            if packet.dts is not None:
                packet.stream = track
                yield packet
        return
    for frame in sound.decode(stream):
        yield from track.encode(frame)
    yield from track.encode(None)


def _frame(heights: np.ndarray, at_s: float) -> list[np.ndarray]:
    """Paper, the trace around a moment, the playhead in the middle."""
    luma = np.full((HEIGHT, WIDTH), _PAPER[0], np.uint8)
    blue = np.full((HEIGHT // 2, WIDTH // 2), _PAPER[1], np.uint8)
    red = np.full((HEIGHT // 2, WIDTH // 2), _PAPER[2], np.uint8)
    column = round(at_s * WIDTH / (2 * _AROUND_S)) - WIDTH // 2
    here = np.zeros(WIDTH)
    low, high = max(0, column), min(len(heights), column + WIDTH)
    if high > low:
        here[low - column : high - column] = heights[low:high]
    middle, room = round(HEIGHT * 0.36), HEIGHT * 0.26
    rows = np.abs(np.arange(HEIGHT)[:, None] - middle)
    luma[rows <= here * room + 0.5] = _TRACE[0]
    luma[40 : HEIGHT * 2 // 3, WIDTH // 2 - 1 : WIDTH // 2 + 1] = _LIVE[0]
    blue[20 : HEIGHT // 3, WIDTH // 4] = _LIVE[1]
    red[20 : HEIGHT // 3, WIDTH // 4] = _LIVE[2]
    return [luma, blue, red]
