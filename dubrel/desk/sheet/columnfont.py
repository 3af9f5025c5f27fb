"""One size for a column of captions, so that full lines of its style fit."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QFont, QFontMetricsF

from dubrel.desk.shell.kit.theme import sheet_font

_SMALLEST = 0.66
SAMPLE = 40  # captions that tell how wide letters are


def column_font(room: float, sides: Sequence[tuple[int, Sequence[str]]]) -> QFont:
    """The font of the sheet, somewhat smaller where only that lets a line of full length fit.

    Parameters
    ----------
    room : float
        Pixels for a line.
    sides : sequence of (int, sequence of str)
        For each side the longest line that its style allows, in characters, and lines to
        tell by how wide its letters are.
    """
    font = sheet_font()
    metrics, widest = QFontMetricsF(font), 0.0
    for length, lines in sides:
        widths = [metrics.horizontalAdvance(line) / len(line) for line in lines if line]
        letter = sum(widths) / len(widths) if widths else metrics.averageCharWidth()
        widest = max(widest, letter * length)
    if widest > room > 0:
        font.setPixelSize(max(1, int(font.pixelSize() * max(_SMALLEST, room / widest))))
    return font
