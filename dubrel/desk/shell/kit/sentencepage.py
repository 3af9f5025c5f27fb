"""A page of paper with its rules as a sentence on top, a row of buttons, and what they are about below."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.sentence import Blank, Sentence
from dubrel.desk.shell.kit.theme import Space

_NARROW = 560  # pixels
_BESIDE, _BELOW = QBoxLayout.Direction.LeftToRight, QBoxLayout.Direction.TopToBottom


@guarded
class SentencePage(QWidget):
    """What such pages share.

    Parameters
    ----------
    name : str
        For a screen reader.
    parts : sequence of str or Blank
        Of the sentence.

    Attributes
    ----------
    box : QVBoxLayout
        What stands below the line.
    row : QHBoxLayout
        Of buttons.
    """

    def __init__(self, name: str, parts: Sequence[str | Blank]) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(name)
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(0, Space.ROOM, 0, 0)
        self.box.setSpacing(0)
        head = QVBoxLayout()
        head.setContentsMargins(Space.EDGE, 0, Space.EDGE, Space.NEAR)
        head.setSpacing(Space.NEAR)
        self.box.addLayout(head)
        self.sentence = Sentence(parts, small=True)
        head.addWidget(self.sentence)
        self.row = QHBoxLayout()
        self.row.setSpacing(Space.CLOSE)
        self._both = QBoxLayout(_BESIDE)
        self._both.setSpacing(Space.CLOSE)
        self._both.addLayout(self.row, 1)
        head.addLayout(self._both)
        line = QFrame()
        line.setFrameShape(QFrame.Shape.NoFrame)
        line.setFixedHeight(1)
        line.setObjectName("hairline")
        self.box.addWidget(line)

    def put_beside(self, widget: QWidget) -> None:
        """Put something at the right of the buttons; below them where the page is narrow."""
        self._both.addWidget(widget)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Give the sentence all its lines."""
        super().resizeEvent(event)
        self._both.setDirection(_BELOW if self.width() < _NARROW else _BESIDE)
        width = max(100, self.width() - 2 * Space.EDGE)
        self.sentence.setFixedHeight(self.sentence.heightForWidth(width))
