"""A WAV file that can be read at any moment while it grows: a crash loses at most a second."""

from __future__ import annotations

import contextlib
import os
import struct
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of

HEADER_BYTES = 44
_MOST_BYTES = 0xFFFFFFFF - HEADER_BYTES


def live_mark(path: Path) -> Path:
    """The file that is there as long as a recording goes on."""
    return path.with_name(f".{path.name}.live")


class GrowingWave:
    """Writes 16-bit samples as they come.

    Parameters
    ----------
    path : Path
        Must not exist.
    rate, channels : int

    Raises
    ------
    MediaError
        If the file cannot be made.
    """

    def __init__(self, path: Path, rate: int = 48_000, channels: int = 1) -> None:
        self.path, self.rate, self.channels = path, rate, channels
        self._bytes = self._told = 0
        try:
            self._file = path.open("xb", buffering=0)
            self._file.write(self._header())
        except OSError as error:
            raise MediaError(
                tr("“{path}” cannot be written to: {error}. Choose another place.").format(
                    path=path, error=cause_of(error)
                )
            ) from error

    def _header(self) -> bytes:
        width = 2 * self.channels
        form = struct.pack("<HHIIHH", 1, self.channels, self.rate, self.rate * width, width, 16)
        chunks = b"WAVEfmt " + struct.pack("<I", len(form)) + form + b"data" + struct.pack("<I", self._bytes)
        return b"RIFF" + struct.pack("<I", self._bytes + HEADER_BYTES - 8) + chunks

    @property
    def length_ms(self) -> int:
        """How much is on the disk."""
        return self._bytes * 1000 // (2 * self.channels * self.rate)

    def add(self, data: bytes) -> None:
        """Write samples; the header follows every second.

        Raises
        ------
        MediaError
            If the disk is full or gone; what was written before can be read.
        """
        if self._bytes + len(data) > _MOST_BYTES:
            raise MediaError(
                tr(
                    "“{path}” has reached the greatest length that a WAV file can have. Start "
                    "another recording."
                ).format(path=self.path)
            )
        try:
            self._bytes += self._file.write(data)
            if self._bytes - self._told >= 2 * self.channels * self.rate:
                self._tell()
        except OSError as error:
            raise MediaError(
                tr("The recording stopped: {error}. What was recorded is in “{path}”.").format(
                    error=cause_of(error), path=self.path
                )
            ) from error

    def _tell(self) -> None:
        self._file.seek(0)
        self._file.write(self._header())
        os.fsync(self._file.fileno())
        self._file.seek(0, os.SEEK_END)
        self._told = self._bytes

    def close(self) -> None:
        """Finish the file as well as can be."""
        with contextlib.suppress(OSError):  # the header of a second ago stands
            self._tell()
        with contextlib.suppress(OSError):
            self._file.close()
