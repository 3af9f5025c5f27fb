"""The margins of the sheet: who speaks and when, notes and flags."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from dubrel.desk.shell.theme import Theme, time_font, ui_font
from dubrel.edits.index import notes_on
from dubrel.edits.talk import is_unsure
from dubrel.edits.voices import shown_name
from dubrel.model import Project, Turn
from dubrel.text import initial
from dubrel.timecode import format_clock

_ELIDE = Qt.TextElideMode.ElideRight


def speaker_look(theme: Theme, project: Project, speaker_id: str | None) -> tuple[str, str, QColor]:
    """Name, letter and colour of a speaker."""
    for place, speaker in enumerate(project.transcript.speakers):
        if speaker.id == speaker_id:
            name = shown_name(project, speaker_id)
            return name, initial(speaker.name) if speaker.name else str(place + 1), theme.voice(place)
    return "Unassigned", "–", theme.colour("quiet")


def paint_badge(painter: QPainter, letter: str, colour: QColor, x: float, y: float) -> None:
    """A small frame with a speaker's letter."""
    painter.setPen(QPen(colour, 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = QRectF(x, y, 18, 18)
    painter.drawRoundedRect(box, 3, 3)
    painter.setFont(ui_font(11, QFont.Weight.DemiBold))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)


def paint_left_margin(
    painter: QPainter,
    theme: Theme,
    project: Project,
    turn: Turn,
    goes_on: bool,
    top: float,
    height: float,
    x: float,
    text_x: float,
) -> None:
    """Who speaks, when, how sure that is, and whether it is proofed; a bar in the speaker's colour.

    A paragraph of the speaker before it (``goes_on``) has no name, only a time.
    """
    name, letter, colour = speaker_look(theme, project, turn.speaker)
    y = top + 4
    if not goes_on:
        paint_badge(painter, letter, colour, x, y)
        painter.setFont(ui_font(13, QFont.Weight.DemiBold))
        painter.setPen(theme.colour("ink" if turn.speaker else "quiet"))
        room = text_x - x - 44
        shown = QFontMetricsF(painter.font()).elidedText(name, _ELIDE, room)
        painter.drawText(QRectF(x + 25, y, room, 18), Qt.AlignmentFlag.AlignVCenter, shown)
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("quiet"))
    clock = format_clock(turn.start_ms, digits=1)
    painter.drawText(QPointF(x, y + (13 if goes_on else 34)), clock)
    _paint_marks(painter, theme, project, turn, x, y + (30 if goes_on else 51))
    painter.fillRect(QRectF(text_x - 16, top + 3, 3, max(40.0, height - 6)), colour)


def _paint_marks(painter: QPainter, theme: Theme, project: Project, turn: Turn, x: float, y: float) -> None:
    """Under the time: proofed, or what a person should look at."""
    painter.setFont(ui_font(11))
    if turn.proofed:
        painter.setPen(theme.colour("action"))
        if not turn.reworded:
            painter.drawText(QPointF(x, y), "proofed")
            return
        painter.setPen(theme.colour("look"))
        painter.drawText(QPointF(x, y), "changed since")
        painter.drawText(QPointF(x, y + 15), "proofed")
        return
    marks = [f"{turn.sureness:.0%} sure"] if is_unsure(turn) else []
    others = dict.fromkeys(word.also for word in turn.words if word.also)
    marks += [f"with {speaker_look(theme, project, one)[0]}" for one in others]
    painter.setPen(theme.colour("look"))
    metrics = QFontMetricsF(painter.font())
    for nth, mark in enumerate(marks[:2]):
        painter.drawText(QPointF(x, y + 15 * nth), metrics.elidedText(mark, _ELIDE, 98))


def paint_right_margin(
    painter: QPainter,
    theme: Theme,
    project: Project,
    turn: Turn,
    uneven: bool,
    area: QRectF,
) -> None:
    """Notes beside words of the turn, and a flag where times are not from the sound."""
    y = area.top() + 2
    ids = notes_on(project, (word.id for word in turn.words)) if project.notes else set()
    for note in project.notes if ids else ():
        if note.id in ids:
            y = _paint_note(painter, theme, note.kind, note.text, QRectF(area.left(), y, area.width(), 0))
    if uneven:
        text = "Could not be aligned with the sound; times are spread evenly."
        _paint_note(painter, theme, "Times", text, QRectF(area.left(), y, area.width(), 0), role="look")


def _paint_note(
    painter: QPainter, theme: Theme, kind: str, text: str, area: QRectF, role: str = "ink"
) -> float:
    painter.setPen(QPen(theme.colour("hairline"), 1))
    painter.drawLine(area.topLeft(), area.topRight())
    painter.setFont(ui_font(12, QFont.Weight.DemiBold))
    painter.setPen(theme.colour(role))
    painter.drawText(
        QRectF(area.left(), area.top() + 4, area.width(), 18), Qt.AlignmentFlag.AlignVCenter, kind
    )
    painter.setFont(ui_font(12))
    painter.setPen(theme.colour("quiet"))
    box = QRectF(area.left(), area.top() + 23, area.width(), 400)
    flags = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
    used = painter.boundingRect(box, flags, text)
    painter.drawText(box, flags, text)
    return used.bottom() + 14
