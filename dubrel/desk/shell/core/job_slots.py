"""Jobs side by side, each bound to the project and the history that it began with."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.background import load_qt
from dubrel.model import Media, Project
from dubrel.project.history import History, Mark

if TYPE_CHECKING:
    from collections.abc import Iterator

    from dubrel.desk.shell.core.session import Session
    from dubrel.jobs.machinery.events import Event, Progress
    from dubrel.jobs.machinery.runner import Job, ThreadJob

_POLL_MS = 60
_CHANGING = ("transcribe", "live", "align", "speakers", "captions", "translate", "passage")
_OF_A_STATE = (
    "write",
    "film",
    "release-clips",
    "conform",
)  # files of the state that they began with, whatever is undone meanwhile


@dataclass
class Running:
    """A job that runs.

    Attributes
    ----------
    kind : str
        One job of a kind runs at a time.
    job : Job or ThreadJob
    history : History
        What it may change; once another project is open it changes nothing.
    mark : Mark
        Where in the history it began.
    project : Project
        The value that it began with.
    take : callable
        Gets every event that is neither progress nor a warning.
    ended : callable
        Called once: whether it came to its end by itself.
    result : callable or None
        Called after a whole end, when nothing runs any more, with the last
        event and the running job: what it asks may take its time.
    progress : Progress
        The last that it said.
    began : float
        On the monotonic clock.
    last : Event or None
    failure : str
        Why it failed; empty for one that did not, or was cancelled.
    """

    kind: str
    job: Job | ThreadJob
    history: History
    mark: Mark
    project: Project
    take: Callable[[Event], object]
    ended: Callable[[bool], object]
    result: Callable[[Event, Running], object] | None
    progress: Progress
    began: float
    last: Event | None = None
    failure: str = ""


class JobSlots(QObject):
    """What runs for the open project.

    Signals
    -------
    changed()
        Something began, is further, or ended.
    warned(str), failed(str, str)
        What a job has to say; of a failure, its kind first.
    done(str, float)
        A job came to its end: what to tell the user, and when it began.
    """

    changed = Signal()
    warned = Signal(str)
    done = Signal(str, float)
    failed = Signal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__(session.parent())  # what is connected goes with it
        self.session = session
        self._running: dict[str, Running] = {}
        self._waiting: dict[
            str, tuple[str, Callable[[], object]]
        ] = {}  # what each waits for, and its beginning
        self._giving: list[str] = []
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)
        session.closing.connect(self.cancel_all)
        session.stepped_back.connect(self._cancel_what_was_undone)

    # -- asking -----------------------------------------------------------------

    def runs(self, *kinds: str) -> bool:
        """Whether a job of one of the kinds runs or waits for its turn."""
        return any(kind in self._running or kind in self._waiting or kind in self._giving for kind in kinds)

    def running(self, kind: str) -> Running | None:
        """The running job of a kind."""
        return self._running.get(kind)

    @property
    def all(self) -> list[Running]:
        """Every running job."""
        return list(self._running.values())

    @property
    def busy(self) -> bool:
        """Whether anything runs, or its result is about to be shown."""
        return bool(self._running or self._giving)

    @property
    def shown(self) -> Running | None:
        """The job whose progress is shown: the one that began first."""
        return next(iter(self._running.values()), None)

    # -- doing --------------------------------------------------------------------

    def start(
        self,
        kind: str,
        *args: object,
        mark: Mark | None = None,
        take: Callable[[Event], object] = lambda event: None,
        ended: Callable[[bool], object] = lambda whole: None,
        result: Callable[[Event, Running], object] | None = None,
    ) -> None:
        """Begin a job in a process of its own; see :func:`dubrel.jobs.machinery.runner.job_named`."""
        from dubrel.jobs.machinery.runner import Job  # late: starting the desk does not need it

        self.begin(kind, Job(kind, *args), mark, take, ended, result)

    def start_on_recording(self, kind: str, *args: object, **how: Any) -> None:
        """Begin a job on the open recording."""
        recording = self.session.recording
        assert recording is not None
        self.start(kind, recording, *args, **how)

    def start_thread(
        self,
        kind: str,
        steps: Iterator[Event],
        *,
        mark: Mark | None = None,
        take: Callable[[Event], object],
        ended: Callable[[bool], object] = lambda whole: None,
        result: Callable[[Event, Running], object] | None = None,
    ) -> None:
        """Begin a job in a thread of this process."""
        from dubrel.jobs.machinery.runner import ThreadJob  # late: starting the desk does not need it

        load_qt()
        self.begin(kind, ThreadJob(steps), mark, take, ended, result)

    def begin(
        self,
        kind: str,
        job: Job | ThreadJob,
        mark: Mark | None,
        take: Callable[[Event], object],
        ended: Callable[[bool], object],
        result: Callable[[Event, Running], object] | None,
    ) -> None:
        """Run a job that has been made, in place of one of its kind."""
        from dubrel.jobs.machinery.events import Progress  # late: the window opens without it

        if kind in _CHANGING:
            self.session.refuse_if_read_only()
        self.cancel(kind)
        history = self.session.history
        began = Progress(tr("Starting"), 0.0)
        mark = mark or history.mark()
        self._running[kind] = Running(
            kind, job, history, mark, history.present, take, ended, result, began, time.monotonic()
        )
        self._timer.start()
        self.changed.emit()

    def after(self, first: str, kind: str, begin: Callable[[], object]) -> None:
        """Begin a job of a kind now, or when the running one of another kind has ended."""
        if first in self._running:
            self._waiting[kind] = (first, begin)
            self.changed.emit()
        else:
            begin()

    def cancel(self, kind: str) -> None:
        """Stop the job of a kind; what it said before is kept."""
        self._waiting.pop(kind, None)
        running = self._running.get(kind)
        if running is None:
            return
        for event in running.job.cancel():
            self.take(running, event)
        if self._running.get(kind) is running:
            self.end(running, False)

    def cancel_changing(self) -> None:
        """Stop everything whose results belong to the text as it was: that is another from now on."""
        for kind in _CHANGING:
            self.cancel(kind)

    def cancel_shown(self) -> None:
        """Stop the job whose progress is shown."""
        if self.shown is not None:
            self.cancel(self.shown.kind)

    def cancel_all(self) -> None:
        """Stop everything."""
        self._waiting.clear()
        while self._running:  # what ends may begin what follows from it
            self.cancel(next(iter(self._running)))

    def arrive(self, kind: str, arrival: Callable[[Project], Project]) -> None:
        """Apply what a running job brought, in the history that it began with and in no other."""
        running = self._running.get(kind)
        if running is None or running.history is not self.session.history:
            return
        recording = running.project.media

        def on_its_clock(value: Project) -> Project:
            """Its times are those of the recording that it began with, not of one that took its place."""
            return value if _took_its_place(value, recording) else arrival(value)

        self.session.amend(on_its_clock, running.mark)

    def _cancel_what_was_undone(self) -> None:
        for running in list(self._running.values()):
            if running.kind not in _OF_A_STATE and not running.history.holds(running.mark):
                self.cancel(running.kind)

    def _poll(self) -> None:
        for running in list(self._running.values()):
            for event in running.job.events():
                self.take(running, event)
        if not self._running:
            self._timer.stop()

    def take(self, running: Running, event: Event) -> None:
        """Let an event of a job reach the project."""
        from dubrel.jobs.machinery.events import (  # late: the window opens without it
            Failed,
            Finished,
            Progress,
            Warning_,
        )

        if isinstance(event, Progress):
            running.progress = event
            self.changed.emit()
        elif isinstance(event, Warning_):
            self.warned.emit(event.message)
        elif isinstance(event, Failed):
            running.failure = event.message
            self.failed.emit(running.kind, event.message)
            self.end(running, False)
        elif isinstance(event, Finished):
            self.end(running, True)
        else:
            running.last = event
            running.take(event)

    def end(self, running: Running, whole: bool) -> None:
        """A job is done, or with ``whole`` false cancelled or failed."""
        if self._running.get(running.kind) is not running:
            return
        if whole:
            stage = running.progress.stage.lower()
            self.done.emit(
                tr("“{title}”: {stage} is done.").format(title=running.project.title, stage=stage),
                running.began,
            )
        running.ended(whole)
        del self._running[running.kind]
        self.changed.emit()
        if whole and running.result is not None and running.last is not None:
            self._giving.append(running.kind)
            QTimer.singleShot(0, lambda: self._give(running))
        for kind, (first, begin) in list(self._waiting.items()):
            if first == running.kind:
                del self._waiting[kind]
                begin()

    def _give(self, running: Running) -> None:
        """Give a result, unless another project was opened meanwhile."""
        self._giving.remove(running.kind)
        if running.history is self.session.history and running.result and running.last:
            running.result(running.last, running)


def _took_its_place(project: Project, recording: Media | None) -> bool:
    """Whether a recording is only one of the cameras of a project."""
    films = (one.media for one in project.cameras.all if one.media is not None)
    return recording is not None and any(one.path == recording.path for one in films)
