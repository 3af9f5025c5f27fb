"""Long work seen from the window: starts jobs, takes what they say into the session."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.captions.styles import DEFAULT_STYLE, HouseStyle, style_of
from dubrel.desk.session import Session
from dubrel.edits.captions import set_again
from dubrel.edits.intake import add_heard, add_turns, clear_transcript, set_turns
from dubrel.edits.overlaps import with_overlaps
from dubrel.edits.unscripted import with_unscripted
from dubrel.formats.script import Piece
from dubrel.jobs.events import (
    Audited,
    Event,
    Failed,
    Finished,
    Heard,
    HeardTurns,
    LinedUp,
    Progress,
    Read,
    SpeakersFound,
    Warning_,
)
from dubrel.jobs.hearing import AS_USUAL, Hearing
from dubrel.media.cache import is_read
from dubrel.model import Project

if TYPE_CHECKING:
    from dubrel.jobs.runner import Job
    from dubrel.jobs.speakers import Asked

_POLL_MS = 60


@dataclass(frozen=True)
class _Setting:
    """Captions that are being set aside."""

    future: Future[Project]
    of: Project
    style: HouseStyle
    step: bool


class Work(QObject):
    """The job of the open project; one at a time.

    Signals
    -------
    progressed(Progress or None)
        ``None`` when it ended.
    warned(str), failed(str)
    speakers_wanted(str)
        What was just heard is to be told apart into so many speakers.
    read(Read)
        Another engine has read the recording.
    recorded(str)
        The recording at this path has ended and is heard.
    audited(Audit)
        The captions were compared with the sound.
    """

    progressed = Signal(object)
    warned = Signal(str)
    failed = Signal(str)
    audited = Signal(object)
    recorded = Signal(str)
    read = Signal(object)
    speakers_wanted = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._job: Job | None = None
        self._name = ""
        self._since = 0
        self._speakers = "off"
        self._style, self._apart = DEFAULT_STYLE, False
        self._then: Callable[[SpeakersFound], None] = lambda found: None
        self._ask: Callable[[], object] | None = None  # what to ask about a result when its job has ended
        self._live = Path()
        self.asked_project = session.project  # what the running job was asked about
        self._aside = ThreadPoolExecutor(1, thread_name_prefix="aside")
        self._setting: _Setting | None = None
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)

    @property
    def setting_captions(self) -> bool:
        """Whether captions are being set."""
        return self._setting is not None

    @property
    def running(self) -> str:
        """The name of the running job, or nothing."""
        return self._name if self._job is not None else ""

    def read_sound(self) -> None:
        """Read the sound for the strip, if that has not been done."""
        media = self.session.project.media
        if media is not None and media.has_audio and self.session.media_path and not is_read(media):
            self._start("read", "Reading the sound")

    def transcribe(self, hearing: Hearing = AS_USUAL) -> None:
        """Hear the recording; what was there can be had back by undo."""
        media = self.session.project.media
        if media is None or self.session.media_path is None or self.running == "transcribe":
            return
        self.cancel()
        self._apart = hearing.apart
        self._speakers, self._style = hearing.speakers, style_of(self.session.project.captions)
        empty = partial(clear_transcript, language=hearing.language or "en")
        if self.session.project.transcript.turns:
            self.session.apply(empty(self.session.project), "Transcribe")
        else:
            self.session.amend(empty, self.session.history.depth)
        self._since = self.session.history.depth
        self._start("transcribe", "Starting", hearing)

    def listen_live(self, path: Path, rate: int, hearing: Hearing) -> None:
        """Hear a recording that is being made; its text comes onto the sheet."""
        from dubrel.jobs.runner import Job  # late: starting the desk does not need it

        self.cancel()
        self._speakers = hearing.speakers
        self._since, self._name, self._live = self.session.history.depth, "live", path
        self._job = Job("live", str(path), rate, hearing)
        self.progressed.emit(Progress("Recording", 0.0))
        self._timer.start()

    def may_start(self) -> bool:
        """Whether there is a recording, and it is not being heard: nothing ends a hearing but its own end or the user."""
        if self.running in ("transcribe", "live"):
            self.warned.emit("The recording is still being heard. Wait for its end, or cancel it first.")
            return False
        return self.session.project.media is not None and self.session.media_path is not None

    def line_up(self, pieces: list[Piece], language: str = "") -> None:
        """Give a script its times; its words replace those on the sheet when it is done."""
        if self.may_start():
            self.cancel()
            self._start("lineup", "Starting", pieces, language)

    def hear_again(self, hearing: Hearing, start_ms: int, end_ms: int) -> None:
        """Let an engine read the recording, or a stretch of it, beside what is on the sheet."""
        if self.may_start():
            self.cancel()
            self._start("again", "Starting", hearing, start_ms, end_ms)

    def tell_apart(
        self, asked: Asked, bounds: tuple[int, int], then: Callable[[SpeakersFound], None]
    ) -> None:
        """Find who says some words of the project; ``then`` gets what was found."""
        if self.may_start():
            self.cancel()
            self.asked_project, self._then = self.session.project, then
            self._start("speakers", "Starting", asked, *bounds)

    def audit(self) -> None:
        """Compare the captions' times with the sound."""
        if self.may_start():
            from dubrel.jobs.audit import cues_of

            self.cancel()
            self.asked_project = self.session.project
            self._start("audit", "Starting", cues_of(self.session.project))

    def _take_script(self, event: LinedUp) -> None:
        style = style_of(self.session.project.captions)
        project = set_turns(self.session.project, event.turns, event.speakers, event.language)
        project = with_unscripted(project, event.extra)
        self.session.apply(project, "Line up a script")
        self.set_captions(style, step=True)

    def cancel(self) -> None:
        """Stop the job; what was heard stays and is set into captions."""
        if self._job is None:
            return
        for event in self._job.cancel():
            self._take(event)
        was, self._ask = self._name, None
        self._stop()
        self._after_hearing(was)

    def _after_hearing(self, was: str) -> None:
        """What was heard, to its end or not, becomes captions; a recording becomes the project's."""
        if was == "live":
            self.recorded.emit(str(self._live))
        if was == "transcribe" and self._apart:
            self.session.amend(with_overlaps, self._since)
        if was in ("transcribe", "live"):
            self.set_captions(self._style, step=False)

    def _start(self, name: str, stage: str, *args: object) -> None:
        media = self.session.project.media
        path = self.session.media_path
        assert media is not None and path is not None
        from dubrel.jobs.runner import Job  # late: starting the desk does not need it

        self._name = name
        self._job = Job(name, replace(media, path=str(path)), *args)
        self.progressed.emit(Progress(stage, 0.0))
        self._timer.start()

    def _stop(self) -> None:
        self._job = None
        self.progressed.emit(None)
        self.session.load_peaks()

    def _poll(self) -> None:
        for event in self._job.events() if self._job is not None else ():
            self._take(event)
        if self._setting is not None:
            self._take_captions(self._setting)
        elif self._job is None:
            self._timer.stop()
        if self._job is None and self._ask is not None:
            ask, self._ask = self._ask, None
            ask()

    def _take(self, event: Event) -> None:
        if isinstance(event, Heard):
            self._add(lambda project, first: add_heard(project, event.words, first))
        elif isinstance(event, HeardTurns):
            self._add(lambda project, first: add_turns(project, event.turns, event.speakers, first))
        elif isinstance(event, Progress):
            self.progressed.emit(event)
            if event.stage != "Reading the sound" and self.session.peaks is None:
                self.session.load_peaks()
        elif isinstance(event, LinedUp):
            self._take_script(event)
        elif isinstance(event, SpeakersFound):
            self._ask = partial(self._then, event)
        elif isinstance(event, Read):
            self._ask = partial(self.read.emit, event)
        elif isinstance(event, Audited):
            self._ask = partial(self.audited.emit, event.report)
        elif isinstance(event, Warning_):
            self.warned.emit(event.message)
        elif isinstance(event, Failed | Finished):
            was = self._name
            self._stop()
            if isinstance(event, Failed):
                self._ask = None
                self.failed.emit(event.message)
            self._after_hearing(was)
            if isinstance(event, Finished) and was in ("transcribe", "live") and self._speakers != "off":
                self.speakers_wanted.emit(self._speakers)

    def _add(self, add: Callable[[Project, int], Project]) -> None:
        first_id = max(value.next_id for value in self.session.history.values_since(self._since))
        self.session.amend(lambda project: add(project, first_id), self._since)

    def set_captions(self, style: HouseStyle, *, step: bool) -> None:
        """Set the captions beside the interface; long recordings take seconds.

        Parameters
        ----------
        style : HouseStyle
        step : bool
            Whether it is a step that can be undone, or belongs to the hearing.
        """
        if self.session.project.transcript.turns:
            project = self.session.project
            self._setting = _Setting(self._aside.submit(set_again, project, style), project, style, step)
            self._timer.start()

    def _take_captions(self, setting: _Setting) -> None:
        if not setting.future.done():
            return
        self._setting = None
        present, made = self.session.project, setting.future.result()
        if present.transcript is not setting.of.transcript:
            self.set_captions(setting.style, step=setting.step)  # it was edited meanwhile
        elif setting.step:
            self.session.apply(replace(present, captions=made.captions, next_id=made.next_id), "Set captions")
        else:
            # every value kept since shows the same captions; a word it does not have is not shown
            self.session.amend(
                lambda value: replace(
                    value, captions=made.captions, next_id=max(value.next_id, made.next_id)
                ),
                self._since,
            )
        if self._job is None and self._setting is None:
            self._timer.stop()
