"""The film of a cut: its frames and its sound, with captions burned in where they are wished."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.base.timecode import ms_to_frames
from dubrel.film.burning import container_format, encoder_of
from dubrel.film.copiedsound import origin_s
from dubrel.film.cutsound import CutPart, CutSound, SoundTrack
from dubrel.film.reshaping import Shape, turns_of
from dubrel.film.stamps import Shown, Stamps

_TICKS = Fraction(1, 90_000)
_FAR_S = 12  # what lies further ahead is sought, not decoded
_REPORT = 12
_BLACK = (16, 128, 128)


class _Pictures:
    """The frames of a film, forward from wherever they are wanted."""

    def __init__(self, film: Any, rate: Fraction) -> None:
        self._film, self._stream = film, film.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._zero, self._rate = origin_s(film), rate
        self._frames = film.decode(self._stream)
        self._held: Any = None  # read, and belongs to what comes
        self._last: Any = None
        self._at = Fraction(-1)

    def _time(self, frame: Any) -> Fraction:
        return frame.pts * frame.time_base - self._zero

    def _next(self) -> Any:
        frame, self._held = self._held, None
        while frame is None:
            frame = next(self._frames, None)
            if frame is None:
                return None
            if frame.pts is None:
                frame = None
        self._at = self._time(frame)
        return frame

    def passage(self, start: Fraction, end: Fraction) -> Iterator[tuple[Fraction, Any]]:
        """The frames from a time up to another one, with their times from its start."""
        if start < self._at or start > self._at + _FAR_S:
            self._film.seek(max(0, round((start + self._zero) * 1_000_000)), backward=True)
            self._frames, self._held, self._last = self._film.decode(self._stream), None, None
        near = 1 / self._rate / 2
        begun = False
        while (frame := self._next()) is not None:
            at = self._time(frame)
            if at >= end - near:
                self._held = frame
                break
            if at >= start - near:
                if not begun and self._last is not None and at > start + near:
                    yield Fraction(0), self._last  # a picture that stands still goes on
                begun = True
                yield max(Fraction(0), at - start), frame
            self._last = frame
        if not begun and self._last is not None:
            yield Fraction(0), self._last


def write_film(
    source: Path,
    target: Path,
    parts: Sequence[CutPart],
    rate: Fraction,
    shown: Sequence[Shown] = (),
    *,
    crf: int = 20,
) -> Iterator[float]:
    """Write the film of a cut; yields how far it is, 0 to 1.

    Parameters
    ----------
    parts : sequence of CutPart
    rate : Fraction
        Frames a second; a picture of another clock keeps its own times within a passage.
    shown : sequence of Shown
        Captions in times of the cut.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the film not be written.
    """
    import av

    try:
        with av.open(str(source)) as film:
            first = next(film.decode(video=0), None)
            heard = bool(film.streams.audio)
        if first is None:
            raise MediaError("The film has no picture that can be decoded. Choose another one.")
        shape = Shape(first, turns_of(first))
        sound = CutSound(source, parts) if heard else None
        try:
            with (
                av.open(str(source)) as film,
                av.open(str(target), "w", format=container_format(target)) as out,
            ):
                yield from _written(film, out, shape, parts, rate, shown, crf, sound)
        finally:
            if sound is not None:
                sound.close()
    except (av.FFmpegError, OSError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise MediaError(
            f"The film “{target.name}” could not be written: {reason}. Free some space and try again."
        ) from error


def _written(
    film: Any,
    out: Any,
    shape: Shape,
    parts: Sequence[CutPart],
    rate: Fraction,
    shown: Sequence[Shown],
    crf: int,
    sound: CutSound | None,
) -> Iterator[float]:
    encoder = encoder_of(out, film.streams.video[0], shape, crf)
    encoder.time_base = encoder.codec_context.time_base = _TICKS
    track = SoundTrack(out, "aac", sound.rate, sound.layout) if sound else None
    blocks, heard = (sound.blocks() if sound else iter(())), 0
    stamps, count, last = Stamps(shown, shape.width, shape.height, float(1000 / rate)), 0, -1
    length = max(1, parts[-1].until_ms if parts else 1)
    for at, frame in _frames(film, shape, parts, rate):
        ms = float(at * 1000)
        made = shape.frame(frame, stamps.at(ms))
        pts = max(last + 1, round(at / _TICKS))
        if made is frame:  # the decoder may still want it
            made = made.reformat(format="yuv420p") if made.format.name != "yuv420p" else made
        made.pts, made.time_base, made.pict_type, last = pts, _TICKS, 0, pts
        for packet in encoder.encode(made):
            out.mux(packet)
        while track is not None and sound is not None and heard * 1000 <= ms * sound.rate:
            block = next(blocks, None)
            if block is None:
                break
            track.add(block, sound.rate)
            heard += block.shape[1]
        count += 1
        if count % _REPORT == 0:
            yield min(1.0, ms / length)
    if not count:
        raise MediaError("The cut has no picture. Put a passage with one into it.")
    for packet in encoder.encode(None):
        out.mux(packet)
    if track is not None and sound is not None:
        for block in blocks:
            track.add(block, sound.rate)
        track.finish()
    yield 1.0


def _exact(ms: int, rate: Fraction) -> Fraction:
    """The time in seconds of the frame that a number of milliseconds stands for."""
    return ms_to_frames(ms, rate) / rate


def _frames(
    film: Any, shape: Shape, parts: Sequence[CutPart], rate: Fraction
) -> Iterator[tuple[Fraction, Any]]:
    """All frames of a cut with their times in seconds."""
    pictures = _Pictures(film, rate)
    for one in parts:
        at, until = _exact(one.at_ms, rate), _exact(one.until_ms, rate)
        if one.plays == "gap":
            for nth in range(round((until - at) * rate)):
                yield at + nth / rate, _black(film, shape)
            continue
        start, end = _exact(one.start_ms, rate), _exact(one.end_ms, rate)
        for offset, frame in pictures.passage(start, end):
            yield at + offset, frame


def _black(film: Any, shape: Shape) -> Any:
    import av

    width, height = (
        (shape.width, shape.height)
        if shape.same
        else (film.streams.video[0].width, film.streams.video[0].height)
    )
    rows = [
        np.full(width * height // (1 if nth == 0 else 4), value, np.uint8) for nth, value in enumerate(_BLACK)
    ]
    flat = np.concatenate(rows).reshape(height * 3 // 2, width)
    return av.VideoFrame.from_ndarray(flat, format="yuv420p")
