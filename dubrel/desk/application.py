"""Start the application."""

from __future__ import annotations

import gc
import os
import sys
from functools import partial
from pathlib import Path

from dubrel.base.errors import DubrelError
from dubrel.base.log import set_up_log


def run(path: Path | None, media: Path | None = None) -> int:
    """Show the window, with a file if one is given, and the recording that it belongs to.

    Raises
    ------
    DubrelError
        If there is no display.
    """
    _need_display()
    set_up_log()
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    _read_no_sources()

    from dubrel.desk.access.factory import install
    from dubrel.desk.shell.core.background import Background, load_early
    from dubrel.desk.shell.kit.theme import load_fonts

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    sys.setswitchinterval(0.0005)  # the interface gets its turn at once while a thread computes
    app.setApplicationName("Dubrel")
    app.setStyle("Fusion")
    load_fonts()
    install()
    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow, system_theme
    from dubrel.desk.shell.kit.guard import errors, tell
    from dubrel.desk.shell.kit.theme import THEMES
    from dubrel.packages import problems
    from dubrel.user.kept import DamageSaid
    from dubrel.user.settings import SETTINGS

    wanted = SETTINGS.read().theme
    window = MainWindow(system_theme() if wanted == "system" else THEMES[wanted], make_rooms)
    sys.excepthook = lambda kind, error, trace: tell(error)
    if path is not None:
        opened = window.filing.open_path(path, media)
    if path is None or not opened:
        window.show_start()
    else:
        QTimer.singleShot(600, window.starting.refresh)
    window.show()
    QTimer.singleShot(0, window.show_focus)
    QTimer.singleShot(150, lambda: DamageSaid(errors().said.emit))
    packages = Background(window)
    QTimer.singleShot(
        900, partial(packages.ask, problems, lambda said: window.say(" ".join(said)) if said else None)
    )
    QTimer.singleShot(200, gc.freeze)  # what is there at the start stays
    QTimer.singleShot(400, load_early)
    window.prepare()
    return app.exec()


def _read_no_sources() -> None:
    """Spare the library reading the source of every module, in search of a switch that none of ours has.

    It asks each that is imported whether it uses the library; without an answer
    of ours it would read it. Said so, nothing is switched, as for any module without the switch.
    """
    feature = sys.modules.get("shibokensupport.feature")
    if hasattr(feature, "_mod_uses_pyside"):
        setattr(feature, "_mod_uses_pyside", lambda module: True)  # noqa: B010 - a module of the library


def run_demo() -> int:
    """Show the window with the demo project."""
    from dubrel.demofiles import demo_project

    return run(demo_project())


def _need_display() -> None:
    offscreen = os.environ.get("QT_QPA_PLATFORM", "") not in ("", "xcb", "wayland")
    if not offscreen and not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        raise DubrelError(
            "There is no display. Start Dubrel in a desktop session, or use dubrel --help for commands."
        )
