"""Look, beside the interface, whether an opened recording is the one the project was made with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.shell.core.background import Background
from dubrel.model import Media

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
        self._background = Background(self, newest=True)
        self._begin = QTimer(self, interval=_FIRST_FRAME_MS, singleShot=True)
        self._begin.timeout.connect(self._submit)
        self._asked: tuple[Media, Path] | None = None

    @property
    def busy(self) -> bool:
        """Whether a recording is being looked at, or is about to be."""
        return self._background.busy or self._begin.isActive()

    def begin(self, media: Media, path: Path) -> None:
        """Look at a recording; one that was being looked at is forgotten."""
        self.stop()
        self._asked = (media, path)
        self._begin.start()

    def _submit(self) -> None:
        assert self._asked is not None
        media, path = self._asked
        outdated = self._background.outdated()
        self._background.ask(lambda: _look(media, path, outdated), self._take)

    def stop(self) -> None:
        """Look no further."""
        self._background.forget()
        self._begin.stop()

    def _take(self, result: tuple[Media, bool] | None) -> None:
        if result is not None:
            self.found.emit(*result)


def _look(media: Media, path: Path, stop: Callable[[], bool]) -> tuple[Media, bool] | None:
    """The recording as it is, and whether it is the same; ``None`` where it cannot be read.

    Of one that another file stands in for it is where the recording itself is, if that is near.
    """
    from dubrel.media.fingerprint import (  # late: the window opens without it
        full_recording,
        is_same_recording,
        seen,
    )
    from dubrel.media.standin import stands_in_for

    try:
        if media.fingerprint and stands_in_for(path) == media.fingerprint:
            full = full_recording(media, path, stop)
            return (media if full is None else replace(media, path=str(full))), True
        now = seen(media, path, stop)
        same = now.fingerprint == media.fingerprint if len(media.fingerprint) == 64 else None
        return now, is_same_recording(media, path, stop) if same is None else same
    except (DubrelError, OSError):
        return None
