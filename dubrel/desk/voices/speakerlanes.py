"""Lanes on the strip, one a speaker, with name and share; who speaks at the same time is seen in both."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.margins import speaker_look
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, ui_font
from dubrel.model import Project, Turn, Word
from dubrel.project.talk import Talk, is_unsure

LANE = 17
MOST = 8
LABEL = 132


def lane_count(project: Project) -> int:
    """How many lanes are drawn."""
    return min(MOST, len(project.transcript.speakers))


def lane_places(project: Project, talk: dict[str, Talk]) -> dict[str, int]:
    """The lane of each speaker; where there are too many, all who speak little share the last one."""
    ids = [one.id for one in project.transcript.speakers]
    if len(ids) <= MOST:
        return {one: place for place, one in enumerate(ids)}
    most = set(sorted(ids, key=lambda one: -talk[one].time_ms)[: MOST - 1])
    own = {one: place for place, one in enumerate(one for one in ids if one in most)}
    return {one: own.get(one, MOST - 1) for one in ids}


def paint_lanes(
    painter: QPainter,
    theme: Theme,
    project: Project,
    turns: Sequence[Turn],
    talk: dict[str, Talk],
    top: float,
    width: float,
    x_of: Callable[[int], float],
) -> None:
    """Draw each speaker's turns in a lane, then the names over the left end.

    Parameters
    ----------
    turns : sequence of Turn
        Those in view.
    x_of : callable
        Where a time is.
    """
    places = lane_places(project, talk)
    for place in range(lane_count(project)):
        painter.fillRect(QRectF(0, top + (place + 1) * px(LANE) - 1, width, 1), theme.colour("hairline"))

    def bar(who: str, words: Sequence[Word], unsure: bool) -> None:
        y = top + places[who] * px(LANE)
        _, _, colour = speaker_look(theme, project, who)
        _bar(painter, colour, x_of(words[0].start_ms), x_of(words[-1].end_ms), y, unsure)

    for turn in turns:
        if turn.speaker in places and turn.words:
            bar(turn.speaker, turn.words, is_unsure(turn))
        for other, run in groupby(turn.words, lambda word: word.also):
            if other in places:
                bar(other, list(run), False)
    _paint_names(painter, theme, project, talk, places, top)


def _bar(painter: QPainter, colour: QColor, x0: float, x1: float, y: float, unsure: bool) -> None:
    """A filled bar; only its outline where it is unsure who speaks."""
    box = QRectF(x0, y + 4, max(1.5, x1 - x0 - 1), px(LANE) - 9)
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
    painter.fillRect(QRectF(0, top, px(LABEL), px(LANE) * lane_count(project) - 1), theme.colour("paper"))
    people: dict[int, list[str]] = {}
    for speaker, place in places.items():
        people.setdefault(place, []).append(speaker)
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for place, some in people.items():
        name, _, colour = speaker_look(theme, project, some[0])
        if len(some) > 1:
            name, colour = tr("{number} others").format(number=len(some)), theme.colour("quiet")
        y = top + place * px(LANE)
        painter.setFont(ui_font(11, QFont.Weight.DemiBold))
        painter.setPen(colour)
        shown = QFontMetricsF(painter.font()).elidedText(
            name, Qt.TextElideMode.ElideRight, px(LABEL) - px(46)
        )
        painter.drawText(QPointF(2, y + px(12)), shown)
        painter.setFont(ui_font(11))
        painter.setPen(theme.colour("quiet"))
        share = sum(talk[one].share for one in some)
        painter.drawText(QRectF(px(LABEL) - px(42), y, px(36), px(LANE) - 1), right, f"{share:.0%}")
        painter.fillRect(QRectF(px(LABEL) - 1, y, 1, px(LANE) - 1), theme.colour("hairline"))
