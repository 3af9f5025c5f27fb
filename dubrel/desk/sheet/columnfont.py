"""One size for a column of captions, so that full lines of its style fit."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QFont, QFontMetricsF

from dubrel.desk.shell.kit.theme import sheet_font
from dubrel.model import CaptionTrack, Project
from dubrel.project.captiontext import text_of

SMALLEST = 0.66  # of the sheet's size; smaller cannot be read
_SAMPLE = 40  # captions that tell how wide letters are
_NEARLY = 0.8


def full_line(project: Project, tracks: Sequence[CaptionTrack]) -> float:
    """How many pixels a full line of any of some tracks takes at the sheet's size."""
    metrics, widest = QFontMetricsF(sheet_font()), 0.0
    for track in tracks:
        length = track.rules.max_cpl
        some = track.captions[:: max(1, len(track.captions) // _SAMPLE)][:_SAMPLE]
        lines = [line for one in some for line in text_of(project, track, one).lines]
        # by the widest of them: a line that is nearly full has no room to be wider than others are on average
        full = (metrics.horizontalAdvance(one) / len(one) for one in lines if len(one) > _NEARLY * length)
        widest = max(widest, max(full, default=metrics.averageCharWidth()) * length)
    return widest


def column_font(room: float, full: float) -> QFont:
    """The font of the sheet, somewhat smaller where only that lets a full line fit.

    Parameters
    ----------
    room, full : float
        Pixels that there are for a line, and that a full one takes.
    """
    font = sheet_font()
    if full > room > 0:
        font.setPixelSize(max(1, int(font.pixelSize() * max(SMALLEST, room / full))))
    return font
