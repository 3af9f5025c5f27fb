"""What was found in all episodes: where, when, who says it, what is said."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from PySide6.QtCore import QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.text import reads_rtl
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Space, Theme, text_font, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index
from dubrel.jobs.series.searchindex import Said

_ROW, _CLOCK = 52, 62
_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
_RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@guarded
class _FoundDelegate(QStyledItemDelegate):
    """Draws a sentence that was found: when and what above, in which episode and who below."""

    def __init__(self, parent: QWidget, theme: Theme) -> None:
        super().__init__(parent)
        self.theme = theme
        self.playing = -1  # the row that is being played

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """Every row is as high."""
        return QSize(px(240), px(_ROW))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw a row."""
        one: Said = index.data(Qt.ItemDataRole.UserRole)
        where: str = index.data(Qt.ItemDataRole.UserRole + 1)
        theme, area = self.theme, option.rect
        painter.save()
        painter.translate(area.topLeft())
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(0, 0, area.width(), px(_ROW) - 1, theme.colour("selection"))
        if index.row() == self.playing:
            painter.fillRect(0, 0, 3, px(_ROW) - 1, theme.colour("live"))
        painter.setFont(time_font())
        painter.setPen(theme.colour("live" if index.row() == self.playing else "quiet"))
        painter.drawText(QRect(Space.ROOM, px(5), px(_CLOCK), px(24)), _LEFT, format_length(one.start_ms))
        left = Space.ROOM + px(_CLOCK) + Space.NEAR
        room = area.width() - left - Space.ROOM
        font, cut = text_font(15), Qt.TextElideMode.ElideRight
        painter.setFont(font)
        painter.setPen(theme.colour("ink"))
        text = QFontMetrics(font).elidedText(one.text, cut, room)
        painter.drawText(
            QRect(left, px(5), room, px(24)), _RIGHT if reads_rtl(one.text, one.language) else _LEFT, text
        )
        font = ui_font(12)
        painter.setFont(font)
        painter.setPen(theme.colour("quiet"))
        below = QFontMetrics(font).elidedText(where, cut, room)
        painter.drawText(QRect(left, px(28), room, px(18)), _LEFT, below)
        painter.fillRect(Space.ROOM, px(_ROW) - 1, area.width() - 2 * Space.ROOM, 1, theme.colour("hairline"))
        painter.restore()


@guarded
class FoundList(QListWidget):
    """The sentences: Enter plays one, Ctrl+Enter opens its episode there.

    Signals
    -------
    played(Said), opened(Said)
    """

    played = Signal(object)
    opened = Signal(object)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setAccessibleName(tr("Found in all episodes"))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setUniformItemSizes(True)
        self.delegate = _FoundDelegate(self, theme)
        self.setItemDelegate(self.delegate)
        self.itemClicked.connect(lambda _item: self.act(self.played))
        self.itemDoubleClicked.connect(lambda _item: self.act(self.opened))

    def show_found(self, found: Sequence[Said], titles: Mapping[str, str]) -> None:
        """Show sentences; ``titles`` are those of the episodes by path."""
        self.clear()
        self.delegate.playing = -1
        for one in found:
            item = QListWidgetItem()
            where = "  ·  ".join(
                filter(None, (titles.get(one.path, ""), one.speaker, "" if one.speaker else one.language))
            )
            item.setData(Qt.ItemDataRole.UserRole, one)
            item.setData(Qt.ItemDataRole.UserRole + 1, where)
            spoken = f"{format_length(one.start_ms)}, {one.text}, {where}"
            item.setData(Qt.ItemDataRole.AccessibleTextRole, spoken)
            item.setToolTip(one.text)
            self.addItem(item)
        if found:
            self.setCurrentRow(0)

    def show_playing(self, playing: bool) -> None:
        """Mark the chosen sentence as being played, or none."""
        self.delegate.playing = self.currentRow() if playing else -1
        self.viewport().update()

    def act(self, signal: object) -> None:
        """Say what is to be done with the chosen sentence."""
        item = self.currentItem()
        if item is not None:
            signal.emit(item.data(Qt.ItemDataRole.UserRole))  # type: ignore[attr-defined]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter plays, with Ctrl it opens."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
            self.act(self.opened if control else self.played)
        else:
            super().keyPressEvent(event)
