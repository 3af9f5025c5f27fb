"""The sheet of turns: read, listen, correct by typing."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDesktopServices,
    QFocusEvent,
    QGuiApplication,
    QMouseEvent,
)
from PySide6.QtWidgets import QWidget

from dubrel.desk.sheet.margins import link_at
from dubrel.desk.sheet.page import TOP
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.turnblock import TRACE_HEIGHT
from dubrel.desk.sheet.turnpage import TurnPage
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.model import Turn
from dubrel.project.index import turn_place, turn_with
from dubrel.project.queries import word_at


@guarded
class TurnSheet(TurnPage):
    """Turns to read, listen to and select in.

    Signals
    -------
    seek_wanted(int)
        The user clicked a word.
    caret_moved()
        Another word may be selected now.
    """

    seek_wanted = Signal(int)
    caret_moved = Signal()
    writes = False

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(desk, parent)
        self._goal_x: float | None = None
        self._blink = QTimer(self)
        self._blink.timeout.connect(self._on_blink)
        self.viewport().setCursor(Qt.CursorShape.IBeamCursor)
        self.session.stepped_back.connect(self._forget_pending)
        self.seek_wanted.connect(desk.player.seek)
        desk.player.moved.connect(self._follow)

    def _on_blink(self) -> None:
        self._blink_on = not self._blink_on
        if self.turns:
            self.viewport().update(self.caret_rect().toAlignedRect().adjusted(-2, -2, 2, 2))

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the caret."""
        flash = QGuiApplication.styleHints().cursorFlashTime()  # of the system; 0 or less: it stands still
        self._blink.setInterval(max(1, flash // 2))
        if flash > 0:
            self._blink.start()
        self._blink_on = True
        self.viewport().update()
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Hide the caret."""
        self._blink.stop()
        self.viewport().update()
        super().focusOutEvent(event)

    # -- caret ----------------------------------------------------------------

    def move_caret(self, spot: Spot, *, keep: bool = False, goal: float | None = None) -> None:
        """Put the caret somewhere.

        Parameters
        ----------
        spot : Spot
        keep : bool
            Keep the other end of the selection.
        goal : float, optional
            The column that moving up and down stays in.
        """
        before = sorted((self.caret.turn, self.anchor.turn))
        if self.pending is not None and (spot.turn, spot.place) != (
            self.pending.turn,
            self.pending.place + 1,
        ):
            spot = self._without_pending(spot)
        self.caret = self._spots.inside(spot)
        if not keep:
            self.anchor = self.caret
        self._goal_x = goal
        self._blink_on = True
        if self._blink.isActive():
            self._blink.start()
        self.show_caret()
        after = sorted((self.caret.turn, self.anchor.turn))
        self.update_blocks(min(before[0], after[0]), max(before[1], after[1]) + 1)
        QGuiApplication.inputMethod().update(Qt.InputMethodQuery.ImQueryInput)
        self.caret_moved.emit()

    def _forget_pending(self) -> None:
        self.pending = None

    def _without_pending(self, spot: Spot) -> Spot:
        pending, self.pending = self.pending, None
        assert pending is not None
        if spot.turn == pending.turn and spot.place > pending.place:
            spot = Spot(spot.turn, spot.place - 1)
        self.rebuild(pending.turn)
        self.anchor = self._spots.inside(self.anchor)
        return spot

    def show_caret(self) -> None:
        """Scroll so that the caret is in view."""
        if self.turns:
            rect = self.block_at_spot(self.caret).caret_rect(self.caret.place)
            top = self.column.top(self.caret.turn) + rect.top()
            self.scroll_into_view(top, top + rect.height() + px(TRACE_HEIGHT), margin=24)

    def spot_at(self, point: QPoint | QPointF) -> Spot:
        """The place in the text nearest to a point of the viewport."""
        turn = self.column.at(point.y() + self.verticalScrollBar().value() - px(TOP))
        if turn < 0:
            return Spot(0, 0)
        origin = self.origin(turn)
        return Spot(turn, self.column.block(turn).place_at(point.x() - origin.x(), point.y() - origin.y()))

    def word_at_caret(self) -> tuple[Turn, int] | None:
        """The turn and the place of the word at the caret."""
        if not self.turns:
            return None
        turn = self.turns[self.caret.turn]
        return turn, min(self.block_at_spot(self.caret).word_at(self.caret.place), len(turn.words) - 1)

    def selected_words(self) -> list[tuple[int, int, int]]:
        """The words that the selection touches: place of each turn, and places in it (from, to)."""
        first, last = sorted((self.anchor, self.caret))
        found = []
        for place in range(first.turn, last.turn + 1) if first != last else ():
            turn = self.turns[place]
            low = first.place if place == first.turn else 0
            high = last.place if place == last.turn else len(turn.text)
            start = sum(at + len(word.text) <= low for at, word in zip(turn.offsets, turn.words))
            stop = sum(at < high for at in turn.offsets)
            if start < stop:
                found.append((place, start, stop))
        return found

    def select_words(self, turn: int, first: int, stop: int) -> None:
        """Select some words of a turn, from and to, and show them."""
        block = self.column.block(turn)
        self.move_caret(Spot(turn, block.span(first)[0]))
        self.move_caret(Spot(turn, block.span(stop - 1)[1]), keep=True)

    def select_place(self, turn_id: int, start: int, end: int) -> None:
        """Select some letters of a turn's text, and show them."""
        if turn_with(self.session.project, turn_id) is None:
            return
        self._forget_pending()
        place = turn_place(self.session.project, turn_id)
        self.move_caret(Spot(place, start))
        self.move_caret(Spot(place, end), keep=True)

    # -- mouse ----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Put the caret, and the playhead, at a word."""
        if event.button() != Qt.MouseButton.LeftButton or not self.turns:
            return
        if self._open_link(event.position()):
            return
        keep = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.move_caret(self.spot_at(event.position()), keep=keep)
        found = self.word_at_caret()
        if found and not keep:
            self.seek_wanted.emit(found[0].words[found[1]].start_ms)

    def _open_link(self, point: QPointF) -> bool:
        """Open the address in a note under a point; whether there is one."""
        left, width = self._beside()
        place = self.column.at(point.y() + self.verticalScrollBar().value() - px(TOP))
        if not width or point.x() < left or place < 0:
            return False
        block = self.column.block(place)
        y = point.y() - self.block_top(place)
        address = link_at(self.session.project, block.turn, block.uneven, width, point.x() - left, y)
        if address:
            QDesktopServices.openUrl(QUrl(address))
        return bool(address)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Select by dragging."""
        if event.buttons() & Qt.MouseButton.LeftButton and self.turns:
            spot = self.spot_at(event.position())
            if spot != self.caret:
                self.move_caret(spot, keep=True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Select the word."""
        found = self.word_at_caret()
        if found:
            self.select_words(self.caret.turn, found[1], found[1] + 1)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show what can be done with the selection, or with the word under the hand and its turn."""
        if event.reason() == QContextMenuEvent.Reason.Mouse and self.turns and not self.selected_words():
            self.move_caret(self.spot_at(QPointF(event.pos())))
        at = event.globalPos()
        if event.reason() != QContextMenuEvent.Reason.Mouse and self.turns:
            at = self.viewport().mapToGlobal(self.caret_rect().bottomLeft().toPoint())
        selection = ["selection"] if self.anchor != self.caret else ["word"]
        self.desk.menu_on([*selection, "turn", "speaker"], at)

    # -- playing --------------------------------------------------------------

    def _follow(self, ms: int) -> None:
        found = word_at(self.session.project, ms)
        if found is not None:
            self.show_spoken(
                *found, follow=self.desk.player.playing and self.desk.follows and self.isVisible()
            )

    def show_spoken(self, place: int, word: int, *, follow: bool) -> None:
        """Mark the spoken word, and keep it in view while playing."""
        turn = self.turns[place] if 0 <= place < len(self.turns) else None
        now = (turn.id, word) if turn else None
        if now == self.spoken:
            return
        earlier = turn_with(self.session.project, self.spoken[0]) if self.spoken else None
        before = turn_place(self.session.project, earlier.id) if earlier else None
        self.spoken = now
        if follow and turn is not None:
            rects = self.column.block(place).word_rects(word)
            top = self.column.top(place) + (rects[0][1].top() if rects else 0)
            self.scroll_into_view(top, top + self.style_now().pitch, margin=90)
        self.update_blocks(place, place + 1)
        if before is not None and before != place:
            self.update_blocks(before, before + 1)
