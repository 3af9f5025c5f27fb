"""One keystroke, to the repainted sheet, in a project of 30,000 words against one of 300."""

from __future__ import annotations

import time

import numpy as np
from common import report

from dubrel.model import HeardWord


def project_of(count: int):  # type: ignore[no-untyped-def]
    """A captioned project with so many words."""
    from dubrel.captions.styles import DEFAULT_STYLE
    from dubrel.edits.captions import set_again
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project

    chance, heard, at = np.random.default_rng(1), [], 0
    stock = "slow water runs under the old wooden boat and nobody hurries it along today".split()
    for nth in range(count):
        word = stock[chance.integers(len(stock))] + ("." if nth % 11 == 10 else "")
        heard.append(HeardWord(word, at, at + 250))
        at += 280 + (900 if nth % 66 == 65 else 0)
    return set_again(add_heard(Project(), heard), DEFAULT_STYLE)


def strokes(count: int) -> tuple[float, float]:
    """Median and worst time of a keystroke in milliseconds."""
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.sheet.turnsheet import Spot
    from dubrel.desk.shell.theme import DAY
    from dubrel.desk.shell.window import MainWindow
    from dubrel.media.peaks import Peaks

    window = MainWindow(DAY)
    window.show()
    project = project_of(count)
    noise = np.random.default_rng(2).integers(-90, 90, (project.transcript.turns[-1].end_ms * 2 // 5, 2))
    window.session.open(project, None, saved=True)
    window.session.peaks = Peaks(noise.astype(np.int8))
    window.session.sound_ready.emit()
    window.show_room("wording")
    window.sheet.setFocus()
    middle = len(window.sheet.turns) // 2
    window.sheet.move_caret(Spot(middle, 12))
    QTest.qWait(1500)
    spent = []
    for nth in range(120):
        began = time.perf_counter()
        QTest.keyClicks(window.sheet, "abcdefg "[nth % 8])
        window.sheet.viewport().repaint()
        QApplication.processEvents()
        spent.append((time.perf_counter() - began) * 1000)
    window.session._saved = window.session.project
    window.close()
    return float(np.median(spent)), max(spent)


def main() -> None:
    """Type into both."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.theme import load_fonts

    app = QApplication([])
    load_fonts()
    strokes(300)
    small, small_worst = strokes(300)
    large, large_worst = strokes(30_000)
    report(
        "keystroke",
        ratio=large / small,
        limit=2.0,
        small_ms=small,
        large_ms=large,
        small_worst_ms=small_worst,
        large_worst_ms=large_worst,
    )
    app.quit()


if __name__ == "__main__":
    main()
