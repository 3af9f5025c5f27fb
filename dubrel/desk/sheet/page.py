"""A scrolled page of blocks: what the sheets of all passes share."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QRect, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent, QShowEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QWidget

from dubrel.desk.sheet.column import Column
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import Theme, text_font, ui_font

TOP = 26
_STEP_MS, _REST_MS = 15, 300
_SLICE_S = 0.004  # for heights that nobody has seen yet, between two events


@guarded
class Page(QAbstractScrollArea):
    """Paper that scrolls; subclasses build blocks and paint them."""

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme = theme
        self.column = Column(self.estimate, self.build)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setViewport(QWidget())  # one of ours: for the library's own, all its classes would be looked up
        self.viewport().setAutoFillBackground(False)
        self._scale = scale()
        self.empty_title, self.empty_hint = "", ""
        self._idle = QTimer(self, interval=_STEP_MS)
        self._idle.timeout.connect(self._measure_some)

    def estimate(self, items: Sequence[Any]) -> list[float]:
        """Heights of items that were not laid out."""
        raise TypeError("a page must estimate")

    def build(self, item: Any) -> Any:
        """Lay an item out."""
        raise TypeError("a page must build")

    def paint_block(self, painter: QPainter, place: int, top: float) -> None:
        """Draw a block at a height of the viewport."""
        raise TypeError("a page must paint")

    def set_theme(self, theme: Theme) -> None:
        """Change the colours, and the size of the text where that was set."""
        self.theme = theme
        if self._scale == scale():
            self.forget_style()
            self.column.forget_layouts()
            self.viewport().update()
        else:
            self.lay_out_again()

    def forget_style(self) -> None:
        """Fonts or colours are others: what is laid out from now on takes the new ones."""

    def show_items(self, items: Sequence[Any], *, anew: bool = False) -> None:
        """Show items; those that are the same objects stay laid out unless all are to be anew."""
        height, changed = self.column.height, None
        if anew:
            self.column.set_items(items)
        else:
            changed = self.column.replace(items)
        self._set_range()
        if not self.column.settled:
            self._idle.start()
        if changed is None or self.column.height != height:
            self.viewport().update()
        else:
            self.update_blocks(*changed)

    def update_blocks(self, first: int, stop: int) -> None:
        """Draw some blocks again."""
        first, stop = max(0, first), min(stop, len(self.column.items))
        if first < stop:
            top, bottom = self.block_top(first), self.block_top(stop)
            self.viewport().update(0, int(top) - 8, self.viewport().width(), int(bottom - top) + 16)

    def lay_out_again(self) -> None:
        """Forget all layouts and heights, keep the place that was at the top."""
        self._scale = scale()
        self.forget_style()
        first = self.column.at(self.verticalScrollBar().value() - px(TOP))
        self.column.set_items(self.column.items)
        self._set_range()
        if first > 0:
            self.verticalScrollBar().setValue(round(self.column.top(first)) + px(TOP))
        self._idle.start()
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Lay out at the new width."""
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self.lay_out_again()
        else:
            self._set_range()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll by pixels where the device gives them."""
        pixels = event.pixelDelta().y() or event.angleDelta().y()
        bar = self.verticalScrollBar()
        bar.setValue(bar.value() - pixels)

    def _set_range(self) -> None:
        bar = self.verticalScrollBar()
        room = self.viewport().height()
        bar.setPageStep(room)
        bar.setSingleStep(40)
        bar.setRange(0, max(0, round(self.column.height) + 2 * px(TOP) - room))

    def showEvent(self, event: QShowEvent) -> None:
        """Go on making heights true."""
        super().showEvent(event)
        if not self.column.settled:
            self._idle.start()

    def rest(self) -> None:
        """Somebody types: heights that nobody has seen yet can wait."""
        if self._idle.isActive():
            self._idle.start(_REST_MS)

    def _measure_some(self) -> None:
        """Make a few heights true; what is in sight stays where it is. A page that is not shown has time."""
        if not self.isVisible():
            self._idle.stop()
            return
        bar = self.verticalScrollBar()
        first = self.column.at(bar.value() - px(TOP))
        before = self.column.top(first) if first >= 0 else 0.0
        self._idle.setInterval(_STEP_MS)
        self.column.measure_some(_SLICE_S)
        after = self.column.top(first) if first >= 0 else 0.0
        self._set_range()
        if round(after - before):
            bar.setValue(bar.value() + round(after - before))
        if self.column.settled:
            self._idle.stop()

    def block_top(self, place: int) -> float:
        """Where a block stands in the viewport."""
        return self.column.top(place) + px(TOP) - self.verticalScrollBar().value()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the blocks in sight."""
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(event.rect(), self.theme.colour("paper"))
        if not len(self.column.items):
            self._paint_empty(painter)
            return
        scroll = self.verticalScrollBar().value()
        sight = self.column.in_sight(scroll - px(TOP), scroll - px(TOP) + self.viewport().height())
        for place in sight:
            top = self.block_top(place)
            bottom = top + self.column.top(place + 1) - self.column.top(place)
            if bottom >= event.rect().top() and top <= event.rect().bottom():
                self.paint_block(painter, place, top)
        self.paint_over(painter, event.rect())
        painter.end()
        if self.verticalScrollBar().maximum() != max(
            0, round(self.column.height) + 2 * px(TOP) - self.viewport().height()
        ):
            self._set_range()

    def paint_over(self, painter: QPainter, rect: QRect) -> None:
        """Draw what lies over the blocks."""

    def _paint_empty(self, painter: QPainter) -> None:
        area = self.viewport().rect().adjusted(px(40), 0, -px(40), 0)
        painter.setPen(self.theme.colour("ink"))
        painter.setFont(text_font(24))
        middle = area.center().y() - px(40)
        painter.drawText(
            area.adjusted(0, middle - px(40), 0, 0), Qt.AlignmentFlag.AlignHCenter, self.empty_title
        )
        painter.setPen(self.theme.colour("quiet"))
        painter.setFont(ui_font(13))
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(area.adjusted(0, middle + px(4), 0, 0), flags, self.empty_hint)

    def say_when_empty(self, title: str, hint: str) -> None:
        """What an empty page says."""
        self.empty_title, self.empty_hint = title, hint
        self.viewport().update()

    def accessible_text(self) -> str:
        """What a screen reader says of the page: nothing, or what stands on it where it is empty."""
        return "" if len(self.column.items) else f"{self.empty_title}. {self.empty_hint}".strip(". ")

    def scroll_into_view(self, top: float, bottom: float, *, margin: int = 60) -> None:
        """Scroll so that a passage of the column is in view, with some air."""
        bar, room = self.verticalScrollBar(), self.viewport().height()
        self._set_range()
        if top + px(TOP) - margin < bar.value():
            bar.setValue(max(0, round(top + px(TOP) - margin)))
        elif bottom + px(TOP) + margin > bar.value() + room:
            bar.setValue(round(bottom + px(TOP) + margin - room))
