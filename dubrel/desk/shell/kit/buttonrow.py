"""Buttons beside each other, in as many lines as their words need."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtCore import QEvent, QRect, QSize
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space


@guarded
class ButtonRow(QWidget):
    """Buttons in columns of one width, or each as wide as its words; on further lines where there is no room.

    Parameters
    ----------
    buttons : sequence of QWidget
    columns : int, optional
        At most so many beside each other, all of one width; fewer where one would be cut.
    """

    def __init__(self, buttons: Sequence[QWidget], columns: int = 0) -> None:
        super().__init__()
        self.buttons, self._columns = list(buttons), columns
        for one in self.buttons:
            one.setParent(self)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)

    def add(self, one: QWidget) -> None:
        """One more, at the end."""
        one.setParent(self)
        self.buttons.append(one)
        self._arrange()
        self.updateGeometry()

    def event(self, event: QEvent) -> bool:
        """A button says something else, or is shown."""
        if event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Show):
            self._arrange()
        return super().event(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another width may need more lines."""
        self._arrange()
        super().resizeEvent(event)

    def sizeHint(self) -> QSize:
        """All on one line, or in all columns."""
        sizes = self._sizes()
        if not sizes:
            return QSize(0, 0)
        if self._columns:
            many = min(self._columns, len(sizes))
            wide = many * max(one.width() for one in sizes)
        else:
            many, wide = len(sizes), sum(one.width() for one in sizes)
        return QSize(wide + (many - 1) * Space.CLOSE, self.height())

    def minimumSizeHint(self) -> QSize:
        """As wide as the widest."""
        return QSize(max((one.width() for one in self._sizes()), default=0), self.height())

    def _sizes(self) -> list[QSize]:
        return [one.sizeHint() for one in self.buttons if not one.isHidden()]

    def _arrange(self) -> None:
        shown = [one for one in self.buttons if not one.isHidden()]
        if not shown:
            self.setFixedHeight(0)
            return
        high = max(one.sizeHint().height() for one in shown)
        lines = self._in_columns(shown) if self._columns else self._in_lines(shown)
        for nth, line in enumerate(lines):
            x = 0
            for one, wide in line:
                one.setGeometry(QRect(x, nth * (high + Space.CLOSE), wide, high))
                x += wide + Space.CLOSE
        self.setFixedHeight(len(lines) * (high + Space.CLOSE) - Space.CLOSE)

    def _in_columns(self, shown: list[QWidget]) -> list[list[tuple[QWidget, int]]]:
        many, widest = min(self._columns, len(shown)), max(one.sizeHint().width() for one in shown)
        while many > 1 and many * (widest + Space.CLOSE) - Space.CLOSE > self.width():
            many -= 1
        edges = [
            nth * (self.width() + Space.CLOSE) // many for nth in range(many + 1)
        ]  # the last at the edge
        widths = [right - left - Space.CLOSE for left, right in pairwise(edges)]
        return [list(zip(shown[at : at + many], widths)) for at in range(0, len(shown), many)]

    def _in_lines(self, shown: list[QWidget]) -> list[list[tuple[QWidget, int]]]:
        lines: list[list[tuple[QWidget, int]]] = [[]]
        used = 0
        for one in shown:
            wide = one.sizeHint().width()
            if lines[-1] and used + wide > self.width():
                lines.append([])
                used = 0
            lines[-1].append((one, min(wide, self.width())))
            used += wide + Space.CLOSE
        return lines
