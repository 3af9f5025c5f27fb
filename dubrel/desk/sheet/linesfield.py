"""A field over lines on a page, in which their text is edited where it stands.

Each keystroke is in the project at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QEvent, QRect, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFont, QKeyEvent, QKeySequence, QTextCursor
from PySide6.QtWidgets import QFrame, QPlainTextEdit

from dubrel.base.text import tidied
from dubrel.desk.sheet.page import Page
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.guard import guarded


@guarded
class LinesField(QPlainTextEdit):
    """What fields of captions and of translations share: undo is that of the window, which the field follows.

    A subclass says what is edited (:meth:`text_now`), takes what is typed
    (:meth:`take`), knows its place (:meth:`place_now`) and the way to the next
    one (:meth:`go_on`).

    Signals
    -------
    closed()
    """

    closed = Signal()

    def __init__(self, sheet: Page, session: Session, name: str) -> None:
        super().__init__(sheet.viewport())
        self._sheet, self.session = sheet, session
        self._writing = False
        self._seen = ""  # when the cursor moved last: where only that moves, another step begins
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.document().setDocumentMargin(0)
        self.setUndoRedoEnabled(False)
        self.setAccessibleName(name)
        self.hide()
        self.textChanged.connect(self._on_typed)
        self.cursorPositionChanged.connect(self._on_cursor)
        sheet.verticalScrollBar().valueChanged.connect(self.stand)
        session.opened.connect(self.close_field)
        session.changed.connect(self._on_changed)

    # -- what a field of a page knows ---------------------------------------------------

    def text_now(self) -> str | None:
        """What stands in the project; ``None`` where it is gone."""
        return None

    def plain(self, text: str) -> str:
        """A text as the project keeps it: lines without empty ones, single spaces."""
        return "\n".join(line for one in text.split("\n") if (line := tidied(one)))

    def take(self, text: str) -> None:
        """Take what was typed into the project."""

    def place_now(self) -> QRect | None:
        """Where the field stands; ``None`` for nowhere."""
        return None

    def go_on(self, step: int) -> None:
        """Edit the next one (1), or the one before (-1)."""

    def forget(self) -> None:
        """Nothing is edited any more."""

    # -- the field ------------------------------------------------------------------------

    @contextmanager
    def writing(self) -> Iterator[None]:
        """While the field itself, or what it changes, is the cause of a change."""
        before, self._writing = self._writing, True
        try:
            yield
        finally:
            self._writing = before

    def begin(self, text: str, font: QFont) -> None:
        """Show the field with a text, the caret at its end."""
        self.session.history.seal()
        theme = self._sheet.theme
        with self.writing():
            self.setPlainText(text)
            self.setStyleSheet(
                f"background: {theme.colour('paper').name()}; color: {theme.colour('ink').name()};"
                f'font-family: "{font.family()}"; font-size: {font.pixelSize()}px;'
            )
        self.stand()
        self.show()
        self.setFocus()
        self.moveCursor(QTextCursor.MoveOperation.End)

    def stand(self) -> None:
        """Stand over the lines."""
        rect = self.place_now()
        if rect is not None:
            self.setGeometry(rect)
            self.verticalScrollBar().setValue(0)

    def _on_typed(self) -> None:
        if self._writing or self.session.read_only:
            return
        with self.writing():
            self.take(self.toPlainText())
        self.stand()

    def _on_cursor(self) -> None:
        text = self.toPlainText()
        if text == self._seen and self.isVisible():
            self.session.history.seal()
        self._seen = text

    def _on_changed(self, _change: object) -> None:
        """Show what an undo or another hand made of it; leave where it is gone."""
        if self._writing or not self.isVisible():
            return
        text = self.text_now()
        if text is None:
            self.close_field()
            return
        if text != self.plain(self.toPlainText()):
            at = self.textCursor().position()
            with self.writing():
                self.setPlainText(text)
            cursor = self.textCursor()
            cursor.setPosition(min(at, len(text)))
            self.setTextCursor(cursor)
        self.stand()

    def close_field(self) -> None:
        """Leave the field; what was typed stays."""
        if self.isVisible():
            self.forget()
            self.session.history.seal()
            self.hide()
            self._sheet.setFocus()
            self.closed.emit()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the window."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            steps = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)
            if any(event.matches(one) for one in steps):
                event.ignore()
                return False
        return bool(super().event(event))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves; Tab goes to the next one."""
        if event.key() == Qt.Key.Key_Escape:
            self.close_field()
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self.close_field()
            self.go_on(1 if event.key() == Qt.Key.Key_Tab else -1)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leave the field."""
        super().focusOutEvent(event)
        if event.reason() not in (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason):
            self.close_field()
