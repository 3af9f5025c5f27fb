"""The small interface by which a pass says all that the window needs to know of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Act, Command

if TYPE_CHECKING:
    from dubrel.desk.shell.core.desk import Desk
    from dubrel.desk.shell.core.todo import ToDo
    from dubrel.desk.shell.frame.strip import Layer
from dubrel.desk.shell.kit.theme import Theme


class Room:
    """One pass.

    Attributes
    ----------
    id, name : str
        ``name`` is for the eye.
    hints : tuple of (command, text)
        Keys that the footer tells.
    ahead : tuple of str
        Modules that its page and panel need, loaded while nothing is to do.
    """

    id = ""
    name = ""
    hints: tuple[tuple[str, str], ...] = ()
    ahead: tuple[str, ...] = ()

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    @property
    def page(self) -> QWidget:
        """Its page in the middle; several rooms may share one."""
        raise NotImplementedError

    @property
    def panel(self) -> QWidget | None:
        """Its panel in the booth; made when it is first wanted."""
        return None

    @property
    def drawer(self) -> QWidget | None:
        """What is pulled out under its page now."""
        return None

    @property
    def layer(self) -> Layer | None:
        """What it draws on the strip."""
        return None

    def other_pages(self) -> list[Callable[[], QWidget]]:
        """Pages that take the place of its page at times; made while nothing is to do."""
        return []

    def commands(self) -> list[Command]:
        """What can be done in it, with the first keys."""
        return []

    def acts(self) -> list[Act]:
        """The buttons of what it pulls out, shown or not."""
        return []

    def todo(self) -> ToDo:
        """What is still to do."""
        return ToDo()

    def look(self, step: int) -> None:
        """Go to the next thing that needs a look, or with -1 to the one before."""
        self.desk.say(tr("There is nothing to check here. Go to another pass."))

    def enter(self) -> None:
        """It is shown now."""

    def leave(self) -> None:
        """Another one is shown now."""

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of what belongs to it alone."""
