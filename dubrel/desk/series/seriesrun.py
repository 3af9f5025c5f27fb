"""Run a series, or release it, in a process of its own; what becomes of each episode is shown on its page."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QObject, QTimer

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_length
from dubrel.desk.series.questions import SeriesQuestions
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.store.seriesfile import Series

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import OfEpisode, Progress
    from dubrel.jobs.machinery.runner import Job
    from dubrel.jobs.machines.cluster import Machines
    from dubrel.jobs.series.running import Run

_POLL_MS = 150


class _Whole(Protocol):
    """What of the series is needed here."""

    path: Path | None
    series: Series | None

    def without_series(self) -> str: ...
    def paths(self) -> list[Path]: ...
    def show_doing(self) -> None: ...
    def follow(self) -> None: ...


class SeriesRun(QObject):
    """What runs over all episodes.

    Attributes
    ----------
    doing : dict of str to str
        What is being done with episodes, by path.
    progress : Progress or None
        Over all.
    machines : dict of str to str
        What each machine does, by its name.
    """

    def __init__(self, desk: Desk, ask: SeriesQuestions, whole: _Whole) -> None:
        super().__init__(desk)
        self.desk, self.ask, self.whole = desk, ask, whole
        self.doing: dict[str, str] = {}
        self.machines: dict[str, str] = {}
        self.progress: Progress | None = None
        self._job: Job | None = None
        self._forgetting: Job | None = None
        self._order: tuple[Run, Machines] | None = None  # what runs on machines
        self._said: list[str] = []
        self._written = self._failed = 0
        self._what = ""
        self._timer = QTimer(self, interval=_POLL_MS)
        self._timer.timeout.connect(self._poll)
        desk.stopping.append(self.stop)

    def commands(self) -> list[Command]:
        """What can be done."""
        ready = first(self.whole.without_series, self._runs, self._without_episodes)
        return [
            Command("series_run", tr("Do what is missing in all episodes"), "", self.run, ready),
            Command(
                "series_release",
                tr("Release all episodes that are ready"),
                "",
                self.release,
                first(ready, self._kitless),
            ),
            Command(
                "series_machines", tr("Choose the machines that work on a series"), "", self.choose_machines
            ),
            Command(
                "series_cancel", tr("Cancel what runs over all episodes"), "", self.cancel, self._nothing_runs
            ),
        ]

    @property
    def busy(self) -> bool:
        """Whether something runs."""
        return self._job is not None

    def _runs(self) -> str:
        return (
            tr("Something runs over all episodes already. Wait until it is done, or cancel it.")
            if self.busy
            else ""
        )

    def _nothing_runs(self) -> str:
        return "" if self.busy else tr("Nothing runs over all episodes.")

    def _without_episodes(self) -> str:
        return "" if self.whole.paths() else tr("The series has no episodes yet. Add some first.")

    def _kitless(self) -> str:
        if self.whole.series is not None and self.whole.series.kit:
            return ""
        return tr("The series has no kit, so nothing says what is to be released. Choose one first.")

    def choose_machines(self) -> None:
        """Ask which machines work, and keep it."""
        from dubrel.user.machines import MACHINES  # late: the window opens without it

        chosen = self.ask.machines(MACHINES.read())
        if chosen is not None:
            MACHINES.write(chosen)
            self.desk.say(
                tr("A series is run by {scheduler}.").format(
                    scheduler=chosen.scheduler or tr("this machine alone")
                )
            )

    def run(self) -> None:
        """Take every episode through what is missing."""
        self._start("series", tr("Done"))

    def release(self) -> None:
        """Release what is ready."""
        self._start("release-series", tr("Released"))

    def _start(self, name: str, what: str) -> None:
        from dubrel.jobs.machinery.runner import Job  # late: the window opens without it
        from dubrel.jobs.series.orders import run_of

        whole = self.whole
        if whole.series is None or whole.path is None:
            return
        order = run_of(whole.series, whole.path)
        self._what, self._said, self._written, self._failed = what, [], 0, 0
        machines = _chosen_machines() if name == "series" else None
        self._order = (order, machines) if machines is not None else None
        self._job = Job("series-machines", order, machines) if machines is not None else Job(name, order)
        self._timer.start()
        self.desk.say("")
        whole.show_doing()

    def cancel(self) -> None:
        """Stop at once; what was finished stays."""
        if self._job is not None:
            self._job.cancel()
            self._forget()
            self._end(tr("Cancelled. What was finished is kept."))

    def stop(self) -> None:
        """The application ends."""
        if self._job is not None:
            self._job.cancel()
            self._job = None
        self._timer.stop()

    def _forget(self) -> None:
        """Let the machines stop, too: they would go on for a run that may come back."""
        from dubrel.jobs.machinery.runner import Job  # late: the window opens without it

        if self._order is not None:
            self._forgetting = Job("forget-run", *self._order)
            self._order = None

    def _poll(self) -> None:
        from dubrel.jobs.machinery.events import Failed, Finished, OfEpisode, Progress, Warning_

        for event in self._job.events() if self._job is not None else []:
            if isinstance(event, OfEpisode):
                self._of(event)
            elif isinstance(event, Progress):
                self.progress = event
            elif isinstance(event, Warning_):
                self._said.append(event.message)
            elif isinstance(event, Failed):
                self._end(event.message)
                return
            elif isinstance(event, Finished):
                self._end(self._summary())
                return
        self.whole.show_doing()

    def _of(self, event: OfEpisode) -> None:
        from dubrel.jobs.machinery.events import Failed, Finished, Progress, Warning_

        said, name = event.said, Path(event.path).stem
        if isinstance(said, Progress):
            left = (
                tr(", {left_s} left").format(left_s=format_length(round(said.left_s) * 1000))
                if said.left_s
                else ""
            )
            where = tr(" on {machine}").format(machine=event.machine) if event.machine else ""
            if event.machine:
                self.machines[event.machine] = f"{said.stage.lower()} “{name}”"
            self.doing[event.path] = f"{said.stage.lower()}{where}, {said.fraction:.0%}{left}"
        elif isinstance(said, Warning_):
            self._said.append(f"{name}: {said.message}")
            if event.gone:
                self.machines[event.gone] = tr("gone; “{name}” was started again elsewhere").format(name=name)
        elif isinstance(said, Failed):
            self._failed += 1
            self._said.append(f"{name}: {said.message}")
            self.doing.pop(event.path, None)
        elif isinstance(said, Finished):
            self._written += 1
            self.machines |= {event.machine: tr("waits")} if event.machine else {}
            self.doing.pop(event.path, None)
            self.whole.follow()

    def _summary(self) -> str:
        parts = [f"{self._what}: {counted(self._written, 'episode')}."]
        if self._failed:
            parts.append(tr("{episodes} failed.").format(episodes=counted(self._failed, "episode")))
        return " ".join([*parts, *self._said[:4], *(["…"] if len(self._said) > 4 else [])])

    def _end(self, text: str) -> None:
        self._timer.stop()
        self._job, self.progress = None, None
        self.doing.clear()
        self.machines.clear()
        self.desk.say(text)
        self.whole.show_doing()
        self.whole.follow()


def _chosen_machines() -> Machines | None:
    """The machines that the user has chosen; ``None`` for this one alone."""
    from dubrel.jobs.machines.cluster import Machines  # late: the window opens without it
    from dubrel.jobs.machines.security import Certificates
    from dubrel.user.machines import MACHINES

    chosen = MACHINES.read()
    if not chosen.scheduler:
        return None
    files = Certificates(chosen.ca, chosen.cert, chosen.key) if chosen.ca else None
    return Machines(chosen.scheduler, files, chosen.in_the_clear)
