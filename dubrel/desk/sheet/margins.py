"""The margins of the sheet: who speaks and when, notes and flags."""

from __future__ import annotations

import html
import re
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QTextDocument

from dubrel.base.catalogue import tr
from dubrel.base.text import initial
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.edits.notes import QUERY
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Note, Project, Turn
from dubrel.project.index import note_with, notes_on
from dubrel.project.talk import is_unsure

_HEAD, _AFTER = 23, 14  # pixels above and below the text of a note
_LONGEST = 20_000  # letters of a note that are shown
_ADDRESS = re.compile(r"(https?://[^\s<>\"”’)]+)")
_ELIDE = Qt.TextElideMode.ElideRight


def speaker_look(theme: Theme, project: Project, speaker_id: str | None) -> tuple[str, str, QColor]:
    """Name, letter and colour of a speaker."""
    for place, speaker in enumerate(project.transcript.speakers):
        if speaker.id == speaker_id:
            name = shown_name(project, speaker_id)
            return name, initial(speaker.name) if speaker.name else str(place + 1), theme.voice(place)
    return tr("Unassigned"), "–", theme.colour("quiet")


def paint_badge(painter: QPainter, letter: str, colour: QColor, x: float, y: float) -> None:
    """A small frame with a speaker's letter."""
    painter.setPen(QPen(colour, 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    box = QRectF(x, y, px(18), px(18))
    painter.drawRoundedRect(box, 3, 3)
    painter.setFont(ui_font(11, QFont.Weight.DemiBold))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)


def paint_left_margin(
    painter: QPainter,
    theme: Theme,
    project: Project,
    turn: Turn,
    goes_on: bool,
    area: QRectF,
) -> None:
    """Who speaks, when, how sure that is, and whether it is proofed; a bar in the speaker's colour.

    A paragraph of the speaker before it (``goes_on``) has no name, only a time.
    """
    x, text_x, top, height = area.left(), area.right(), area.top(), area.height()
    name, letter, colour = speaker_look(theme, project, turn.speaker)
    y = top + px(4)
    if not goes_on:
        paint_badge(painter, letter, colour, x, y)
        painter.setFont(ui_font(13, QFont.Weight.DemiBold))
        painter.setPen(theme.colour("ink" if turn.speaker else "quiet"))
        room = text_x - x - px(44)
        shown = QFontMetricsF(painter.font()).elidedText(name, _ELIDE, room)
        painter.drawText(QRectF(x + px(25), y, room, px(18)), Qt.AlignmentFlag.AlignVCenter, shown)
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("quiet"))
    clock = format_clock(turn.start_ms, digits=1)
    painter.drawText(QPointF(x, y + (px(13) if goes_on else px(34))), clock)
    _paint_marks(painter, theme, project, turn, x, y + (px(30) if goes_on else px(51)))
    painter.fillRect(QRectF(text_x - px(16), top + 3, 3, max(px(40.0), height - px(6))), colour)


def _paint_marks(painter: QPainter, theme: Theme, project: Project, turn: Turn, x: float, y: float) -> None:
    """Under the time: proofed, or what a person should look at."""
    painter.setFont(ui_font(11))
    if turn.proofed:
        painter.setPen(theme.colour("action"))
        if not turn.reworded:
            painter.drawText(QPointF(x, y), tr("proofed"))
            return
        painter.setPen(theme.colour("look"))
        painter.drawText(QPointF(x, y), tr("changed since"))
        painter.drawText(QPointF(x, y + px(15)), tr("proofed"))
        return
    marks = [tr("{sureness:.0%} sure").format(sureness=turn.sureness)] if is_unsure(turn) else []
    others = dict.fromkeys(word.also for word in turn.words if word.also)
    marks += [tr("with {name}").format(name=speaker_look(theme, project, one)[0]) for one in others]
    painter.setPen(theme.colour("look"))
    metrics = QFontMetricsF(painter.font())
    for nth, mark in enumerate(marks[:2]):
        painter.drawText(QPointF(x, y + px(15) * nth), metrics.elidedText(mark, _ELIDE, px(98)))


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
    for kind, text, role in remarks_on(project, turn, uneven):
        y = _paint_note(painter, theme, kind, text, QRectF(area.left(), y, area.width(), 0), role)


def remarks_on(project: Project, turn: Turn, uneven: bool) -> list[tuple[str, str, str]]:
    """What stands beside a turn: heading, text, and the role of its colour."""
    ids = notes_on(project, (word.id for word in turn.words)) if project.notes else set()
    notes = sorted((note_with(project, one) for one in ids), key=lambda one: one.start_ms)
    found = [_remark(note) for note in notes]
    if uneven:
        found.append(
            (tr("Times"), tr("Could not be aligned with the sound; times are spread evenly."), "look")
        )
    return found


def _remark(note: Note) -> tuple[str, str, str]:
    marks = [
        tr(note.kind),
        *([tr("done")] if note.done else []),
        *([tr("its words are gone")] if note.moved else []),
    ]
    if note.end_ms:
        marks.append(tr("to {clock}").format(clock=format_clock(note.end_ms, digits=1)))
    text = f"{note.text}\n↳ {note.answer}" if note.answer else note.text
    return ", ".join(marks), text, "look" if note.moved or (note.kind == QUERY and not note.done) else "ink"


def remarks_height(project: Project, turn: Turn, uneven: bool, width: float) -> float:
    """How much room what stands beside a turn needs, so that a long note is whole."""
    return sum(
        px(_HEAD) + _document(text, width, "", "").size().height() + px(_AFTER)
        for _, text, _ in remarks_on(project, turn, uneven)
    )


def link_at(project: Project, turn: Turn, uneven: bool, width: float, x: float, y: float) -> str:
    """The address under a point beside a turn, or nothing."""
    top = 2.0
    for _, text, _ in remarks_on(project, turn, uneven):
        document = _document(text, width, "", "")
        found = document.documentLayout().anchorAt(QPointF(x, y - top - px(_HEAD)))
        if found:
            return found
        top += px(_HEAD) + document.size().height() + px(_AFTER)
    return ""


@lru_cache(maxsize=256)
def _document(text: str, width: float, colour: str, link: str) -> QTextDocument:
    """A note's text, its addresses as links."""
    document = QTextDocument()
    document.setDefaultFont(ui_font(12))
    document.setDocumentMargin(0)
    document.setDefaultStyleSheet(f"a {{ color: {link or '#000'}; }} body {{ color: {colour or '#000'}; }}")
    parts = _ADDRESS.split(text[:_LONGEST])
    said = [
        f'<a href="{html.escape(one)}">{html.escape(one)}</a>' if nth % 2 else html.escape(one)
        for nth, one in enumerate(parts)
    ]
    document.setHtml(f"<body>{''.join(said)}</body>".replace("\n", "<br>"))
    document.setTextWidth(width)
    return document


def _paint_note(
    painter: QPainter, theme: Theme, kind: str, text: str, area: QRectF, role: str = "ink"
) -> float:
    painter.setPen(QPen(theme.colour("hairline"), 1))
    painter.drawLine(area.topLeft(), area.topRight())
    painter.setFont(ui_font(12, QFont.Weight.DemiBold))
    painter.setPen(theme.colour(role))
    painter.drawText(
        QRectF(area.left(), area.top() + px(4), area.width(), px(18)), Qt.AlignmentFlag.AlignVCenter, kind
    )
    document = _document(text, area.width(), theme.quiet, theme.action)
    painter.save()
    painter.translate(area.left(), area.top() + px(_HEAD))
    document.drawContents(painter)
    painter.restore()
    return area.top() + px(_HEAD) + document.size().height() + px(_AFTER)
