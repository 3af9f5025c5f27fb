"""The list of clips: made ones first, then what is proposed; each with its sound and its reasons."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from dubrel.base.catalogue import counted, tr
from dubrel.base.text import reads_rtl
from dubrel.base.timecode import format_clock
from dubrel.base.value import Value
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import text_font, time_font, ui_font
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.desk.shell.kit.widgets import Index
from dubrel.model import Cut

_HEIGHT, _TRACE, _TIMES = 94, 24, 190
_ROW = Qt.ItemDataRole.UserRole
_NOTHING = QModelIndex()
_MOST_TRACES = 200


class ClipRow(Value):
    """A clip that was made, or a passage that could become one.

    Attributes
    ----------
    clip_id : int
        0 for a proposal.
    start_ms, end_ms : int
        From the first to the last moment of the recording that it plays.
    length_ms : int
    title, why : str
    spans : tuple of (int, int)
        What of the recording it plays.
    """

    clip_id: int
    start_ms: int
    end_ms: int
    length_ms: int
    title: str
    why: str
    spans: tuple[tuple[int, int], ...]

    @classmethod
    def of_cut(cls, cut: Cut) -> ClipRow:
        """A clip that was made."""
        spans = tuple((one.start_ms, one.end_ms) for one in cut.passages)
        parts = (
            tr("clip of {passages}").format(passages=counted(len(spans), "passage"))
            if len(spans) > 1
            else "clip"
        )
        start, end = min(start for start, _ in spans), max(end for _, end in spans)
        return cls(cut.id, start, end, cut.length_ms, cut.name, parts, spans)

    @property
    def said(self) -> str:
        """For a screen reader."""
        time = format_clock(self.start_ms, digits=0)
        return tr("{title}, {time}, {length_ms:.0f} seconds, {why}").format(
            title=self.title, time=time, length_ms=self.length_ms / 1000, why=self.why
        )


@guarded
class _Rows(QAbstractListModel):
    """The rows as Qt asks for them."""

    def __init__(self) -> None:
        super().__init__()
        self.rows = list[ClipRow]()

    def rowCount(self, parent: Index = _NOTHING) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        row = self.rows[index.row()]
        if role == _ROW:
            return row
        texts = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole)
        return row.said if role in texts else None


@guarded
class _Painter(QStyledItemDelegate):
    """Draws title, sound and reasons at the left, times at the right."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self._traces: dict[tuple[object, ...], QImage] = {}

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(200), px(_HEIGHT))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        row, area, theme = index.data(_ROW), QRectF(option.rect), self.desk.theme
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, theme.colour("selection"))
        if row.clip_id:
            painter.fillRect(QRectF(area.left(), area.top(), 3, area.height() - 1), theme.colour("action"))
        inner = area.adjusted(px(20), px(9), -px(20), -px(9))
        wide = max(60.0, inner.width() - px(_TIMES))
        self._text(painter, row.title, QRectF(inner.left(), inner.top(), wide, px(27)), 19, "ink")
        self._trace(painter, row, QRectF(inner.left(), inner.top() + px(28), wide, px(_TRACE)))
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("action" if row.clip_id else "quiet"))
        why = QRectF(inner.left(), inner.bottom() - px(18), inner.width(), px(18))
        shown = QFontMetricsF(painter.font()).elidedText(row.why, Qt.TextElideMode.ElideRight, why.width())
        painter.drawText(why, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setFont(time_font(12))
        painter.setPen(theme.colour("quiet"))
        times = f"{format_clock(row.start_ms, digits=0)} – {format_clock(row.end_ms, digits=0)}"
        right = QRectF(inner.right() - px(_TIMES), inner.top() + px(4), px(_TIMES), px(20))
        painter.drawText(right, Qt.AlignmentFlag.AlignRight, times)
        length = right.translated(0, 24)
        painter.drawText(length, Qt.AlignmentFlag.AlignRight, f"{row.length_ms / 1000:.0f} s")
        painter.setPen(theme.colour("hairline"))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.restore()

    def _text(self, painter: QPainter, text: str, area: QRectF, size: int, role: str) -> None:
        painter.setFont(text_font(size))
        painter.setPen(self.desk.theme.colour(role))
        rtl = reads_rtl(text, self.desk.session.project.transcript.language)
        side = Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        shown = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, area.width())
        painter.setLayoutDirection(Qt.LayoutDirection.RightToLeft if rtl else Qt.LayoutDirection.LeftToRight)
        flags = Qt.AlignmentFlag.AlignVCenter | side | Qt.AlignmentFlag.AlignAbsolute
        painter.drawText(area, flags, shown)
        painter.setLayoutDirection(Qt.LayoutDirection.LeftToRight)

    def _trace(self, painter: QPainter, row: ClipRow, area: QRectF) -> None:
        peaks = self.desk.session.trace
        if peaks is None:
            return
        ratio = painter.device().devicePixelRatio()
        key = (id(peaks), row.spans, round(area.width()), ratio, self.desk.theme.name)
        if key not in self._traces:
            import numpy as np  # late: the window opens without it

            from dubrel.media.peaks import gain_for, level_of

            whole = max(1, sum(end - start for start, end in row.spans))
            count = max(1, round(area.width() * ratio))
            parts = [
                peaks.columns(start, end, max(1, round(count * (end - start) / whole)))
                for start, end in row.spans
            ]
            columns = np.concatenate(parts)
            columns = np.clip(columns * gain_for(level_of(columns)), -1, 1)
            colour = self.desk.theme.colour("trace")
            if len(self._traces) >= _MOST_TRACES:
                self._traces.clear()
            self._traces[key] = trace_image(columns, round(px(_TRACE) * ratio), colour, ratio)
        painter.drawImage(area.topLeft(), self._traces[key])


@guarded
class ClipList(QListView):
    """The list; several can be chosen.

    Signals
    -------
    moved()
        Another row is the current one.
    made(), played(), removed()
        What Enter, Space and Delete ask for.
    """

    moved = Signal()
    made = Signal()
    played = Signal()
    removed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._quiet = False
        self._model, self._painter = _Rows(), _Painter(desk)
        self.setModel(self._model)
        self.setItemDelegate(self._painter)
        self.setUniformItemSizes(True)
        self.setAccessibleName(tr("Clips"))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QListView.Shape.NoFrame)

    @property
    def rows(self) -> list[ClipRow]:
        """What is listed."""
        return self._model.rows

    @property
    def row(self) -> ClipRow | None:
        """The current row."""
        at = self.currentIndex().row()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    @property
    def chosen(self) -> list[ClipRow]:
        """The rows that are chosen, in the order of the list."""
        places = sorted(index.row() for index in self.selectedIndexes())
        return [self.rows[at] for at in places if at < len(self.rows)]

    def show_rows(self, rows: Sequence[ClipRow], wanted: int = 0) -> None:
        """List other rows; the current one stays where it is there still, or a clip that is wanted."""
        if list(rows) == self._model.rows and not wanted:
            return
        before, at = self.row, self.currentIndex().row()
        self._quiet = True
        self._model.beginResetModel()
        self._model.rows = list(rows)
        self._model.endResetModel()
        place = self._place(before, wanted)
        if rows:
            self.setCurrentIndex(
                self._model.index(min(max(at, 0), len(rows) - 1) if place is None else place, 0)
            )
        self._quiet = False
        self.moved.emit()

    def _place(self, before: ClipRow | None, wanted: int) -> int | None:
        """Where the row is that was the current one, or the clip that is wanted."""
        for nth, one in enumerate(self.rows):
            if wanted and one.clip_id == wanted:
                return nth
        for nth, one in enumerate(self.rows):
            if before is not None and (
                one.clip_id == before.clip_id if before.clip_id else one.spans == before.spans
            ):
                return nth
        return None

    def go_to(self, clip_id: int) -> None:
        """Make a clip the current row."""
        place = next((nth for nth, one in enumerate(self.rows) if one.clip_id == clip_id), None)
        if place is not None:
            self.setCurrentIndex(self._model.index(place, 0))

    def currentChanged(self, current: Index, previous: Index) -> None:
        """Say that another row is the current one."""
        super().currentChanged(current, previous)
        if not self._quiet:
            self.moved.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter makes or opens a clip, Space plays it, Delete deletes it."""
        acts = {
            Qt.Key.Key_Return: self.made,
            Qt.Key.Key_Enter: self.made,
            Qt.Key.Key_Space: self.played,
            Qt.Key.Key_Delete: self.removed,
        }
        act = acts.get(Qt.Key(event.key())) if not event.modifiers() else None
        if act is None or self.row is None:
            super().keyPressEvent(event)
        else:
            act.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A double click plays."""
        super().mouseDoubleClickEvent(event)
        if self.row is not None:
            self.played.emit()
