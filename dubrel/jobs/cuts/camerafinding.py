"""Bring the films of an event together: when each of them ran, by its sound."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from functools import partial
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, MediaError
from dubrel.base.timecode import format_length
from dubrel.finding.camerasync import Sync, synced
from dubrel.jobs.machinery.events import CamerasFound, Event, Pace, Warning_
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.cache import is_read
from dubrel.media.probe import probe
from dubrel.media.sound import read_sound, samples_of
from dubrel.model import Media

_SIDE_BY_SIDE = 2
_READING = 0.5  # of the time for a film
_POLL_S = 0.2
_SPREAD_MS = 2.0


class _Stopped(Exception):
    """Nobody waits for it any more."""


def find_cameras(recording: Media, paths: Sequence[Path]) -> Iterator[Event]:
    """Find out when films and recorders ran in time of a recording.

    Parameters
    ----------
    recording : Media
        Where it really is.
    paths : sequence of Path

    Yields
    ------
    Event
        Progress; a warning for each that does not belong to the recording; ``CamerasFound``.

    Raises
    ------
    MediaError
        If the recording has no sound, or none of the files belongs to it.
    """
    if not recording.has_audio:
        raise MediaError(
            tr("“{name}” has no sound by which cameras could be found. Choose another.").format(
                name=recording.name
            )
        )
    yield from read_recording(recording)
    pace, shares, said = Pace(), [0.0] * len(paths), list[str]()
    stopped: list[bool] = []
    found = list[tuple[Media, float, float]]()
    with ThreadPoolExecutor(_SIDE_BY_SIDE) as pool:
        tasks = [
            pool.submit(_placed, recording, path, partial(_tell, shares, nth, stopped))
            for nth, path in enumerate(paths)
        ]
        try:
            while not all(task.done() for task in tasks):
                wait(tasks, timeout=_POLL_S)
                yield pace.at(tr("Finding when the cameras ran"), sum(shares) / max(1, len(paths)))
        finally:
            stopped.append(True)
            for task in tasks:
                task.cancel()
        for path, task in zip(paths, tasks):
            _take(path, task, found, said)
    if not found and len(said) == 1:
        raise MediaError(said[0])
    for text in said:
        yield Warning_(text)
    if not found:
        raise MediaError(tr("None of the files belongs to “{name}”.").format(name=recording.name))
    yield CamerasFound(tuple(found))


def _tell(shares: list[float], nth: int, stopped: list[bool], share: float) -> None:
    if stopped:
        raise _Stopped
    shares[nth] = share


def _placed(recording: Media, path: Path, tell: Callable[[float], object]) -> tuple[Media, Sync | None]:
    media = probe(path)
    if not media.has_audio:
        raise MediaError(
            tr("“{name}” has no sound by which its time could be found. Choose another file.").format(
                name=path.name
            )
        )
    if path.samefile(recording.path):
        raise MediaError(
            tr("“{name}” is the recording itself. Choose the films of the other cameras.").format(
                name=path.name
            )
        )
    for share in () if is_read(media) else read_sound(media):
        tell(share * _READING)
    sync = synced(
        samples_of(recording), samples_of(media), lambda share: tell(_READING + share * (1 - _READING))
    )
    return media, sync


def _take(
    path: Path,
    task: Future[tuple[Media, Sync | None]],
    found: list[tuple[Media, float, float]],
    said: list[str],
) -> None:
    try:
        media, sync = task.result()
    except DubrelError as error:
        said.append(str(error))
        return
    if sync is None:
        said.append(
            tr("“{name}” shares no sound with the recording, so it is left out.").format(name=path.name)
        )
        return
    if sync.jumps_ms:
        at = format_length(round(sync.jumps_ms))
        said.append(
            tr("The sound of “{name}” jumps about {at} into the recording; check it there.").format(
                name=path.name, at=at
            )
        )
    found.append((media, round(sync.starts_ms, 3), sync.rate))
