"""The commands of what is heard in place of the recording."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject

from dubrel.base.catalogue import tr
from dubrel.desk.ears.forward import Forward
from dubrel.desk.ears.spoken import Spoken
from dubrel.desk.shell.core.commands import Group
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import CaptionTrack


class Ears(QObject):
    """The voice brought forward, or a text that is spoken: one at a time.

    Parameters
    ----------
    desk : Desk
    open_track : callable
        The translation that is worked on, if any.
    """

    def __init__(self, desk: Desk, open_track: Callable[[], CaptionTrack | None]) -> None:
        super().__init__(desk)
        self.forward = Forward(desk)
        self.spoken = Spoken(desk, open_track, self.forward.turn_off)
        self.forward.alone = self.spoken.turn_off
        self.ask = self.spoken.ask
        row = self.forward.row.layout()
        assert row is not None
        row.addWidget(self.spoken.button)

    def group(self) -> Group:
        """What can be done."""
        return Group(tr("Listen"), [*self.forward.commands(), *self.spoken.commands()])
