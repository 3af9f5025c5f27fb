"""The film of a cut: its frames and its sound, with captions burned in where they are wished."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.timecode import ms_to_frames
from dubrel.base.value import Value
from dubrel.film.burning import container_format, encoder_of
from dubrel.film.cameraframes import CameraFrames
from dubrel.film.framereader import FrameReader
from dubrel.film.order import FilmShot
from dubrel.film.reshaping import Shape, black, turns_of
from dubrel.film.soundtracks.cutsound import CutPart, CutSound, SoundTrack
from dubrel.film.stamps import Shown, Stamps

_TICKS = Fraction(1, 90_000)
_REPORT = 12


def write_film(
    source: Path,
    target: Path,
    parts: Sequence[CutPart],
    rate: Fraction,
    shown: Sequence[Shown] = (),
    *,
    crf: int = 20,
    shots: Sequence[FilmShot] = (),
    tracks: Sequence[int] = (),
) -> Iterator[float]:
    """Write the film of a cut; yields how far it is, 0 to 1.

    Parameters
    ----------
    parts : sequence of CutPart
    rate : Fraction
        Frames a second; a picture of another clock keeps its own times within a passage.
    shown : sequence of Shown
        Captions in times of the cut.
    shots : sequence of FilmShot
        Where the picture comes from several cameras, in order.
    tracks : sequence of int
        The sound tracks of the recording that are mixed.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the film not be written.
    """
    import av

    try:
        with ExitStack() as stack:
            picture = _picture(stack, source, parts, rate, shots)
            with av.open(str(source)) as film:
                heard = bool(film.streams.audio)
            sound = CutSound(source, parts, tracks) if heard else None
            if sound is not None:
                stack.callback(sound.close)
            out = stack.enter_context(av.open(str(target), "w", format=container_format(target)))
            yield from _written(picture, out, parts, rate, shown, crf, sound)
    except (av.FFmpegError, OSError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("The film “{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error


class _Picture(Value):
    """What is seen: a stream that says its colours, the shape of its frames, the frames with their times."""

    stream: Any
    shape: Shape
    frames: Iterator[tuple[Fraction, Any]]


def _picture(
    stack: ExitStack, source: Path, parts: Sequence[CutPart], rate: Fraction, shots: Sequence[FilmShot]
) -> _Picture:
    import av

    with av.open(str(source)) as film:
        seen = bool(film.streams.video)
    path = str(source) if seen else next((one.path for one in shots if one.path), "")
    if not path:
        raise MediaError(tr("The film has no picture that can be decoded. Choose another one."))
    with av.open(path) as film:  # of a recorder: the size is that of the first camera
        first = next(film.decode(video=0), None)
    if first is None:
        raise MediaError(tr("The film has no picture that can be decoded. Choose another one."))
    shape, film = Shape(first, turns_of(first)), stack.enter_context(av.open(path))
    stream = film.streams.video[0]
    if not shots:
        return _Picture(stream, shape, _frames(film, shape, parts, rate))
    length = ms_to_frames(parts[-1].until_ms, rate) if parts else 0
    cameras = CameraFrames(shots, rate, (shape.width, shape.height), length)
    stack.callback(cameras.close)
    whole = Shape(black(shape.width, shape.height), 0)
    return _Picture(stream, whole, ((nth / rate, frame) for nth, frame in cameras.frames()))


def _written(
    picture: _Picture,
    out: Any,
    parts: Sequence[CutPart],
    rate: Fraction,
    shown: Sequence[Shown],
    crf: int,
    sound: CutSound | None,
) -> Iterator[float]:
    shape = picture.shape
    encoder = encoder_of(out, picture.stream, shape, crf)
    encoder.time_base = encoder.codec_context.time_base = _TICKS
    track = SoundTrack(out, "aac", sound.rate, sound.layout) if sound else None
    blocks, heard = (sound.blocks() if sound else iter(())), 0
    stamps, count, last = Stamps(shown, shape.width, shape.height, float(1000 / rate)), 0, -1
    length = max(1, parts[-1].until_ms if parts else 1)
    for at, frame in picture.frames:
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
        raise MediaError(tr("The cut has no picture. Put a passage with one into it."))
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
    pictures = FrameReader(film, rate)
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
    """A black frame of the size that the film's own frames have."""
    if shape.same:
        return black(shape.width, shape.height)
    return black(film.streams.video[0].width, film.streams.video[0].height)
