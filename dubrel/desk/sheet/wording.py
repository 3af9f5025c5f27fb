"""The sheet of turns: read, listen, correct by typing."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QGuiApplication, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from dubrel.desk.findings import DOUBTFUL
from dubrel.desk.session import Change, Session, Window
from dubrel.desk.sheet.margins import paint_left_margin, paint_right_margin
from dubrel.desk.sheet.page import TOP, Page
from dubrel.desk.sheet.turnblock import TRACE_GAP, TRACE_HEIGHT, PageStyle, TurnBlock
from dubrel.desk.theme import Theme, text_font
from dubrel.edits.paragraphs import goes_on
from dubrel.model import Turn

MARGIN, LEFT, RIGHT = 22, 144, 168
MOST_MEASURE = 500


@dataclass(frozen=True, order=True)
class Spot:
    """A place in the transcript: which turn, and which character of what it shows."""

    turn: int
    place: int


class WordingSheet(Page):
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

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        self._style: PageStyle | None = None
        super().__init__(theme, parent)
        self.session = session
        self.caret = Spot(0, 0)
        self.anchor = Spot(0, 0)
        self.pending: Spot | None = None
        self.preedit = ""
        self.threshold = DOUBTFUL
        self.voices = False
        self.spoken: tuple[int, int] | None = None
        self._goal_x: float | None = None
        self._blink_on = True
        self._blink = QTimer(self, interval=530)
        self._blink.timeout.connect(self._on_blink)
        self.setAccessibleName("Sheet: transcript")
        self.viewport().setCursor(Qt.CursorShape.IBeamCursor)
        session.changed.connect(self._on_changed)
        session.sound_ready.connect(self.lay_out_again)

    # -- layout ---------------------------------------------------------------

    @property
    def turns(self) -> tuple[Turn, ...]:
        """The turns that are shown."""
        return self.session.project.transcript.turns

    def style_now(self) -> PageStyle:
        """Fonts, measure and colours at the present size of the window."""
        if self._style is None:
            font = text_font(20)
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

    def estimate(self, item: Turn) -> float:
        """Height of a turn by its letters."""
        style = self.style_now()
        lines = max(1, -(-len(item.text) * 9.3 // style.measure))
        return max(float(lines) * style.pitch, 58.0) + 26

    def build(self, item: Turn) -> TurnBlock:
        """Lay a turn out."""
        here = 0 <= self.caret.turn < len(self.turns) and self.turns[self.caret.turn] is item
        pending = self.pending.place if here and self.pending else None
        preedit = (self.caret.place, self.preedit) if here and self.preedit else None
        return TurnBlock(item, self.style_now(), pending, preedit)

    def block_at_spot(self, spot: Spot) -> TurnBlock:
        """The laid-out turn of a place."""
        return self.column.block(spot.turn)

    def rebuild(self, turn: int) -> None:
        """Lay one turn out again (a space is pending, an input method composes)."""
        if 0 <= turn < len(self.turns):
            self.show_items(self.turns, Window(turn, turn + 1, turn + 1))

    def _on_changed(self, change: Change) -> None:
        if change.old.transcript.language != change.new.transcript.language:
            self._style = None
        if len(change.old.transcript.turns) == 0 or change.old.media is not change.new.media:
            self._style = None
            self.show_items(self.turns, None)
        else:
            self.show_items(self.turns, change.turns)
        self._clamp()
        if change.old.transcript.speakers is not change.new.transcript.speakers:
            self.viewport().update()

    def start_over(self) -> None:
        """Another project was opened: the caret stands at its beginning, nothing is selected."""
        self.pending = None
        self.caret = self.anchor = Spot(0, 0)
        self.verticalScrollBar().setValue(0)
        self.viewport().update()

    def _clamp(self) -> None:
        self.caret, self.anchor = self._inside(self.caret), self._inside(self.anchor)

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
        turn = self.turns[place]
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
            top,
            block.text_height,
            MARGIN,
            LEFT,
        )
        block.paint(painter, origin, chosen, spoken)
        right = LEFT + self.style_now().measure + 24
        if self.viewport().width() - right > 110:
            width = self.viewport().width() - right - 18
            until = self.turns[place + 1].start_ms if place + 1 < len(self.turns) else None
            paint_right_margin(
                painter, self.theme, project, turn, until, block.uneven, QRectF(right, top, width, 0)
            )

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

    def focusInEvent(self, event) -> None:
        """Show the caret."""
        self._blink.start()
        self._blink_on = True
        self.viewport().update()
        super().focusInEvent(event)

    def focusOutEvent(self, event) -> None:
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
        self.viewport().update()
        QGuiApplication.inputMethod().update(Qt.InputMethodQuery.ImQueryInput)
        self.caret_moved.emit()

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

    # -- mouse ----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Put the caret, and the playhead, at a word."""
        if event.button() != Qt.MouseButton.LeftButton or not self.turns:
            return
        keep = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.move_caret(self.spot_at(event.position()), keep=keep)
        found = self.word_at_caret()
        if found and not keep:
            self.seek_wanted.emit(found[0].words[found[1]].start_ms)

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

    # -- playing --------------------------------------------------------------

    def show_spoken(self, turn_place: int, word: int, *, follow: bool) -> None:
        """Mark the spoken word, and keep it in view while playing."""
        turn = self.turns[turn_place] if 0 <= turn_place < len(self.turns) else None
        now = (turn.id, word) if turn else None
        if now == self.spoken:
            return
        self.spoken = now
        if follow and turn is not None:
            rects = self.column.block(turn_place).word_rects(word)
            top = self.column.top(turn_place) + (rects[0][1].top() if rects else 0)
            self.scroll_into_view(top, top + self.style_now().pitch, margin=90)
        self.viewport().update()
