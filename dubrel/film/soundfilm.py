"""A film for sound alone: the trace moves past, and the words stand on a plain ground."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.film.burning import png_of
from dubrel.film.soundtracks.copiedsound import SoundTracks
from dubrel.film.stamps import Shown, Stamps, blend
from dubrel.media.probe import origin_s
from dubrel.media.sound import decode_blocks

WIDTH, HEIGHT, RATE = 1280, 720, 12
_AROUND_S = 4.0
_PAPER, _TRACE, _LIVE = (229, 125, 130), (153, 119, 133), (97, 98, 189)  # Y, Cb, Cr
_REPORT = 24


def film_of_sound(
    source: Path, target: Path, shown: Sequence[Shown], names: Sequence[Shown] = (), *, crf: int = 20
) -> Iterator[float]:
    """Write a film of a recording without a picture.

    Yields how far it is, 0 to 1. The sound is copied where it can be.

    Above the trace stands who speaks, by ``names``.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the film not be written.
    """
    import av

    try:
        heights = _heights(decode_blocks(source))
        with av.open(str(source)) as sound, av.open(str(target), "w", format="mp4") as out:
            yield from _written(sound, out, shown, names, heights, crf)
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("The film “{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error


def still_of_sound(source: Path, shown: Sequence[Shown], names: Sequence[Shown], at_ms: int) -> bytes:
    """A frame of such a film, as PNG; only the sound around it is read.

    Raises
    ------
    MediaError
        If the recording cannot be read.
    """
    blocks: list[np.ndarray] = []
    for block in decode_blocks(source):
        blocks.append(block)
        if sum(map(len, blocks)) > (at_ms / 1000 + _AROUND_S) * 16_000:
            break
    layers = [Stamps(rows, WIDTH, HEIGHT, 1000 / RATE) for rows in (names, shown)]
    return png_of(_drawn(_heights(iter(blocks)), layers, at_ms / 1000))


def _heights(blocks: Iterator[np.ndarray], rate: int = 16_000) -> np.ndarray:
    """The loudness of each column of the trace, 0 to 1; as many columns a second as stand in the picture."""
    step = round(rate * 2 * _AROUND_S / WIDTH)
    rest, found = np.zeros(0, np.int16), [np.zeros(0)]
    for block in blocks:
        samples = np.concatenate((rest, block))
        whole = len(samples) // step * step
        found.append(np.abs(samples[:whole].astype(np.int32)).reshape(-1, step).max(axis=1) / 32768)
        rest = samples[whole:]
    peaks = np.concatenate(found)
    loudest = max(1e-3, float(np.percentile(peaks, 99.5))) if len(peaks) else 1.0
    return (peaks / loudest).clip(0, 1) ** 0.8


def _written(
    sound: Any, out: Any, shown: Sequence[Shown], names: Sequence[Shown], heights: np.ndarray, crf: int
) -> Iterator[float]:
    picture = out.add_stream(
        "libx264", rate=RATE, options={"crf": str(crf), "preset": "veryfast", "tune": "stillimage"}
    )
    picture.width, picture.height, picture.pix_fmt = WIDTH, HEIGHT, "yuv420p"
    tracks, zero = SoundTracks(sound, out), origin_s(sound)
    seconds = float(sound.duration or 0) / 1_000_000
    layers, count = (
        [Stamps(rows, WIDTH, HEIGHT, 1000 / RATE) for rows in (names, shown)],
        max(1, round(seconds * RATE)),
    )
    packets = sound.demux(*tracks.streams)
    waiting = next(packets, None)
    for nth in range(count):
        frame = _drawn(heights, layers, nth / RATE)
        frame.pts, frame.time_base = nth, Fraction(1, RATE)
        for packet in picture.encode(frame):
            out.mux(packet)
        while waiting is not None and _at(waiting, zero) <= nth / RATE:
            tracks.take(waiting)
            waiting = next(packets, None)
        if nth % _REPORT == 0:
            yield nth / count
    for packet in picture.encode(None):
        out.mux(packet)
    while waiting is not None:
        tracks.take(waiting)
        waiting = next(packets, None)
    tracks.finish()
    yield 1.0


def _at(packet: Any, zero: Fraction) -> float:
    return float(packet.dts * packet.time_base - zero) if packet.dts is not None else 0.0


def _drawn(heights: np.ndarray, layers: Sequence[Stamps], at_s: float) -> Any:
    import av

    planes = _planes(heights, at_s)
    for layer in layers:
        if (stamp := layer.at(at_s * 1000)) is not None:
            blend(planes, stamp)
    flat = np.concatenate([one.reshape(-1) for one in planes]).reshape(HEIGHT * 3 // 2, WIDTH)
    return av.VideoFrame.from_ndarray(flat, format="yuv420p")


def _planes(heights: np.ndarray, at_s: float) -> list[np.ndarray]:
    """Paper, the trace around a moment, the playhead in the middle."""
    luma = np.full((HEIGHT, WIDTH), _PAPER[0], np.uint8)
    blue = np.full((HEIGHT // 2, WIDTH // 2), _PAPER[1], np.uint8)
    red = np.full((HEIGHT // 2, WIDTH // 2), _PAPER[2], np.uint8)
    column = round(at_s * WIDTH / (2 * _AROUND_S)) - WIDTH // 2
    here = np.zeros(WIDTH)
    low, high = max(0, column), min(len(heights), column + WIDTH)
    if high > low:
        here[low - column : high - column] = heights[low:high]
    middle, room = round(HEIGHT * 0.42), HEIGHT * 0.24
    inside = np.abs(np.arange(HEIGHT)[:, None] - middle) <= here * room + 0.5
    luma[inside] = _TRACE[0]
    blue[inside[::2, ::2]], red[inside[::2, ::2]] = _TRACE[1], _TRACE[2]
    top, end = round(middle - room) // 2 * 2, round(middle + room) // 2 * 2
    luma[top:end, WIDTH // 2 : WIDTH // 2 + 2] = _LIVE[0]
    blue[top // 2 : end // 2, WIDTH // 4] = _LIVE[1]
    red[top // 2 : end // 2, WIDTH // 4] = _LIVE[2]
    return [luma, blue, red]
