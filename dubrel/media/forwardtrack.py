"""What the speech enhancer made of a recording, in the cache, in pieces made in any order."""

from __future__ import annotations

import errno
import os
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.media.cache import forward_path
from dubrel.model import Media

RATE = 48_000
PIECE_S = 10
PIECE = RATE * PIECE_S
STEPS = 10 * PIECE_S
"""Tenths of a second of a piece, for each of which there is an energy."""


class ForwardTrack:
    """The pieces that there are, mapped from disk; several processes can write and read.

    Parameters
    ----------
    media : Media
        A recording that is there.

    Raises
    ------
    MediaError
        If the recording is not there, or the cache cannot be written.
    """

    def __init__(self, media: Media) -> None:
        self.pieces = max(1, -(-media.duration_ms // (1000 * PIECE_S)))
        path = forward_path(media)
        try:
            self._sound = _mapped(path, np.dtype(np.int16), self.pieces * PIECE)
            self._energy = _mapped(path.with_suffix(".energy"), np.dtype(np.float32), self.pieces * STEPS)
            self.done = _mapped(path.with_suffix(".done"), np.dtype(np.uint8), self.pieces)
        except OSError as error:
            full = error.errno in (errno.ENOSPC, errno.EDQUOT)
            raise MediaError(
                tr("“{parent}” cannot be written: {strerror}. ").format(
                    parent=path.parent, strerror=cause_of(error)
                )
                + (
                    tr("Free some space.")
                    if full
                    else tr("Allow writing to it, or name another in DUBREL_CACHE.")
                )
            ) from error

    def has(self, piece: int) -> bool:
        """Whether a piece is there."""
        return 0 <= piece < self.pieces and bool(self.done[piece])

    @property
    def whole(self) -> bool:
        """Whether every piece is there."""
        return bool(self.done.all())

    @property
    def count(self) -> int:
        """How many pieces are there."""
        return int(np.count_nonzero(self.done))

    @property
    def made(self) -> list[int]:
        """The pieces that are there."""
        return [int(one) for one in np.flatnonzero(self.done)]

    @property
    def energies(self) -> np.ndarray:
        """Of each tenth of a second; zero where it is not made yet."""
        return np.asarray(self._energy)

    def missing(self, piece: int, ahead: int) -> int | None:
        """The first piece that is not there from one on, no further ahead than so many."""
        left = np.flatnonzero(self.done[piece : piece + ahead] == 0)
        return piece + int(left[0]) if len(left) else None

    def put(self, piece: int, sound: np.ndarray, energies: np.ndarray) -> None:
        """Keep a piece: floats between -1 and 1, and what they weigh."""
        whole = np.zeros(PIECE, np.float32)
        whole[: len(sound)] = sound[:PIECE]
        self._sound[piece * PIECE : (piece + 1) * PIECE] = np.round(np.clip(whole, -1, 1) * 32767)
        self._energy[piece * STEPS : piece * STEPS + len(energies)] = energies[:STEPS]
        self.done[piece] = 1

    def read(self, first: int, after: int) -> np.ndarray:
        """Samples as floats, shape (n,); silence outside and where there is no piece yet."""
        made = np.zeros(max(0, after - first), np.float32)
        a, b = max(0, first), min(after, len(self._sound))
        if b > a:
            made[a - first : b - first] = self._sound[a:b].astype(np.float32) / 32768
        return made

    def there(self, first: int, after: int) -> np.ndarray:
        """Of which samples there is something, as a mask."""
        places = np.clip(np.arange(first, after) // PIECE, 0, self.pieces - 1)
        return np.asarray(self.done[places] != 0)


def _mapped(path: Path, kind: np.dtype, count: int) -> np.memmap:
    """A file of numbers; what is new in it is zero and takes no room yet."""
    size = count * kind.itemsize
    with open(path, "ab", opener=lambda name, flags: os.open(name, flags, 0o600)) as file:
        if file.tell() != size:
            os.truncate(path, size)
    return np.memmap(path, kind, mode="r+", shape=(count,))
