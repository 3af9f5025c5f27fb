"""Start to the painted demo window against the start of an empty window of the same library."""

from __future__ import annotations

from common import DEMO, report, seconds_of

EMPTY = """
from PySide6.QtWidgets import QApplication, QMainWindow
from PySide6.QtCore import QTimer
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
QTimer.singleShot(0, lambda: (window.grab(), app.quit()))
app.exec()
import os; os._exit(0)
"""
DEMO_WINDOW = f"""
import gc; gc.disable()  # as dubrel.cli does
from pathlib import Path
from PySide6.QtWidgets import QApplication
from PySide6.QtCore import QTimer
import dubrel.desk.application as application
start = QApplication.exec
def painted(*args):
    window = next(one for one in QApplication.topLevelWidgets() if one.isVisible())
    QTimer.singleShot(0, lambda: (window.grab(), QApplication.quit()))
    return start()
QApplication.exec = staticmethod(painted)
application.run([Path({str(DEMO / "slow-water-7.dubrel")!r})])
import os; os._exit(0)
"""


def main() -> None:
    """Start both several times, after one start that warms the disk."""
    seconds_of(DEMO_WINDOW, 1)
    ours, empty = seconds_of(DEMO_WINDOW), seconds_of(EMPTY)
    report("start", ratio=ours / empty, limit=3.0, ours_s=ours, empty_s=empty)


if __name__ == "__main__":
    main()
