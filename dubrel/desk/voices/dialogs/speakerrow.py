"""How a speaker is drawn in a list: badge, name and role, time, share, turns."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from dubrel.base.catalogue import counted
from dubrel.base.timecode import format_length
from dubrel.desk.sheet.margins import paint_badge, speaker_look
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index
from dubrel.project.talk import Talk

_ROW = 46
SPEAKER_ID = Qt.ItemDataRole.UserRole
_ELIDE = Qt.TextElideMode.ElideRight


class _Shown(Protocol):
    """What a row is drawn from."""

    session: Session
    theme: Theme
    talk: dict[str, Talk]


@guarded
class SpeakerRow(QStyledItemDelegate):
    """Draws a speaker: badge, name and role, time, share as a bar, turns."""

    def __init__(self, panel: _Shown) -> None:
        super().__init__(panel if isinstance(panel, QWidget) else None)
        self.panel = panel

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Two lines."""
        return QSize(px(100), px(_ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw one row."""
        panel, theme = self.panel, self.panel.theme
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("selection"))
        project = panel.session.project
        speaker = project.transcript.speaker(index.data(SPEAKER_ID))
        if speaker is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        name, letter, colour = speaker_look(theme, project, speaker.id)
        paint_badge(painter, letter, colour, rect.left() + px(8), rect.top() + px(6))
        painter.setFont(time_font(11))
        painter.setPen(theme.colour("quiet"))
        number = str(project.transcript.speakers.index(speaker) + 1)
        if number != letter:
            place = QRectF(rect.left() + px(8), rect.top() + px(26), px(19), px(14))
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, number)
        talk = panel.talk.get(speaker.id, Talk())
        x, width = rect.left() + px(36), rect.width() - px(44)
        painter.setFont(ui_font(13, QFont.Weight.DemiBold))
        painter.setPen(theme.colour("ink" if speaker.name else "quiet"))
        length = format_length(talk.time_ms)
        room = width - px(58)
        shown = QFontMetricsF(painter.font()).elidedText(name, _ELIDE, room)
        used = QFontMetricsF(painter.font()).horizontalAdvance(shown)
        top = QRectF(x, rect.top() + px(5), width, px(19))
        painter.drawText(top, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("quiet"))
        if speaker.role and room - used > 30:
            role = QFontMetricsF(painter.font()).elidedText(speaker.role, _ELIDE, room - used - px(8))
            painter.drawText(top.adjusted(used + px(8), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, role)
        turns = counted(talk.turns, "turn")
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        bottom = QRectF(x, rect.top() + px(24), width, px(16))
        painter.drawText(bottom, right, f"{talk.share:.0%}, {turns}")
        painter.setFont(time_font(12))
        painter.drawText(top, right, length)
        bar = QRectF(x, rect.top() + px(30), width - px(100), px(4))
        painter.fillRect(bar, theme.colour("hairline"))
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * talk.share, px(4)), colour)
