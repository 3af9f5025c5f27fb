"""Turns laid out and painted as paragraphs, with the sound under each line."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

from PySide6.QtCore import QPointF, QRect, QRectF
from PySide6.QtGui import (
    QFontMetricsF,
    QPainter,
)
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.margins import paint_left_margin, paint_right_margin, remarks_height
from dubrel.desk.sheet.page import Page
from dubrel.desk.sheet.spots import HeldSpots, Spot
from dubrel.desk.sheet.turnblock import TRACE_GAP, TRACE_HEIGHT, PageStyle, TurnBlock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import sheet_font
from dubrel.edits.words.paragraphs import goes_on
from dubrel.model import Timing, Turn
from dubrel.project.changes import Change
from dubrel.project.index import turn_of, turn_place
from dubrel.project.queries import DOUBTFUL

MARGIN, LEFT, RIGHT = 22, 144, 168
MOST_MEASURE = 500


@guarded
class TurnPage(Page):
    """Turns as paragraphs; where the caret stands and what is selected."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        self._style: PageStyle | None = None
        super().__init__(desk.theme, parent)
        self.desk, self.session = desk, desk.session
        self._spots = HeldSpots(desk.session)
        self.preedit = ""
        self.threshold = DOUBTFUL
        self.voices = False
        self.misspelt: Callable[[Turn], Collection[int]] = lambda turn: ()
        self.spoken: tuple[int, int] | None = None
        self._blink_on = True
        self.setAccessibleName(tr("Sheet: transcript"))
        self.session.changed.connect(self._on_changed)
        self.session.traced.connect(self.lay_out_again)
        self.session.opened.connect(self.start_over)

    # -- spots by id ------------------------------------------------------------

    @property
    def caret(self) -> Spot:
        """Where is written: held by the ids of its turn and word."""
        return self._spots.get("caret") or Spot(0, 0)

    @caret.setter
    def caret(self, spot: Spot) -> None:
        self._spots.put("caret", spot)

    @property
    def anchor(self) -> Spot:
        """The other end of the selection."""
        return self._spots.get("anchor") or Spot(0, 0)

    @anchor.setter
    def anchor(self, spot: Spot) -> None:
        self._spots.put("anchor", spot)

    @property
    def pending(self) -> Spot | None:
        """Where a space was typed that parts no words yet."""
        return self._spots.get("pending")

    @pending.setter
    def pending(self, spot: Spot | None) -> None:
        self._spots.put("pending", spot)

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
            room = self.viewport().width() - px(LEFT) - px(MARGIN)
            beside = px(RIGHT) if room - px(RIGHT) > 330 else 0
            self._style = PageStyle(
                theme=self.theme,
                font=font,
                measure=float(max(180, min(px(MOST_MEASURE), room - beside))),
                pitch=round(metrics.height()) + px(TRACE_GAP) + px(TRACE_HEIGHT) + 1,
                ascent_room=metrics.ascent(),
                threshold=self.threshold,
                peaks=self.session.trace,
                ratio=self.devicePixelRatioF(),
                language=self.session.project.transcript.language,
                voices=self.voices,
            )
        return self._style

    def forget_style(self) -> None:
        """Take fonts, colours and width anew."""
        self._style = None

    def show_voices(self, on: bool) -> None:
        """Whether words are marked whose speaker is not sure."""
        self.voices = self.style_now().voices = on
        self.viewport().update()

    def estimate(self, items: Sequence[Turn]) -> list[float]:
        """Heights of turns by their letters."""
        style, letter = self.style_now(), 9.3 * scale()
        lines = [max(1, -(-len(one.text) * letter // style.measure)) for one in items]
        return [max(float(many) * style.pitch, px(58.0)) + px(26) for many in lines]

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
        right = px(LEFT) + self.style_now().measure + 24
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
        self._spots.clear()
        self.spoken = None
        self.verticalScrollBar().setValue(0)
        self.viewport().update()

    # -- painting -------------------------------------------------------------

    def origin(self, place: int) -> QPointF:
        """Where the text of a turn begins in the viewport."""
        return QPointF(px(LEFT), self.block_top(place))

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
        origin = QPointF(px(LEFT), top)
        project = self.session.project
        paint_left_margin(
            painter,
            self.theme,
            project,
            turn,
            goes_on(self.turns, place),
            QRectF(px(MARGIN), top, px(LEFT) - px(MARGIN), block.text_height),
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
