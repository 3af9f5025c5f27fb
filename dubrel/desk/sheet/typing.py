"""Typing on the sheet: keys, clipboard and input methods become edits of the project."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, QPoint, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QClipboard,
    QGuiApplication,
    QInputMethodEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
)

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import HELD_SPACES, gap, joined, tidied, tokens
from dubrel.desk.sheet.caretsheet import CaretSheet, KeyTable
from dubrel.desk.sheet.copying import copy_plain
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.turnblock import from_utf16
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.kit.guard import guarded
from dubrel.edits.words.wording import join_turn, moved_range, replace_range, split_turn
from dubrel.project.followspeakers import speakers_followed

_SHORT, _MOST = 60, 1_000_000  # letters of a paste that is as good as typed, and of one that is refused
_PRIMARY_MS = 250  # a selection is shared once it stands still
_SK = QKeySequence.StandardKey
_HELD = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def _settled(text: str) -> int:
    """How long a text is once its white space is what parts words."""
    return len(joined(tokens(text)))


@guarded
class TypingSheet(CaretSheet):
    """The sheet with a caret that writes."""

    writes = True
    _drag_from: QPoint | None = None
    _drop_at: Spot | None = None

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._pending_sign = " "  # what the pending space is
        self._primary = QTimer(self, singleShot=True, interval=_PRIMARY_MS)
        self._primary.timeout.connect(self._share_selection)
        if QGuiApplication.clipboard().supportsSelection():
            self.caret_moved.connect(self._primary.start)

    # -- keys -----------------------------------------------------------------

    def event(self, event: QEvent) -> bool:
        """Keep keys that write from being taken as shortcuts."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            plain = event.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier)
            if plain and event.text() and event.text().isprintable():
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move, delete or write."""
        if not self.turns:
            return super().keyPressEvent(event)
        self.rest()
        for keys, action in self._key_table():
            if any(event.matches(key) for key in keys):
                return action()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            return self._split()
        if event.key() == Qt.Key.Key_Backspace and not event.modifiers() & _HELD:
            return self._erase(-1, self._char)
        text = event.text()
        if text and (text.isprintable() or text in HELD_SPACES) and not event.modifiers() & _HELD:
            return self.write(text)
        event.ignore()
        return None

    def _key_table(self) -> KeyTable:
        return [
            *super()._key_table(),
            ((_SK.Copy,), self.copy),
            ((_SK.Cut,), self.cut),
            ((_SK.Paste,), self.paste),
            ((_SK.Delete,), lambda: self._erase(1, self._char)),
            ((_SK.DeleteEndOfWord,), lambda: self._erase(1, self._word)),
            ((_SK.DeleteStartOfWord,), lambda: self._erase(-1, self._word)),
        ]

    # -- writing --------------------------------------------------------------

    def _model_place(self, spot: Spot) -> int:
        """The place in the turn's own text."""
        if self.pending and spot.turn == self.pending.turn and spot.place > self.pending.place:
            return spot.place - 1
        return spot.place

    def write(self, text: str) -> None:
        """Write at the caret, over the selection."""
        if text == " " or text in HELD_SPACES:
            self._typing += 1
            if self.anchor == self.caret:
                return self._write_space(text)
        pending = self.pending is not None and self.caret == Spot(self.pending.turn, self.pending.place + 1)
        if pending and self.pending is not None:
            at = self.pending
            self.pending = None
            self.anchor = self.caret = at
            text = self._pending_sign + text
        self.insert(text, tr("Type"), key=f"type-{self._typing}")
        return None

    def insert(self, text: str, label: str, key: str | None = None, where: object = None) -> None:
        """Replace the selection by a text, as one step.

        ``where`` is the caret before it, unless it is there still.
        """
        first, last = sorted((self.anchor, self.caret))
        turns = self.turns
        start, end = self._model_place(first), self._model_place(last)
        self.pending = None
        head, tail = turns[first.turn].text[:start] + text, turns[last.turn].text[end:]
        ends = (turns[first.turn].id, start), (turns[last.turn].id, end)
        self.session.step(lambda project: replace_range(project, *ends, text), label, key=key, where=where)
        place = _settled(head)
        if place and head.endswith(" "):
            if not tail or tail.startswith(" "):  # as in any editor, the caret stands after a space
                self.pending, self._pending_sign = Spot(first.turn, place), " "
                self.rebuild(first.turn)
            place += len(gap(head.rstrip(), tail.lstrip())) if tail.strip() else 1
        self.caret = self.anchor = Spot(first.turn, place)
        self.move_caret(self.caret)
        self.session.landed()

    def _write_space(self, sign: str) -> None:
        if self.pending is not None:
            return
        text, at = self.turns[self.caret.turn].text, self.caret.place
        if 0 < at < len(text) and text[at - 1] != " " and text[at] != " ":
            self.insert(sign, tr("Split a word"))
        elif at > 0:
            self.pending, self._pending_sign = self.caret, sign
            self.rebuild(self.caret.turn)
            self.caret = self.anchor = Spot(self.caret.turn, at + 1)
            self.move_caret(self.caret)

    def _erase(self, step: int, where: Callable[[int], Spot]) -> None:
        if self.anchor != self.caret:
            return self.insert("", tr("Delete"))
        if self.pending is not None and step < 0:
            return self.move_caret(self.pending)
        target = where(step)
        if target == self.caret:
            return None
        if target.turn != self.caret.turn:
            return self._join(max(target.turn, self.caret.turn))
        before = self.session.where()
        self.anchor = target
        self.insert("", tr("Delete"), key=f"erase-{self._typing}", where=before)
        return None

    def _join(self, turn: int) -> None:
        place = len(self.turns[turn - 1].text)
        project = self.session.project
        joined = speakers_followed(project, join_turn(project, self.turns[turn].id))
        self.session.apply(joined, tr("Join turns"), base=project)
        self.move_caret(Spot(turn - 1, place))
        self.session.landed()

    def split_here(self) -> None:
        """Split the turn at the caret."""
        self._split()

    def join_here(self) -> None:
        """Join the turn at the caret with the one before it."""
        if self.caret.turn:
            self._join(self.caret.turn)

    def _split(self) -> None:
        if self.anchor != self.caret:
            self.insert("", tr("Delete"))
        at, turn = self._model_place(self.caret), self.turns[self.caret.turn]
        place, project = self.caret.turn, self.session.project
        made = split_turn(project, turn.id, at)
        if made is not project:
            self.pending = None
            self.session.apply(made, tr("Split the turn"), base=project)
            self.move_caret(Spot(place + 1, 0))
            self.session.landed()

    # -- clipboard ------------------------------------------------------------

    def selected_text(self) -> str:
        """The selected text, a blank line between turns."""
        first, last = sorted((self.anchor, self.caret))
        parts = []
        for turn in range(first.turn, min(last.turn + 1, len(self.turns))):
            text = self.column.block(turn).text
            start = first.place if turn == first.turn else 0
            end = last.place if turn == last.turn else len(text)
            parts.append(text[start:end])
        return "\n\n".join(parts)

    def copy(self) -> None:
        """Copy the selection as plain and as rich text."""
        if self.anchor != self.caret:
            copy_plain(self)

    def cut(self) -> None:
        """Copy the selection and delete it."""
        if self.anchor != self.caret:
            self.copy()
            self.insert("", tr("Cut"))

    def paste(self, mode: QClipboard.Mode = QClipboard.Mode.Clipboard) -> None:
        """Write what is on the clipboard, or what is selected elsewhere."""
        from dubrel.edits.words.pasting import cleaned  # late: it computes, and the window opens without it

        given = QGuiApplication.clipboard().text(mode)
        if len(given) > _MOST:
            raise DubrelError(
                tr(
                    "The text to paste has {given:,} characters, more than a recording can "
                    "hold. Paste it in parts."
                ).format(given=len(given))
            )
        text = cleaned(given)
        if not text.strip():
            return
        first, last = sorted((self.anchor, self.caret))
        if first == last or len(text) < _SHORT or not self.turns:
            if len(text) >= _SHORT:
                return self.paste_long(text, first, last)
            return self.insert(text if not self.pending else self._pending_sign + text, tr("Paste"))
        return self.paste_long(text, first, last)

    def paste_long(self, text: str, first: Spot, last: Spot) -> None:
        """Put a text over a range.

        What both have in common keeps its times, however many turns it touches.
        """
        from dubrel.edits.words.pasting import pasted  # late: as above

        turns, project = self.turns, self.session.project
        start, end = self._model_place(first), self._model_place(last)
        after = len(turns[last.turn].text) - end
        self.pending = None
        ends = (turns[first.turn].id, start), (turns[last.turn].id, end)
        made = beside(lambda: pasted(project, *ends, text))
        self.session.apply(made, tr("Paste"), base=project)
        behind = len(self.turns) - len(turns) + last.turn
        if 0 <= behind < len(self.turns):
            self.move_caret(Spot(behind, max(0, len(self.turns[behind].text) - after)))

    def _share_selection(self) -> None:
        """What is selected can be put elsewhere by the middle button, as is usual under X11."""
        if self.anchor != self.caret and self.isVisible():
            text = self.selected_text()
            if len(text) <= _MOST:
                QGuiApplication.clipboard().setText(text, QClipboard.Mode.Selection)

    def _put_primary(self, spot: Spot) -> None:
        if self.turns and QGuiApplication.clipboard().supportsSelection():
            self._primary.stop()
            self.move_caret(spot)
            self.paste(QClipboard.Mode.Selection)

    # -- dragging -------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press inside the selection may become a drag of it."""
        self._typing += 1
        spot = self.spot_at(event.position())
        if event.button() == Qt.MouseButton.MiddleButton:
            return self._put_primary(spot)
        first, last = sorted((self.anchor, self.caret))
        plain = event.button() == Qt.MouseButton.LeftButton and not event.modifiers()
        if plain and first < spot < last:
            self._drag_from = event.position().toPoint()
            return None
        super().mousePressEvent(event)
        return None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the selection, or select."""
        if self._drag_from is None:
            return super().mouseMoveEvent(event)
        far = (event.position().toPoint() - self._drag_from).manhattanLength()
        if far >= QGuiApplication.styleHints().startDragDistance():
            self.viewport().setCursor(Qt.CursorShape.DragMoveCursor)
            self._drop_at = self.spot_at(event.position())
            self.viewport().update()
        return None

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Drop what was dragged; a mere click puts the caret there."""
        if self._drag_from is None:
            return super().mouseReleaseEvent(event)
        self._drag_from, target = None, self._drop_at
        self._drop_at = None
        self.viewport().setCursor(Qt.CursorShape.IBeamCursor)
        if target is None:
            self.move_caret(self.spot_at(event.position()))
        else:
            self.move_selection(target)
        return None

    def move_selection(self, target: Spot) -> None:
        """Move the selected text to another place, as one step."""
        first, last = sorted((self.anchor, self.caret))
        if first == last or first <= target <= last or self.pending:
            return
        turns, project = self.turns, self.session.project
        text = tidied(self.selected_text())
        ends = (turns[first.turn].id, first.place), (turns[last.turn].id, last.place)
        goal = (turns[target.turn].id, target.place)
        made = moved_range(project, *ends, goal, text)
        self.session.apply(made, tr("Move the words"), base=project)

    def paint_over(self, painter: QPainter, rect: QRect) -> None:
        """Draw the caret, and where a drag would drop."""
        super().paint_over(painter, rect)
        if self._drop_at is not None and self.turns:
            block = self.block_at_spot(self._drop_at)
            where = block.caret_rect(self._drop_at.place).translated(self.origin(self._drop_at.turn))
            painter.fillRect(where, self.theme.colour("action"))

    # -- input methods --------------------------------------------------------

    def inputMethodEvent(self, event: QInputMethodEvent) -> None:
        """Show what is being composed, write what is committed."""
        if not self.turns:
            return
        self.preedit = ""
        if event.replacementLength() or event.replacementStart():
            self._choose_replaced(event.replacementStart(), event.replacementLength())
        if event.commitString():
            self.write(event.commitString())
        elif event.replacementLength():
            self.insert("", tr("Type"))
        self.preedit = event.preeditString()
        self.rebuild(self.caret.turn)
        event.accept()

    def _choose_replaced(self, start: int, length: int) -> None:
        """Select what an input method replaces: from so far beside the caret, so many letters."""
        block = self.block_at_spot(self.caret)
        first, last = sorted((self.anchor, self.caret))
        self.move_caret(first if first != last else self.caret)
        begin = max(0, block._u(self.caret.place) + start)
        turn = self.caret.turn
        self.move_caret(Spot(turn, from_utf16(block.text, begin)))
        self.move_caret(Spot(turn, from_utf16(block.text, begin + length)), keep=True)

    def inputMethodQuery(self, query: Qt.InputMethodQuery) -> object:
        """Tell an input method where the caret is and what stands around it."""
        if query == Qt.InputMethodQuery.ImEnabled:
            return bool(self.turns)
        if not self.turns:
            return None
        if query == Qt.InputMethodQuery.ImCursorRectangle:
            return QRectF(self.caret_rect())
        if query == Qt.InputMethodQuery.ImSurroundingText:
            return self.block_at_spot(self.caret).text
        if query == Qt.InputMethodQuery.ImCursorPosition:
            return self.caret.place
        if query == Qt.InputMethodQuery.ImCurrentSelection:
            return self.selected_text()
        return super().inputMethodQuery(query)
