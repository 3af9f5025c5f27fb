"""A page of paper with fields: it scrolls when low and stacks when narrow."""

from __future__ import annotations

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QScrollArea, QVBoxLayout

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import paper, scroll

_NARROW, _LOW_GAP = 560, 14  # pixels
_BESIDE, _BELOW = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.TopToBottom


@guarded
class PaperPage(QScrollArea):
    """A page of paper.

    Parameters
    ----------
    name : str
        For a screen reader.

    Attributes
    ----------
    box : QVBoxLayout
        What stands on it.
    """

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        sheet = paper(name)
        scroll(self, sheet)
        self.box = QVBoxLayout(sheet)
        self.box.setContentsMargins(Space.PAGE, Space.FAR, Space.PAGE, Space.FAR)
        self.box.setSpacing(Space.WIDE)
        self._turning: list[tuple[QBoxLayout, int]] = []

    def beside(self, spacing: int) -> QBoxLayout:
        """A row whose parts stack when the page is narrow."""
        row = QBoxLayout(_BESIDE)
        row.setSpacing(spacing)
        self._turning.append((row, spacing))
        return row

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Turn the rows where the page became narrow or wide."""
        narrow = self.width() < px(_NARROW)
        for row, spacing in self._turning:
            row.setDirection(_BELOW if narrow else _BESIDE)
            row.setSpacing(min(_LOW_GAP, spacing) if narrow else spacing)
        super().resizeEvent(event)
