"""One owner at a time: of a project file, of the queue. A lock ends with its process, whatever ends that."""

from __future__ import annotations

import contextlib
import fcntl
import os
import re
import zlib
from pathlib import Path

from dubrel.base.files import private_folder
from dubrel.base.folders import state_folder
from dubrel.store.sharedlocks import SharedLock, holder_of, is_shared


class Claim:
    """Something that is ours until the claim is released."""

    def __init__(self, *handles: int) -> None:
        self._handles = list(handles)
        self._shared: SharedLock | None = None

    def share(self, path: Path, who: str) -> None:
        """Say to other machines that it is ours, where they can see it."""
        if is_shared(path.parent):
            self._shared = SharedLock(path, who)

    def give_up(self) -> None:
        """Let others have it."""
        while self._handles:
            os.close(self._handles.pop())
        if self._shared is not None:
            self._shared.release()
            self._shared = None


def claim(thing: str | Path, who: str = "") -> Claim | None:
    """Claim a file, or something by its name, for this window.

    Parameters
    ----------
    thing : str or Path
    who : str
        The name of the user, for other machines that see the same folder.

    Returns
    -------
    Claim or None
        ``None`` where another window on this machine has it, by whatever name, or
        another machine.
        Where no lock can be made at all (a full disk), the claim stands: work
        goes before caution.
    """
    names, made = [str(thing.resolve()) if isinstance(thing, Path) else thing], Claim()
    if isinstance(thing, Path):
        with contextlib.suppress(OSError):
            found = thing.stat()
            if found.st_nlink > 1:  # a second name of the same file is no other file
                names.append(f"inode {found.st_dev} {found.st_ino}")
    for name in names:
        handle = _locked(name)
        if handle is None:
            made.give_up()
            return None
        made = Claim(*made._handles, *([handle] if handle >= 0 else []))
    if isinstance(thing, Path):
        if holder_of(thing) is not None:
            made.give_up()
            return None
        made.share(thing, who)
    return made


def _locked(name: str) -> int | None:
    """The handle of a lock by name; ``None`` where another one has it, -1 where none can be made."""
    data = name.encode("utf-8", "surrogateescape")
    shown = re.sub("[^A-Za-z0-9]", "-", name[-60:])
    known = f"{zlib.crc32(data):08x}{zlib.adler32(data):08x}{len(data):x}-{shown}"
    handle = -1
    try:
        private_folder(state_folder())
        folder = private_folder(state_folder() / "locks")
        handle = os.open(folder / f"{known}.lock", os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
    except OSError:
        return -1
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(handle)
        return None
    except OSError:  # a folder elsewhere, without locks
        with contextlib.suppress(OSError):
            os.close(handle)
        return -1
    return handle
