"""Open an address: looked at, asked about, fetched, opened."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QStandardPaths

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import tell
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.jobs.addresses.fetching import Offered
    from dubrel.jobs.machinery.events import Event


class Addresses:
    """The command and what it does."""

    def __init__(self, desk: Desk, ask: IntakeQuestions) -> None:
        self.desk, self.ask = desk, ask
        self._background = Background(desk, until=desk.session.opened, newest=True)
        desk.stopping.append(self._background.close)

    def commands(self) -> list[Command]:
        """What can be done."""
        return [
            Command(
                "open_address",
                tr("Open an address"),
                "",
                self.open,
                words=tr("url link feed podcast fetch download"),
            )
        ]

    def open(self) -> None:
        """Ask for an address and look there; nothing is fetched yet."""
        address = self.ask.address()
        if address is None:
            return
        from dubrel.jobs.addresses.fetching import checked, shown_address  # late: the window opens without it

        try:
            address = checked(address)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.say(tr("Looking at {address}.").format(address=shown_address(address)))
        self._look(address, typed=True)

    def _look(self, address: str, *, typed: bool) -> None:
        def work() -> Offered:
            from dubrel.jobs.addresses.fetching import look_at

            return look_at(address, typed=typed)

        self._background.ask(work, self._found, tell)

    def _found(self, offered: Offered) -> None:
        """Ask: which episode of a feed, and whether the recording is fetched."""
        history = self.desk.session.history
        if offered.episodes:
            nth = self.ask.episode(offered.episodes)
            if nth is not None and self.desk.session.history is history:
                self._look(offered.episodes[nth].address, typed=False)
            return
        usual = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.MusicLocation)
        folder = self.ask.fetching(offered, Path(SETTINGS.read().recordings_folder or usual))
        if folder is None:
            self.desk.say(tr("Nothing was fetched."))
            return
        if self.desk.session.history is not history:
            self.desk.say(tr("Another project was opened in the meantime. Open the address again."))
            return
        from dubrel.jobs.addresses.fetching import free_name

        self.desk.jobs.start(
            "fetch", offered, free_name(offered, folder), take=self._take, ended=partial(self._ended, offered)
        )

    def _take(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import Written

        if isinstance(event, Written):
            self.desk.opening.emit(Path(event.path))

    def _ended(self, offered: Offered, whole: bool) -> None:
        if not whole:
            self.desk.say(
                tr("“{name}” is incomplete. Open its address again to go on.").format(name=offered.name)
            )
