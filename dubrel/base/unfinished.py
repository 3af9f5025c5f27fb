"""Files that are being written, so that what a killed process left is removed at the next start.

Each process notes in a folder of its own, under the user's state folder, the
temporary files that it writes elsewhere; work that needs no place of its own is
done in that folder. A lock that ends with the process tells whether it lives.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

from dubrel.base.folders import state_folder

_LOCK = "lock"


class _Own:
    """The folder of this process, made when it is first needed."""

    def __init__(self) -> None:
        self.pid, self.folder, self.lock = 0, Path(), -1

    def made(self) -> Path:
        """The folder, locked for as long as the process lives; one of its own after a fork."""
        if self.pid != os.getpid() or not self.folder.is_dir():
            root = unfinished_folder()
            root.mkdir(parents=True, exist_ok=True, mode=0o700)
            folder = root / f"{os.getpid()}-{os.urandom(4).hex()}"
            hidden = root / f".{folder.name}"  # no other start may take it before it is locked
            hidden.mkdir(mode=0o700)
            lock = os.open(hidden / _LOCK, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            hidden.rename(folder)
            self.pid, self.folder, self.lock = os.getpid(), folder, lock
        return self.folder


_own = _Own()


def unfinished_folder() -> Path:
    """Where processes note what they write."""
    return state_folder() / "unfinished"


@contextlib.contextmanager
def noted(path: Path) -> Iterator[None]:
    """Note a temporary file as long as it is written.

    Removed at the next start where this process is killed.
    """
    import hashlib  # late: the window opens without it

    mark = None
    with contextlib.suppress(OSError):  # a full disk: the work itself says so
        name = hashlib.sha256(os.fsencode(path)).hexdigest()[:24]
        mark = _own.made() / name
        mark.write_bytes(os.fsencode(path.absolute()))
    try:
        yield
    finally:
        if mark is not None:
            mark.unlink(missing_ok=True)


@contextlib.contextmanager
def work_folder() -> Iterator[Path]:
    """A folder that only the user may look into, gone when it is left.

    Raises
    ------
    OSError
        If it cannot be made.
    """
    folder = _own.made() / f"work-{os.urandom(4).hex()}"
    folder.mkdir(mode=0o700)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def clean_up() -> list[Path]:
    """Remove what processes left that were killed; the files that were removed beside their places."""
    found: list[Path] = []
    try:
        folders = sorted(unfinished_folder().iterdir())
    except OSError:
        return found
    for folder in folders:
        if folder.name.startswith(".") or not _is_dead(folder):
            continue
        for mark in folder.iterdir():
            if mark.is_file() and mark.name != _LOCK:
                part = Path(os.fsdecode(mark.read_bytes()))
                with contextlib.suppress(OSError):
                    part.unlink()
                    found.append(part)
        shutil.rmtree(folder, ignore_errors=True)
    return found


def _is_dead(folder: Path) -> bool:
    try:
        lock = os.open(folder / _LOCK, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(lock)
    return True
