"""A list of places in the recording: when, who, what is said there, what it would become."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    Signal,
)
from PySide6.QtGui import QFont, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from dubrel.base.catalogue import tr
from dubrel.base.text import reads_rtl
from dubrel.base.timecode import format_clock
from dubrel.base.value import Value, replace
from dubrel.desk.sheet.margins import speaker_look
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import text_font, time_font, ui_font
from dubrel.desk.shell.kit.widgets import Index
from dubrel.edits.speakers.voices import shown_name

_HEIGHT = 30
_TIME, _WHO = 92, 84
_ROW = Qt.ItemDataRole.UserRole
_NOTHING = QModelIndex()
_KEYS = {
    Qt.Key.Key_Return: "play",
    Qt.Key.Key_Enter: "play",
    Qt.Key.Key_Space: "tick",
    Qt.Key.Key_Delete: "remove",
}


class Row(Value):
    """A place.

    Attributes
    ----------
    start_ms, end_ms : int
        What is played.
    words : tuple of int
        Ids of the words that are selected on the sheet.
    speaker : str or None
    lead, text, trail : str
        What stands before, what it is about, and what stands behind.
    becomes : str or None
        What it would become; ``""`` where it goes.
    note : str
        At the right end: how certain, how often, which project.
    ticked : bool or None
        Whether it is to be done; ``None`` where there is nothing to tick.
    of : object
        What the page made it of.
    named : bool
        Whether ``text`` stands out; a heading or a whole sentence does not.
    """

    start_ms: int
    end_ms: int
    words: tuple[int, ...]
    speaker: str | None
    text: str
    lead: str = ""
    trail: str = ""
    becomes: str | None = None
    note: str = ""
    ticked: bool | None = None
    of: Any = None
    named: bool = True


@guarded
class _Rows(QAbstractListModel):
    """The rows as Qt asks for them."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.rows = desk, list[Row]()

    def rowCount(self, parent: Index = _NOTHING) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        row = self.rows[index.row()]
        if role == _ROW:
            return row
        if role in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.AccessibleTextRole,
            Qt.ItemDataRole.ToolTipRole,
        ):
            return self._said(row)
        if role == Qt.ItemDataRole.CheckStateRole and row.ticked is not None:  # for a screen reader
            return Qt.CheckState.Checked if row.ticked else Qt.CheckState.Unchecked
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        there = index.isValid() and index.row() < len(self.rows)
        ticking = there and self.rows[index.row()].ticked is not None
        found = super().flags(index)
        return found | Qt.ItemFlag.ItemIsUserCheckable if ticking else found

    def _said(self, row: Row) -> str:
        """A row in words, for the tool tip and a screen reader."""
        who = shown_name(self.desk.session.project, row.speaker) if row.speaker else ""
        said = row.lead + row.text + row.trail
        change = (
            ""
            if row.becomes is None
            else tr(" becomes {becomes}").format(becomes=row.becomes or tr("nothing"))
        )
        tick = "" if row.ticked is None else tr(", chosen") if row.ticked else tr(", left out")
        parts = [format_clock(row.start_ms, digits=1), who, said + change, row.note]
        return ", ".join(part for part in parts if part) + tick


@guarded
class _Painter(QStyledItemDelegate):
    """Draws a row on one line."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(100), px(_HEIGHT))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        theme, row, rect = self.desk.theme, index.data(_ROW), QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, theme.colour("selection"))
        x = rect.left() + px(12)
        middle = Qt.AlignmentFlag.AlignVCenter
        if row.ticked is not None:
            self._tick(painter, QRectF(x, rect.center().y() - px(6.5), px(13), px(13)), row.ticked)
            x += 24
        painter.setPen(theme.colour("quiet"))
        painter.setFont(time_font(12))
        painter.drawText(
            QRectF(x, rect.top(), px(_TIME), rect.height()), middle, format_clock(row.start_ms, digits=1)
        )
        x += px(_TIME)
        name, _, colour = speaker_look(theme, self.desk.session.project, row.speaker)
        if row.speaker is not None:
            painter.setFont(ui_font(12, QFont.Weight.DemiBold))
            painter.setPen(colour)
            shown = QFontMetricsF(painter.font()).elidedText(
                name, Qt.TextElideMode.ElideRight, px(_WHO) - px(10)
            )
            painter.drawText(QRectF(x, rect.top(), px(_WHO), rect.height()), middle, shown)
        x += px(_WHO)
        right = rect.right() - px(14)
        if row.note:
            painter.setFont(ui_font(12))
            painter.setPen(theme.colour("quiet"))
            width = QFontMetricsF(painter.font()).horizontalAdvance(row.note)
            painter.drawText(QRectF(right - width, rect.top(), width + 1, rect.height()), middle, row.note)
            right -= width + px(16)
        self._text(painter, row, QRectF(x, rect.top(), max(px(40.0), right - x), rect.height()))

    def _tick(self, painter: QPainter, box: QRectF, on: bool) -> None:
        theme = self.desk.theme
        painter.setPen(QPen(theme.colour("action" if on else "quiet"), 1.2))
        painter.setBrush(theme.colour("action") if on else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 2, 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if on:
            painter.setPen(QPen(theme.colour("on_action"), 1.6))
            painter.drawPolyline([box.topLeft() + p for p in _MARK])

    def _text(self, painter: QPainter, row: Row, area: QRectF) -> None:
        """Lead, text and trail; the text in full, as much of the rest as there is room for."""
        plain, strong = text_font(16), text_font(16)
        strong.setBold(row.named and bool(row.lead or row.trail or row.becomes is not None))
        thin, wide = QFontMetricsF(plain), QFontMetricsF(strong)
        rtl = reads_rtl(row.lead + row.text + row.trail, "en")
        arrow = "←" if rtl else "→"
        change = "" if row.becomes is None else f"  {arrow}  {row.becomes or 'nothing'}"
        text = wide.elidedText(row.text, Qt.TextElideMode.ElideRight, area.width() * (0.6 if change else 1.0))
        room = max(0.0, area.width() - wide.horizontalAdvance(text) - wide.horizontalAdvance(change) - 12)
        lead = thin.elidedText(row.lead, Qt.TextElideMode.ElideLeft, room * 0.45) if row.lead else ""
        room = max(0.0, room - thin.horizontalAdvance(lead))
        trail = (
            thin.elidedText(row.trail, Qt.TextElideMode.ElideRight, room) if row.trail and room > 30 else ""
        )
        pieces = [
            (lead, plain, "quiet"),
            (text, strong, "ink"),
            (change, strong, "action"),
            (trail, plain, "quiet"),
        ]
        self._pieces(painter, pieces, area, rtl, gone=row.becomes == "")

    def _pieces(
        self, painter: QPainter, pieces: list[tuple[str, QFont, str]], area: QRectF, rtl: bool, *, gone: bool
    ) -> None:
        """Pieces one after the other, in the direction of their script."""
        side = Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        flags = Qt.AlignmentFlag.AlignVCenter | side | Qt.AlignmentFlag.AlignAbsolute
        painter.setLayoutDirection(Qt.LayoutDirection.RightToLeft if rtl else Qt.LayoutDirection.LeftToRight)
        at = 0.0
        for piece, font, role in pieces:
            width = QFontMetricsF(font).horizontalAdvance(piece)
            left = area.right() - at - width if rtl else area.left() + at
            painter.setFont(font)
            painter.setPen(self.desk.theme.colour(role))
            painter.drawText(QRectF(left, area.top(), width + 1, area.height()), flags, piece)
            if gone and role == "ink":
                y = round(area.center().y()) + 1
                painter.drawLine(round(left), y, round(left + width), y)
            at += width
        painter.setLayoutDirection(Qt.LayoutDirection.LeftToRight)


def _points() -> list[QPointF]:
    return [QPointF(3, 6.5), QPointF(5.5, 9.2), QPointF(10, 3.6)]


_MARK = _points()


@guarded
class RowList(QListView):
    """The list; only what is in sight is drawn.

    Signals
    -------
    chosen(Row)
        Another row is the current one: it is shown on the sheet.
    played(Row), removed(Row)
    ticks_changed()
    """

    chosen = Signal(object)
    played = Signal(object)
    removed = Signal(object)
    ticks_changed = Signal()

    def __init__(self, desk: Desk, name: str) -> None:
        super().__init__()
        self._model, self._painter = _Rows(desk), _Painter(desk)
        self.setModel(self._model)
        self.setItemDelegate(self._painter)
        self.setUniformItemSizes(True)
        self.setAccessibleName(name)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setFrameShape(QListView.Shape.NoFrame)

    @property
    def rows(self) -> list[Row]:
        """What is listed."""
        return self._model.rows

    @property
    def row(self) -> Row | None:
        """The current row."""
        at = self.currentIndex().row()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    def show_rows(self, rows: Sequence[Row]) -> None:
        """List other rows; the current one stays where it is the same still."""
        before, at = self.row, self.currentIndex().row()
        self._model.beginResetModel()
        self._model.rows = list(rows)
        self._model.endResetModel()
        if not rows:
            return
        same = next(
            (k for k, one in enumerate(rows) if before and one.words == before.words and one.of == before.of),
            None,
        )
        place = same if same is not None else min(max(at, 0), len(rows) - 1)
        self._set_current(place, quiet=True)

    def start_over(self) -> None:
        """Let what is listed next begin with its first row."""
        self._quiet = True
        self.setCurrentIndex(QModelIndex())
        self._quiet = False

    def _set_current(self, place: int, *, quiet: bool = False) -> None:
        self._quiet = quiet
        self.setCurrentIndex(self._model.index(place, 0))
        self._quiet = False

    _quiet = False

    def currentChanged(self, current: Index, previous: Index) -> None:
        """Say which row is the current one."""
        super().currentChanged(current, previous)
        if not self._quiet and self.row is not None:
            self.chosen.emit(self.row)

    def ticked(self) -> list[Row]:
        """The rows that are to be done."""
        return [row for row in self.rows if row.ticked]

    def tick_all(self, on: bool) -> None:
        """Tick every row, or none."""
        self._model.rows = [row if row.ticked is None else replace(row, ticked=on) for row in self.rows]
        self.viewport().update()
        self.ticks_changed.emit()

    def _tick(self, at: int) -> None:
        row = self.rows[at]
        if row.ticked is not None:
            self.rows[at] = replace(row, ticked=not row.ticked)
            self.viewport().update()
            self.ticks_changed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter plays, Space ticks and goes on, Delete removes."""
        act = _KEYS.get(Qt.Key(event.key())) if not event.modifiers() else None
        if act is None or self.row is None:
            super().keyPressEvent(event)
        elif act == "play":
            self.played.emit(self.row)
        elif act == "remove":
            self.removed.emit(self.row)
        else:
            at = self.currentIndex().row()
            self._tick(at)
            self._set_current(min(at + 1, len(self.rows) - 1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on the box ticks."""
        super().mousePressEvent(event)
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and event.position().x() < 32 and self.rows[index.row()].ticked is not None:
            self._tick(index.row())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A double click plays."""
        index = self.indexAt(event.position().toPoint())
        if index.isValid():
            self.played.emit(self.rows[index.row()])
