"""The commands on what is done with others."""

from __future__ import annotations

from PySide6.QtCore import QObject

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.commands import Group
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.together.handing import Handing
from dubrel.desk.together.merging import Merging
from dubrel.desk.together.questions import TogetherQuestions


class Together(QObject):
    """Working with others."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.ask = TogetherQuestions(desk)
        self.merging = Merging(desk, self.ask)
        self.handing = Handing(desk, self.ask)

    def group(self) -> Group:
        """What can be done."""
        return Group(tr("Together"), [*self.merging.commands(), *self.handing.commands()])
