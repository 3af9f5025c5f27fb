"""A cut as a WAV file that exists only while it is read: rendered as far ahead as the player asks."""

from __future__ import annotations

import logging
import struct
import threading
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from PySide6.QtCore import QIODevice, QObject

from dubrel.desk.shell.kit.guard import guarded
from dubrel.film.soundtracks.cutsound import CutPart, CutSound

_HEAD = 44
_MOST = (1 << 32) - 1 - _HEAD


@guarded
class CutDevice(QIODevice):
    """The sound of a cut for a media player of Qt, which reads it in a thread of its own.

    Parameters
    ----------
    path : Path
        The recording.
    parts : sequence of CutPart
    tracks : sequence of int
        The sound tracks that are mixed.

    Raises
    ------
    DubrelError
        If the recording has no sound.
    """

    def __init__(
        self,
        path: Path,
        parts: Sequence[CutPart],
        tracks: Sequence[int] = (),
        parent: QObject | None = None,
    ) -> None:
        super().__init__()
        self.setParent(parent)
        self._sound = CutSound(path, parts, tracks, seeks=True)
        self._frame = 2 * self._sound.channels
        self._bytes = min(_MOST, self._sound.length * self._frame)
        self._head = self._header()
        self._lock = threading.Lock()
        self._at, self._place = 0, -1  # where the player reads; where the blocks go on
        self._blocks: Iterator[np.ndarray] = iter(())
        self._held = b""
        self._ended = False
        self.open(QIODevice.OpenModeFlag.ReadOnly | QIODevice.OpenModeFlag.Unbuffered)

    def _header(self) -> bytes:
        rate, channels = self._sound.rate, self._sound.channels
        form = struct.pack("<IHHIIHH", 16, 1, channels, rate, rate * self._frame, self._frame, 16)
        return (
            b"RIFF"
            + struct.pack("<I", self._bytes + 36)
            + b"WAVEfmt "
            + form
            + b"data"
            + struct.pack("<I", self._bytes)
        )

    def isSequential(self) -> bool:
        """Any place can be read."""
        return False

    def size(self) -> int:
        """Bytes in all."""
        return _HEAD + self._bytes

    def bytesAvailable(self) -> int:
        """Bytes from here on."""
        return max(0, self.size() - self._at)

    def atEnd(self) -> bool:
        """Whether all has been read."""
        return self._at >= self.size()

    def pos(self) -> int:
        """Where the next byte is read."""
        return self._at

    def seek(self, pos: int) -> bool:
        """Read on from another place."""
        with self._lock:
            self._at = max(0, min(pos, self.size()))
        return True

    def readData(self, maxlen: int) -> bytes:
        """The next bytes."""
        with self._lock:
            if self._ended:
                return b""
            try:
                found = self._read(min(maxlen, 1 << 18))
            except Exception:
                logging.getLogger(__name__).warning("the sound of a cut broke off", exc_info=True)
                return b""
            self._at += len(found)
            return found

    def writeData(self, data: object, maxlen: int) -> int:
        """Nothing can be written."""
        return -1

    def _read(self, count: int) -> bytes:
        if self._at < _HEAD:
            return self._head[self._at : self._at + count]
        offset = self._at - _HEAD
        count = min(count, self._bytes - offset)
        if count <= 0:
            return b""
        if offset != self._place:
            sample, rest = divmod(offset, self._frame)
            self._blocks, self._held = self._sound.blocks_from(sample), b""
            self._fill(rest + 1)
            self._held = self._held[rest:]
            self._place = offset
        self._fill(count)
        found, self._held = self._held[:count], self._held[count:]
        found = found.ljust(count, b"\0")
        self._place += len(found)
        return found

    def _fill(self, count: int) -> None:
        while len(self._held) < count and (block := next(self._blocks, None)) is not None:
            self._held += (np.clip(block.T, -1, 1) * 32767).astype("<i2").tobytes()

    def end(self) -> None:
        """Let the recording go; what still reads gets nothing."""
        with self._lock:
            if not self._ended:
                self._ended = True
                self._sound.close()
        self.close()
