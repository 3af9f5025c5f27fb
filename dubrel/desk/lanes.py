"""Lanes on the strip: one a speaker, with name and share; who speaks at the same time is seen in both."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter

from dubrel.desk.sheet.margins import speaker_look
from dubrel.desk.theme import Theme, ui_font
from dubrel.edits.talk import Talk, is_unsure
from dubrel.model import Project, Turn

LANE = 17
MOST = 8
_LABEL = 132


def lane_count(project: Project) -> int:
    """How many lanes are drawn."""
    return min(MOST, len(project.transcript.speakers))


def paint_lanes(
    painter: QPainter,
    theme: Theme,
    project: Project,
    turns: Sequence[Turn],
    talk: dict[str, Talk],
    top: float,
    width: float,
    x_of,
) -> None:
    """Draw each speaker's turns in a lane, then the names over the left end.

    Parameters
    ----------
    turns : sequence of Turn
        Those in view.
    x_of : callable
        Where a time is.
    """
    places = {one.id: k for k, one in enumerate(project.transcript.speakers[:MOST])}
    for place in places.values():
        y = top + place * LANE
        painter.fillRect(QRectF(0, y + LANE - 1, width, 1), theme.colour("hairline"))
    for turn in turns:
        if turn.speaker in places:
            place, unsure = places[turn.speaker], is_unsure(turn)
            _bar(
                painter,
                theme.voice(place),
                x_of(turn.start_ms),
                x_of(turn.end_ms),
                top + place * LANE,
                unsure,
            )
        for other, run in groupby(turn.words, lambda word: word.also):
            if other in places:
                words = list(run)
                y = top + places[other] * LANE
                _bar(
                    painter,
                    theme.voice(places[other]),
                    x_of(words[0].start_ms),
                    x_of(words[-1].end_ms),
                    y,
                    False,
                )
    _paint_names(painter, theme, project, talk, places, top)


def _bar(painter: QPainter, colour: QColor, x0: float, x1: float, y: float, unsure: bool) -> None:
    """A filled bar; hatched where it is unsure who speaks."""
    box = QRectF(x0, y + 4, max(1.5, x1 - x0 - 1), LANE - 9)
    if unsure:
        painter.setPen(colour)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
    else:
        painter.fillRect(box, colour)


def _paint_names(
    painter: QPainter,
    theme: Theme,
    project: Project,
    talk: dict[str, Talk],
    places: dict[str, int],
    top: float,
) -> None:
    paper = theme.colour("paper")
    painter.fillRect(QRectF(0, top, _LABEL, LANE * len(places) - 1), paper)
    for speaker, place in places.items():
        name, _, colour = speaker_look(theme, project, speaker)
        y = top + place * LANE
        painter.setFont(ui_font(11, QFont.Weight.DemiBold))
        painter.setPen(colour)
        metrics = QFontMetricsF(painter.font())
        painter.drawText(
            QPointF(2, y + 12), metrics.elidedText(name, Qt.TextElideMode.ElideRight, _LABEL - 46)
        )
        painter.setFont(ui_font(11))
        painter.setPen(theme.colour("quiet"))
        share = f"{talk[speaker].share:.0%}" if speaker in talk else ""
        painter.drawText(
            QRectF(_LABEL - 42, y, 36, LANE - 1),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            share,
        )
        painter.fillRect(QRectF(_LABEL - 1, y, 1, LANE - 1), theme.colour("hairline"))
