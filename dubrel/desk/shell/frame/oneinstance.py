"""One window for a project: whoever opens it a second time brings the first to the front."""

from __future__ import annotations

import contextlib
import hashlib
import os
import socket
import tempfile
from pathlib import Path

from PySide6.QtCore import QObject, QSocketNotifier, Signal

_RAISE = b"raise\n"
_ANSWER_S = 1.0


def _address(path: Path) -> Path:
    """Where the window of a project listens: of this user alone."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    folder = Path(runtime) if runtime else Path(tempfile.gettempdir()) / f"dubrel-{os.getuid()}"
    digest = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:24]
    return folder / f"dubrel-{digest}"


def raised_elsewhere(path: Path) -> bool:
    """Bring the window that has a project open to the front; whether there is one."""
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as line:
        line.settimeout(_ANSWER_S)
        line.connect(str(_address(path)))
        line.sendall(_RAISE)
        return line.recv(16) == _RAISE
    return False


def _somebody_listens(address: Path) -> bool:
    """Whether a window has the project open already: the first stays the one that is raised."""
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as line:
        line.settimeout(_ANSWER_S)
        line.connect(str(address))
        return True
    return False


class OneInstance(QObject):
    """Listens for others that open the project of this window.

    Signals
    -------
    wanted()
        Somebody opened it again: the window is to come to the front.
    """

    wanted = Signal()

    def __init__(self, owner: QObject) -> None:
        super().__init__(owner)
        self._line: socket.socket | None = None
        self._address: Path | None = None
        self._notifier: QSocketNotifier | None = None

    def listen(self, path: Path | None) -> None:
        """Listen for a project from now on, and no longer for another."""
        address = _address(path) if path is not None else None
        if address == self._address:
            return
        self.close()
        if address is None or _somebody_listens(address):
            return
        line = socket.socket(socket.AF_UNIX)
        try:
            address.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with contextlib.suppress(FileNotFoundError):
                address.unlink()  # of a window that was killed
            line.bind(str(address))
            line.listen(2)
        except OSError:  # no place to listen: two windows are no reason to open none
            line.close()
            return
        line.setblocking(False)
        self._line, self._address = line, address
        self._notifier = QSocketNotifier(line.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._answer)

    def _answer(self) -> None:
        if self._line is None:
            return
        with contextlib.suppress(OSError):
            other, _ = self._line.accept()
            with other:
                other.settimeout(_ANSWER_S)
                if other.recv(16) == _RAISE:
                    other.sendall(_RAISE)
                    self.wanted.emit()

    def close(self) -> None:
        """Listen no longer."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier = None
        if self._line is not None:
            self._line.close()
        if self._address is not None:
            with contextlib.suppress(OSError):
                self._address.unlink()
        self._line = self._address = None
