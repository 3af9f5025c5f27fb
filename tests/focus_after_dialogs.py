"""Opens dialogs by command on a real screen, closes them with Escape and prints where the keys are then.

Run by ``desk/test_focus_after_dialogs.py`` under a window manager: without one nobody gives the keys back.
"""

import json
import shutil
import sys
from pathlib import Path

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

ROOT = Path(__file__).parent.parent
COMMANDS = (
    *("open", "save_as", "queue", "open_address", "keep_cut_rules"),
    *("glossary", "series_machines", "find", "menu"),
)
ROOMS = ("wording", "translation")


def spin(milliseconds):
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def in_front():
    return QApplication.activeModalWidget() or QApplication.activePopupWidget()


def opened(folder):
    """A window with the demo, in front."""
    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.theme import DAY, load_fonts

    QApplication.setStyle("Fusion")
    load_fonts()
    window = MainWindow(DAY, make_rooms)
    shutil.copy(ROOT / "demo" / "slow-water-7.dubrel", folder)
    window.filing.open_path(folder / "slow-water-7.dubrel")
    window.resize(1200, 760)
    window.show()
    window.activateWindow()
    while not window.isActiveWindow():
        spin(50)
    return window


def main():
    """Print the dialogs that were shown, and those after which the keys were elsewhere."""
    app = QApplication([])
    window = opened(Path(sys.argv[1]))
    shown, seen, moved = [], [], []

    def leave():
        there = in_front()
        if there is not None:
            shown.append(type(there).__name__)
            QTest.keyClick(there.focusWidget() or there, Qt.Key.Key_Escape)

    leaving = QTimer(app, interval=120)
    leaving.timeout.connect(leave)
    leaving.start()
    for room in ROOMS:
        for name in COMMANDS:
            window.show_room(room)
            window.show_focus()
            spin(30)
            before = QApplication.focusWidget()
            shown.clear()
            window.desk.commands.run(name)
            while in_front() is not None:
                spin(50)
            spin(100)
            seen += shown[:1]
            if before is None or QApplication.focusWidget() is not before:
                moved.append((room, name))
    print(json.dumps({"shown": seen, "moved": moved}), flush=True)
    window.desk.stop()


if __name__ == "__main__":
    main()
