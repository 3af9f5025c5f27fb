"""Menus: one with everything by pass, and one for each thing under the hand."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QMenu, QWidget

from dubrel.desk.shell.core.commands import Command, Commands


def main_menu(commands: Commands, parent: QWidget) -> QMenu:
    """Every command, a submenu for each group."""
    menu = QMenu(parent)
    for group in commands.groups:
        _fill(menu.addMenu(group.name), group.commands, commands)
    return menu


def context_menu(commands: Commands, things: Iterable[str], parent: QWidget) -> QMenu:
    """The commands that concern some things, the nearest first."""
    menu = QMenu(parent)
    seen: set[str] = set()
    for thing in things:
        some = [one for one in commands.on(thing) if one.name not in seen]
        seen |= {one.name for one in some}
        if some and not menu.isEmpty():
            menu.addSeparator()
        _fill(menu, some, commands)
    return menu


def _fill(menu: QMenu, some: Iterable[Command], commands: Commands) -> None:
    menu.setToolTipsVisible(True)
    for command in some:
        reason = command.why_not()
        keys = commands.keys(command.name)
        text = f"{command.text} ({reason.rstrip('.')})" if reason else command.text
        action = menu.addAction(f"{text}\t{keys}" if keys else text)
        action.setObjectName(command.name)
        action.setEnabled(not reason)
        action.setToolTip(reason)
        action.triggered.connect(lambda _checked=False, name=command.name: commands.run(name))
