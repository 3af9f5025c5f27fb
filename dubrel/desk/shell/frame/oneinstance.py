"""One window for a project: whoever opens it a second time brings the first to the front.

Windows are found by a socket for each project, which needs nothing but the machine.
Where there is a session bus, a desktop can ask the running application too, by the
interface of the Desktop Entry Specification.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import socket
import tempfile
from pathlib import Path

from PySide6.QtCore import ClassInfo, QObject, QSocketNotifier, QUrl, Signal, Slot

from dubrel.desktopentry import DESKTOP_ID

TOKEN = "XDG_ACTIVATION_TOKEN"
"""Where a desktop leaves its leave to come to the front; the library looks for it there."""
_RAISE, _MOST = b"raise", 400
_ANSWER_S = 1.0


def _address(path: Path) -> Path:
    """Where the window of a project listens: of this user alone."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    folder = Path(runtime) if runtime else Path(tempfile.gettempdir()) / f"dubrel-{os.getuid()}"
    digest = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:24]
    return folder / f"dubrel-{digest}"


def raised_elsewhere(path: Path, leave: str = "") -> bool:
    """Bring the window that has a project open to the front; whether there is one.

    The desktop's leave to come to the front is handed on: that given, or that which this process got.
    """
    with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as line:
        line.settimeout(_ANSWER_S)
        line.connect(str(_address(path)))
        line.sendall(_RAISE + b" " + (leave or os.environ.get(TOKEN, "")).encode()[: _MOST - 40])
        return line.recv(_MOST) == _RAISE
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
    wanted(str)
        Somebody opened it again: the window is to come to the front, with the desktop's leave for it.
    """

    wanted = Signal(str)

    def __init__(self, owner: QObject) -> None:
        super().__init__(owner)
        self.line: socket.socket | None = None
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
        self.line, self._address = line, address
        self._notifier = QSocketNotifier(line.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._answer)

    def _answer(self) -> None:
        if self.line is None:
            return
        with contextlib.suppress(OSError):
            other, _ = self.line.accept()
            with other:
                other.settimeout(_ANSWER_S)
                asked, _, token = other.recv(_MOST).partition(b" ")
                if asked == _RAISE:
                    other.sendall(_RAISE)
                    self.wanted.emit(token.decode(errors="replace"))

    def close(self) -> None:
        """Listen no longer."""
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier = None
        if self.line is not None:
            self.line.close()
        if self._address is not None:
            with contextlib.suppress(OSError):
                self._address.unlink()
        self.line = self._address = None


@ClassInfo({"D-Bus Interface": "org.freedesktop.Application"})  # type: ignore[call-arg]
class OnTheBus(QObject):  # type: ignore[operator]
    """What a desktop asks of an application that runs, or that the bus has started for it.

    Signals
    -------
    wanted(str)
        The window is to come to the front, with the desktop's leave for it.
    opening(list, str)
        Files are to be opened.
    """

    wanted = Signal(str)
    opening = Signal(list, str)

    def register(self) -> bool:
        """Be there under the name of the application; whoever came first goes first."""
        runtime = os.environ.get("XDG_RUNTIME_DIR", "")
        if not os.environ.get("DBUS_SESSION_BUS_ADDRESS") and not (Path(runtime) / "bus").exists():
            return False  # the library would start a bus
        from PySide6.QtDBus import QDBusConnection, QDBusConnectionInterface  # late: after the first frame

        bus = QDBusConnection.sessionBus()
        if not bus.isConnected():
            return False
        everything = QDBusConnection.RegisterOption.ExportAllSlots
        place = "/" + DESKTOP_ID.replace(".", "/")
        if not bus.registerObject(place, self, everything):
            return False
        waits = QDBusConnectionInterface.ServiceQueueOptions.QueueService
        stays = QDBusConnectionInterface.ServiceReplacementOptions.DontAllowReplacement
        bus.interface().registerService(DESKTOP_ID, waits, stays)
        return True

    @Slot("QVariantMap")
    def Activate(self, data: dict[str, object]) -> None:
        """Come to the front."""
        self.wanted.emit(_leave(data))

    @Slot("QStringList", "QVariantMap")
    def Open(self, places: list[str], data: dict[str, object]) -> None:
        """Open files."""
        urls = [QUrl(one) for one in places]
        self.opening.emit([Path(one.toLocalFile()) for one in urls if one.isLocalFile()], _leave(data))

    @Slot(str, "QVariantList", "QVariantMap")
    def ActivateAction(self, name: str, values: list, data: dict[str, object]) -> None:
        """The menu entry has no actions: come to the front."""
        self.wanted.emit(_leave(data))


def _leave(data: dict[str, object]) -> str:
    """The desktop's leave to come to the front."""
    return str(data.get("activation-token") or data.get("desktop-startup-id") or "")
