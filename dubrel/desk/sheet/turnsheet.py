"""The sheet of turns: read, listen, correct by typing."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Collection, Sequence

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QContextMenuEvent,
    QDesktopServices,
    QFocusEvent,
    QFontMetricsF,
    QGuiApplication,
    QMouseEvent,
    QPainter,
)
from PySide6.QtWidgets import QWidget

from dubrel.base.timecode import format_clock
from dubrel.desk.sheet.margins import link_at, paint_left_margin, paint_right_margin, remarks_height
from dubrel.desk.sheet.page import TOP, Page
from dubrel.desk.sheet.spots import Held, Spot
from dubrel.desk.sheet.turnblock import TRACE_GAP, TRACE_HEIGHT, PageStyle, TurnBlock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import sheet_font, text_scale
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.words.paragraphs import goes_on
from dubrel.model import Timing, Turn
from dubrel.project.changes import Change
from dubrel.project.index import turn_of, turn_place, turn_with
from dubrel.project.queries import DOUBTFUL, word_at

MARGIN, LEFT, RIGHT = 22, 144, 168
MOST_MEASURE = 500


@guarded
class TurnSheet(Page):
    """Turns as paragraphs with the sound under each line.

    Signals
    -------
    seek_wanted(int)
        The user clicked a word.
    caret_moved()
        Another word may be selected now.
    """

    seek_wanted = Signal(int)
    caret_moved = Signal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        self._style: PageStyle | None = None
        super().__init__(desk.theme, parent)
        self.desk, self.session = desk, desk.session
        self._known: dict[str, tuple[object, Held | None, Spot | None]] = {}
        self.preedit = ""
        self.threshold = DOUBTFUL
        self.voices = False
        self.misspelt: Callable[[Turn], Collection[int]] = lambda turn: ()
        self.spoken: tuple[int, int] | None = None
        self._goal_x: float | None = None
        self._blink_on = True
        self._blink = QTimer(self, interval=530)
        self._blink.timeout.connect(self._on_blink)
        self.setAccessibleName("Sheet: transcript")
        self.viewport().setCursor(Qt.CursorShape.IBeamCursor)
        self.session.changed.connect(self._on_changed)
        self.session.sound_ready.connect(self.lay_out_again)
        self.session.opened.connect(self.start_over)
        self.session.stepped_back.connect(self._forget_pending)
        self.seek_wanted.connect(desk.player.seek)
        desk.player.moved.connect(self._follow)

    # -- spots by id ------------------------------------------------------------

    @property
    def caret(self) -> Spot:
        """Where is written: held by the ids of its turn and word."""
        return self._spot("caret") or Spot(0, 0)

    @caret.setter
    def caret(self, spot: Spot) -> None:
        self._hold("caret", spot)

    @property
    def anchor(self) -> Spot:
        """The other end of the selection."""
        return self._spot("anchor") or Spot(0, 0)

    @anchor.setter
    def anchor(self, spot: Spot) -> None:
        self._hold("anchor", spot)

    @property
    def pending(self) -> Spot | None:
        """Where a space was typed that parts no words yet."""
        return self._spot("pending")

    @pending.setter
    def pending(self, spot: Spot | None) -> None:
        self._hold("pending", spot)

    def _hold(self, name: str, spot: Spot | None) -> None:
        turns, held = self.turns, None
        if spot is not None and 0 <= spot.turn < len(turns):
            turn = turns[spot.turn]
            pending = self._spot("pending") if name != "pending" else None
            shift = int(pending is not None and pending.turn == spot.turn and spot.place > pending.place)
            at = bisect_right(turn.offsets, spot.place - shift) - 1
            word = turn.words[at].id if at >= 0 else None
            inside = spot.place - shift - turn.offsets[at] if at >= 0 else 0
            held = Held(turn.id, spot.place, word, inside, shift)
        self._known[name] = (self.session.project.transcript.turns, held, spot)

    def _spot(self, name: str) -> Spot | None:
        turns, held, spot = self._known.get(name, (None, None, None))
        if turns is not self.session.project.transcript.turns:
            spot = self._found(name, held, spot)
            self._known[name] = (self.session.project.transcript.turns, held, spot)
        return spot

    def _found(self, name: str, held: Held | None, spot: Spot | None) -> Spot | None:
        """Where a spot is after the turns became others."""
        project = self.session.project
        if held is None:
            return self._inside(spot) if spot is not None else None
        turn = turn_of(project, held.word) if held.word is not None else None
        if turn is not None and held.word is not None:
            shift = held.shift if self._pending_in(turn, name) else 0
            word = turn.index_of[held.word]
            room = len(turn.words[word].text)
            return Spot(turn_place(project, turn.id), turn.offsets[word] + min(held.inside, room) + shift)
        if name == "pending":
            return None
        turn = turn_with(project, held.turn)
        if turn is not None:
            return self._inside(Spot(turn_place(project, turn.id), held.place))
        return self._inside(spot) if spot is not None else None

    def _pending_in(self, turn: Turn, name: str) -> bool:
        held = self._known.get("pending", (None, None, None))[1]
        return name != "pending" and held is not None and held.turn == turn.id

    def _forget_pending(self) -> None:
        self.pending = None

    # -- layout ---------------------------------------------------------------

    @property
    def turns(self) -> tuple[Turn, ...]:
        """The turns that are shown."""
        return self.session.project.transcript.turns

    def style_now(self) -> PageStyle:
        """Fonts, measure and colours at the present size of the window."""
        if self._style is None:
            font = sheet_font()
            metrics = QFontMetricsF(font)
            room = self.viewport().width() - LEFT - MARGIN
            beside = RIGHT if room - RIGHT > 330 else 0
            self._style = PageStyle(
                theme=self.theme,
                font=font,
                measure=float(max(180, min(MOST_MEASURE, room - beside))),
                pitch=round(metrics.height()) + TRACE_GAP + TRACE_HEIGHT + 1,
                ascent_room=metrics.ascent(),
                threshold=self.threshold,
                peaks=self.session.peaks,
                ratio=self.devicePixelRatioF(),
                language=self.session.project.transcript.language,
                voices=self.voices,
            )
        return self._style

    def lay_out_again(self) -> None:
        """Lay out with new fonts, colours or width."""
        self._style = None
        super().lay_out_again()

    def show_voices(self, on: bool) -> None:
        """Whether words are marked whose speaker is not sure."""
        self.voices = self.style_now().voices = on
        self.viewport().update()

    def estimate(self, items: Sequence[Turn]) -> list[float]:
        """Heights of turns by their letters."""
        style, letter = self.style_now(), 9.3 * text_scale()
        lines = [max(1, -(-len(one.text) * letter // style.measure)) for one in items]
        return [max(float(many) * style.pitch, 58.0) + 26 for many in lines]

    def build(self, item: Turn) -> TurnBlock:
        """Lay a turn out."""
        here = 0 <= self.caret.turn < len(self.turns) and self.turns[self.caret.turn] is item
        pending = self.pending.place if here and self.pending else None
        preedit = (self.caret.place, self.preedit) if here and self.preedit else None
        uneven = any(word.timing is Timing.SPREAD for word in item.words)
        width = self._beside()[1]
        beside = remarks_height(self.session.project, item, uneven, width) if width else 0.0
        return TurnBlock(item, self.style_now(), pending, preedit, self.column.earlier(item), beside)

    def _beside(self) -> tuple[float, float]:
        """Where the right margin begins, and how wide it is; 0 where there is no room for it."""
        right = LEFT + self.style_now().measure + 24
        room = self.viewport().width() - right
        return right, room - 18 if room > 110 else 0.0

    def block_at_spot(self, spot: Spot) -> TurnBlock:
        """The laid-out turn of a place."""
        return self.column.block(spot.turn)

    def rebuild(self, turn: int) -> None:
        """Lay one turn out again (a space is pending, an input method composes)."""
        if 0 <= turn < len(self.turns):
            self.column.rebuild(turn)
            self.update_blocks(turn, turn + 1)

    def _on_changed(self, change: Change) -> None:
        if change.old.transcript.language != change.new.transcript.language:
            self._style = None
        if not change.old.transcript.turns or change.old.media is not change.new.media:
            self._style = None
            self.show_items(self.turns, anew=True)
        else:
            self.show_items(self.turns)
        for note in (*change.old.notes, *change.new.notes) if change.notes else ():
            if note.id in change.notes:
                self._remarks_changed(note.words)
        if change.speakers or change.notes:
            self.viewport().update()

    def _remarks_changed(self, words: Sequence[int]) -> None:
        """Lay out the turns again beside which a note stands, or stood."""
        project = self.session.project
        for turn in {turn.id: turn for one in words if (turn := turn_of(project, one))}.values():
            self.rebuild(turn_place(project, turn.id))

    def start_over(self) -> None:
        """Another project was opened: the caret stands at its beginning, nothing is selected."""
        self._known.clear()
        self.spoken = None
        self.verticalScrollBar().setValue(0)
        self.viewport().update()

    def _inside(self, spot: Spot) -> Spot:
        if not self.turns:
            return Spot(0, 0)
        turn = min(spot.turn, len(self.turns) - 1)
        room = len(self.turns[turn].text) + (self.pending is not None and self.pending.turn == turn)
        return Spot(turn, min(spot.place, room))

    # -- painting -------------------------------------------------------------

    def origin(self, place: int) -> QPointF:
        """Where the text of a turn begins in the viewport."""
        return QPointF(LEFT, self.block_top(place))

    def paint_block(self, painter: QPainter, place: int, top: float) -> None:
        """Draw a turn with both margins."""
        block: TurnBlock = self.column.block(place)
        turn = block.turn
        first, last = sorted((self.anchor, self.caret))
        chosen = None
        if first != last and first.turn <= place <= last.turn:
            start = first.place if first.turn == place else 0
            end = last.place if last.turn == place else len(block.text)
            chosen = (start, end)
        spoken = self.spoken[1] if self.spoken and self.spoken[0] == turn.id else None
        if spoken is not None and spoken >= len(turn.words):
            spoken = None
        origin = QPointF(LEFT, top)
        project = self.session.project
        paint_left_margin(
            painter,
            self.theme,
            project,
            turn,
            goes_on(self.turns, place),
            QRectF(MARGIN, top, LEFT - MARGIN, block.text_height),
        )
        block.paint(painter, origin, chosen, spoken, self.misspelt(turn))
        right, width = self._beside()
        if width:
            paint_right_margin(painter, self.theme, project, turn, block.uneven, QRectF(right, top, width, 0))

    def paint_over(self, painter: QPainter, rect: QRect) -> None:
        """Draw the caret."""
        if self.turns and self._blink_on and self.hasFocus():
            painter.fillRect(self.caret_rect(), self.theme.colour("ink"))

    def caret_rect(self) -> QRectF:
        """The caret in the viewport."""
        rect = self.block_at_spot(self.caret).caret_rect(self.caret.place + len(self.preedit))
        return rect.translated(self.origin(self.caret.turn))

    def _on_blink(self) -> None:
        self._blink_on = not self._blink_on
        if self.turns:
            self.viewport().update(self.caret_rect().toAlignedRect().adjusted(-2, -2, 2, 2))

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the caret."""
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
        self.caret = self._inside(spot)
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
        if before[-1] != self.caret.turn or not self.accessibleDescription():
            self._describe()
        self.caret_moved.emit()

    def _describe(self) -> None:
        """Tell a screen reader who speaks in the turn at the caret, when, and what."""
        if not self.turns:
            return
        turn, project = self.turns[self.caret.turn], self.session.project
        who = shown_name(project, turn.speaker) if turn.speaker else "Unassigned"
        state = "changed since proofed" if turn.reworded else "proofed" if turn.proofed else "not proofed"
        self.setAccessibleDescription(f"{who}, {format_clock(turn.start_ms, digits=0)}, {state}: {turn.text}")
        if QAccessible.isActive():
            QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.DescriptionChanged))

    def _without_pending(self, spot: Spot) -> Spot:
        pending, self.pending = self.pending, None
        assert pending is not None
        if spot.turn == pending.turn and spot.place > pending.place:
            spot = Spot(spot.turn, spot.place - 1)
        self.rebuild(pending.turn)
        self.anchor = self._inside(self.anchor)
        return spot

    def show_caret(self) -> None:
        """Scroll so that the caret is in view."""
        if self.turns:
            rect = self.block_at_spot(self.caret).caret_rect(self.caret.place)
            top = self.column.top(self.caret.turn) + rect.top()
            self.scroll_into_view(top, top + rect.height() + TRACE_HEIGHT, margin=24)

    def spot_at(self, point: QPoint | QPointF) -> Spot:
        """The place in the text nearest to a point of the viewport."""
        turn = self.column.at(point.y() + self.verticalScrollBar().value() - TOP)
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
        place = self.column.at(point.y() + self.verticalScrollBar().value() - TOP)
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
