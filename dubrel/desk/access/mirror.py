"""A text that is never seen: the toolkit's own text interface tells of what is drawn elsewhere."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRect, QTimer
from PySide6.QtGui import QAccessible, QColor, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import QTextEdit, QWidget
from shiboken6 import Shiboken

from dubrel.desk.access.described import Described, MarkKind

_LINE_END = "\u2028"  # between paragraphs a run of attributes has no length, and screen readers stand still
_UNDERLINES = {
    "doubt": QTextCharFormat.UnderlineStyle.DotLine,
    "spelling": QTextCharFormat.UnderlineStyle.SpellCheckUnderline,
}


class Mirror(QTextEdit):
    """Holds the text of one thing on a page while a screen reader asks for it.

    The text interface of the toolkit has parts that cannot be written in Python
    (they answer through pointers); this one lends its own.

    Parameters
    ----------
    page : QWidget
        Whose thing it is; the mirror is a hidden child of it.
    """

    def __init__(self, page: QWidget) -> None:
        super().__init__(page)
        self.hide()
        self._shown: Described | None = None
        self._loading = False
        self._moved: Callable[[int, int], None] | None = None
        self._written: Callable[[int, int, str], None] | None = None
        self.cursorPositionChanged.connect(self._on_moved)
        self.selectionChanged.connect(self._on_moved)
        self.textChanged.connect(self._on_changed)
        self._later = QTimer(self, singleShot=True, interval=0)
        self._later.timeout.connect(self.flush)

    def load(
        self,
        shown: Described,
        caret: tuple[int, int],
        rect: QRect,
        moved: Callable[[int, int], None],
        written: Callable[[int, int, str], None] | None,
    ) -> None:
        """Hold a text, with its caret and selection.

        Parameters
        ----------
        shown : Described
        caret : tuple of (int, int)
            Anchor and caret.
        rect : QRect
            Where it is drawn in the page.
        moved, written : callable
            What is called when a screen reader puts the caret, or writes.
        """
        self.flush()
        self._loading = True
        if shown != self._shown:
            self.setPlainText(shown.text.replace("\n", _LINE_END))
            for mark in shown.marks:
                self._mark(mark.start, mark.end, mark.kind)
            self._shown = shown
        cursor = self.textCursor()
        if (cursor.anchor(), cursor.position()) != caret:
            last = len(self.toPlainText())
            cursor.setPosition(min(caret[0], last))
            cursor.setPosition(min(caret[1], last), QTextCursor.MoveMode.KeepAnchor)
            self.setTextCursor(cursor)
        self.setReadOnly(written is None)
        self.setGeometry(rect)
        self.document().setTextWidth(max(1, rect.width()))  # laid out although hidden: lines are asked for
        self._moved, self._written = moved, written
        self._loading = False

    def _mark(self, start: int, end: int, kind: MarkKind) -> None:
        cursor = self.textCursor()
        cursor.setPosition(start)
        cursor.setPosition(end, QTextCursor.MoveMode.KeepAnchor)
        form = QTextCharFormat()
        if kind == "struck":
            form.setFontStrikeOut(True)
            form.setForeground(QColor("grey"))
        else:
            form.setUnderlineStyle(_UNDERLINES[kind])
        cursor.mergeCharFormat(form)

    def pointer(self, *, writing: bool) -> int:
        """The address of its text interface, or of the one that writes."""
        own = QAccessible.queryAccessibleInterface(self)
        face = own.editableTextInterface() if writing else own.textInterface()
        return int(Shiboken.getCppPointer(face)[0])

    def _on_moved(self) -> None:
        if not self._loading and self._moved is not None:
            cursor = self.textCursor()
            self._moved(cursor.anchor(), cursor.position())

    def _on_changed(self) -> None:
        if not self._loading and self._written is not None:
            self._later.start()

    def flush(self) -> None:
        """Hand on what was written since the text was loaded, as one step."""
        if not self._later.isActive() and self.sender() is not self._later:
            return
        self._later.stop()
        shown, written = self._shown, self._written
        self._shown = None  # what is shown next is what came of it
        if shown is not None and written is not None:
            start, old, new = replaced(shown.text, self.toPlainText().replace(_LINE_END, "\n"))
            if old or new:
                written(start, start + len(old), new)


def replaced(before: str, after: str) -> tuple[int, str, str]:
    """What differs between two texts: from where on, what stood there, what stands there now.

    Examples
    --------
    >>> replaced("the hare came", "the boat came")
    (4, 'hare', 'boat')
    """
    start, room = 0, min(len(before), len(after))
    while start < room and before[start] == after[start]:
        start += 1
    tail = 0
    while tail < room - start and before[len(before) - tail - 1] == after[len(after) - tail - 1]:
        tail += 1
    return start, before[start : len(before) - tail], after[start : len(after) - tail]
