"""Giving a turn to a speaker, to the repainted window: three hours against three minutes."""

from __future__ import annotations

import time

import numpy as np
from common import open_window, report, settle
from keystroke import project_of


def milliseconds(words: int) -> float:
    """Median time of a step in Voices, the captions following."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.sheet.spots import Spot
    from dubrel.edits.speakers.assigning import assign_speakers

    window = open_window()
    project = project_of(words)
    labels = [k // 66 % 3 for k in range(words)]
    project = assign_speakers(project, labels, [0.9] * words)
    window.session.open(project, None, saved=True)
    window.show_room("voices")
    sheet = window.rooms["wording"].sheet
    middle = len(sheet.turns) // 2
    settle(window)
    spent = []
    for nth in range(60):
        sheet.move_caret(Spot(middle + nth % 5, 0))
        QApplication.processEvents()
        began = time.perf_counter()
        window.commands.run(f"speaker_{1 + (nth * 7 // 3) % 3}")
        QApplication.processEvents()
        sheet.viewport().repaint()
        window.strip.repaint()
        spent.append((time.perf_counter() - began) * 1000)
    window.session._saved = window.session.project
    window.close()
    return float(np.median(spent))


def main() -> None:
    """Compare both lengths."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.kit.theme import load_fonts

    app = QApplication([])
    load_fonts()
    short, long = milliseconds(500), milliseconds(30_000)
    report("assigning a turn", ratio=long / short, limit=2.0, short_ms=short, long_ms=long)
    del app


if __name__ == "__main__":
    main()
