"""What the journal costs an edit, and recovery of three hours against opening the same project."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from common import open_window, report, settle
from keystroke import project_of

from dubrel.base.value import replace


def strokes(window, journal: bool) -> float:  # type: ignore[no-untyped-def]
    """The median of a keystroke in milliseconds, with and without the journal."""
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    sheet, spent = window.rooms["wording"].sheet, []
    offer = window.session.journal.offer
    window.session.journal.offer = offer if journal else lambda project: None
    for nth in range(160):
        began = time.perf_counter()
        QTest.keyClicks(sheet, "abcdefg "[nth % 8])
        QApplication.processEvents()
        spent.append((time.perf_counter() - began) * 1000)
        time.sleep(0.01)
    window.session.journal.offer = offer
    return float(np.median(spent))


def cost() -> tuple[float, float]:
    """Keystrokes with and without the journal, taken in turns so that both have the same machine."""
    from dubrel.desk.sheet.spots import Spot

    window = open_window()
    window.session.open(project_of(30_000), None, saved=True)
    window.show_room("wording")
    sheet = window.rooms["wording"].sheet
    sheet.setFocus()
    sheet.move_caret(Spot(len(sheet.turns) // 2, 12))
    settle(window)
    rounds = [(strokes(window, True), strokes(window, False)) for _ in range(6)]
    window.session._saved = window.session.project
    window.close()
    return tuple(float(np.median(one)) for one in zip(*rounds))  # type: ignore[return-value]


def recovery() -> tuple[float, float]:
    """Seconds to recover three hours with a thousand edits, and to open the project itself."""
    from dubrel.store.journal import Journal
    from dubrel.store.projectfile import open_project, save
    from dubrel.store.recovery import leftovers

    path = Path(tempfile.mkdtemp()) / "long.dubrel"
    save(project_of(30_000), path)
    project = open_project(path)
    journal, chance = Journal(project, path), np.random.default_rng(3)
    for nth in range(1000):
        turns = list(project.transcript.turns)
        at = int(chance.integers(len(turns)))
        words = (replace(turns[at].words[0], text=f"edit{nth}"), *turns[at].words[1:])
        turns[at] = replace(turns[at], words=words)
        project = replace(project, transcript=replace(project.transcript, turns=tuple(turns)))
        journal.offer(project)
        journal.flush()
    journal.close(keep=True)

    def seconds(work) -> float:  # type: ignore[no-untyped-def]
        spent = []
        for _ in range(5):
            began = time.perf_counter()
            work()
            spent.append(time.perf_counter() - began)
        return sorted(spent)[2]

    recovered = seconds(leftovers)
    assert leftovers()[0].project == project
    return recovered, seconds(lambda: open_project(path))


def main() -> None:
    """Print both ratios."""
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="dubrel-journal-")
    sys.setswitchinterval(0.0005)
    from PySide6.QtWidgets import QApplication

    app = QApplication([])
    app.setStyle("Fusion")
    with_it, without = cost()
    recovered, opened = recovery()
    report(
        "journal",
        keystroke_ms=with_it,
        without_ms=without,
        ratio=with_it / without,
        recovered_s=recovered,
        opened_s=opened,
        recovery_ratio=recovered / opened,
    )


if __name__ == "__main__":
    main()
