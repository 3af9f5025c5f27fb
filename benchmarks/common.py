"""What the benchmarks share."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
DEMO = ROOT / "demo"
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("DUBREL_CACHE", tempfile.mkdtemp(prefix="dubrel-benchmark-"))
sys.path.insert(0, str(DEMO))


def report(name: str, **figures: object) -> None:
    """Print the figures of one benchmark as JSON."""
    rounded = {key: round(value, 4) if isinstance(value, float) else value for key, value in figures.items()}
    print(json.dumps({"benchmark": name, **rounded}), flush=True)


def truth(name: str) -> list[tuple[str, int, int]]:
    """The true words of a demo recording and their times."""
    value = json.loads((DEMO / f"{name}.truth.json").read_text())
    return [tuple(word) for turn in value["turns"] for word in turn["words"]]


def normal(text: str) -> list[str]:
    """Words as they are said: figures in words, no punctuation, no case."""
    from dubrel.speech.align.pronounce import spoken_forms

    return [form.strip(".'") for word in re.split(r"[\s-]+", text) for form in spoken_forms(word)]


def seconds_of(code: str, times: int = 5) -> float:
    """The middle of several runs of a Python process, in seconds."""
    import time

    spent = []
    # as on a user's machine, where Python keeps what it compiled
    environment = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}
    for _ in range(times):
        began = time.perf_counter()
        subprocess.run(
            [sys.executable, "-c", code],
            check=True,
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        spent.append(time.perf_counter() - began)
    return sorted(spent)[times // 2]


def wait(ms: int) -> None:
    """Let the application run for so long; in ``QTest.qWait`` no thread of ours would."""
    from PySide6.QtCore import QEventLoop, QTimer

    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def open_window():  # type: ignore[no-untyped-def]
    """A window with all its rooms."""
    from dubrel.desk.passes import make_rooms
    from dubrel.desk.shell.frame.window import MainWindow
    from dubrel.desk.shell.kit.theme import DAY

    window = MainWindow(DAY, make_rooms)
    window.show_room("wording")
    window.show()
    return window


def settle(window) -> None:  # type: ignore[no-untyped-def]
    """Let everything be laid out and checked that is done while nothing else is to do."""
    from PySide6.QtWidgets import QApplication

    sheet, captions = window.rooms["wording"].sheet, window.rooms["captions"]
    shown = [page for page in (sheet, captions.stanzas) if page.isVisible()]  # others wait until they are
    while not all(page.column.settled for page in shown):
        QApplication.processEvents()
    captions.findings.settle()
