"""The caret of the sheet: where keys move it, what they select, and where undo puts it back."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable
from typing import Any

from PySide6.QtGui import QKeySequence

from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.turnblock import TurnBlock, from_utf16
from dubrel.desk.sheet.turnsheet import TurnSheet
from dubrel.desk.shell.kit.guard import guarded

_SK = QKeySequence.StandardKey
KeyTable = list[tuple[tuple[QKeySequence.StandardKey, ...], Callable[[], None]]]
"""Keys, and what they do."""


@guarded
class CaretSheet(TurnSheet):
    """The sheet with a caret that is moved with keys."""

    _typing = 0  # letters typed without a move between them are one step

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.session.placed.connect(self._put_back)
        self.session.where = self._where

    def _where(self) -> object:
        """Caret and anchor by the ids of their turns, where the sheet is looked at."""
        turns = self.turns
        if not self.isVisible() or not turns:
            return None
        spots = (self.caret, self.anchor)
        return tuple((turns[min(one.turn, len(turns) - 1)].id, one.place) for one in spots)

    def _put_back(self, place: object) -> None:
        """Put caret and anchor where they were, as far as their turns are still there."""
        if not self.isVisible() or not isinstance(place, tuple):
            return
        places = {turn.id: nth for nth, turn in enumerate(self.turns)}
        spots = [Spot(places[turn], at) for turn, at in place if turn in places]
        if len(spots) == 2:
            self.move_caret(spots[1])
            self.move_caret(spots[0], keep=True)

    # -- keys -----------------------------------------------------------------

    def _key_table(self) -> KeyTable:
        moves = [
            (_SK.MoveToNextChar, _SK.SelectNextChar, lambda: self._sideways(1)),
            (_SK.MoveToPreviousChar, _SK.SelectPreviousChar, lambda: self._sideways(-1)),
            (_SK.MoveToNextWord, _SK.SelectNextWord, lambda: self._word(self._way(1))),
            (_SK.MoveToPreviousWord, _SK.SelectPreviousWord, lambda: self._word(self._way(-1))),
            (_SK.MoveToStartOfLine, _SK.SelectStartOfLine, lambda: self._line_edge(False)),
            (_SK.MoveToEndOfLine, _SK.SelectEndOfLine, lambda: self._line_edge(True)),
            (_SK.MoveToStartOfDocument, _SK.SelectStartOfDocument, lambda: Spot(0, 0)),
            (_SK.MoveToEndOfDocument, _SK.SelectEndOfDocument, self._last),
        ]
        table: KeyTable = [((_SK.SelectAll,), self.select_all)]
        for move, select, where in moves:
            table.append(((move,), lambda where=where: self._go(where, False)))  # type: ignore[misc]
            table.append(((select,), lambda where=where: self._go(where, True)))  # type: ignore[misc]
        for step, line, select, page in (
            (1, _SK.MoveToNextLine, _SK.SelectNextLine, _SK.MoveToNextPage),
            (-1, _SK.MoveToPreviousLine, _SK.SelectPreviousLine, _SK.MoveToPreviousPage),
        ):
            table.append(((line,), lambda step=step: self._vertical(step, False)))  # type: ignore[misc]
            table.append(((select,), lambda step=step: self._vertical(step, True)))  # type: ignore[misc]
            table.append(((page,), lambda step=step: self._vertical(step * 12, False)))  # type: ignore[misc]
        return table

    def select_all(self) -> None:
        """Select the whole transcript."""
        self.move_caret(Spot(0, 0))
        self.move_caret(self._last(), keep=True)

    # -- moving ---------------------------------------------------------------

    def _go(self, where: Callable[[], Spot], keep: bool) -> None:
        first, last = sorted((self.anchor, self.caret))
        target = where()
        if (
            first != last
            and not keep
            and abs(target.place - self.caret.place) <= 2
            and target.turn == self.caret.turn
        ):
            target = first if target < self.caret else last
        self._typing += 1
        self.move_caret(target, keep=keep)

    def _char(self, step: int) -> Spot:
        block = self.block_at_spot(self.caret)
        at = block._u(self.caret.place)
        moved = block.layout.nextCursorPosition(at) if step > 0 else block.layout.previousCursorPosition(at)
        return self._stepped(at, moved, step, block)

    def _way(self, step: int) -> int:
        """Whether a step to the right goes on or back: back where the turn is read from the right."""
        return -step if self.block_at_spot(self.caret).rtl else step

    def _sideways(self, step: int) -> Spot:
        """One letter to the right or to the left, as it is seen; also within what is read the other way."""
        block = self.block_at_spot(self.caret)
        at, layout = block._u(self.caret.place), block.layout
        moved = layout.rightCursorPosition(at) if step > 0 else layout.leftCursorPosition(at)
        return self._stepped(at, moved, self._way(step), block)

    def _word(self, step: int) -> Spot:
        block, at = self.block_at_spot(self.caret), self.caret.place
        starts = [block.span(place)[0] for place in range(len(block.turn.words))]
        if step > 0 and at < len(block.text):
            after = bisect_right(starts, at)
            return Spot(self.caret.turn, starts[after] if after < len(starts) else len(block.text))
        if step < 0 and at > 0:
            return Spot(self.caret.turn, starts[max(0, bisect_left(starts, at) - 1)])
        return self._neighbour(step)

    def _stepped(self, at: int, moved: int, step: int, block: TurnBlock) -> Spot:
        return self._neighbour(step) if moved == at else Spot(self.caret.turn, from_utf16(block.text, moved))

    def _neighbour(self, step: int) -> Spot:
        turn = self.caret.turn + step
        if not 0 <= turn < len(self.turns):
            return self.caret
        return Spot(turn, 0 if step > 0 else len(self.turns[turn].text))

    def _line_edge(self, end: bool) -> Spot:
        block = self.block_at_spot(self.caret)
        line = block.layout.lineAt(block.line_of(self.caret.place))
        at = line.textStart() + line.textLength() if end else line.textStart()
        place = from_utf16(block.text, at)
        last_line = line.lineNumber() == block.layout.lineCount() - 1
        return Spot(self.caret.turn, place - 1 if end and not last_line and place else place)

    def _last(self) -> Spot:
        turn = len(self.turns) - 1
        return Spot(turn, len(self.turns[turn].text))

    def _vertical(self, lines: int, keep: bool) -> None:
        pitch = self.style_now().pitch
        goal = self._goal_x if self._goal_x is not None else self.caret_rect().left()
        target = self.caret
        for _ in range(abs(lines)):
            step = 1 if lines > 0 else -1
            block = self.column.block(target.turn)
            line = block.line_of(target.place) + step
            if not 0 <= line < block.layout.lineCount():
                turn = target.turn + step
                if not 0 <= turn < len(self.turns):
                    break
                block, line = self.column.block(turn), 0
                line = 0 if step > 0 else block.layout.lineCount() - 1
                target = Spot(turn, 0)
            place = block.place_at(goal - self.origin(target.turn).x(), (line + 0.5) * pitch)
            target = Spot(target.turn, place)
        self._typing += 1
        self.move_caret(target, keep=keep, goal=goal)
