"""Replacing a word in the first and in the last turn of three hours, against replacing one word."""

from __future__ import annotations

import time

import numpy as np
from common import open_window, report, settle
from keystroke import project_of


def milliseconds(window, places: list[int]) -> float:  # type: ignore[no-untyped-def]
    """Median time of a step that replaces the first word of some turns, to all checks and the sheet."""
    from PySide6.QtWidgets import QApplication

    from dubrel.edits.words.wording import replace_text

    session, captions = window.session, window.rooms["captions"]
    spent = []
    for nth in range(40):
        project = session.project
        began = time.perf_counter()
        for place in places:
            turn = project.transcript.turns[place]
            project = replace_text(project, turn.id, 0, len(turn.words[0].text), f"word{nth}")
        session.apply(project, "Replace", base=session.project)
        captions.findings.settle()
        QApplication.processEvents()
        window.rooms["wording"].sheet.viewport().repaint()
        spent.append((time.perf_counter() - began) * 1000)
    return float(np.median(spent))


def main() -> None:
    """Compare one word and two that are far apart."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.kit.theme import load_fonts

    app = QApplication([])
    load_fonts()
    window = open_window()
    window.session.open(project_of(30_000, turn=12), None, saved=True)
    window.show_room("wording")
    settle(window)
    last = len(window.session.project.transcript.turns) - 1
    milliseconds(window, [0])
    one, two = milliseconds(window, [0]), milliseconds(window, [0, last])
    report("far apart", ratio=two / one, limit=2.5, one_ms=one, two_ms=two, turns=last + 1)
    window.session._saved = window.session.project
    window.close()
    del app


if __name__ == "__main__":
    main()
