"""One owner at a time: of a project file, of the queue. A lock ends with its process, whatever ends that."""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import zlib
from pathlib import Path

from dubrel.files import private_folder
from dubrel.store.journal import state_folder


class Claim:
    """Something that is ours as long as the claim is not given up."""

    def __init__(self, handle: int) -> None:
        self._handle = handle

    def give_up(self) -> None:
        """Let others have it."""
        if self._handle >= 0:
            os.close(self._handle)
            self._handle = -1


def claim(thing: str | Path) -> Claim | None:
    """Claim a file, or something by its name, for this window.

    Returns
    -------
    Claim or None
        ``None`` where another window on this machine has it. Where no lock can
        be made at all (a full disk), the claim stands: work goes before caution.
    """
    name = str(thing.resolve()) if isinstance(thing, Path) else thing
    data = name.encode("utf-8", "surrogateescape")
    known = f"{zlib.crc32(data):08x}{zlib.adler32(data):08x}{len(data):x}-{re.sub('[^A-Za-z0-9]', '-', name[-60:])}"
    handle = -1
    try:
        private_folder(state_folder())
        folder = private_folder(state_folder() / "locks")
        handle = os.open(folder / f"{known}.lock", os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
    except OSError:
        return Claim(-1)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        return None
    except OSError:  # a folder elsewhere, without locks
        with contextlib.suppress(OSError):
            os.close(handle)
        return Claim(-1)
    return Claim(handle)
