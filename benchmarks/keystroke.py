"""One keystroke, to the repainted sheet, in 30,000 words against 300, spelling on and a recording playing."""

from __future__ import annotations

import time

import numpy as np
from common import DEMO, open_window, report, settle, wait

from dubrel.model import RecognisedWord


def project_of(count: int, turn: int = 66):  # type: ignore[no-untyped-def]
    """A captioned project with so many words, in turns of a length."""
    from dubrel.captions.styles import DEFAULT_STYLE
    from dubrel.edits.captions.resetting import set_again
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project

    chance, heard, at = np.random.default_rng(1), [], 0
    stock = "slow water runs under the old wooden boat and nobody hurries it along today".split()
    for nth in range(count):
        word = stock[chance.integers(len(stock))] + (
            "." if nth % min(11, turn) == min(11, turn) - 1 or nth % turn == turn - 1 else ""
        )
        heard.append(RecognisedWord(word, at, at + 250))
        at += 280 + (900 if nth % turn == turn - 1 else 0)
    return set_again(add_heard(Project(), heard), DEFAULT_STYLE)


def strokes(count: int) -> tuple[float, float]:
    """Median and 95th percentile of a keystroke in milliseconds."""
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.sheet.spots import Spot
    from dubrel.media.peaks import Peaks

    window = open_window()
    project = project_of(count)
    noise = np.random.default_rng(2).integers(
        -23_000, 23_000, (project.transcript.turns[-1].end_ms * 2 // 5, 2)
    )
    window.session.open(project, None, saved=True)
    window.session.peaks = Peaks(noise.astype(np.int16))
    window.session.sound_ready.emit()
    window.show_room("wording")
    sheet = window.rooms["wording"].sheet
    sheet.setFocus()
    sheet.move_caret(Spot(len(sheet.turns) // 2, 12))
    settle(window)
    window.player.set_source(DEMO / "slow-water-7.opus")
    window.player.play()
    wait(1500)  # the dictionary is there, the recording plays
    assert window.rooms["wording"].marks.there and window.player.playing
    spent = []
    for nth in range(120):
        began = time.perf_counter()
        QTest.keyClicks(sheet, "abcdefg "[nth % 8])
        QApplication.processEvents()  # what changed is painted, and the checks are made
        spent.append((time.perf_counter() - began) * 1000)
    window.session._saved = window.session.project
    window.close()
    return float(np.median(spent)), float(np.percentile(spent, 95))


def main() -> None:
    """Type into both."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.kit.theme import load_fonts

    app = QApplication([])
    load_fonts()
    strokes(300)
    small, small_worst = strokes(300)
    large, large_worst = strokes(30_000)
    report(
        "keystroke",
        ratio=large / small,
        limit=1.5,
        small_ms=small,
        large_ms=large,
        small_95_ms=small_worst,
        large_95_ms=large_worst,
    )
    app.quit()


if __name__ == "__main__":
    main()
