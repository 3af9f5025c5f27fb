"""Burn captions into a film: decoded, drawn over only where a caption stands, encoded; the sound is copied.

Each frame under a caption gets a blend within the caption's box alone.
"""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.film.reshaping import Shape, Wished, turns_of
from dubrel.film.soundtracks.copiedsound import SoundTracks
from dubrel.film.stamps import Shown, Stamps
from dubrel.media.probe import origin_s

_UNSAID, _LIMITED = 2, 1  # of a colour space; the range of a picture
QUALITIES = {"high": 17, "usual": 20, "small": 25}
"""Constant rate factors of x264."""
_REPORT = 12  # frames between two reports


def burn(
    source: Path,
    target: Path,
    shown: Sequence[Shown],
    *,
    crf: int = 20,
    from_ms: int = 0,
    to_ms: int = 0,
    wished: Wished | None = None,
) -> Iterator[float]:
    """Write a film with captions in its picture; yields how far it is, 0 to 1.

    Parameters
    ----------
    from_ms, to_ms : int
        The passage that is wished; 0 and 0 for all.
    wished : Wished, optional
        Another shape of the picture.

    Raises
    ------
    MediaError
        If the film cannot be read, or the new one not be written.
    """
    import av

    try:
        with av.open(str(source)) as film:
            first = next(film.decode(video=0), None)
        if first is None:
            raise MediaError(tr("The film has no picture that can be decoded. Choose another one."))
        cut = Shape(first, turns_of(first), wished)
        with av.open(str(source)) as film, av.open(str(target), "w", format=container_format(target)) as out:
            yield from _burned(film, out, cut, shown, crf, from_ms, to_ms)
    except (av.FFmpegError, OSError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("The film “{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error


def still(source: Path, shown: Sequence[Shown], at_ms: int, wished: Wished | None = None) -> bytes:
    """The frame of a film at a time with its caption, as PNG.

    Raises
    ------
    MediaError
        If the film cannot be read.
    """
    import av

    try:
        with av.open(str(source)) as film:
            zero = round(origin_s(film) * 1_000_000)
            film.seek(zero + at_ms * 1000, backward=True)
            frame = None
            for frame in film.decode(video=0):
                if frame.time is not None and frame.time * 1000 - zero / 1000 >= at_ms - 20:
                    break
            if frame is None:
                raise MediaError(
                    tr("“{name}” has no picture that can be decoded. Choose another one.").format(
                        name=source.name
                    )
                )
            cut = Shape(frame, turns_of(frame), wished)
            stamp = Stamps(shown, cut.width, cut.height).at(at_ms)
            return png_of(cut.frame(frame, stamp, at_ms))
    except (av.FFmpegError, OSError) as error:
        raise MediaError(
            tr("“{name}” cannot be read. Check the file, or choose another one.").format(name=source.name)
        ) from error


def png_of(frame: Any) -> bytes:
    """A frame as PNG."""
    file = io.BytesIO()
    frame.to_image().save(file, "PNG", compress_level=1)
    return file.getvalue()


def frame_ms(picture: Any) -> float:
    """How long a frame of a film stands."""
    return float(1000 / (picture.average_rate or 25))


def container_format(target: Path) -> str:
    """What kind of file is written under a name."""
    return "matroska" if ".mkv" in target.name else "mp4"


def _burned(
    film: Any, out: Any, cut: Shape, shown: Sequence[Shown], crf: int, from_ms: int, to_ms: int
) -> Iterator[float]:
    picture = film.streams.video[0]
    picture.thread_type = "AUTO"
    zero = origin_s(film)
    if from_ms:
        film.seek(round(zero * 1_000_000) + from_ms * 1000, backward=True)
    encoder = encoder_of(out, picture, cut, crf)
    sound = SoundTracks(film, out, from_ms, to_ms)
    length = (to_ms or float(film.duration or 0) / 1000) - from_ms
    stamps, count = Stamps(shown, cut.width, cut.height, frame_ms(picture)), 0
    for packet in film.demux(picture, *sound.streams):
        if packet.stream is not picture:
            sound.take(packet)
            continue
        for frame in packet.decode():
            if frame.pts is None:
                continue
            ms = float(frame.pts * frame.time_base - zero) * 1000
            if ms < from_ms - 0.5 or (to_ms and ms >= to_ms):
                continue
            made = cut.frame(frame, stamps.at(ms), ms)
            made.pts = frame.pts - round((zero + Fraction(from_ms, 1000)) / frame.time_base)
            made.time_base = frame.time_base
            made.pict_type = 0
            for done in encoder.encode(made):
                out.mux(done)
            count += 1
            if count % _REPORT == 0:
                yield min(1.0, (ms - from_ms) / max(1.0, length))
    if not count:
        raise MediaError(tr("The passage lies beyond the end of the film. Choose another one."))
    for done in encoder.encode(None):
        out.mux(done)
    sound.finish()
    yield 1.0


def encoder_of(out: Any, picture: Any, cut: Shape, crf: int) -> Any:
    """An encoder for the frames at the times that they have, with the colours of the film."""
    made = out.add_stream(
        "libx264", rate=picture.average_rate or Fraction(25), options={"crf": str(crf), "preset": "veryfast"}
    )
    made.width, made.height, made.pix_fmt = cut.width, cut.height, "yuv420p"
    made.time_base = made.codec_context.time_base = picture.time_base
    for name in ("color_primaries", "color_trc", "colorspace"):
        value = getattr(picture.codec_context, name, None)
        if value not in (None, 0, _UNSAID):
            setattr(made.codec_context, name, value)
    made.codec_context.color_range = _LIMITED
    return made
