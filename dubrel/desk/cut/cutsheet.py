"""The sheet of a cut: it reads as the cut will sound; what is out is folded, what is proposed is marked."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.cut.cutblock import CutBlock
from dubrel.desk.sheet.margins import paint_left_margin
from dubrel.desk.sheet.page import Page
from dubrel.desk.sheet.turnblock import TRACE_GAP, TRACE_HEIGHT, PageStyle
from dubrel.desk.sheet.turnpage import LEFT, MARGIN, MOST_MEASURE
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import sheet_font
from dubrel.edits.cuts.reading import Paragraph, Token, reason_text
from dubrel.edits.cuts.removals import Removal
from dubrel.edits.words.paragraphs import goes_on

_AROUND_MS = 60_000

Place = tuple[int, int]  # of a paragraph, and of a token in it


@guarded
class CutSheet(Page):
    """Paragraphs of a cut; a token is where one stands, several can be selected.

    Signals
    -------
    seek_wanted(int)
        A time of the recording.
    moved()
        Another token may be the current one.
    ticked()
        Other proposals are ticked.
    out_wanted(), back_wanted()
        What is selected is to go, or to come back.
    """

    seek_wanted = Signal(int)
    moved = Signal()
    ticked = Signal()
    out_wanted = Signal()
    back_wanted = Signal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        self._style: PageStyle | None = None
        super().__init__(desk.theme, parent)
        self.desk, self.session = desk, desk.session
        self.caret: Place = (0, 0)
        self.anchor: Place = (0, 0)
        self.spoken: Place | None = None
        self.opened: set[int] = set()
        self.off: set[tuple[int, int]] = set()
        self.setAccessibleName(tr("Sheet: cut"))
        self.session.traced.connect(self.lay_out_again)

    # -- layout ----------------------------------------------------------------------------

    @property
    def paragraphs(self) -> Sequence[Paragraph]:
        """What is shown."""
        return self.column.items

    def style_now(self) -> PageStyle:
        """Fonts, measure and colours at the present size of the window."""
        if self._style is None:
            font = sheet_font()
            metrics = QFontMetricsF(font)
            room = self.viewport().width() - px(LEFT) - px(MARGIN)
            self._style = PageStyle(
                theme=self.theme,
                font=font,
                measure=float(max(180, min(px(MOST_MEASURE) + 110, room - 20))),
                pitch=round(metrics.height()) + px(TRACE_GAP) + px(TRACE_HEIGHT) + 1,
                ascent_room=metrics.ascent(),
                threshold=2.0,
                peaks=self.session.trace,
                ratio=self.devicePixelRatioF(),
                language=self.session.project.transcript.language,
            )
        return self._style

    def forget_style(self) -> None:
        """Take fonts, colours and width anew."""
        self._style = None

    def estimate(self, items: Sequence[Paragraph]) -> list[float]:
        """Heights of paragraphs by their letters."""
        style, letter = self.style_now(), 9.3 * scale()
        lines = [max(1, -(-len(one.turn.text) * letter // style.measure)) for one in items]
        return [max(float(many) * style.pitch, 58.0) + 26 for many in lines]

    def build(self, item: Paragraph) -> CutBlock:
        """Lay a paragraph out."""
        return CutBlock(item, self.style_now(), self.opened, self.off)

    def show_paragraphs(self, paragraphs: Sequence[Paragraph], *, anew: bool = False) -> None:
        """Show a cut; where one stands stays at the same time."""
        now = self.current()
        at = now.start_ms if now else None
        self.spoken = None
        self.show_items(paragraphs, anew=anew)
        if at is not None:
            self.caret = self.anchor = self._near(at)
        self.moved.emit()

    def _near(self, ms: int) -> Place:
        """The token at a time of the recording, or the one before it."""
        if any(b.start_ms < a.start_ms for a, b in pairwise(self.paragraphs)):  # it plays in another order
            return self._among(ms)
        place = max(0, bisect_right(self.paragraphs, ms, key=lambda one: one.start_ms) - 1)
        if place + 1 < len(self.paragraphs):  # a pause before the next turn stands in that
            after = self.paragraphs[place + 1].tokens
            if after and after[0].start_ms <= ms:
                place += 1
        tokens = self.paragraphs[place].tokens if self.paragraphs else ()
        return (place, max(0, sum(token.start_ms <= ms for token in tokens) - 1))

    def _among(self, ms: int) -> Place:
        """The first token that is said at a time; the very first where none is."""
        for place, one in enumerate(self.paragraphs):
            if one.start_ms <= ms <= one.turn.end_ms:
                for nth, token in enumerate(one.tokens):
                    if token.start_ms <= ms < token.end_ms:
                        return (place, nth)
        return (0, 0)

    # -- where one stands --------------------------------------------------------------------

    def token(self, place: Place) -> Token | None:
        """The token at a place."""
        if not 0 <= place[0] < len(self.paragraphs):
            return None
        tokens = self.paragraphs[place[0]].tokens
        return tokens[place[1]] if 0 <= place[1] < len(tokens) else None

    def current(self) -> Token | None:
        """The token where one stands."""
        return self.token(self.caret)

    def selected(self) -> list[tuple[Paragraph, Token]]:
        """The tokens that are selected; the current one alone where nothing else is."""
        first, last = sorted((self.anchor, self.caret))
        return [
            (self.paragraphs[place], token)
            for place in range(first[0], min(last[0], len(self.paragraphs) - 1) + 1)
            for nth, token in enumerate(self.paragraphs[place].tokens)
            if first <= (place, nth) <= last
        ]

    def selected_words(self) -> list[int]:
        """Ids of the words that are selected and play."""
        return [one.turn.words[token.first].id for one, token in self.selected() if token.kind == "word"]

    def move_to(self, place: Place, *, keep: bool = False) -> None:
        """Stand somewhere else; with ``keep`` the selection grows or shrinks."""
        before = sorted((self.caret[0], self.anchor[0]))
        self.caret = place
        if not keep:
            self.anchor = place
        after = sorted((self.caret[0], self.anchor[0]))
        self.update_blocks(min(before[0], after[0]), max(before[1], after[1]) + 1)
        self._show_caret()
        self._describe()
        self.moved.emit()

    def go_to(self, ms: int) -> None:
        """Stand at a time of the recording."""
        if self.paragraphs:
            self.move_to(self._near(ms))

    def _show_caret(self) -> None:
        if not 0 <= self.caret[0] < len(self.paragraphs):
            return
        block = self.column.block(self.caret[0])
        if self.caret[1] < len(block.pieces) and (rects := block.rects(self.caret[1])):
            top = self.column.top(self.caret[0]) + rects[0].top()
            self.scroll_into_view(top, top + self.style_now().pitch, margin=24)

    def _describe(self) -> None:
        """Tell a screen reader what one stands on."""
        token = self.current()
        if token is None:
            return
        seconds = tr("{seconds:.1f} seconds").format(seconds=(token.end_ms - token.start_ms) / 1000)
        turn = self.paragraphs[self.caret[0]].turn
        said = " ".join(word.text for word in turn.words[token.first : token.stop])
        if token.kind == "pause":
            said = tr("Pause, {seconds} {what}").format(
                seconds=seconds, what=tr("proposed") if token.proposed else tr("taken out")
            )
        elif token.kind == "gone":
            said = tr("Taken out: {said}, {why}, {seconds}").format(
                said=said, why=tr(reason_text(token.why)), seconds=seconds
            )
        elif token.proposed:
            said = tr("{said}, proposed: {why}").format(said=said, why=tr(token.proposed.why))
        self.setAccessibleDescription(said)

    def step(self, count: int, *, keep: bool = False) -> None:
        """Go some tokens on or back."""
        place, nth = self.caret
        nth += count
        while nth < 0 and place > 0:
            place -= 1
            nth += len(self.paragraphs[place].tokens)
        while (
            0 <= place < len(self.paragraphs)
            and nth >= len(self.paragraphs[place].tokens)
            and place + 1 < len(self.paragraphs)
        ):
            nth -= len(self.paragraphs[place].tokens)
            place += 1
        if 0 <= place < len(self.paragraphs):
            self.move_to((place, min(max(0, nth), max(0, len(self.paragraphs[place].tokens) - 1))), keep=keep)

    def line(self, count: int, *, keep: bool = False) -> None:
        """Go up or down by lines."""
        if not self.paragraphs:
            return
        block = self.column.block(self.caret[0])
        rects = block.rects(self.caret[1]) if self.caret[1] < len(block.pieces) else []
        if not rects:
            return
        y = self.block_top(self.caret[0]) + rects[0].center().y() + count * self.style_now().pitch
        if y < self.block_top(self.caret[0]) and self.caret[0]:
            above = self.column.block(self.caret[0] - 1)
            y = self.block_top(self.caret[0] - 1) + above.text_height - 4
        elif y > self.block_top(self.caret[0]) + block.text_height and self.caret[0] + 1 < len(
            self.paragraphs
        ):
            y = self.block_top(self.caret[0] + 1) + 4
        self.move_to(self.place_at(QPointF(px(LEFT) + rects[0].center().x(), y)), keep=keep)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Go from token to token; Space ticks, Enter unfolds, Delete takes out, Insert puts back."""
        keep = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        lines = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -12, Qt.Key.Key_PageDown: 12}
        key = Qt.Key(event.key())
        if key in steps:
            back = self.paragraphs and self.column.block(self.caret[0]).rtl
            self.step(-steps[key] if back else steps[key], keep=keep)
        elif key in lines:
            self.line(lines[key], keep=keep)
        elif key == Qt.Key.Key_Home:
            self.move_to((0, 0), keep=keep)
        elif key == Qt.Key.Key_End and self.paragraphs:
            last = len(self.paragraphs) - 1
            self.move_to((last, max(0, len(self.paragraphs[last].tokens) - 1)), keep=keep)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.unfold()
        elif key == Qt.Key.Key_Delete:
            self.out_wanted.emit()
        elif key in (Qt.Key.Key_Insert, Qt.Key.Key_Backspace):
            self.back_wanted.emit()
        elif key == Qt.Key.Key_Space and not event.modifiers():
            self.tick()
        else:
            super().keyPressEvent(event)

    def unfold(self) -> None:
        """Show all words of the passage where one stands, or fold it again."""
        token = self.current()
        if token is not None and token.kind == "gone":
            self.opened ^= {token.start_ms}
            self.column.rebuild(self.caret[0])
            self.viewport().update()

    def tick(self, offers: Sequence[Removal] | None = None) -> None:
        """Untick what is proposed in the selection, or tick it again."""
        offers = offers or [token.proposed for _, token in self.selected() if token.proposed]
        spans = {(one.start_ms, one.end_ms) for one in offers}
        if not spans:
            return
        self.off = self.off - spans if spans <= self.off else self.off | spans
        low, high = min(spans)[0] - _AROUND_MS, max(end for _, end in spans) + _AROUND_MS
        for place, one in enumerate(self.paragraphs):
            if one.turn.end_ms < low or one.start_ms > high:
                continue
            if any(t.proposed and (t.proposed.start_ms, t.proposed.end_ms) in spans for t in one.tokens):
                self.column.rebuild(place)
        self.viewport().update()
        self.ticked.emit()

    # -- mouse -----------------------------------------------------------------------------

    def place_at(self, point: QPointF) -> Place:
        """The token nearest to a point of the viewport."""
        place = self.column.at(point.y() + self.verticalScrollBar().value() - 26)
        if place < 0:
            return (0, 0)
        top = self.block_top(place)
        return (place, self.column.block(place).token_at(point.x() - px(LEFT), point.y() - top))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Stand at a token, and put the playhead there."""
        if event.button() != Qt.MouseButton.LeftButton or not self.paragraphs:
            return
        keep = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.move_to(self.place_at(event.position()), keep=keep)
        token = self.current()
        if token is not None and not keep:
            self.seek_wanted.emit(token.start_ms)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Select by dragging."""
        if event.buttons() & Qt.MouseButton.LeftButton and self.paragraphs:
            place = self.place_at(event.position())
            if place != self.caret:
                self.move_to(place, keep=True)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Unfold a passage; untick what is proposed."""
        token = self.current()
        if token is not None and token.kind == "gone":
            self.unfold()
        else:
            self.tick()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show what can be done here."""
        if event.reason() == QContextMenuEvent.Reason.Mouse and self.paragraphs and self.caret == self.anchor:
            self.move_to(self.place_at(QPointF(event.pos())))
        self.desk.menu_on(["cut"], event.globalPos())

    # -- playing -----------------------------------------------------------------------------

    def follow(self, ms: int) -> None:
        """Mark the token that is heard at a time of the recording, and keep it in view while playing."""
        if not self.paragraphs or not self.isVisible():
            return
        place = self._near(ms)
        token = self.token(place)
        now = place if token is not None and token.kind == "word" and ms < token.end_ms else None
        if now == self.spoken:
            return
        before, self.spoken = self.spoken, now
        for one in {each[0] for each in (before, now) if each is not None}:
            self.update_blocks(one, one + 1)
        if now is not None and self.desk.player.playing and self.desk.follows:
            rects = self.column.block(now[0]).rects(now[1])
            if rects:
                top = self.column.top(now[0]) + rects[0].top()
                self.scroll_into_view(top, top + self.style_now().pitch, margin=90)

    # -- painting ------------------------------------------------------------------------------

    def paint_block(self, painter: QPainter, place: int, top: float) -> None:
        """Draw a paragraph with who speaks."""
        block, paragraph = self.column.block(place), self.paragraphs[place]
        turns = self.session.project.transcript.turns
        here = place < len(turns) and turns[place] is paragraph.turn
        paint_left_margin(
            painter,
            self.theme,
            self.session.project,
            paragraph.turn,
            here and goes_on(turns, place),
            QRectF(px(MARGIN), top, px(LEFT) - px(MARGIN), block.text_height),
        )
        first, last = sorted((self.anchor, self.caret))
        low = 0 if first[0] < place else first[1]
        high = len(block.pieces) if last[0] > place else last[1] + 1
        several = first != last or self.hasFocus()
        chosen = range(low, high) if several and first[0] <= place <= last[0] else range(0)
        spoken = self.spoken[1] if self.spoken and self.spoken[0] == place else None
        current = self.caret[1] if self.caret[0] == place else None
        block.paint(painter, QPointF(px(LEFT), top), chosen, spoken, current)
