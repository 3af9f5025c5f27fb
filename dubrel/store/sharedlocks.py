"""Who has a project open on a folder that several machines share: a small file beside it says so.

The locks of this machine end with their process; those of another cannot be seen. So whoever has a
project open on a network folder writes down who, where and since when, and gives a sign of life once
a minute. Without one for three minutes the lock is dead, and the next one takes it over.
"""

from __future__ import annotations

import contextlib
import json
import os
import socket
import threading
import time
from pathlib import Path

from dubrel.base.value import Value, asdict

_SIGN_S, _DEAD_S = 60.0, 180.0
_MOST_BYTES = 4096
_NETWORK = ("nfs", "nfs4", "cifs", "smb3", "smbfs", "fuse.sshfs", "fuse.rclone", "9p", "afs", "ceph", "davfs")


class Holder(Value):
    """Who has a project open.

    Attributes
    ----------
    who, host : str
    pid : int
    since : float
        In seconds since the epoch.
    """

    who: str
    host: str
    pid: int
    since: float

    def __str__(self) -> str:
        name = f"{self.who} on {self.host}" if self.who else self.host
        then, now = time.localtime(self.since), time.localtime()
        return f"{name}, since {time.strftime('%H:%M' if then[:3] == now[:3] else '%-d %B, %H:%M', then)}"


def lock_path(path: Path) -> Path:
    """The file beside a project that says who has it open."""
    return path.with_name(f".{path.name}.open")


def is_shared(folder: Path, mounts: str = "/proc/mounts") -> bool:
    """Whether a folder is on a network, as far as this system tells."""
    try:
        rows = [line.split() for line in Path(mounts).read_text(errors="replace").splitlines()]
        real = folder.resolve()
    except OSError:
        return False
    found = ("", "")
    for row in rows:
        where = row[1].replace("\\040", " ") if len(row) > 2 else ""
        if where and real.is_relative_to(where) and len(where) >= len(found[0]):
            found = (where, row[2])
    return found[1] in _NETWORK


def holder_of(path: Path) -> Holder | None:
    """Who has a project open on another machine; ``None`` for nobody who gives a sign of life."""
    lock = lock_path(path)
    try:
        if time.time() - lock.stat().st_mtime > _DEAD_S:
            return None
        with lock.open("rb") as file:
            value = json.loads(file.read(_MOST_BYTES))
        found = Holder(str(value["who"]), str(value["host"]), int(value["pid"]), float(value["since"]))
    except (OSError, ValueError, KeyError, TypeError, OverflowError):
        return None
    return None if found.host == socket.gethostname() else found  # this machine has locks of its own


class SharedLock:
    """A project on a network folder that is ours.

    Parameters
    ----------
    path : Path
    who : str
        The name of the user.
    """

    def __init__(self, path: Path, who: str) -> None:
        self._lock, self._ended = lock_path(path), threading.Event()
        own = Holder(who, socket.gethostname(), os.getpid(), time.time())
        self._said = json.dumps(asdict(own), ensure_ascii=False)
        with contextlib.suppress(OSError):  # work goes before caution
            part = self._lock.with_name(f"{self._lock.name}.{os.getpid()}")
            part.write_text(self._said, encoding="utf-8")
            part.replace(self._lock)
            threading.Thread(target=self._live, name="shared lock", daemon=True).start()

    def _live(self) -> None:
        while not self._ended.wait(_SIGN_S):
            with contextlib.suppress(OSError):
                os.utime(self._lock)

    def release(self) -> None:
        """Let others have it; a lock that another one has taken over stays."""
        self._ended.set()
        with contextlib.suppress(OSError):
            if self._lock.read_text(encoding="utf-8") == self._said:
                self._lock.unlink()
