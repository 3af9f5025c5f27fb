"""One file a speaker made into one recording: the mix first, then every speaker's track (Matroska, FLAC)."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.media.probe import open_media

MIX = "mix"
_RATE = 48_000
_BLOCK = 48_000
_FRAME = 4096


def write_track_file(paths: Sequence[Path], target: Path) -> Iterator[float]:
    """Weave files that begin at the same moment into one with a track for each.

    Parameters
    ----------
    paths : sequence of Path
        One file a speaker; the track gets the file's name.
    target : Path
        ``.mka``; replaced only when it is whole.

    Yields
    ------
    float
        The fraction done.

    Raises
    ------
    MediaError
        If a file has no sound or the target cannot be written.
    """
    from dubrel.media.probe import probe

    medias = [probe(path) for path in paths]
    for media in medias:
        if not media.has_audio:
            raise MediaError(
                tr("“{path}” has no sound. Choose one recording for each speaker.").format(path=media.path)
            )
    total = max(1, max(media.duration_ms for media in medias) * _RATE // 1000)
    part = target.with_name(f".{target.name}.part")
    try:
        for done in _write(paths, part):
            yield min(1.0, done / total)
        _verify(part, len(paths) + 1, total)
        os.replace(part, target.resolve() if target.is_symlink() else target)
    except OSError as error:
        reason = cause_of(error)
        raise MediaError(
            tr("“{target}” was not written: {reason}. Choose another place.").format(
                target=target, reason=reason
            )
        ) from error
    finally:
        part.unlink(missing_ok=True)


def _verify(part: Path, tracks: int, samples: int) -> None:
    """Look whether the file that was written holds every track to its end."""
    with open_media(part) as container:
        length = (container.duration or 0) * _RATE // 1_000_000
        if len(container.streams.audio) != tracks or length < samples - _RATE:
            raise MediaError(
                tr("“{name}” does not hold what was written. Check the disk and try again.").format(
                    name=part.name
                )
            )


def _write(paths: Sequence[Path], part: Path) -> Iterator[int]:
    import av

    names = [MIX, *(path.stem for path in paths)]
    with contextlib.ExitStack() as stack:
        out = stack.enter_context(av.open(str(part), "w", format="matroska"))
        streams = []
        for name in names:
            stream = out.add_stream("flac", rate=_RATE, layout="mono", format="s16")
            stream.metadata["title"] = name
            streams.append(stream)
        sources = [_Blocks(path) for path in paths]
        written = 0
        while True:
            blocks = [source.take(_BLOCK) for source in sources]
            length = max(len(block) for block in blocks)
            if not length:
                break
            whole = np.zeros((len(blocks), length), np.int16)
            for row, block in zip(whole, blocks):
                row[: len(block)] = block
            mix = np.clip(whole.sum(axis=0, dtype=np.int32), -32768, 32767).astype(np.int16)
            for stream, samples in zip(streams, [mix, *whole]):
                for packet in _encoded(stream, samples, written):
                    out.mux(packet)
            written += length
            yield written
        for stream in streams:
            for packet in stream.encode(None):
                out.mux(packet)


def _encoded(stream: Any, samples: np.ndarray, written: int) -> Iterator[Any]:
    from fractions import Fraction

    from av import AudioFrame

    for start in range(0, len(samples), _FRAME):
        frame = AudioFrame.from_ndarray(samples[None, start : start + _FRAME], "s16", "mono")
        frame.rate, frame.pts, frame.time_base = _RATE, written + start, Fraction(1, _RATE)
        yield from stream.encode(frame)


class _Blocks:
    """A file's sound at 48 kHz, mono, in blocks of a wished length."""

    def __init__(self, path: Path) -> None:
        self._pieces = self._decode(path)
        self._held = np.zeros(0, np.int16)

    def take(self, count: int) -> np.ndarray:
        """The next samples; fewer at the end, then none."""
        parts, have = [self._held], len(self._held)
        while have < count and (piece := next(self._pieces, None)) is not None:
            parts.append(piece)
            have += len(piece)
        whole = np.concatenate(parts)
        self._held = whole[count:]
        return whole[:count]

    @staticmethod
    def _decode(path: Path) -> Iterator[np.ndarray]:
        from av import AudioResampler

        with open_media(path) as container:
            resampler = AudioResampler(format="s16", layout="mono", rate=_RATE)
            for frame in container.decode(audio=0):
                for part in resampler.resample(frame):
                    yield part.to_ndarray()[0]
            for part in resampler.resample(None):
                yield part.to_ndarray()[0]
