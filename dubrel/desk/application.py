"""Start the application."""

from __future__ import annotations

import gc
import logging
import os
import shutil
import sys
from importlib import resources
from pathlib import Path

from dubrel.errors import DubrelError
from dubrel.log import log_path, set_up_log


def run(path: Path | None) -> int:
    """Show the window, with a file if one is given.

    Raises
    ------
    DubrelError
        If there is no display.
    """
    _need_display()
    set_up_log()
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.aside import load_early
    from dubrel.desk.theme import DAY, load_fonts

    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    sys.setswitchinterval(0.0005)  # the interface gets its turn at once while a thread computes
    app.setApplicationName("Dubrel")
    app.setStyle("Fusion")
    load_fonts()
    from dubrel.desk.window import MainWindow

    window = MainWindow(DAY)
    sys.excepthook = lambda kind, error, trace: _on_error(window, kind, error, trace)
    if path is not None:
        window.operations.open_path(path)
    else:
        window.show_counts()
    window.show()
    QTimer.singleShot(0, window.show_focus)
    QTimer.singleShot(200, _collect_garbage)
    QTimer.singleShot(400, load_early)
    return app.exec()


def _collect_garbage() -> None:
    gc.freeze()
    gc.enable()


def run_demo() -> int:
    """Show the window with a copy of the demo project in the user's own data folder."""
    from platformdirs import user_data_dir

    folder = Path(user_data_dir("dubrel")) / "demo"
    source = demo_folder()
    folder.mkdir(parents=True, exist_ok=True)
    for name in ("slow-water-7.dubrel", "slow-water-7.opus", "heron-film.dubrel", "heron-film.mp4"):
        target = folder / name
        if not target.exists() or target.stat().st_mtime < (source / name).stat().st_mtime:
            shutil.copy2(source / name, target)
    return run(folder / "slow-water-7.dubrel")


def demo_folder() -> Path:
    """Where the demo media are: beside the package in a checkout."""
    found = Path(str(resources.files("dubrel"))).parent / "demo"
    if not (found / "slow-water-7.dubrel").is_file():
        raise DubrelError(f"The demo project is not in “{found}”. Run dubrel from its own folder.")
    return found


def _need_display() -> None:
    offscreen = os.environ.get("QT_QPA_PLATFORM", "") not in ("", "xcb", "wayland")
    if not offscreen and not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        raise DubrelError(
            "There is no display. Start Dubrel in a desktop session, or use dubrel --help for commands."
        )


def _on_error(window, kind, error, trace) -> None:
    """Keep a traceback in the log; show the user one sentence."""
    logging.error("not caught", exc_info=(kind, error, trace))
    if isinstance(error, DubrelError):
        window.say(str(error))
    else:
        window.say(f"Something went wrong inside Dubrel; nothing was lost. The log is {log_path()}.")
