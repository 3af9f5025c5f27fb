"""The line along the top: what is open, whether it is saved, the ways to all commands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.kit.dates import clock_or_day
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import label

if TYPE_CHECKING:
    from dubrel.desk.shell.core.commands import Commands
    from dubrel.desk.shell.core.session import Session
    from dubrel.model import Project

_TITLE = 48  # letters


class Header(QWidget):
    """Title and state of the project, and two buttons."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(Space.EDGE, Space.NEAR, Space.WIDE, 0)
        row.setSpacing(Space.NEAR)
        self.title, self.subtitle = label("", "project"), label("", "quiet")
        self.saved = label("", "quiet")
        self.find_button, self.menu_button = QPushButton(tr("Find a command")), QPushButton(tr("Menu"))
        row.addWidget(self.title)
        row.addSpacing(Space.APART)
        row.addWidget(self.subtitle)
        row.addStretch(1)
        row.addWidget(self.saved)
        row.addSpacing(Space.APART)
        for one in (self.find_button, self.menu_button):
            one.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(one)

    def show_project(self, project: Project) -> None:
        """Show what is open."""
        title = project.title
        self.title.setText(title if len(title) < _TITLE else title[: _TITLE - 2] + "…")
        self.subtitle.setText(project.subtitle)

    def show_saved(self, session: Session) -> None:
        """Show whether the work is saved."""
        if session.read_only:
            self.saved.setText(tr("Read-only"))
        elif session.dirty:
            self.saved.setText(tr("Not saved"))
        elif session.saved_at is not None:
            self.saved.setText(tr("Saved {saved_at}").format(saved_at=clock_or_day(session.saved_at)))
        else:
            self.saved.setText("")

    def show_keys(self, commands: Commands) -> None:
        """Show the keys of both buttons."""
        self.find_button.setText(tr("Find a command   {keys}").format(keys=commands.keys("find")))
        self.menu_button.setText(tr("Menu   {keys}").format(keys=commands.keys("menu")))
