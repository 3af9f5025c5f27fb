"""Hand the open project over to a colleague, and open what was handed over."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.together.questions import TogetherQuestions
from dubrel.store.handover import SUFFIX, unpack_handover

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event


class Handing:
    """The command and what it does."""

    def __init__(self, desk: Desk, ask: TogetherQuestions) -> None:
        self.desk, self.session, self.ask = desk, desk.session, ask
        desk.openers[SUFFIX] = self.open

    def commands(self) -> list[Command]:
        """What can be done."""
        ready = first(self._without_file, self.desk.still_transcribing)
        return [Command("hand_over", tr("Hand over to a colleague"), "", self.hand_over, ready)]

    def _without_file(self) -> str:
        if self.session.path is None:
            return tr("This project has no file yet. Save it first.")
        return (
            tr("Save the project first: what is handed over is what stands in its file.") * self.session.dirty
        )

    def hand_over(self) -> None:
        """Ask where to, and write the archive in the background."""
        session, history = self.session, self.session.history
        own = session.path
        if own is None:
            return
        target = self.ask.handover_file(own.with_suffix(SUFFIX))
        if target is None or session.history is not history:
            return
        recording = str(session.media_path or "")
        self.desk.jobs.start(
            "handover", session.project, recording, str(own), str(target), take=self._written
        )

    def _written(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import Written  # late: the window opens without it

        if isinstance(event, Written):
            self.desk.say(tr("To hand over: “{path}”.").format(path=event.path))

    def open(self, path: Path) -> None:
        """Unpack what was handed over beside itself, and open the project in it."""
        self.desk.opening.emit(beside(partial(unpack_handover, path)))
