"""Start the application."""

from __future__ import annotations

import builtins
import contextlib
import gc
import os
import re
import socket
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import desktop_language, speak, spoken, tr
from dubrel.base.errors import DubrelError
from dubrel.desktopentry import DESKTOP_ID, ICONS
from dubrel.user.log import set_up_log

if TYPE_CHECKING:
    from PySide6.QtGui import QIcon
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.core.session import Session
    from dubrel.desk.shell.frame.window import MainWindow


def run(paths: Sequence[Path] = (), media: Path | None = None) -> int:
    """Show the window, with files if some are given, and the recording that one belongs to.

    A project that a window has open already brings that window to the front.

    Raises
    ------
    DubrelError
        If there is no display.
    """
    _need_display()
    set_up_log()
    from dubrel.desk.shell.frame.oneinstance import raised_elsewhere

    if len(paths) == 1 and raised_elsewhere(paths[0]):
        return 0
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    read_no_sources()

    _speak()
    from dubrel.desk.access.factory import install
    from dubrel.desk.shell.core.background import Background, load_early
    from dubrel.desk.shell.kit.theme import load_fonts

    app = QApplication.instance() or QApplication([*sys.argv[:1], "-style", "Fusion"])
    assert isinstance(app, QApplication)
    sys.setswitchinterval(0.0005)  # the interface gets its turn at once while a thread computes
    app.setApplicationName("Dubrel")
    app.setDesktopFileName(DESKTOP_ID)
    app.setWindowIcon(_icon())
    _translate_library(app)
    load_fonts()
    install()
    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.desktoplook import take_scale, theme_of
    from dubrel.desk.shell.kit.guard import errors, tell
    from dubrel.packages import problems
    from dubrel.user.kept import DamageSaid
    from dubrel.user.settings import SETTINGS

    settings = SETTINGS.read()
    take_scale(settings)  # before there are widgets: each takes its size once
    window = MainWindow(theme_of(settings), make_rooms)
    sys.excepthook = lambda kind, error, trace: tell(error)
    _open(window, paths, media)
    window.show()
    QTimer.singleShot(0, window.show_focus)
    QTimer.singleShot(150, lambda: DamageSaid(errors().said.emit))
    packages = Background(window)
    QTimer.singleShot(
        900, partial(packages.ask, problems, lambda said: window.say(" ".join(said)) if said else None)
    )
    QTimer.singleShot(200, gc.freeze)  # what is there at the start stays
    QTimer.singleShot(400, lambda: window.prepare(load_early()))
    return app.exec()


def _speak() -> None:
    """Choose the language before any module looks its texts up."""
    from dubrel.user.settings import SETTINGS

    wished = SETTINGS.read().language
    speak(desktop_language() if wished == "system" else wished)


def _translate_library(app: QApplication) -> None:
    """The library's own texts, such as those of its buttons, in the same language."""
    from PySide6.QtCore import QLibraryInfo, QTranslator

    names = {"pt": "qtbase_pt_BR", "es": "qtbase_es"}
    made = QTranslator(app)
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    if made.load(names.get(spoken(), ""), folder):
        app.installTranslator(made)


def _open(window: MainWindow, paths: Sequence[Path], media: Path | None) -> None:
    """Open what was given, or show the start page; listen for who opens the same again."""
    from PySide6.QtCore import QTimer

    from dubrel.desk.shell.frame.oneinstance import OneInstance, OnTheBus

    opened = window.filing.open_path(paths[0], media) if len(paths) == 1 else False
    if len(paths) > 1:
        opened = window.filing.open_many(paths)
    if not opened:
        window.show_start()
    else:
        QTimer.singleShot(600, window.starting.refresh)
    one = OneInstance(window)
    window.session.opened.connect(lambda: one.listen(window.session.path))
    window.session.saved_changed.connect(lambda: one.listen(window.session.path))
    one.listen(window.session.path)
    one.wanted.connect(window.come_to_front)
    window.desk.stopping.append(one.close)
    bus = OnTheBus(window)
    bus.wanted.connect(window.come_to_front)
    bus.opening.connect(partial(_open_too, window))
    QTimer.singleShot(300, bus.register)


def _open_too(window: MainWindow, paths: Sequence[Path], leave: str) -> None:
    """Open files in the window that has them, in this one where nothing is open, or in another."""
    from PySide6.QtCore import QProcess, QProcessEnvironment
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.frame.oneinstance import TOKEN, raised_elsewhere

    own = window.session.path
    if not paths or (len(paths) == 1 and own is not None and own.resolve() == paths[0].resolve()):
        window.come_to_front(leave)
    elif gone := next((one for one in paths if not one.exists()), None):
        window.filing.open_path(gone)  # which says what is wrong, and ends nothing
        window.come_to_front(leave)
    elif len(paths) == 1 and raised_elsewhere(paths[0], leave):
        return
    elif _nothing_open(window.session) and QApplication.activeModalWidget() is None:
        window.filing.open_many(paths)
        window.come_to_front(leave)
    else:
        another = QProcess()
        around = QProcessEnvironment.systemEnvironment()
        around.insert(TOKEN, leave)
        another.setProcessEnvironment(around)
        another.setProgram(sys.executable)
        another.setArguments(["-m", "dubrel", *map(str, paths)])
        another.startDetached()


def _nothing_open(session: Session) -> bool:
    project = session.project
    there = session.path or project.media or project.transcript.turns or project.tracks
    return not there and not session.history.depth


def read_no_sources() -> None:
    """Spare the library a look at every import, in search of a switch that none of ours has.

    It takes the place of the import statement, and reads the source of each module
    that is loaded to see whether it uses the library. It keeps the statement's own
    way, which is put back: nothing is switched then, as for any module without the switch.
    """
    if (own := getattr(builtins, "__orig_import__", None)) is not None:
        builtins.__import__ = own


def run_demo() -> int:
    """Show the window with the demo project."""
    from dubrel.demofiles import demo_project

    return run([demo_project()])


def _icon() -> QIcon:
    """The icon in the sizes in which it is shown."""
    from PySide6.QtGui import QIcon

    icon = QIcon()
    for path in sorted(ICONS.glob("*.png")):
        icon.addFile(str(path))
    return icon


def _need_display() -> None:
    """Say in a sentence what the toolkit would end the process about."""
    if os.environ.get("QT_QPA_PLATFORM", "") not in ("", "xcb", "wayland"):
        return
    shown, wayland = os.environ.get("DISPLAY", ""), os.environ.get("WAYLAND_DISPLAY", "")
    if not shown and not wayland:
        raise DubrelError(
            tr("There is no display. Start Dubrel in a desktop session, or use dubrel --help for commands.")
        )
    if not _answers(shown, wayland):
        raise DubrelError(
            tr(
                "The display “{shown}” does not answer. Check DISPLAY and "
                "WAYLAND_DISPLAY, or start Dubrel in a desktop session."
            ).format(shown=shown or wayland)
        )


def _answers(shown: str, wayland: str) -> bool:
    """Whether somebody listens where a display is said to be; one on another machine is believed."""
    places = []
    if wayland:
        runtime = Path(os.environ.get("XDG_RUNTIME_DIR", "/"))
        places.append(wayland if wayland.startswith("/") else str(runtime / wayland))
    if found := re.fullmatch(r"(?:unix)?:(\d+)(?:\.\d+)?", shown):
        name = f"/tmp/.X11-unix/X{found[1]}"
        places += [name, f"\0{name}"]
    elif shown:
        return True
    for place in places:
        with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as line:
            line.settimeout(2.0)
            line.connect(place)
            return True
    return False
