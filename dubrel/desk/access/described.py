"""What a page that draws itself says of itself: a list of texts, each with a name, marks and acts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, ClassVar, Literal

from PySide6.QtCore import QRect, SignalInstance

from dubrel.base.value import Value

MarkKind = Literal["doubt", "struck", "spelling"]


class Mark(Value):
    """A run of letters that looks otherwise, for a reason.

    Attributes
    ----------
    start, end : int
        Places in the text.
    kind : {"doubt", "struck", "spelling"}
    """

    start: int
    end: int
    kind: MarkKind


class Described(Value):
    """One thing on a page.

    Attributes
    ----------
    name : str
        Who and when, and how it stands: “Isolde, 0:12, proofed”.
    text : str
        With line ends where its lines end.
    marks : tuple of Mark
    """

    name: str
    text: str
    marks: tuple[Mark, ...] = ()


class Describing:
    """What a page says for a screen reader, and what it lets be done: one thing after the other.

    As it is here, a page that is only read; ``column`` of the page knows where things stand.

    Parameters
    ----------
    page : QWidget
    moved : SignalInstance
        The chosen thing, or the caret in it, may be another.
    changed : SignalInstance
        Things may say something else.
    """

    acts: ClassVar[Sequence[tuple[str, str]]] = ()
    """What can be done with one, and the command that does it with the chosen one."""

    def __init__(self, page: Any, moved: SignalInstance, changed: SignalInstance) -> None:
        self.page, self.moved, self.changed = page, moved, changed
        self._ids: tuple[object, list[int]] = ((), [])

    def empty(self) -> str:
        """What the page says where nothing stands on it; nothing where something does."""
        return str(self.page.accessible_text())

    def things(self) -> Sequence[Any]:
        """All things in order; another object after a change."""
        raise NotImplementedError

    def ids(self) -> list[int]:
        """Ids of all things, in order."""
        things = self.things()
        if self._ids[0] is not things:
            self._ids = things, [one.id for one in things]
        return self._ids[1]

    def chosen(self) -> int:
        """The place of the chosen one; -1 for none."""
        return int(self.page.current)

    def caret(self) -> tuple[int, int]:
        """Anchor and caret in the text of the chosen one; where there is no caret, its beginning."""
        return 0, 0

    def described(self, place: int) -> Described:
        """What stands at a place."""
        raise NotImplementedError

    def rect(self, place: int) -> QRect:
        """Where it stands in the viewport."""
        column = self.page.column
        top, high = self.page.block_top(place), column.top(place + 1) - column.top(place)
        return QRect(0, round(top), self.page.viewport().width(), round(high))

    def choose(self, place: int) -> None:
        """Make one the chosen one."""
        self.page.choose(place)

    def put_caret(self, place: int, _anchor: int, _caret: int) -> None:
        """Put the caret into the text of one; where there is no caret, choose it."""
        self.page.choose(place)

    def run(self, command: str) -> None:
        """Run a command of the desk."""
        self.page.desk.commands.run(command)

    def writer(self) -> Callable[[int, int, int, str], None] | None:
        """What writes over letters of one (place, from, to, text); nothing where it is read-only."""
        return None
