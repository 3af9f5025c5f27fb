"""What a page that draws itself says of itself: a list of texts, each with a name, marks and acts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

from PySide6.QtCore import QRect, SignalInstance
from PySide6.QtWidgets import QWidget

MarkKind = Literal["doubt", "struck", "spelling"]


@dataclass(frozen=True)
class Mark:
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


@dataclass(frozen=True)
class Described:
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


class Describing(Protocol):
    """What a page must be able to say, and to do, for a screen reader."""

    @property
    def page(self) -> QWidget:
        """The page."""
        ...

    @property
    def moved(self) -> SignalInstance:
        """The chosen thing, or the caret in it, may be another."""
        ...

    @property
    def changed(self) -> SignalInstance:
        """Things may say something else."""
        ...

    @property
    def acts(self) -> Sequence[tuple[str, str]]:
        """What can be done with one, and the command that does it with the chosen one."""
        ...

    def empty(self) -> str:
        """What the page says where nothing stands on it; nothing where something does."""
        ...

    def ids(self) -> list[int]:
        """Ids of all things, in order."""
        ...

    def chosen(self) -> int:
        """The place of the chosen one; -1 for none."""
        ...

    def caret(self) -> tuple[int, int]:
        """Anchor and caret in the text of the chosen one."""
        ...

    def described(self, place: int) -> Described:
        """What stands at a place."""
        ...

    def rect(self, place: int) -> QRect:
        """Where it stands in the viewport."""
        ...

    def choose(self, place: int) -> None:
        """Make one the chosen one."""
        ...

    def put_caret(self, place: int, anchor: int, caret: int) -> None:
        """Put the caret into the text of one, where there is a caret."""
        ...

    def run(self, command: str) -> None:
        """Run a command of the desk."""
        ...

    def writer(self) -> Callable[[int, int, int, str], None] | None:
        """What writes over letters of one (place, from, to, text); nothing where it is read-only."""
        ...
