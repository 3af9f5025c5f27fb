"""The sound of a recording, read from any place, in samples of its own rate."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.media.probe import open_media, origin_s

BACK_S = 1  # how much that was decoded is kept for a passage that begins a little earlier
_FAR_S = 20
_KNOWN_RATE = 16_000
_COMPARED_S, _APART_S = 1.0, 3.0
_ALIKE = 0.6


class SoundReader:
    """Reads the sound of a recording.

    Read forward it is decoded once; what is behind by more than a second is gone, unless it seeks.

    Parameters
    ----------
    path : Path
        Closed with :meth:`close`.
    tracks : sequence of int
        The sound tracks that are mixed; the first unless some are named.
    seeks : bool
        Whether what lies far ahead, or behind, is sought.
    known : ndarray, shape (n,), int16, optional
        The same sound at 16 kHz from its beginning (:func:`dubrel.media.sound.samples_of`). In some forms of
        file a place that is sought is only nearly reached; with this the exact place is found by comparing.

    Raises
    ------
    MediaError
        If there is no sound.
    """

    def __init__(
        self,
        path: Path,
        *,
        tracks: Sequence[int] = (),
        seeks: bool = False,
        known: np.ndarray | None = None,
    ) -> None:
        self._container: Any = open_media(path)
        if not self._container.streams.audio:
            self._container.close()
            raise MediaError(
                tr("“{path}” has no sound. Choose a recording with a sound track.").format(path=path)
            )
        streams = self._container.streams.audio
        first = tracks[0] if tracks and tracks[0] < len(streams) else 0
        self._others = [
            SoundReader(path, tracks=(one,), seeks=seeks) for one in tracks[1:] if one < len(streams)
        ]
        self._stream: Any = streams[first]
        self._stream.thread_type = "AUTO"
        self._seeks, self._known = seeks, known
        self.rate: int = self._stream.rate
        self.channels = min(2, self._stream.codec_context.channels or 1)
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
        if self._known is not None:
            self._compare(self._known)

    def _compare(self, known: np.ndarray) -> None:
        """Find out where the place that was reached really is."""
        import soxr

        while self._end - self._start < _COMPARED_S * self.rate and self._take():
            pass
        if not self._blocks:
            return
        found = np.concatenate(self._blocks, axis=1).mean(axis=0)
        found = soxr.resample(found, self.rate, _KNOWN_RATE)
        since = max(0, round((self._start / self.rate - _APART_S) * _KNOWN_RATE))
        there = known[since : since + len(found) + round(2 * _APART_S * _KNOWN_RATE)].astype(np.float32)
        place = _place_of(found, there)
        if place is not None:
            by = round((since + place) * self.rate / _KNOWN_RATE) - self._start
            if abs(by) > self.rate // 1000:
                self._start += by
                self._end += by

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

    def _take(self) -> bool:
        """Decode one block more; whether there was one."""
        block = next(self._frames, None)
        if block is None:
            return False
        self._blocks.append(block)
        self._end += block.shape[1]
        return True

    def read(self, first: int, after: int) -> np.ndarray:
        """Samples of shape (channels, n), float32; silence before the beginning and after the end."""
        made = self._own(first, after)
        for other in self._others:
            made = made + other.at_rate(first, after, self.rate, self.channels)
        return made

    def at_rate(self, first: int, after: int, rate: int, channels: int) -> np.ndarray:
        """The same between two samples of another rate, in another number of channels."""
        import soxr

        ours = (first * self.rate // rate, -(-after * self.rate // rate))
        found = self.read(*ours)
        if self.rate != rate:
            found = soxr.resample(found.T, self.rate, rate).T
        found = np.pad(found, ((0, 0), (0, max(0, after - first - found.shape[1]))))[:, : after - first]
        if len(found) > channels:
            found = found.mean(axis=0, keepdims=True)
        return np.asarray(np.repeat(found, channels, axis=0)[:channels] if len(found) < channels else found)

    def _own(self, first: int, after: int) -> np.ndarray:
        made = np.zeros((self.channels, max(0, after - first)), np.float32)
        if self._seeks and (first > self._end + _FAR_S * self.rate or 0 <= first < self._start):
            self._seek(first)
        while self._end < after and self._take():
            while self._blocks and self._start + self._blocks[0].shape[1] < first - BACK_S * self.rate:
                self._start += self._blocks.popleft().shape[1]
        at = self._start
        for block in self._blocks:
            a, b = max(first, at), min(after, at + block.shape[1])
            if b > a:
                made[:, a - first : b - first] = block[:, a - at : b - at]
            at += block.shape[1]
        return made

    def close(self) -> None:
        """Let the file go."""
        self._container.close()
        for other in self._others:
            other.close()


def _place_of(piece: np.ndarray, there: np.ndarray) -> int | None:
    """Where a piece of sound begins within a longer one; ``None`` where it is not found for certain."""
    if len(there) < len(piece) or not piece.any():
        return None
    size = 1 << (len(there) - 1).bit_length()
    both = np.fft.rfft(there, size) * np.conj(np.fft.rfft(piece, size))
    match = np.fft.irfft(both, size)[: len(there) - len(piece) + 1]
    power = np.concatenate([[0.0], np.cumsum(there.astype(np.float64) ** 2)])
    norm = np.sqrt(np.maximum(power[len(piece) :] - power[: -len(piece)], 1e-9) * float((piece**2).sum()))
    alike = match / norm
    best = int(alike.argmax())
    return best if alike[best] > _ALIKE else None
