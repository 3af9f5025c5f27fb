"""Turning a recording into words and captions, in the background."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.captions.styles import style_of
from dubrel.desk.intake.engines import Engines
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.intake import clear_transcript
from dubrel.media.probe import probe
from dubrel.model import HouseStyle
from dubrel.model.choices import Choices
from dubrel.project.history import Mark

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event


class Transcribing:
    """Transcribes the recording, and sets what was transcribed into captions.

    Parameters
    ----------
    desk : Desk
    engines : Engines
    choices : callable
        Gives what is chosen on the page.
    """

    def __init__(self, desk: Desk, engines: Engines, choices: Callable[[], Choices]) -> None:
        self.desk, self.engines, self._choices = desk, engines, choices

    def transcribe(self) -> None:
        """Turn the recording into words, as chosen on the page."""
        desk, project = self.desk, self.desk.session.project
        choices = self._choices()
        if not self._may_take_another() or not self.engines.may_use(choices.engine):
            return
        if project.transcript.turns and not desk.ask.yes(
            tr(
                "Transcribe the recording again? The new words replace those on the sheet; undo brings them"
                " back."
            ),
            tr("Transcribe again"),
        ):
            return
        desk.jobs.after("read", "transcribe", partial(self._transcribe, choices))
        desk.go("wording")
        if desk.jobs.running("transcribe") is None:
            desk.say(tr("Transcribing begins as soon as the file has been read."))

    def _may_take_another(self) -> bool:
        """Whether the recording may be transcribed.

        Another one than the project's only if it is to be the project's.
        """
        session = self.desk.session
        if not session.is_another or session.media_path is None:
            return True
        question = tr(
            "“{name}” is another recording than the one this project was made with. "
            "Make it the recording of this project?"
        ).format(name=session.media_path.name)
        if not self.desk.ask.yes(question, tr("Use it")):
            return False
        try:
            session.relink(beside(partial(probe, session.media_path)))
        except DubrelError as error:
            self.desk.say(str(error))
            return False
        return True

    def _transcribe(self, choices: Choices) -> None:
        session, style = self.desk.session, style_of(self.desk.session.project.captions)
        empty = partial(clear_transcript, language=choices.language or "en")
        if any(value.transcript.turns for value in session.history.earlier()):  # undo brings them back
            if session.project.cuts:
                self.desk.say(tr("Cuts stay as they are: their times are those of the recording."))
            session.step(empty, tr("Transcribe"))
            mark = session.history.mark()
        else:
            session.amend(empty)
            mark = Mark(0)
        self.desk.jobs.start_on_recording(
            "transcribe",
            choices,
            mark=mark,
            take=partial(self.take, "transcribe"),
            ended=partial(self.transcribed, "transcribe", choices, style, mark),
        )

    def take(self, kind: str, event: Event) -> None:
        """Add what a job has found to the project."""
        from dubrel.jobs.machinery.fold import arrival  # late: starting the desk does not need it

        self.desk.jobs.arrive(kind, arrival(event, self.desk.session.project.next_id))

    def transcribed(self, kind: str, choices: Choices, style: HouseStyle, mark: Mark, whole: bool) -> None:
        """What was transcribed, to its end or not, becomes captions."""
        from dubrel.jobs.machinery.events import TurnsComplete  # late: the window opens without it

        session = self.desk.session
        running = self.desk.jobs.running(kind)
        if running is None or running.history is not session.history or not session.history.holds(mark):
            return
        if choices.apart and not whole:
            self.take(kind, TurnsComplete())
        if session.project.transcript.turns:
            self.set_captions(style, mark)
            if whole and choices.speakers != "off":
                self.desk.transcribed.emit(choices.speakers)

    def set_captions(self, style: HouseStyle, mark: Mark) -> None:
        """Set captions in a thread; they arrive by themselves, with what they were set for."""
        from dubrel.jobs.setting import set_captions

        steps = set_captions(self.desk.session.project, style)
        self.desk.jobs.start_thread("captions", steps, mark=mark, take=partial(self.take, "captions"))
