"""What a worker does: an episode, or a batch of passages of one."""

from __future__ import annotations

import os
import time
import wave
from collections.abc import Sequence
from concurrent.futures import Future
from pathlib import Path
from typing import Any, cast

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, EngineError
from dubrel.base.files import cause_of
from dubrel.base.value import Value, replace
from dubrel.formats.scripts.script import Piece
from dubrel.jobs.machinery.events import Progress, Warning_
from dubrel.jobs.machines.sameness import in_place, sent_path
from dubrel.jobs.series.episodework import Wishes, bring_on
from dubrel.jobs.transcribing.crew import Sound, transcribe_sounds
from dubrel.media.cache import is_read, peaks_path, sound_path
from dubrel.media.peaks import PeakBuilder
from dubrel.media.sound import RATE
from dubrel.model import Media, Project
from dubrel.model.choices import Choices
from dubrel.speech.recognise.listener import RecognisedChunk

TOPIC = "dubrel"
FOLDERS = "DUBREL_WORK_FOLDERS"
"""In the environment of a worker: the folders that it was given, parted as PATH is."""
_OFTEN_S = 0.5


class Assignment(Value):
    """An episode as it is given out.

    Attributes
    ----------
    run, path : str
        Of which run, and which episode.
    project : Project
        As it is, with its recording where it is on the machine that gives it out.
    wishes : Wishes
    script : sequence of Piece or None
    workers : tuple of str
        Addresses of those that may help with it.
    """

    run: str
    path: str
    project: Project
    wishes: Wishes
    script: Sequence[Piece] | None = None
    workers: tuple[str, ...] = ()


class Outcome(Value):
    """What came of an episode.

    Attributes
    ----------
    project : Project
        As far as it was brought.
    warnings : tuple of str
    failed : str
        Why not further; empty where it was brought to its end.
    """

    project: Project
    warnings: tuple[str, ...] = ()
    failed: str = ""


class Elsewhere:
    """The workers as a crew, for a task that runs on one of them."""

    ahead = 64

    def __init__(self, workers: Sequence[str]) -> None:
        from distributed import get_client, secede  # an extra: only where machines are used

        self._client, self._workers = get_client(), list(workers)
        secede()  # what waits for the others is in nobody's way

    def submit(self, choices: Choices, batch: Sequence[Sound]) -> Future[list[RecognisedChunk]]:
        """Have a batch transcribed on whatever machine is free."""
        [sent] = self._client.scatter([list(batch)], hash=False)
        made = self._client.submit(
            transcribe_sounds, choices, sent, pure=False, workers=self._workers or None, priority=10
        )
        return cast("Future[list[RecognisedChunk]]", made)


def work_on(assignment: Assignment, sound: Sequence[bytes] = ()) -> Outcome:
    """Take an episode through what is missing; runs on a worker.

    Parameters
    ----------
    sound : sequence of bytes
        Its samples in pieces, where the recording cannot be read in place.
    """
    from distributed import get_worker, rejoin

    worker, warnings, project = get_worker(), list[str](), assignment.project
    tell = _Telling(worker, assignment)
    tell("began", "", 0.0)
    try:
        there = _with_recording(assignment, sound)
        crew = Elsewhere(assignment.workers) if not project.transcript.word_count else None
        for said in bring_on(there, assignment.wishes, assignment.script, crew):
            if isinstance(said, Project):
                project = replace(said, media=_as_it_was(said, assignment.project))
                if crew is not None:
                    rejoin()
                    crew = None
            elif isinstance(said, Warning_):
                warnings.append(said.message)
            elif isinstance(said, Progress):
                tell("progress", said.stage, said.fraction)
            if tell.cancelled:
                return Outcome(project, tuple(warnings), "It was cancelled.")
    except DubrelError as error:
        if isinstance(error, EngineError) and project is assignment.project:
            raise  # this machine cannot; another one may
        return Outcome(project, tuple(warnings), str(error))
    return Outcome(project, tuple(warnings))


class _Telling:
    """Says how far an episode is, now and then; and knows whether it is still wanted."""

    def __init__(self, worker: Any, assignment: Assignment) -> None:
        self._worker, self._assignment = worker, assignment
        self._key, self._at = worker.get_current_task(), 0.0

    def __call__(self, what: str, stage: str, fraction: float) -> None:
        now = time.monotonic()
        if what == "progress" and now - self._at < _OFTEN_S:
            return
        self._at = now
        said = {"what": what, "run": self._assignment.run, "path": self._assignment.path, "stage": stage}
        self._worker.log_event(TOPIC, {**said, "fraction": fraction, "machine": str(self._worker.name)})

    @property
    def cancelled(self) -> bool:
        """Whether nobody waits for it any more."""
        state = self._worker.state.tasks.get(self._key)
        return state is None or state.state == "cancelled"


def given_folders() -> tuple[str, ...]:
    """The folders that this worker was given."""
    return tuple(one for one in os.environ.get(FOLDERS, "").split(os.pathsep) if one)


def _with_recording(assignment: Assignment, sound: Sequence[bytes]) -> Project:
    """The project with a recording that can be read here: in place, or as it was sent."""
    project, media = assignment.project, assignment.project.media
    if media is None:
        return project
    if in_place(media.path, media.size, media.changed_ns, given_folders()):
        return project
    kept = sent_path(media.fingerprint)
    if not kept.is_file():
        if not sound:
            raise EngineError(tr("“{name}” cannot be read here, and was not sent.").format(name=media.name))
        _keep(sound, kept)
    os.utime(kept)
    there = replace(media, path=str(kept))
    if not is_read(there):
        _as_read(there)
    return replace(project, media=there)


def _as_read(media: Media) -> None:
    """Put the samples that were sent where reading would put them: decoded anew they would differ."""
    with wave.open(media.path, "rb") as file:
        samples = np.frombuffer(file.readframes(file.getnframes()), np.int16)
    peaks, target = PeakBuilder(), sound_path(media)
    peaks.add(samples)
    part = target.with_suffix(f".{os.getpid()}.part")
    part.write_bytes(samples.tobytes())
    peaks.save(peaks_path(media))
    part.replace(target)


def _keep(sound: Sequence[bytes], path: Path) -> None:
    part = path.with_suffix(f".{os.getpid()}.part")
    try:
        with wave.open(str(part), "wb") as file:
            file.setnchannels(1)
            file.setsampwidth(2)
            file.setframerate(RATE)
            for piece in sound:
                file.writeframes(piece)
        part.replace(path)
    except OSError as error:
        raise EngineError(
            tr("The sound cannot be kept here: {strerror}. Free some space.").format(strerror=cause_of(error))
        ) from error
    finally:
        part.unlink(missing_ok=True)


def _as_it_was(made: Project, before: Project) -> Any:
    """The recording where it is on the machine that gave the episode out."""
    if made.media is None or before.media is None:
        return made.media
    return replace(made.media, path=before.media.path, relative=before.media.relative)
