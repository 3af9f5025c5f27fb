"""Edit the text of a caption where it stands; each keystroke is in the transcript at once."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QTextCursor
from PySide6.QtWidgets import QFrame, QPlainTextEdit

from dubrel.desk.captions.painting import left_of, top_of
from dubrel.desk.captions.stanza import Stanza
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.desk.shell.guard import guarded
from dubrel.edits.captionwriting import rewritten, written_text
from dubrel.errors import DubrelError
from dubrel.model import Caption


@guarded
class TextField(QPlainTextEdit):
    """A field over the lines of the current caption.

    Signals
    -------
    closed()
    """

    closed = Signal()

    def __init__(self, sheet: CaptionSheet) -> None:
        super().__init__(sheet.viewport())
        self.sheet, self.session = sheet, sheet.session
        self._caption = 0
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.document().setDocumentMargin(0)
        self.setAccessibleName("Text of the caption")
        self.hide()
        self.textChanged.connect(self._write)
        sheet.verticalScrollBar().valueChanged.connect(self._place)
        self.session.opened.connect(self.close_field)

    def edit(self, caption: Caption) -> None:
        """Edit a caption."""
        track = self.session.project.captions
        if track is None:
            return
        self.session.history.seal()
        self._caption = 0
        self.setPlainText(written_text(self.session.project, track, caption))
        self._caption = caption.id
        theme, font = self.sheet.theme, self._stanza().font
        self.setStyleSheet(
            f"background: {theme.colour('paper').name()}; color: {theme.colour('ink').name()};"
            f'font-family: "{font.family()}"; font-size: {font.pixelSize()}px;'
        )
        self._place()
        self.show()
        self.setFocus()
        self.moveCursor(QTextCursor.MoveOperation.End)

    def _stanza(self) -> Stanza:
        return self.sheet.column.block(self.sheet.current)

    def _place(self) -> None:
        """Stand over the lines."""
        if self.sheet.current < 0:
            return
        stanza = self._stanza()
        top = top_of(stanza, self.sheet.block_top(self.sheet.current))
        high = max(2, self.blockCount()) * QFontMetrics(stanza.font).lineSpacing() + 6
        self.setGeometry(round(left_of(stanza)), round(top), round(stanza.room), high)

    def _write(self) -> None:
        """Take what was typed into the transcript, if it can be."""
        if not self._caption or self.session.read_only:
            return
        try:
            made = rewritten(self.session.project, self._caption, self.toPlainText())
        except DubrelError:
            return  # an empty field, until there is a word again
        caption, self._caption = self._caption, 0
        try:
            self.session.apply(made, "Edit a caption", key=f"caption-text-{caption}")
        finally:
            self._caption = caption
        self._place()

    def close_field(self) -> None:
        """Leave the field; what was typed stays."""
        if self.isVisible():
            self._caption = 0
            self.session.history.seal()
            self.hide()
            self.sheet.setFocus()
            self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves; Tab goes to the next caption."""
        if event.key() == Qt.Key.Key_Escape:
            self.close_field()
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self.close_field()
            self.sheet.choose(self.sheet.current + (1 if event.key() == Qt.Key.Key_Tab else -1))
            if (caption := self.sheet.caption) is not None:
                self.edit(caption)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leave the field."""
        super().focusOutEvent(event)
        if event.reason() not in (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason):
            self.close_field()
