"""A page of paper with its rules as a sentence on top, a row of buttons, and what they are about below."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QFrame, QVBoxLayout, QWidget

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.sentence import Blank, Flow, Sentence
from dubrel.desk.shell.kit.theme import Space

_NARROW, _BUTTON = 620, 34  # pixels: a page that is narrow; from one line of buttons to the next
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
        self._buttons, self._beside = QWidget(), QWidget()
        self._flow = Flow(Space.CLOSE, _BUTTON)
        self._flow.setContentsMargins(0, 0, 0, 0)
        self._buttons.setLayout(self._flow)
        self._both = QBoxLayout(_BESIDE)
        self._both.setSpacing(Space.CLOSE)
        self._both.addWidget(self._buttons, 1)
        head.addLayout(self._both)
        line = QFrame()
        line.setFrameShape(QFrame.Shape.NoFrame)
        line.setFixedHeight(1)
        line.setObjectName("hairline")
        self.box.addWidget(line)

    def put(self, *widgets: QWidget) -> None:
        """Put buttons into the row; they go on in another line where there is no room."""
        for one in widgets:
            self._flow.addWidget(one)

    def put_beside(self, widget: QWidget) -> None:
        """Put something at the right of the buttons; below them where the page is narrow."""
        self._beside = widget
        self._both.addWidget(widget)

    def fit(self) -> None:
        """Give the sentence and the buttons all their lines."""
        narrow = self.width() < px(_NARROW)
        self._both.setDirection(_BELOW if narrow else _BESIDE)
        width = max(100, self.width() - 2 * Space.EDGE)
        self.sentence.setFixedHeight(self.sentence.heightForWidth(width))
        room = width if narrow else width - self._beside.sizeHint().width() - Space.CLOSE
        self._buttons.setFixedHeight(self._flow.heightForWidth(room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Arrange what is on top."""
        super().resizeEvent(event)
        self.fit()
