"""The journal: what is not saved yet, on the disk within a second, at the cost of what changed.

One folder for each open project in the user's state folder, private to the user:

``meta.json``
    What it belongs to (see :class:`Meta`).
``base.dubrel``
    A copy of the project file that was opened or saved last; none for a new project.
``log``
    One line a step: a checksum, a space, JSON. A line that was cut off by a crash
    is known by its checksum, and what stands before it counts.
``lock``
    Locked as long as the application lives.

The interface only puts a value down; a thread compares, writes and flushes.
"""

from __future__ import annotations

import contextlib
import fcntl
import logging
import os
import shutil
import threading
import time
import zlib
from collections.abc import Callable
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import cause_of, private_folder, write_atomically, write_text
from dubrel.base.folders import state_folder
from dubrel.base.value import Value, asdict, replace
from dubrel.model import Project
from dubrel.store.deltas import delta
from dubrel.store.projectjson import dumps

_EVERY_S = 0.25
_MOST_LOG_BYTES = 24 << 20


class Meta(Value):
    """What a journal belongs to.

    Attributes
    ----------
    kind : str
        ``desk``, or ``recording`` for one that the queue or the command line transcribes.
    began : float
        Seconds since the epoch.
    path : str
        The project file, or where the result was to go; empty for none.
    base : tuple of int
        Size and time of change of the project file that ``base.dubrel`` copies.
    recording : str
        The recording that is transcribed, or that is being made for the project while it is open.
    """

    kind: str = "desk"
    began: float = 0.0
    path: str = ""
    base: tuple[int, int] = (0, 0)
    recording: str = ""


def journals_folder() -> Path:
    """Where the journals are."""
    return state_folder() / "journal"


def identity(path: Path) -> tuple[int, int]:
    """Size and time of change of a file; zeros where it is not there."""
    try:
        found = path.stat()
    except OSError:
        return (0, 0)
    return (found.st_size, found.st_mtime_ns)


class Journal:
    """Keeps up with one open project.

    Parameters
    ----------
    project : Project
        The value that stands in ``path``, or an empty one.
    path : Path or None
    kind, recording : str
        See :class:`Meta`.
    problem : callable
        Gets a sentence, from the thread, when nothing can be written any more.
    copies : bool
        Whether ``path`` holds exactly ``project``, so that its copy will do.
    """

    def __init__(
        self,
        project: Project,
        path: Path | None = None,
        *,
        kind: str = "desk",
        recording: str = "",
        problem: Callable[[str], object] = lambda text: None,
        copies: bool = True,
    ) -> None:
        self._written, self._latest = project, project
        self._path, self._problem, self._copies = path, problem, copies
        self._meta = Meta(kind, time.time(), str(path or ""), identity(path) if path else (0, 0), recording)
        self._folder: Path | None = None
        self._log = self._lock = -1
        self._size = 0
        self._failed = False
        self._wake = threading.Event()
        self._writing = threading.Lock()
        self._thread: threading.Thread | None = None
        self._closed = False

    def offer(self, project: Project) -> None:
        """Put the present value down; it is written soon."""
        self._latest = project
        if self._wake.is_set() or self._closed:
            return
        self._wake.set()
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
            self._thread.start()

    def recording_to(self, path: Path) -> None:
        """Say which recording is being made for the project."""
        with self._writing:
            self._meta = replace(self._meta, recording=str(path))
            if self._folder is not None:
                self._write_meta()
        self.offer(self._latest)

    def flush(self) -> bool:
        """Write now what was put down; whether it is on the disk."""
        with self._writing:
            return self._write()

    @property
    def folder(self) -> Path | None:
        """Where it is written, once anything is."""
        return self._folder

    def close(self, *, keep: bool = False) -> None:
        """End; what was written is removed unless it is to be kept."""
        self._closed = True
        self._wake.set()
        with self._writing:
            if keep:
                self._write()
            for handle in (self._log, self._lock):
                if handle >= 0:
                    os.close(handle)
            self._log = self._lock = -1
            if self._folder is not None and not keep:
                shutil.rmtree(self._folder, ignore_errors=True)
            self._folder = None

    # -- the thread -----------------------------------------------------------------

    def _run(self) -> None:
        while not self._closed:
            self._wake.wait()
            time.sleep(_EVERY_S)
            self._wake.clear()
            with self._writing:
                if not self._closed:
                    self._write()

    def _write(self) -> bool:
        latest = self._latest
        if latest is self._written and not (self._meta.recording and self._folder is None):
            return True
        try:
            if self._folder is None or self._size > _MOST_LOG_BYTES:
                self._begin()
            if latest is not self._written:
                self._append(dumps({"at": time.time(), **delta(self._written, latest)}))
        except (OSError, DubrelError, ValueError) as error:
            if not self._failed:
                logging.warning("journal", exc_info=True)
                self._problem(
                    tr("What is not saved cannot be kept safe: {error}. Save your work.").format(
                        error=_why(error)
                    )
                )
            self._failed = True
            return False
        self._written, self._failed = latest, False
        return True

    def _begin(self) -> None:
        """Make the folder, and in it what the first line stands on."""
        name = time.strftime("%Y%m%d-%H%M%S", time.localtime(self._meta.began))
        private_folder(state_folder())
        private_folder(journals_folder())
        folder = journals_folder() / f"{name}-{os.getpid()}-{os.urandom(3).hex()}"
        made = folder.with_name(f".{folder.name}")
        made.mkdir(mode=0o700)
        try:
            lock = os.open(made / "lock", os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            self._write_base(made)
            flags = os.O_CREAT | os.O_WRONLY | os.O_APPEND | os.O_CLOEXEC
            log = os.open(made / "log", flags, 0o600)
            write_text(made / "meta.json", dumps(asdict(self._meta)), private=True)
            made.rename(folder)
        except BaseException:
            shutil.rmtree(made, ignore_errors=True)
            raise
        earlier = self._folder, self._log, self._lock
        self._folder, self._log, self._lock, self._size = folder, log, lock, 0
        if earlier[0] is not None:
            os.close(earlier[1])
            os.close(earlier[2])
            shutil.rmtree(earlier[0], ignore_errors=True)

    def _write_base(self, folder: Path) -> None:
        """What the log begins with: a copy of the file where it is that, else the value itself."""
        first = self._folder is None
        if first and self._path is None and self._written == Project():
            return
        target = folder / "base.dubrel"
        if first and self._copies and self._path is not None and identity(self._path) == self._meta.base:
            source = self._path
            write_atomically(target, lambda file: file.write(source.read_bytes()), private=True)
            return
        from dubrel.store.projectfile import save  # it knows the journal's folder by no name

        save(self._written, target)
        target.chmod(0o600)

    def _write_meta(self) -> None:
        assert self._folder is not None
        with contextlib.suppress(DubrelError):
            write_text(self._folder / "meta.json", dumps(asdict(self._meta)), private=True)

    def _append(self, text: str) -> None:
        """One line, whole or not at all."""
        data = text.encode()
        line = b"%08x " % zlib.crc32(data) + data + b"\n"
        try:
            done = 0
            while done < len(line):
                done += os.write(self._log, line[done:])
            os.fsync(self._log)
        except OSError:
            with contextlib.suppress(OSError):
                os.ftruncate(self._log, self._size)
            raise
        self._size += len(line)


def _why(error: Exception) -> str:
    cause = error if isinstance(error, OSError) else error.__cause__
    return cause_of(cause if isinstance(cause, OSError) else error)
