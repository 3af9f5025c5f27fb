"""Edit a translation where it stands; each keystroke is in the track at once."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QFocusEvent, QFontMetrics, QKeyEvent, QKeySequence, QTextCursor
from PySide6.QtWidgets import QFrame, QPlainTextEdit

from dubrel.desk.shell.guard import guarded
from dubrel.desk.translation.facing import FacingSheet
from dubrel.edits.index import caption_with
from dubrel.edits.translations import write_first, write_translation
from dubrel.errors import DubrelError
from dubrel.text import is_rtl


@guarded
class TargetField(QPlainTextEdit):
    """A field over the lines of the translation of the current slot.

    Signals
    -------
    closed()
    """

    closed = Signal()

    def __init__(self, sheet: FacingSheet) -> None:
        super().__init__(sheet.viewport())
        self.sheet, self.session = sheet, sheet.session
        self._track = self._caption = 0
        self._sources: tuple[int, ...] = ()
        self._writing = False
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.document().setDocumentMargin(0)
        self.setAccessibleName("Translation")
        self.hide()
        self.textChanged.connect(self._write)
        sheet.verticalScrollBar().valueChanged.connect(self._place)
        self.session.opened.connect(self.close_field)
        self.session.changed.connect(self._on_changed)
        sheet.chosen.connect(self._follow)
        self.setUndoRedoEnabled(False)  # undo is that of the window, which the field follows

    def edit(self) -> None:
        """Edit the current slot."""
        track, slot = self.sheet.track, self.sheet.slot
        if track is None or slot is None:
            return
        self.session.history.seal()
        self._writing = True
        self._track = track.id
        self._caption = slot.caption.id if slot.caption else 0
        self._sources = tuple(one.id for one in slot.sources)
        self.setPlainText(slot.caption.text if slot.caption else "")
        right = is_rtl(track.language)
        option = self.document().defaultTextOption()
        option.setTextDirection(Qt.LayoutDirection.RightToLeft if right else Qt.LayoutDirection.LeftToRight)
        option.setAlignment(
            (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft)
            | Qt.AlignmentFlag.AlignAbsolute
        )
        self.document().setDefaultTextOption(option)
        theme, font = self.sheet.theme, self.sheet.column.block(self.sheet.current).font
        self.setStyleSheet(
            f"background: {theme.colour('paper').name()}; color: {theme.colour('ink').name()};"
            f'font-family: "{font.family()}"; font-size: {font.pixelSize()}px;'
        )
        self._writing = False
        self._place()
        self.show()
        self.setFocus()
        self.moveCursor(QTextCursor.MoveOperation.End)

    def _follow(self) -> None:
        """Leave where another slot was chosen meanwhile."""
        slot = self.sheet.slot
        mine = self._caption or -next(iter(self._sources), 0)
        if self.isVisible() and not self._writing and (slot is None or slot.id != mine):
            self.close_field()

    def event(self, event: QEvent) -> bool:
        """Leave undo and redo to the window."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            steps = (QKeySequence.StandardKey.Undo, QKeySequence.StandardKey.Redo)
            if any(event.matches(one) for one in steps):
                event.ignore()
                return False
        return bool(super().event(event))

    def _place(self) -> None:
        """Stand over the lines."""
        place = self.sheet.current
        if place < 0 or not self.sheet.slots:
            return
        rect = self.sheet.right_rect(place).toRect()
        font = self.sheet.column.block(place).font
        high = max(2, self.blockCount()) * QFontMetrics(font).lineSpacing() + 10
        rect.setHeight(max(rect.height(), high))
        self.setGeometry(rect)
        self.verticalScrollBar().setValue(0)

    def _write(self) -> None:
        """Take what was typed into the track."""
        if self._writing or not self._track or self.session.read_only:
            return
        text, project = self.toPlainText(), self.session.project
        self._writing = True
        try:
            if self._caption:
                made = write_translation(project, self._track, self._caption, text)
                self.session.apply(made, "Edit a translation", key=f"translation-{self._caption}")
            elif text.strip():
                made, new = write_first(project, self._track, self._sources, text)
                self._caption = new
                self.session.apply(made, "Write a translation", key=f"translation-{new}")
                self.sheet.choose_caption(new, seek=False)
        except DubrelError as error:
            self.sheet.desk.say(str(error))
        finally:
            self._writing = False
        self._place()

    def _on_changed(self, _change: object) -> None:
        """Show what an undo or another hand made of it; leave where it is gone."""
        if self._writing or not self.isVisible():
            return
        caption = caption_with(self.session.project, self._track, self._caption) if self._caption else None
        if self._caption and caption is None:
            self.close_field()
        elif caption is not None and caption.text != _clean(self.toPlainText()):
            self._writing = True
            self.setPlainText(caption.text)
            self.moveCursor(QTextCursor.MoveOperation.End)
            self._writing = False
        self._place()

    def close_field(self) -> None:
        """Leave the field; what was typed stays."""
        if self.isVisible():
            self._track = self._caption = 0
            self.session.history.seal()
            self.hide()
            self.sheet.setFocus()
            self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leaves; Tab goes to the next one."""
        if event.key() == Qt.Key.Key_Escape:
            self.close_field()
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            step = 1 if event.key() == Qt.Key.Key_Tab else -1
            self.close_field()
            self.sheet.choose(self.sheet.current + step)
            self.edit()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leave the field."""
        super().focusOutEvent(event)
        if event.reason() not in (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason):
            self.close_field()


def _clean(text: str) -> str:
    """A text as the track keeps it."""
    lines = (" ".join(line.split()) for line in text.split("\n"))
    return "\n".join(line for line in lines if line)
