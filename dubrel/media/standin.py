"""A small file that stands in for a recording: its sound as Opus, its picture 360 lines high.

It says in a tag of its own of which recording it is, by the digest of that.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of

_TAG = "DUBREL_STANDS_IN_FOR"
_LINES, _QUALITY = 360, "28"
_RATE, _BITS = 48_000, 48_000  # samples and bits a second


def write_standin(source: Path, target: Path, digest: str) -> Iterator[float]:
    """Write the stand-in of a recording (Matroska); yields how far it is, 0 to 1.

    Its zero is the zero of the recording, whatever its own clock begins with.

    Parameters
    ----------
    digest : str
        Of the whole recording.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the file not be written.
    """
    import av

    try:
        with av.open(str(source)) as given, av.open(str(target), "w", format="matroska") as out:
            out.metadata[_TAG] = digest
            yield from _written(given, out)
    except (av.FFmpegError, OSError, ValueError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error


def _written(given: Any, out: Any) -> Iterator[float]:
    zero = Fraction(given.start_time or 0, 1_000_000)
    length = max(1.0, float(given.duration or 0) / 1_000_000)
    tracks = {one.index: _Track(one, out, zero) for one in [*given.streams.video[:1], *given.streams.audio]}
    told = 0.0
    for packet in given.demux([track.source for track in tracks.values()]):
        for frame in packet.decode():
            if frame.pts is None:
                continue
            at = tracks[packet.stream.index].take(frame)
            if at - told > length / 200:
                told = at
                yield min(1.0, at / length)
    for track in tracks.values():
        track.finish()
    yield 1.0


class _Track:
    """A picture or a sound track on its way into the small file."""

    def __init__(self, source: Any, out: Any, zero: Fraction) -> None:
        import av

        self.source, self._out, self._zero = source, out, zero
        self._resampler: Any = None
        if source.type == "video":
            rate = source.average_rate or Fraction(25)
            self._made = out.add_stream("libx264", rate=rate, options={"crf": _QUALITY, "preset": "veryfast"})
            high = min(_LINES, source.height) // 2 * 2
            wide = max(2, round(source.width * high / max(1, source.height) / 2) * 2)
            self._made.width, self._made.height, self._made.pix_fmt = wide, high, "yuv420p"
        else:
            layout = "stereo" if source.codec_context.channels == 2 else "mono"
            self._made = out.add_stream("libopus", rate=_RATE, layout=layout)
            self._made.bit_rate = _BITS
            self._resampler = av.AudioResampler("s16", layout, _RATE)
        if language := source.metadata.get("language"):
            self._made.metadata["language"] = language

    def take(self, frame: Any) -> float:
        """Write a frame; when it is, in seconds."""
        base = frame.time_base
        at = frame.pts * base - self._zero
        frame.pts = round(at / base)
        if self._resampler is not None:
            frames = self._resampler.resample(frame)
        else:
            frames = [frame.reformat(self._made.width, self._made.height, "yuv420p")]
            frames[0].pict_type = 0
        for one in frames:
            self._out.mux(self._made.encode(one))
        return float(at)

    def finish(self) -> None:
        """Write what the encoder still holds."""
        if self._resampler is not None:
            for one in self._resampler.resample(None):
                self._out.mux(self._made.encode(one))
        self._out.mux(self._made.encode(None))


def stands_in_for(path: Path) -> str:
    """The digest of the recording that a file stands in for; empty where it is not a stand-in."""
    if path.suffix.lower() not in (".mkv", ".mka"):
        return ""
    import av

    try:
        with av.open(str(path)) as given:
            return str(given.metadata.get(_TAG, ""))
    except (av.FFmpegError, OSError, ValueError):
        return ""
