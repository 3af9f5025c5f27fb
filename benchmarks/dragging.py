"""Dragging the edge of a caption, to the repainted strip: 5,000 captions against 50."""

from __future__ import annotations

import statistics
import time

from common import open_window, report


def drag_ms(count: int) -> float:
    """The middle of some drags in milliseconds: edit, views, strip."""
    from PySide6.QtCore import QPointF
    from PySide6.QtWidgets import QApplication
    from setting import talk

    from dubrel.desk.sheet.captionbars import CAPTIONS
    from dubrel.edits.captions.resetting import set_again

    project = talk(count * 9)
    made = set_again(project)
    window = open_window()
    window.session.open(made, None, saved=True)
    window.show_room("captions")
    room = window.rooms["captions"]
    room.findings.settle()
    while not room.stanzas.column.settled:
        QApplication.processEvents()
    captions = made.captions.captions
    one = captions[len(captions) // 2]
    window.strip.zoom(1.0)
    window.player.seek(one.start_ms)
    window.strip.set_position(one.start_ms)
    QApplication.processEvents()
    layer, strip, spent = window.strip.layer, window.strip, []
    grip = layer.grip_at(strip, QPointF(strip.x_of(one.end_ms) - 1, CAPTIONS + 10))
    assert grip is not None
    for nth in range(60):
        began = time.perf_counter()
        layer.drag(grip, one.end_ms - 300 + (nth % 2) * 120 + nth)
        strip.repaint()
        spent.append((time.perf_counter() - began) * 1000)
        QApplication.processEvents()
    window.ask.unsaved = lambda title: "discard"
    window.desk.stop()
    window.close()
    return statistics.median(spent)


def main() -> None:
    """Print both and their ratio."""
    from PySide6.QtWidgets import QApplication

    application = QApplication([])
    few, many = drag_ms(50), drag_ms(5000)
    report("dragging", captions_50_ms=few, captions_5000_ms=many, ratio=many / few)
    del application


if __name__ == "__main__":
    main()
