"""Look, beside the interface, whether the recording that was opened is the one that the project was made with."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.errors import DubrelError
from dubrel.desk.shell.aside import load_qt
from dubrel.model import Media

_POLL_MS = 50
_FIRST_FRAME_MS = 400  # the file is read after what was opened has been drawn


class RecordingCheck(QObject):
    """Reads the whole file in a thread of its own.

    Signals
    -------
    found(Media, bool)
        The recording with what its file is now, and whether it is the same.
    """

    found = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="recording")
        self._future: Future[tuple[Media, bool] | None] | None = None
        self._begin = QTimer(self, interval=_FIRST_FRAME_MS, singleShot=True)
        self._begin.timeout.connect(self._submit)
        self._asked: tuple[Media, Path] | None = None
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)
        self._turn = 0

    def begin(self, media: Media, path: Path) -> None:
        """Look at a recording; one that was being looked at is forgotten."""
        self.stop()
        self._asked = (media, path)
        self._begin.start()

    def _submit(self) -> None:
        assert self._asked is not None
        load_qt()
        turn = self._turn
        self._future = self._pool.submit(_look, *self._asked, lambda: turn != self._turn)
        self._timer.start()

    def stop(self) -> None:
        """Look no further."""
        self._turn += 1
        self._future = None
        self._timer.stop()
        self._begin.stop()

    def _poll(self) -> None:
        if self._future is None or not self._future.done():
            return
        self._timer.stop()
        result, self._future = self._future.result(), None
        if result is not None:
            self.found.emit(*result)


def _look(media: Media, path: Path, stop: Callable[[], bool]) -> tuple[Media, bool] | None:
    """The recording as it is, and whether it is the same; ``None`` where it cannot be read."""
    from dubrel.media.identity import is_same_recording, seen  # late: the window opens without it

    try:
        now = seen(media, path, stop)
        same = now.fingerprint == media.fingerprint if len(media.fingerprint) == 64 else None
        return now, is_same_recording(media, path, stop) if same is None else same
    except (DubrelError, OSError):
        return None
