"""The sound of a cut: passages of a recording one after the other, joined hard or by cross-fades.

Passages are read in the order of the recording, decoded once; where they play in another order, what is
needed is put aside on disk first. A sample's place is counted from where the recording begins, so that
sound and picture stay together however many joins there are.
"""

from __future__ import annotations

import tempfile
from bisect import bisect_right
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.base.timecode import ms_to_samples
from dubrel.film.copiedsound import origin_s

_BLOCK_S = 1
_BACK_S = 1  # how much that was decoded is kept for a passage that begins a little earlier
_FAR_S = 20
_BITS = {"libmp3lame": 192_000, "aac": 192_000, "libopus": 128_000}
SOUND_CODECS = {
    ".wav": "pcm_s24le",
    ".flac": "flac",
    ".mp3": "libmp3lame",
    ".m4a": "aac",
    ".opus": "libopus",
}
"""How the sound of a cut is written, by suffix."""
_FORMATS = {".wav": "wav", ".flac": "flac", ".mp3": "mp3", ".m4a": "ipod", ".opus": "opus"}


@dataclass(frozen=True)
class CutPart:
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


@dataclass(frozen=True)
class SoundPiece:
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


class _Decoded:
    """The sound of a recording, read forward: what is behind by more than a second is gone.

    Parameters
    ----------
    seeks : bool
        Whether what lies far ahead, or behind, is sought: quick, and in a few forms of file only
        nearly at the place.
    """

    def __init__(self, container: Any, stream: Any, seeks: bool = False) -> None:
        self._container, self._stream, self._seeks = container, stream, seeks
        self.rate = stream.rate
        self.channels = min(2, stream.codec_context.channels or 1)
        self.layout = "stereo" if self.channels == 2 else "mono"
        self._blocks: deque[np.ndarray] = deque()
        self._start = self._end = 0
        self._frames = self._decoded()

    def _seek(self, first: int) -> None:
        """Go on decoding a second before a sample."""
        at = Fraction(max(0, first - self.rate), self.rate) + origin_s(self._container)
        self._container.seek(max(0, int(at * 1_000_000)), backward=True)
        self._blocks.clear()
        self._start = self._end = -1  # the first frame says where
        self._frames = self._decoded(sought=True)

    def _decoded(self, sought: bool = False) -> Iterator[np.ndarray]:
        """Float blocks with silence where the recording's clock has a hole, as everywhere in Dubrel."""
        from av import AudioResampler
        from av.error import InvalidDataError

        shaped = AudioResampler(format="fltp", layout=self.layout, rate=self.rate)
        origin, have = origin_s(self._container) * self.rate, 0
        for packet in self._container.demux(self._stream):
            try:
                frames = packet.decode()
            except InvalidDataError:
                continue
            for frame in frames:
                if sought and frame.pts is not None and frame.time_base is not None:
                    have = int(frame.pts * frame.time_base * self.rate - origin)
                    self._start = self._end = have
                    sought = False
                elif frame.pts is not None and frame.time_base is not None:
                    hole = int(frame.pts * frame.time_base * self.rate - origin) - have
                    if hole > (self.rate // 10 if have else 0):
                        have += hole
                        yield np.zeros((self.channels, hole), np.float32)
                for part in shaped.resample(frame):
                    block = part.to_ndarray()
                    have += block.shape[1]
                    yield block

    def read(self, first: int, after: int) -> np.ndarray:
        """Samples of shape (channels, n); silence before the beginning and after the end."""
        made = np.zeros((self.channels, max(0, after - first)), np.float32)
        if self._seeks and (first > self._end + _FAR_S * self.rate or 0 <= first < self._start):
            self._seek(first)
        while self._end < after:
            block = next(self._frames, None)
            if block is None:
                break
            self._blocks.append(block)
            self._end += block.shape[1]
            while self._blocks and self._start + self._blocks[0].shape[1] < first - _BACK_S * self.rate:
                self._start += self._blocks.popleft().shape[1]
        at = self._start
        for block in self._blocks:
            a, b = max(first, at), min(after, at + block.shape[1])
            if b > a:
                made[:, a - first : b - first] = block[:, a - at : b - at]
            at += block.shape[1]
        return made


class _Spooled:
    """Pieces of a recording that play in another order: decoded once, put aside on disk."""

    def __init__(self, decoded: _Decoded, pieces: Sequence[SoundPiece], folder: Path) -> None:
        self._file = (folder / "pieces.raw").open("w+b")
        self._places: dict[tuple[int, int], int] = {}
        self._channels = decoded.channels
        for one in sorted(pieces, key=lambda one: one.first):
            if one.heard and (one.first, one.after) not in self._places:
                self._places[one.first, one.after] = self._file.tell()
                self._file.write(np.ascontiguousarray(decoded.read(one.first, one.after).T).tobytes())
        self._file.flush()

    def read(self, first: int, after: int) -> np.ndarray:
        """As :meth:`_Decoded.read`, of a whole piece or a part of one."""
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
    seeks : bool
        Whether it is for listening: any place is reached at once.

    Raises
    ------
    MediaError
        If there is no sound.
    """

    def __init__(self, path: Path, parts: Sequence[CutPart], *, seeks: bool = False) -> None:
        import av

        self._container: Any = av.open(str(path), metadata_errors="replace")
        if not self._container.streams.audio:
            self._container.close()
            raise MediaError(f"“{path}” has no sound. Choose a recording with a sound track.")
        stream: Any = self._container.streams.audio[0]
        stream.thread_type = "AUTO"
        self._decoded = _Decoded(self._container, stream, seeks)
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
            one.first <= other.first and other.first >= one.after - _BACK_S * self.rate
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
        self._container.close()
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


def write_sound(source: Path, target: Path, parts: Sequence[CutPart], suffix: str) -> Iterator[float]:
    """Write the sound of a cut; yields how far it is, 0 to 1.

    Parameters
    ----------
    suffix : str
        One of :data:`SOUND_CODECS`.

    Raises
    ------
    MediaError
        If the recording cannot be read, or the file not be written.
    """
    import av

    sound = CutSound(source, parts)
    try:
        options = {"rf64": "auto"} if suffix == ".wav" else {}
        with av.open(str(target), "w", format=_FORMATS[suffix], options=options) as out:
            track, done = SoundTrack(out, SOUND_CODECS[suffix], sound.rate, sound.layout), 0
            for block in sound.blocks():
                track.add(block, sound.rate)
                done += block.shape[1]
                yield min(1.0, done / max(1, sound.length))
            track.finish()
    except (av.FFmpegError, OSError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise MediaError(
            f"“{target.name}” could not be written: {reason}. Free some space and try again."
        ) from error
    finally:
        sound.close()
    yield 1.0
