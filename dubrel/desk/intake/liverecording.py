"""Recording from a microphone: words come while one speaks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.captions.styles import style_of
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.intake.recording import RATE, RecordBar, Recorder
from dubrel.desk.intake.transcribing import Transcribing
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.probe import probe
from dubrel.model import Project
from dubrel.model.choices import AS_USUAL, Choices, is_remote
from dubrel.project.history import Mark


class LiveRecording:
    """Records into a project of its own, which is transcribed meanwhile.

    Parameters
    ----------
    desk : Desk
    ask : IntakeQuestions
    transcribing : Transcribing
    choices : callable
        Gives what is chosen on the page.
    recorded : callable
        Called when the recording has become the project's.
    """

    def __init__(
        self,
        desk: Desk,
        ask: IntakeQuestions,
        transcribing: Transcribing,
        choices: Callable[[], Choices],
        recorded: Callable[[], None],
    ) -> None:
        self.desk, self.ask, self._transcribing = desk, ask, transcribing
        self._choices, self._told = choices, recorded
        self.recorder = Recorder(desk.window)
        self.bar = RecordBar(self.recorder, desk.theme)
        self._path: Path | None = None
        desk.bars.append(self.bar)
        desk.before_leaving.append(self._may_stop)
        desk.stopping.append(self.recorder.stop)
        self.recorder.stopped.connect(self._on_recorded)

    def record(self) -> None:
        """Begin to record, or stop."""
        desk, session = self.desk, self.desk.session
        if self.recorder.running:
            self.recorder.stop()
            return
        if not desk.may_leave():
            return
        source = self.ask.microphone()
        path = self.ask.new_recording() if source is not None else None
        if source is None or path is None:
            return
        choices = self._choices()
        if is_remote(choices.engine):
            choices = AS_USUAL  # a service takes whole recordings only
        try:
            self.recorder.start(path, source)
        except DubrelError as error:
            desk.say(str(error))
            return
        session.open(Project(title=path.stem), None, saved=False)
        session.recording_to(path)
        self._path = path
        mark, style = Mark(0), style_of(None)
        desk.jobs.start(
            "live",
            str(path),
            RATE,
            choices,
            mark=mark,
            take=partial(self._transcribing.take, "live"),
            ended=partial(self._transcribing.transcribed, "live", choices, style, mark),
        )
        self.bar.show_running(True)
        desk.recording.emit(True)
        desk.go("wording")

    def _on_recorded(self, why: str) -> None:
        """The recording has ended, by whatever: it is the project's from now on."""
        if why:
            self.desk.say(why)
        path, self._path = self._path, None
        self.desk.recording.emit(False)
        if path is None:
            return
        try:
            media = beside(partial(probe, path))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.session.attach(media)
        self._told()
        self.desk.counted.emit()

    def _may_stop(self) -> bool:
        """Ask before a recording ends because something else is opened."""
        if not self.recorder.running:
            return True
        question = tr("A recording is running. Stop it? What was recorded is kept.")
        if not self.desk.ask.yes(question, tr("Stop recording")):
            return False
        self.recorder.stop()
        self.desk.jobs.cancel("live")
        return True
