"""Every action: its name, its keys (which a user can change) and what it does."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_config_dir
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from dubrel.files import write_text


@dataclass(frozen=True)
class Command:
    """An action as the table gives it."""

    name: str
    text: str
    keys: str
    run: Callable[[], object]


def keys_path() -> Path:
    """Where a user's own shortcuts are kept."""
    return Path(user_config_dir("dubrel")) / "shortcuts.json"


def own_keys() -> dict[str, str]:
    """A user's own shortcuts by command name; none where the file cannot be read."""
    try:
        found = json.loads(keys_path().read_text())
    except (OSError, ValueError):
        return {}
    return {str(name): str(keys) for name, keys in found.items()} if isinstance(found, dict) else {}


class Commands:
    """The commands of a window as Qt actions.

    Parameters
    ----------
    window : QWidget
        Gets the actions and with them the shortcuts.
    table : list of Command
    """

    def __init__(self, window: QWidget, table: list[Command]) -> None:
        self.table = {command.name: command for command in table}
        self.actions: dict[str, QAction] = {}
        changed = own_keys()
        for command in table:
            action = QAction(command.text, window)
            action.setShortcut(QKeySequence(changed.get(command.name, command.keys)))
            action.triggered.connect(lambda _checked=False, run=command.run: run())
            window.addAction(action)
            self.actions[command.name] = action

    def keys(self, name: str) -> str:
        """The shortcut of a command as it is written on the keys."""
        return self.actions[name].shortcut().toString(QKeySequence.SequenceFormat.NativeText)

    def run(self, name: str) -> None:
        """Carry a command out."""
        self.actions[name].trigger()

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
        changed = own_keys() | {name: keys.toString()}
        keys_path().parent.mkdir(parents=True, exist_ok=True)
        write_text(keys_path(), json.dumps(changed, indent=1))
        return None
