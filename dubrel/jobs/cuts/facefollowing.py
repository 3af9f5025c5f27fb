"""Look through a film for faces, so that the crop can follow who speaks."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.finding.faces import Face, FaceFinder
from dubrel.finding.whoisseen import Sighting, framing_of
from dubrel.jobs.machinery.events import CropFound, Event, Pace, Warning_
from dubrel.media.probe import origin_s
from dubrel.model import Camera, Cut, CutPassage, Project

_STEP_MS = 500
_WIDE = 384  # pixels: faces are found as well in a small picture
_MOUTH = (0.1, 0.55, 0.6)  # of a face's size: where its mouth begins below the middle, ends; how wide it is


def follow_faces(project: Project, start_ms: int = 0, end_ms: int = 0) -> Iterator[Event]:
    """Find where the crop has to lie so that who speaks is seen.

    Parameters
    ----------
    project : Project
        Its recording where it really is.
    start_ms, end_ms : int
        The passage; 0 and 0 for all.

    Yields
    ------
    Event
        Progress, and ``CropFound``.

    Raises
    ------
    MediaError, EngineError
    """
    media = project.media
    if media is None or not project.has_picture:
        raise MediaError(tr("The recording has no picture. Faces can be followed in films alone."))
    end_ms = end_ms or media.duration_ms
    pace, sightings = Pace(), list[Sighting]()
    yield pace.at(tr("Finding faces"), 0.0)
    for sighting in _seen(project, start_ms, end_ms):
        sightings.append(sighting)
        if len(sightings) % 4 == 0:
            share = (sighting.ms - start_ms) / max(1, end_ms - start_ms)
            yield pace.at(tr("Finding faces"), min(1.0, share))
    if not any(one.faces for one in sightings):
        yield Warning_(tr("No face was found in the picture. The crop stays where it is."))
    keys = framing_of(project, sightings, project.shots, start_ms, end_ms)
    yield CropFound(start_ms, end_ms, tuple(keys))


def _seen(project: Project, start_ms: int, end_ms: int) -> Iterator[Sighting]:
    """What is seen of the camera that is shown, at times of the recording."""
    import av

    finder, path = FaceFinder(), ""
    with ExitStack() as stack:
        films: dict[str, Any] = {}
        try:
            for camera, start, end in _shown(project, start_ms, end_ms):
                media = camera.media or project.media
                path = media.path if media is not None else ""
                if path not in films:
                    films[path] = stack.enter_context(av.open(path))
                    films[path].streams.video[0].thread_type = "AUTO"
                begin = round(camera.own_ms(start))
                begin = max(1, begin) if len(films) > 1 or begin else begin  # from 1 on it seeks
                for one in sightings_in(films[path], begin, round(camera.own_ms(end)), finder):
                    yield replace(one, ms=max(start_ms, round(camera.starts_ms + camera.rate * one.ms)))
        except (av.FFmpegError, OSError) as error:
            raise MediaError(
                tr("“{name}” cannot be read. Check the file.").format(name=Path(path).name)
            ) from error


def _shown(project: Project, start_ms: int, end_ms: int) -> Iterator[tuple[Camera, float, float]]:
    """Which camera is shown from when to when."""
    rate, cameras = project.frame_rate, project.cameras
    if rate is None or not cameras.seen:
        yield Camera(0, ""), start_ms, end_ms
        return
    for shot in camera_shots(project, Cut(0, "", (CutPassage(start_ms, end_ms),)), rate):
        camera = cameras.camera(shot.camera)
        if camera is not None:
            yield camera, float(shot.first * 1000 / rate), float(shot.after * 1000 / rate)


def sightings_in(film: Any, start_ms: int, end_ms: int, finder: FaceFinder) -> Iterator[Sighting]:
    """What is seen twice a second of a film, and how mouths moved until the next time."""
    zero = float(origin_s(film)) * 1000
    picture = film.streams.video[0]
    if start_ms:
        film.seek(round((start_ms + zero) * 1000), backward=True)
    at, before, faces, moves, counts = -1, None, list[Face](), np.zeros(0), 0
    for frame in film.decode(picture):
        ms = float(frame.time or 0) * 1000 - zero
        if ms < start_ms:
            continue
        if ms >= end_ms:
            break
        high = max(2, round(frame.height * _WIDE / frame.width) // 2 * 2)
        light = frame.reformat(_WIDE, high, format="gray").to_ndarray()
        if before is not None and faces:
            moves = moves + np.array([_moved(before, light, face) for face in faces])
            counts += 1
        before = light
        if at < 0 or ms >= at + _STEP_MS:
            if at >= 0:
                yield Sighting(at, tuple(faces), tuple(moves / max(1, counts)))
            faces = finder.faces(frame.reformat(_WIDE, high, format="rgb24").to_ndarray())
            at, moves, counts = round(ms), np.zeros(len(faces)), 0
    if at >= 0:
        yield Sighting(at, tuple(faces), tuple(moves / max(1, counts)))


def _moved(before: np.ndarray, now: np.ndarray, face: Face) -> float:
    """How much the mouth of a face changed from one picture to the next."""
    height, width = now.shape
    top = round((face.y + _MOUTH[0] * face.height) * height / 100)
    bottom = round((face.y + _MOUTH[1] * face.height) * height / 100)
    half = _MOUTH[2] * face.width / 2
    left, right = (round((face.x + side * half) * width / 100) for side in (-1, 1))
    rows, columns = slice(max(0, top), max(0, bottom)), slice(max(0, left), max(0, right))
    parts = [one[rows, columns].astype(np.int16) for one in (before, now)]
    return float(np.abs(parts[1] - parts[0]).mean()) if parts[0].size else 0.0
