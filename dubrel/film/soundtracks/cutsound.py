"""The sound of a cut: passages of a recording one after the other, joined hard or by cross-fades.

Passages are read in the order of the recording, decoded once; where they play in another order, what is
needed is put aside on disk first. A sample's place is counted from where the recording begins, so that
sound and picture stay together however many joins there are.
"""

from __future__ import annotations

import tempfile
from bisect import bisect_right
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.timecode import ms_to_samples
from dubrel.base.value import Value
from dubrel.media.soundreader import BACK_S, SoundReader

_BITS = {"libmp3lame": 192_000, "aac": 192_000, "libopus": 128_000}
SOUND_CODECS = {
    ".wav": "pcm_s24le",
    ".flac": "flac",
    ".mp3": "libmp3lame",
    ".m4a": "aac",
    ".opus": "libopus",
}
"""How the sound of a cut is written, by suffix."""
FORMATS = {".wav": "wav", ".flac": "flac", ".mp3": "mp3", ".m4a": "ipod", ".opus": "opus"}


class CutPart(Value):
    """A passage as it is rendered.

    Attributes
    ----------
    start_ms, end_ms : int
        In the recording.
    at_ms, until_ms : int
        In the cut.
    plays : {"all", "muted", "gap"}
    cross_ms : int
        Of the cross-fade into the next.
    lead_ms : int
        How long before its picture the sound of the next one comes; after it below zero.
    """

    start_ms: int
    end_ms: int
    at_ms: int
    until_ms: int
    plays: str = "all"
    cross_ms: int = 0
    lead_ms: int = 0


class SoundPiece(Value):
    """A passage of sound in samples.

    Attributes
    ----------
    first, after : int
        In the recording, fades included.
    at : int
        Where it begins in the cut.
    fade_in, fade_out : int
        How many samples at its ends are faded.
    heard : bool
    """

    first: int
    after: int
    at: int
    fade_in: int
    fade_out: int
    heard: bool


def sound_pieces(parts: Sequence[CutPart], rate: int) -> list[SoundPiece]:
    """The pieces of sound of a cut at a rate of samples."""
    joins = [0]
    for one, following in zip(parts, parts[1:]):
        low, high = joins[-1] + 1, ms_to_samples(following.until_ms, rate) - 1
        joins.append(min(max(ms_to_samples(one.until_ms - one.lead_ms, rate), low), high))
    joins.append(ms_to_samples(parts[-1].until_ms, rate) if parts else 0)
    fades = [0]
    for nth, one in enumerate(parts[:-1]):
        room = min(joins[nth + 1] - joins[nth], joins[nth + 2] - joins[nth + 1])
        fades.append(min(ms_to_samples(one.cross_ms, rate), room) // 2 * 2)
    fades.append(0)
    found = []
    for nth, one in enumerate(parts):
        begin, end = joins[nth] - fades[nth] // 2, joins[nth + 1] + fades[nth + 1] // 2
        shift = ms_to_samples(one.start_ms, rate) - ms_to_samples(one.at_ms, rate)
        heard = one.plays == "all"
        found.append(SoundPiece(begin + shift, end + shift, begin, fades[nth], fades[nth + 1], heard))
    return found


class _Spooled:
    """Pieces of a recording that play in another order: decoded once, put aside on disk."""

    def __init__(self, decoded: SoundReader, pieces: Sequence[SoundPiece], folder: Path) -> None:
        self._file = (folder / "pieces.raw").open("w+b")
        self._places: dict[tuple[int, int], int] = {}
        self._channels = decoded.channels
        for one in sorted(pieces, key=lambda one: one.first):
            if one.heard and (one.first, one.after) not in self._places:
                self._places[one.first, one.after] = self._file.tell()
                self._file.write(np.ascontiguousarray(decoded.read(one.first, one.after).T).tobytes())
        self._file.flush()

    def read(self, first: int, after: int) -> np.ndarray:
        """As :meth:`SoundReader.read`, of a whole piece or a part of one."""
        for (since, until), place in self._places.items():
            if since <= first and after <= until:
                self._file.seek(place + (first - since) * self._channels * 4)
                raw = self._file.read((after - first) * self._channels * 4)
                return np.frombuffer(raw, np.float32).reshape(-1, self._channels).T
        return np.zeros((self._channels, after - first), np.float32)

    def close(self) -> None:
        """Let the file go."""
        self._file.close()


def _piece_of(one: SoundPiece, source: Any, channels: int) -> np.ndarray:
    """A piece with its fades, of constant power."""
    if not one.heard:
        return np.zeros((channels, one.after - one.first), np.float32)
    made = source.read(one.first, one.after).copy()
    if one.fade_in:
        made[:, : one.fade_in] *= np.sin(np.linspace(0, np.pi / 2, one.fade_in, dtype=np.float32))
    if one.fade_out:
        made[:, -one.fade_out :] *= np.cos(np.linspace(0, np.pi / 2, one.fade_out, dtype=np.float32))
    return made


def rendered(pieces: Iterable[SoundPiece], source: Any, channels: int) -> Iterator[np.ndarray]:
    """The sound of a cut, block by block, of shape (channels, n).

    Parameters
    ----------
    source : object
        Its ``read(first, after)`` gives samples of the recording.
    """
    tail = np.zeros((channels, 0), np.float32)  # the end of a piece into which the next one fades
    for one in pieces:
        made = _piece_of(one, source, channels)
        if tail.shape[1]:
            made[:, : tail.shape[1]] += tail
        stop = made.shape[1] - one.fade_out
        yield made[:, :stop]
        tail = made[:, stop:]
    if tail.shape[1]:
        yield tail


class CutSound:
    """The sound of a cut of a file, from its beginning.

    Parameters
    ----------
    path : Path
        The recording; closed with :meth:`close`.
    tracks : sequence of int
        Its sound tracks that are mixed; the first unless some are named.
    seeks : bool
        Whether it is for listening: any place is reached at once.

    Raises
    ------
    MediaError
        If there is no sound.
    """

    def __init__(
        self, path: Path, parts: Sequence[CutPart], tracks: Sequence[int] = (), *, seeks: bool = False
    ) -> None:
        self._decoded = SoundReader(path, tracks=tracks, seeks=seeks)
        self.rate, self.channels, self.layout = (
            self._decoded.rate,
            self._decoded.channels,
            self._decoded.layout,
        )
        self.pieces = sound_pieces(parts, self.rate)
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._spool: _Spooled | None = None

    @property
    def length(self) -> int:
        """Samples in all."""
        return self.pieces[-1].at + self.pieces[-1].after - self.pieces[-1].first if self.pieces else 0

    def blocks(self) -> Iterator[np.ndarray]:
        """The whole of it, block by block."""
        in_order = all(
            one.first <= other.first and other.first >= one.after - BACK_S * self.rate
            for one, other in zip(self.pieces, self.pieces[1:])
        )
        if not in_order:
            self._folder = tempfile.TemporaryDirectory(prefix="dubrel-")
            self._spool = _Spooled(self._decoded, self.pieces, Path(self._folder.name))
        yield from rendered(_short(self.pieces, self.rate), self._spool or self._decoded, self.channels)

    def blocks_from(self, sample: int) -> Iterator[np.ndarray]:
        """The sound from a sample of the cut on; for one that seeks."""
        pieces = list(_short(self.pieces, self.rate))
        nth = max(0, bisect_right([one.at for one in pieces], sample) - 1)
        if nth and sample < pieces[nth].at + pieces[nth].fade_in:  # the one before fades into it
            nth -= 1
        skip = sample - pieces[nth].at if pieces else 0
        for block in rendered(pieces[nth:], self._decoded, self.channels):
            if skip < block.shape[1]:
                yield block[:, skip:]
            skip = max(0, skip - block.shape[1])

    def close(self) -> None:
        """Let the files go."""
        self._decoded.close()
        if self._spool is not None:
            self._spool.close()
        if self._folder is not None:
            self._folder.cleanup()


def _short(pieces: Sequence[SoundPiece], rate: int) -> Iterator[SoundPiece]:
    """Long pieces as several, so that none takes much memory."""
    most = 20 * rate
    for one in pieces:
        first, at, fade_in = one.first, one.at, one.fade_in
        while one.after - first > most + one.fade_out:
            yield SoundPiece(first, first + most, at, fade_in, 0, one.heard)
            first, at, fade_in = first + most, at + most, 0
        yield SoundPiece(first, one.after, at, fade_in, one.fade_out, one.heard)


class SoundTrack:
    """An encoded track of sound in a file that is written."""

    def __init__(self, out: Any, codec: str, rate: int, layout: str) -> None:
        import av

        rate = 48_000 if codec == "libopus" else rate
        self.stream = out.add_stream(codec, rate=rate, layout=layout)
        if codec in _BITS:
            self.stream.bit_rate = _BITS[codec]
        wanted = {"pcm_s24le": "s32", "flac": "s32", "libopus": "flt"}.get(codec, "fltp")
        self.stream.codec_context.format = wanted
        size = {"libmp3lame": 1152, "aac": 1024, "libopus": 960}.get(codec, 4096)
        self._shaped = av.AudioResampler(format=wanted, layout=layout, rate=rate, frame_size=size)
        self._out, self._layout, self._count = out, layout, 0

    def add(self, block: np.ndarray, rate: int) -> None:
        """Encode a block of shape (channels, n)."""
        import av

        if not block.shape[1]:
            return
        made = av.AudioFrame.from_ndarray(np.ascontiguousarray(np.clip(block, -1, 1)), "fltp", self._layout)
        made.sample_rate, made.pts, made.time_base = rate, self._count, Fraction(1, rate)
        self._count += block.shape[1]
        for one in self._shaped.resample(made):
            self._out.mux(self.stream.encode(one))

    def finish(self) -> None:
        """Write what is still held."""
        for one in self._shaped.resample(None):
            self._out.mux(self.stream.encode(one))
        self._out.mux(self.stream.encode(None))


def write_sound(
    source: Path, target: Path, parts: Sequence[CutPart], suffix: str, tracks: Sequence[int] = ()
) -> Iterator[float]:
    """Write the sound of a cut; yields how far it is, 0 to 1.

    Parameters
    ----------
    suffix : str
        One of :data:`SOUND_CODECS`.
    tracks : sequence of int
        The sound tracks of the recording that are mixed.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the file not be written.
    """
    import av

    sound = CutSound(source, parts, tracks)
    try:
        options = {"rf64": "auto"} if suffix == ".wav" else {}
        with av.open(str(target), "w", format=FORMATS[suffix], options=options) as out:
            track, done = SoundTrack(out, SOUND_CODECS[suffix], sound.rate, sound.layout), 0
            for block in sound.blocks():
                track.add(block, sound.rate)
                done += block.shape[1]
                yield min(1.0, done / max(1, sound.length))
            track.finish()
    except (av.FFmpegError, OSError) as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{name}” could not be written: {reason}. Free some space and try again.").format(
                name=target.name, reason=reason
            )
        ) from error
    finally:
        sound.close()
    yield 1.0
