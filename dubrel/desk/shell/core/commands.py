"""Every action: its name, its keys (which a user can change), whether it can be done now, what it does."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.folders import config_folder
from dubrel.base.value import Value, field
from dubrel.user.kept import Kept


def always() -> str:
    """It can be done at any time."""
    return ""


class Command(Value):
    """An action as a room gives it.

    Attributes
    ----------
    name, text, keys : str
        ``text`` is for the eye, ``keys`` the first shortcut.
    run : callable
    why_not : callable
        Why it cannot be done now, in one sentence; empty where it can.
    on : tuple of str
        What it concerns (``word``, ``selection``, ``turn``, ``speaker``,
        ``caption``, ``strip``, ``recording``): it stands in the context menu of that.
    words : str
        Other words by which it is found: what the buttons of its dialog say.
    """

    name: str
    text: str
    keys: str
    run: Callable[[], object]
    why_not: Callable[[], str] = always
    on: tuple[str, ...] = field(default=())
    words: str = ""


class Act(Value):
    """A button of a page, a panel or a drawer, as the list of commands finds it.

    Attributes
    ----------
    text : str
        What the button says.
    place : str
        Where it is: the page of the drawer, the pass.
    run : callable
    """

    text: str
    place: str
    run: Callable[[], object]


class Group(Value):
    """Commands under one heading of the menu."""

    name: str
    commands: Sequence[Command]


def _understood(found: dict[str, str]) -> dict[str, str]:
    return {str(name): str(keys) for name, keys in found.items()}


OWN_KEYS = Kept[dict[str, str]](
    "shortcuts.json", tr("The file of the shortcuts"), _understood, dict, dict, config_folder
)
"""A user's own shortcuts by command name."""


class Commands:
    """The commands of a window as Qt actions.

    Parameters
    ----------
    window : QWidget
        Gets the actions and with them the shortcuts.
    groups : list of Group
    say : callable
        Gets the reason where a command cannot be done.
    """

    def __init__(self, window: QWidget, groups: Sequence[Group], say: Callable[[str], object]) -> None:
        self.groups, self._say = groups, say
        self.table = {command.name: command for group in groups for command in group.commands}
        self.actions: dict[str, QAction] = {}
        self._held: frozenset[str] = frozenset()  # those that are for what is not seen now
        changed = OWN_KEYS.read()
        for name, command in self.table.items():
            action = QAction(command.text, window)
            action.setShortcut(QKeySequence(changed.get(name, command.keys)))
            action.triggered.connect(lambda _checked=False, command=command: self._do(command))
            window.addAction(action)
            self.actions[name] = action

    def keys(self, name: str) -> str:
        """The shortcut of a command as it is written on the keys."""
        return self.actions[name].shortcut().toString(QKeySequence.SequenceFormat.NativeText)

    def named(self, keys: QKeySequence) -> str:
        """The command that has some keys; empty where none has."""
        if keys.isEmpty():
            return ""
        return next((name for name, action in self.actions.items() if action.shortcut() == keys), "")

    def why_not(self, name: str) -> str:
        """Why a command cannot be done now; empty where it can."""
        return self.table[name].why_not()

    def on(self, thing: str) -> list[Command]:
        """The commands that concern a thing, in the order of the groups."""
        return [one for one in self.table.values() if thing in one.on]

    def run(self, name: str) -> None:
        """Carry a command out."""
        if name in self._held:
            self._say(tr("That is done in the open project. Go back to it first."))
        else:
            self.actions[name].trigger()

    def hold(self, groups: Sequence[str] | None) -> None:
        """Let only the commands of some groups be done, by keys too; with ``None`` all of them."""
        kept = {
            one.name
            for group in self.groups
            if groups is None or group.name in groups
            for one in group.commands
        }
        self._held = frozenset(self.table.keys() - kept)
        for name, action in self.actions.items():
            action.setEnabled(name in kept)

    def _do(self, command: Command) -> None:
        reason = command.why_not()
        if reason:
            self._say(reason)
            return
        try:
            command.run()
        except DubrelError as error:
            self._say(str(error))

    def change(self, name: str, keys: QKeySequence) -> str | None:
        """Give a command another shortcut.

        Returns
        -------
        str or None
            The text of the command that has these keys already; nothing is
            changed then.
        """
        if not keys.isEmpty():
            for other, action in self.actions.items():
                if other != name and action.shortcut() == keys:
                    return action.text()
        self.actions[name].setShortcut(keys)
        OWN_KEYS.write(OWN_KEYS.read() | {name: keys.toString()})
        return None
