"""WAV files whose header says less than they hold, as a recorder leaves them that was cut off."""

from __future__ import annotations

import struct
from pathlib import Path

_MOST_CHUNKS = 64
_FILLER = 64  # bytes after the sound that are no chunk and no sound either


def wav_options(path: Path) -> dict[str, str]:
    """What the decoder must be told so that it reads all of a WAV file; nothing for other files."""
    try:
        with path.open("rb") as file:
            size = path.stat().st_size
            if file.read(4) != b"RIFF" or (file.read(4), file.read(4))[1] != b"WAVE":
                return {}
            for _ in range(_MOST_CHUNKS):
                head = file.read(8)
                if len(head) < 8:
                    return {}
                name, length = struct.unpack("<4sI", head)
                if name == b"data":
                    return {"ignore_length": "1"} if _goes_on(file, length, size) else {}
                file.seek(length + length % 2, 1)
    except OSError:
        return {}
    return {}


def _goes_on(file, length: int, size: int) -> bool:
    """Whether what follows the sound is no chunk of its own, but more sound."""
    end = file.tell() + length
    if size - end <= _FILLER:
        return False
    file.seek(end + length % 2)
    head = file.read(8)
    name, following = struct.unpack("<4sI", head) if len(head) == 8 else (b"", 0)
    printable = bool(name) and all(32 <= byte < 127 for byte in name)
    return not (printable and file.tell() + following <= size + 1)
