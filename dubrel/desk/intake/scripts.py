"""A script that exists, from a file or the clipboard, is aligned with the recording."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.captions.styles import style_of
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.model import HouseStyle
from dubrel.project.history import Mark

if TYPE_CHECKING:
    from dubrel.formats.scripts.script import Piece
    from dubrel.jobs.machinery.events import Event


class Scripts:
    """Asks how a script was understood, and aligns it.

    Parameters
    ----------
    desk : Desk
    ask : IntakeQuestions
    set_captions : callable
        Sets captions of what was aligned.
    """

    def __init__(
        self, desk: Desk, ask: IntakeQuestions, set_captions: Callable[[HouseStyle, Mark], object]
    ) -> None:
        self.desk, self.ask, self._set_captions = desk, ask, set_captions

    def commands(self, not_now: Callable[[], str]) -> list[Command]:
        """What can be done with scripts, and why not now."""
        return [
            Command("script", tr("Align a script"), "Ctrl+Shift+T", self.align_file, not_now, words="align"),
            Command(
                "script_paste",
                tr("Align the text on the clipboard"),
                "",
                self.align_pasted,
                first(not_now, _no_text),
                words="align",
            ),
        ]

    def align_file(self) -> None:
        """Choose a script, see how it was understood, and align it with the sound."""
        path = self.ask.script()
        if path is not None:
            from dubrel.formats.scripts.script import read_script  # late: starting the desk does not need it

            self._align(path.name, partial(read_script, path))

    def align_pasted(self) -> None:
        """Align the text on the clipboard with the sound."""
        from dubrel.formats.scripts.script import understand  # late: starting the desk does not need it

        self._align(tr("Text from the clipboard"), partial(understand, QGuiApplication.clipboard().text()))

    def _align(self, name: str, read: Callable[[], list[Piece]]) -> None:
        try:
            pieces = beside(read)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        chosen = self.ask.understood(name, pieces)
        if chosen is not None:
            self.desk.jobs.after("read", "align", partial(self._begin_align, *chosen))

    def _begin_align(self, pieces: list[Piece], language: str) -> None:
        self.desk.jobs.start_on_recording("align", pieces, language, take=self._take_script)

    def _take_script(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import Aligned  # late: the window opens without it
        from dubrel.jobs.machinery.fold import fold

        session, running = self.desk.session, self.desk.jobs.running("align")
        if isinstance(event, Aligned) and running is not None and running.history is session.history:
            style = style_of(session.project.captions)
            session.step(lambda project: fold(project, event), tr("Align a script"))
            self._set_captions(style, session.history.mark())


def _no_text() -> str:
    has_text = bool(QGuiApplication.clipboard().text().strip())
    return "" if has_text else tr("There is no text on the clipboard. Copy the script first.")
