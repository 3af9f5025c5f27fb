"""Processor time while the demo plays in each pass, against the media library playing it without a window.

    .venv/bin/python benchmarks/playing.py

A person listens for hours: what is drawn meanwhile is to take a quarter of a core at most.
"""

from __future__ import annotations

import time

from common import DEMO, open_window, report, wait

PODCAST, FROM_MS, SECONDS = "slow-water-7", 20_000, 8


def share_of_a_core(player) -> float:  # type: ignore[no-untyped-def]
    """How much of a core this process takes while it plays."""
    player.play()
    wait(500)
    began, spent = time.perf_counter(), time.process_time()
    wait(1000 * SECONDS)
    share = (time.process_time() - spent) / (time.perf_counter() - began)
    player.pause()
    return share


def main() -> None:
    """Measure and print."""
    from PySide6.QtCore import QUrl
    from PySide6.QtMultimedia import QAudioOutput, QMediaPlayer
    from PySide6.QtWidgets import QApplication

    app = QApplication([])
    app.setStyle("Fusion")
    bare, sound = QMediaPlayer(), QAudioOutput()
    bare.setAudioOutput(sound)
    bare.setSource(QUrl.fromLocalFile(str(DEMO / f"{PODCAST}.opus")))
    wait(1000)
    bare.setPosition(FROM_MS)
    baseline = share_of_a_core(bare)
    window = open_window()
    window.resize(1280, 800)
    window.filing.open_path(DEMO / f"{PODCAST}.dubrel")
    wait(4000)  # the sound is read, the pages are made
    shares = {}
    for name in ("wording", "captions", "cut", "translation"):
        window.show_room(name)
        wait(1500)
        window.player.seek(FROM_MS)
        shares[name] = round(share_of_a_core(window.player), 3)
    report(
        "playing",
        ratio=max(shares.values()) / baseline,
        of_a_core=shares,
        without_a_window=baseline,
    )
    window.desk.stop()


if __name__ == "__main__":
    main()
