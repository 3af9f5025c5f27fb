"""WAV files whose header says less than they hold, as a recorder leaves them that was cut off."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import BinaryIO

_MOST_CHUNKS = 64
_FILLER = 64  # bytes after the sound that are neither a chunk nor sound


_UNKNOWN = 0xFFFF0000  # a length from here on says only that it was not known


def wav_options(path: Path) -> dict[str, str]:
    """What the decoder must be told so that it reads all of a WAV file; nothing for other files."""
    try:
        with path.open("rb") as file:
            found = _sound(file)
            more = found is not None and _goes_on(file, found[1], path.stat().st_size)
            return {"ignore_length": "1"} if more else {}
    except OSError:
        return {}


def missing_ms(path: Path) -> int:
    """How much of the sound that a WAV file says it holds is not there.

    It broke off, or is still being written.
    """
    try:
        with path.open("rb") as file:
            found = _sound(file)
            if found is None or found[1] >= _UNKNOWN:
                return 0
            rate, length = found
            return max(0, file.tell() + length - path.stat().st_size) * 1000 // rate if rate else 0
    except OSError:
        return 0


def _sound(file: BinaryIO) -> tuple[int, int] | None:
    """Bytes a second and bytes of the sound of a WAV file, which is read up to there.

    Nothing for other files.
    """
    if file.read(4) != b"RIFF" or (file.read(4), file.read(4))[1] != b"WAVE":
        return None
    rate = 0
    for _ in range(_MOST_CHUNKS):
        head = file.read(8)
        if len(head) < 8:
            return None
        name, length = struct.unpack("<4sI", head)
        if name == b"data":
            return rate, length
        if name == b"fmt " and length >= 12:
            rate = struct.unpack("<8xI", file.read(12))[0]
            file.seek(-12, 1)
        file.seek(length + length % 2, 1)
    return None


def _goes_on(file: BinaryIO, length: int, size: int) -> bool:
    """Whether what follows the sound is not a chunk of its own, but more sound."""
    end = file.tell() + length
    if size - end <= _FILLER:
        return False
    file.seek(end + length % 2)
    head = file.read(8)
    name, following = struct.unpack("<4sI", head) if len(head) == 8 else (b"", 0)
    printable = bool(name) and all(32 <= byte < 127 for byte in name)
    return not (printable and file.tell() + following <= size + 1)
