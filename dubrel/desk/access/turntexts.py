"""The sheet of turns as a screen reader gets it: each turn a text with who, when and how it stands."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRect

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.access.described import Described, Describing, Mark
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.turnsheet import TurnSheet
from dubrel.edits.speakers.voices import shown_name
from dubrel.edits.words.wording import replace_text
from dubrel.model import Turn

_PLAY = "play"


class TurnTexts(Describing):
    """Says what the sheet shows.

    Parameters
    ----------
    sheet : TurnSheet
    """

    page: TurnSheet
    acts = (
        (tr("Play"), _PLAY),
        (tr("Mark as proofed, or not"), "proofed"),
        (tr("Accept the word"), "accept"),
    )

    def __init__(self, sheet: TurnSheet) -> None:
        super().__init__(sheet, sheet.caret_moved, sheet.session.changed)

    def things(self) -> Sequence[Turn]:
        """The turns."""
        return self.page.turns

    def chosen(self) -> int:
        """The turn at the caret."""
        return min(self.page.caret.turn, len(self.page.turns) - 1)

    def caret(self) -> tuple[int, int]:
        """Anchor and caret in the turn at the caret; what is selected beyond it ends at its edge."""
        here, anchor = self.page.caret, self.page.anchor
        if anchor.turn == here.turn:
            return anchor.place, here.place
        return (0 if anchor.turn < here.turn else len(self.page.turns[here.turn].text)), here.place

    def described(self, place: int) -> Described:
        """A turn: who, when, how it stands; its lines, doubts, struck words and spelling."""
        turn, project = self.page.turns[place], self.page.session.project
        who = shown_name(project, turn.speaker) if turn.speaker else tr("Unassigned")
        name = f"{who}, {format_clock(turn.start_ms, digits=0)}, {standing(turn)}"
        return Described(name, turn.lined, tuple(self._marks(turn)))

    def _marks(self, turn: Turn) -> list[Mark]:
        found, wrong = [], set(self.page.misspelt(turn))
        for place, (word, at) in enumerate(zip(turn.words, turn.offsets)):
            end = at + len(word.text)
            if word.struck:
                found.append(Mark(at, end, "struck"))
            elif place in wrong:
                found.append(Mark(at, end, "spelling"))
            elif word.doubt >= self.page.threshold:
                found.append(Mark(at, end, "doubt"))
        return found

    def rect(self, place: int) -> QRect:
        """Where the text of a turn stands."""
        column, style = self.page.column, self.page.style_now()
        top = self.page.origin(place)
        return QRect(
            round(top.x()),
            round(top.y()),
            round(style.measure),
            round(column.top(place + 1) - column.top(place)),
        )

    def choose(self, place: int) -> None:
        """Put the caret at the beginning of a turn."""
        if place != self.chosen():
            self.page.move_caret(Spot(place, 0))

    def put_caret(self, place: int, anchor: int, caret: int) -> None:
        """Put the caret, and select."""
        self.page.move_caret(Spot(place, anchor))
        if caret != anchor:
            self.page.move_caret(Spot(place, caret), keep=True)

    def run(self, command: str) -> None:
        """Run a command of the desk; the turn is played from its in time to its out time."""
        if command != _PLAY:
            super().run(command)
            return
        turn, player = self.page.turns[self.chosen()], self.page.desk.player
        player.seek(turn.start_ms)
        player.play(until=turn.end_ms)

    def writer(self) -> Callable[[int, int, int, str], None] | None:
        """Write over letters of a turn, as one step; nothing where it is read-only."""
        return self._write if self.page.writes and not self.page.session.read_only else None

    def _write(self, place: int, start: int, end: int, text: str) -> None:
        turn = self.page.turns[place].id
        self.page.session.step(lambda project: replace_text(project, turn, start, end, text), tr("Type"))


def standing(turn: Turn) -> str:
    """How a turn stands, in words."""
    return tr("changed since proofed") if turn.reworded else "proofed" if turn.proofed else tr("not proofed")
