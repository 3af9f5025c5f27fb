"""A recording as it is, or its sound in a small file, for what is played beside a page."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.media.probe import origin_s

_PIECE = 4 << 20  # bytes
_RATE, _BITS = 44_100, 72_000  # samples and bits a second


def copied(source: Path, target: Path) -> Iterator[float]:
    """Copy a file; yields how far it is, 0 to 1.

    Raises
    ------
    OSError
        If one of them cannot be read or written.
    """
    whole, done = max(1, source.stat().st_size), 0
    with source.open("rb") as one, target.open("wb") as other:
        while piece := one.read(_PIECE):
            other.write(piece)
            done += len(piece)
            yield min(1.0, done / whole)


def is_copy(source: Path, target: Path) -> bool:
    """Whether two files hold the same."""
    if source.stat().st_size != target.stat().st_size:
        return False
    with source.open("rb") as one, target.open("rb") as other:
        while piece := one.read(_PIECE):
            if piece != other.read(_PIECE):
                return False
    return True


def small_sound(source: Path, target: Path) -> Iterator[float]:
    """Write the sound of a recording as MP3 of one channel; yields how far it is, 0 to 1.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the file not be written.
    """
    import av

    try:
        with av.open(str(source)) as film, av.open(str(target), "w", format="mp3") as out:
            sound, zero = film.streams.audio[0], origin_s(film)
            made = out.add_stream("libmp3lame", rate=_RATE, layout="mono")
            made.bit_rate = _BITS
            shaped = av.AudioResampler(format="fltp", layout="mono", rate=_RATE, frame_size=1152)
            length = max(1.0, float(film.duration or 0) / 1_000_000)
            for frame in film.decode(sound):
                base = frame.time_base or Fraction(1, _RATE)
                at = (frame.pts or 0) * base - zero
                frame.pts = round(at / base)
                for one in shaped.resample(frame):
                    out.mux(made.encode(one))
                yield min(1.0, float(at) / length)
            for one in shaped.resample(None):
                out.mux(made.encode(one))
            out.mux(made.encode(None))
    except (av.FFmpegError, IndexError) as error:
        reason = cause_of(error) if getattr(error, "strerror", None) else tr("there is no sound in it")
        said = tr("“{name}” could not be written: {reason}. Choose another recording.").format(
            name=target.name, reason=reason
        )
        raise MediaError(said) from error
    yield 1.0
