"""What is known of each caption or word, kept up by what changed and worked out in slices of idle time."""

from __future__ import annotations

import time
from collections.abc import Iterable

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.desk.shell.core.session import Session
from dubrel.project.changes import Change

_SLICE_S, _TELL_S, _WAIT_MS = 0.005, 0.1, 20


class Follower(QObject):
    """Follows the session; what it has to look at waits until the interface is idle.

    Signals
    -------
    counted()
        The numbers changed.
    """

    counted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._waiting: dict[int, None] = {}
        self._told = 0.0
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._work)
        session.changed.connect(self._on_changed)

    def _on_changed(self, change: Change) -> None:
        raise NotImplementedError

    def _check(self, one: int) -> None:
        """Look at one caption, by its id."""
        raise NotImplementedError

    def _is_ready(self) -> bool:
        """Whether what looking needs is loaded."""
        return True

    def _wait_for(self, ids: Iterable[int]) -> None:
        self._waiting |= dict.fromkeys(ids)
        self._timer.start()

    def _next(self) -> bool:
        """Look at the next; whether there was one."""
        if not self._waiting:
            return False
        one = next(iter(self._waiting))
        del self._waiting[one]
        self._check(one)
        return True

    def settle(self) -> None:
        """Finish what is waiting, now."""
        while self._next():
            pass
        self._timer.stop()
        self.counted.emit()

    def close(self) -> None:
        """Look no more."""
        self._timer.stop()

    def _work(self) -> None:
        self._timer.setInterval(0 if self._is_ready() else _WAIT_MS)
        if not self._is_ready():
            return
        until = time.monotonic() + _SLICE_S
        while time.monotonic() < until:
            if not self._next():
                self._timer.stop()
                break
        if not self._timer.isActive() or time.monotonic() > self._told + _TELL_S:
            self._told = time.monotonic()
            self.counted.emit()
