"""A series on several machines: each episode is a task, and so are the passages of a long one.

All of the scheduling is that of Dask's distributed scheduler. Here it is only said what is to be
done, by whom it may be done (machines with the same version of everything), and what became of it.
"""

from __future__ import annotations

import contextlib
import hashlib
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from queue import Empty, SimpleQueue
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, replace
from dubrel.jobs.machinery.events import Event, Failed, Finished, OfEpisode, Progress, Warning_, Written
from dubrel.jobs.machines.sameness import differences, in_place, sent_path, versions
from dubrel.jobs.machines.security import Certificates, refuse_in_the_clear, security_of
from dubrel.jobs.machines.tasks import TOPIC, Assignment, Outcome, given_folders, work_on
from dubrel.jobs.series.episodework import missing_in, project_path, script_of
from dubrel.jobs.series.running import Own, Run, checked, episode_events, opened, releasable, write_together
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.fingerprint import seen
from dubrel.media.sound import samples_of
from dubrel.model import Media, Project

_PIECE = 1 << 22  # samples that are sent at once: 8 MB
_WAIT_S, _POLL_S = 30.0, 0.2
_STILL_S = 300.0  # without a sign of life: it is begun again elsewhere
_ANSWER_S = 10.0  # a worker that does not say within it what it has stands still
_COUNT_S = 5.0  # as often it is looked who is there
_AGAIN_S = 5.0  # a try to reach a scheduler that went away
_AWAY_S = 300.0  # a scheduler that was away for longer is given up
_ATTEMPTS = 3


class Machines(Value):
    """Where to work.

    Attributes
    ----------
    scheduler : str
        Its address, such as ``tcp://10.0.0.5:8786``.
    certificates : Certificates or None
    in_the_clear : bool
        Whether a connection to another machine may go without certificates.
    """

    scheduler: str
    certificates: Certificates | None = None
    in_the_clear: bool = False


@dataclass
class _Given:
    """An episode that was given out."""

    path: Path
    number: int
    own: Own
    future: Any
    assignment: Assignment
    sound: list[Any]
    machine: str = ""
    at: float = field(default_factory=time.monotonic)
    attempts: int = 1


def run_on_machines(run: Run, machines: Machines, task: Callable[..., Outcome] = work_on) -> Iterator[Event]:
    """Take each episode of a series through what is missing, on all machines of a scheduler.

    Parameters
    ----------
    task : callable
        What a worker does with an episode.

    Yields
    ------
    Event
        As :func:`dubrel.jobs.series.running.run_series`.

    Raises
    ------
    DubrelError
        If the scheduler does not answer, or no machine can work.
    """
    refuse_in_the_clear(machines.scheduler, machines.certificates, machines.in_the_clear)
    try:
        yield from _Cluster(run, machines, task).events()
    except ImportError as error:
        raise DubrelError(
            tr("Dask's distributed scheduler is not installed. Install dubrel[machines] to use machines.")
        ) from error


class _Cluster:
    """A run over the machines of a scheduler."""

    def __init__(self, run: Run, machines: Machines, task: Callable[..., Outcome]) -> None:
        self._run, self._machines, self._task = run, machines, task
        self._name = _dataset_of(run)
        self._news: SimpleQueue[dict[str, Any]] = SimpleQueue()
        self._given: dict[str, _Given] = {}
        self._waiting = deque((Path(name), nth) for nth, name in enumerate(run.paths, 1))
        self._allowed: tuple[str, ...] = ()
        self._looked_at: dict[str, bool] = {}  # by address: whether it can work
        self._counted = time.monotonic()
        self._done, self._shares = 0, dict[str, float]()
        self._client: Any = None
        try:
            self._connect(_WAIT_S)
        except (OSError, TimeoutError) as error:
            raise DubrelError(
                tr(
                    "The scheduler “{scheduler}” does not answer. Check its address, and that it runs."
                ).format(scheduler=machines.scheduler)
            ) from error

    def _connect(self, timeout_s: float) -> None:
        from distributed import Client  # an extra: only where machines are used

        self._client = Client(
            self._machines.scheduler,
            security=security_of(self._machines.certificates),
            timeout=timeout_s,
            set_as_default=False,
            heartbeat_interval=2000,
        )
        self._client.subscribe_topic(TOPIC, self._heard)

    def events(self) -> Iterator[Event]:
        """All that is said."""
        try:
            yield from self._look_at_machines()
            if not self._allowed:
                where = self._machines.scheduler
                raise DubrelError(
                    tr(
                        "No machine of “{where}” can work on this. Start one with “dubrel work {where}”."
                    ).format(where=where)
                )
            while self._waiting or self._given:
                if self._client.status != "running":
                    yield from self._wait_for_scheduler()
                yield from self._give_out()
                yield from self._listen()
                if self._client.status == "running":
                    yield from self._collect()
                    yield from self._look_after()
            if self._run.kit is not None:
                yield from write_together(self._run)
        finally:
            for one in self._given.values():
                if self._client.status == "running":
                    self._forget(one)
                one.own.release()
            self._client.close()

    def _heard(self, event: tuple[float, dict[str, Any]]) -> None:
        self._news.put(event[1])

    # -- machines -----------------------------------------------------------------------------

    def _look_at_machines(self) -> Iterator[Event]:
        """Who can work: those with the same version of everything; of the others it is said once why not."""
        names = self._names()
        new = [address for address in names if address not in self._looked_at]
        found = self._ask(_about, workers=new) if new else {}
        for address, about in found.items():
            wrong = differences(versions(), about) if isinstance(about, dict) else tr("does not answer")
            self._looked_at[address] = not wrong
            if wrong:
                yield Warning_(
                    tr("{machine} {wrong}, so it gets no work. Update it to join.").format(
                        machine=names[address], wrong=wrong
                    )
                )
        self._allowed = tuple(sorted(address for address in names if self._looked_at.get(address)))

    def _ask(self, question: Callable[..., Any], *args: Any, workers: Sequence[str]) -> dict[str, Any]:
        """What workers answer at once, whatever they do; one that stands still gets no work any more."""
        answers = dict[str, Any]()
        asked = [list(workers), *([one] for one in workers)]  # all together, or else one by one
        for some in asked:
            try:
                answers |= self._client.sync(
                    self._client._run,
                    question,
                    *args,
                    workers=some,
                    on_error="return",
                    callback_timeout=_ANSWER_S,
                )
            except TimeoutError:
                if len(some) == 1:
                    self._looked_at[some[0]] = False
                continue
            if len(some) == len(workers):
                break
        self._allowed = tuple(one for one in self._allowed if self._looked_at.get(one))
        return answers

    def _names(self) -> dict[str, str]:
        """The workers that there are now: addresses and names."""
        workers = self._client.scheduler_info(-1)["workers"]
        return {address: str(one["name"]) for address, one in workers.items()}

    # -- giving out ------------------------------------------------------------------------------

    def _give_out(self) -> Iterator[Event]:
        while self._waiting and len(self._given) < 2 * len(self._allowed) + 2:
            path, number = self._waiting.popleft()
            try:
                yield from self._give(path, number)
            except DubrelError as error:
                self._done += 1
                yield OfEpisode(str(path), Failed(str(error)))

    def _give(self, path: Path, number: int) -> Iterator[Event]:
        project = opened(path)
        if not missing_in(project, self._run.wishes):
            if releasable(project, self._run):
                for said in episode_events(path, self._run, number):
                    yield OfEpisode(str(path), said)
            self._done += 1
            return
        own = Own(project_path(path))
        try:
            own.project = project = _digested(opened(path))
            sound = list[Any]()
            if project.media is not None and not self._is_everywhere(project.media):
                for event in read_recording(project.media):
                    if isinstance(event, Progress):
                        yield OfEpisode(str(path), event)
                sound = self._sent(project.media)
            assignment = Assignment(
                self._name, str(path), project, self._run.wishes, script_of(path), self._allowed
            )
            future = self._known(assignment) or self._submit(assignment, sound, self._allowed)
        except BaseException:
            own.release()
            raise
        self._given[str(path)] = _Given(path, number, own, future, assignment, sound)
        yield OfEpisode(str(path), Progress(tr("Waiting for a machine"), 0.0, None))

    def _submit(self, assignment: Assignment, sound: Sequence[Any], workers: Sequence[str]) -> Any:
        future = self._client.submit(
            self._task, assignment, list(sound), pure=False, workers=list(workers), retries=0
        )
        self._client.publish_dataset(future, name=self._dataset(assignment), override=True)
        return future

    def _known(self, assignment: Assignment) -> Any:
        """What machines do already for an earlier run of this series that went away; ``None`` for nothing."""
        name = self._dataset(assignment)
        if name not in self._client.list_datasets():
            return None
        future = self._client.get_dataset(name)
        return future if future.status in ("pending", "finished") else None

    def _dataset(self, assignment: Assignment) -> str:
        """Under which name the scheduler keeps an episode while nobody asks: the same for the same work."""
        said = repr(
            (assignment.path, assignment.project.transcript, assignment.project.tracks, assignment.wishes)
        )
        return f"{_dataset_of(self._run)}{sha256(said)}"

    def _forget(self, one: _Given) -> None:
        with contextlib.suppress(KeyError, OSError, TimeoutError):
            self._client.unpublish_dataset(self._dataset(one.assignment))

    def _is_everywhere(self, media: Media) -> bool:
        asked = (media.path, media.size, media.changed_ns, media.fingerprint)
        found = self._ask(is_there, *asked, workers=self._allowed)
        return all(one is True for one in found.values())

    def _sent(self, media: Media | None) -> list[Any]:
        """The sound of a recording in pieces, sent to one machine; the others get it from there."""
        if media is None or self._is_everywhere(media):
            return []
        samples = samples_of(media)
        pieces = [samples[at : at + _PIECE].tobytes() for at in range(0, len(samples), _PIECE)]
        return [self._client.scatter(piece, workers=list(self._allowed), hash=True) for piece in pieces]

    # -- what comes back ---------------------------------------------------------------------------

    def _listen(self) -> Iterator[Event]:
        until = time.monotonic() + _POLL_S
        while (left := until - time.monotonic()) > 0:
            try:
                said = self._news.get(timeout=left)
            except Empty:
                return
            one = self._given.get(str(said.get("path")))
            if one is None or said.get("run") != self._name:
                continue
            one.at = time.monotonic()
            if said["what"] == "began":
                if one.machine and one.machine != said["machine"]:
                    text = tr("{machine} is gone; started again on {other}.").format(
                        machine=one.machine, other=said["machine"]
                    )
                    yield OfEpisode(str(one.path), Warning_(text), said["machine"], one.machine)
                one.machine = said["machine"]
            else:
                self._shares[str(one.path)] = said["fraction"]
                progress = Progress(said["stage"], said["fraction"], None)
                yield OfEpisode(str(one.path), progress, said["machine"])
                yield self._whole()

    def _whole(self) -> Progress:
        share = (self._done + sum(self._shares.values())) / max(1, len(self._run.paths))
        return Progress(
            tr("{episodes} on {machines}").format(
                episodes=counted(len(self._given), "episode"), machines=counted(len(self._allowed), "machine")
            ),
            min(1.0, share),
            None,
        )

    def _collect(self) -> Iterator[Event]:
        for name, one in list(self._given.items()):
            if not one.future.done():
                continue
            try:
                outcome: Outcome = one.future.result()
            except Exception as error:  # noqa: BLE001 - whatever a machine can die of
                yield from self._again(one, error)
                continue
            del self._given[name]
            self._forget(one)
            self._shares.pop(name, None)
            self._done += 1
            try:
                yield from self._taken(one, outcome)
            finally:
                one.own.release()

    def _taken(self, one: _Given, outcome: Outcome) -> Iterator[Event]:
        name = str(one.path)
        for message in outcome.warnings:
            yield OfEpisode(name, Warning_(message), one.machine)
        try:
            if outcome.project != one.own.project:
                one.own.keep(outcome.project)
                yield OfEpisode(name, Written(str(one.own.path)), one.machine)
            if outcome.failed:
                yield OfEpisode(name, Failed(outcome.failed), one.machine)
                return
            for said in checked(outcome.project):
                yield OfEpisode(name, said)
        except DubrelError as error:
            yield OfEpisode(name, Failed(str(error)))
            return
        one.own.release()
        if releasable(outcome.project, self._run):
            for event in episode_events(one.path, self._run, one.number):
                yield OfEpisode(name, event)
        else:
            yield OfEpisode(name, Finished(), one.machine)
        yield self._whole()

    def _again(self, one: _Given, error: Exception) -> Iterator[Event]:
        """Begin an episode again elsewhere, where a machine could not do it."""
        where = one.machine or "a machine"
        why = str(error) if isinstance(error, DubrelError) else tr("it stopped part-way")
        if one.attempts >= _ATTEMPTS:
            del self._given[str(one.path)]
            self._forget(one)
            one.own.release()
            self._done += 1
            yield OfEpisode(
                str(one.path),
                Failed(
                    tr("{where} could not do it: {why}. It was tried {times} times.").format(
                        where=where, why=why, times=_ATTEMPTS
                    )
                ),
            )
            return
        yield from self._look_at_machines()
        others = [address for address in self._allowed if address != self._address(one.machine)]
        one.attempts += 1
        one.sound = self._sent(one.assignment.project.media)
        one.assignment = replace(one.assignment, workers=self._allowed)  # others may be there now
        one.future = self._submit(one.assignment, one.sound, others or self._allowed)
        one.at, one.machine = time.monotonic(), ""
        yield OfEpisode(
            str(one.path),
            Warning_(
                tr("{where} could not do it: {why}. Started again elsewhere.").format(where=where, why=why)
            ),
        )

    def _address(self, name: str) -> str:
        return next((address for address, one in self._names().items() if one == name), "")

    # -- what goes wrong ---------------------------------------------------------------------------

    def _look_after(self) -> Iterator[Event]:
        if time.monotonic() - self._counted > _COUNT_S:
            self._counted = time.monotonic()
            yield from self._look_at_machines()
        for one in self._given.values():
            if one.machine and time.monotonic() - one.at > _STILL_S:
                still = self._address(one.machine)
                self._looked_at[still] = False
                self._allowed = tuple(address for address in self._allowed if address != still)
                one.future.cancel()
                yield from self._again(one, DubrelError(tr("it gives no sign of life")))
                return

    def _wait_for_scheduler(self) -> Iterator[Event]:
        """Wait until the scheduler and a machine are there again, and give out anew what was given out."""
        yield Warning_(tr("The scheduler does not answer. Waiting for it."))
        until = time.monotonic() + _AWAY_S
        self._looked_at.clear()
        self._allowed = ()
        while not self._allowed:
            if time.monotonic() > until:
                raise DubrelError(
                    tr("The scheduler did not come back. What was finished is kept; run the series again.")
                )
            yield self._whole()
            time.sleep(1)
            if self._client.status == "closed":
                with contextlib.suppress(OSError, TimeoutError):
                    self._connect(_AGAIN_S)
            if self._client.status == "running":
                yield from self._look_at_machines()
        self._client.subscribe_topic(TOPIC, self._heard)
        for one in self._given.values():
            one.sound = self._sent(one.assignment.project.media)
            one.assignment = replace(one.assignment, workers=self._allowed)
            one.future = self._submit(one.assignment, one.sound, self._allowed)
            one.at, one.machine = time.monotonic(), ""
        yield Warning_(tr("The scheduler is back; what was being done is started again."))


def forget_run(run: Run, machines: Machines) -> Iterator[Event]:
    """Let machines stop what they do for a run whose process was ended.

    Raises
    ------
    DubrelError
        If the scheduler does not answer.
    """
    from distributed import Client

    try:
        with Client(
            machines.scheduler,
            security=security_of(machines.certificates),
            timeout=_WAIT_S,
            set_as_default=False,
        ) as client:
            for name in client.list_datasets():
                if str(name).startswith(_dataset_of(run)):
                    client.unpublish_dataset(name)
    except (OSError, TimeoutError) as error:
        raise DubrelError(
            tr("The scheduler “{scheduler}” does not answer. Check its address.").format(
                scheduler=machines.scheduler
            )
        ) from error
    yield Finished()


def _dataset_of(run: Run) -> str:
    """With what the names of all episodes of a run begin."""
    return f"dubrel-{sha256(chr(10).join(run.paths))}-"


def sha256(text: str) -> str:
    """A short name of a text, always the same."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()[:16]


def _digested(project: Project) -> Project:
    """The project with the digest of its recording, by which it is kept elsewhere."""
    media = project.media
    if media is None or media.fingerprint:
        return project
    return replace(project, media=seen(media, Path(media.path)))


def _about() -> dict[str, str]:
    """The versions of a worker, asked on it."""
    return versions()


def is_there(path: str, size: int, changed_ns: int, digest: str) -> bool:
    """Whether a worker, asked on it, can read a recording where it is, or has what was sent of it before."""
    kept = bool(digest) and sent_path(digest).is_file()
    return kept or in_place(path, size, changed_ns, given_folders())
