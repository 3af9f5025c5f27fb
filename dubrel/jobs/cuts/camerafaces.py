"""Find out whom each camera shows: whose mouth moves while who speaks."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.finding.faces import FaceFinder
from dubrel.finding.whoisseen import Sighting, shown_in
from dubrel.jobs.cuts.facefollowing import sightings_in
from dubrel.jobs.machinery.events import Event, Pace, ShownFound, Warning_
from dubrel.model import Camera, Project

_LOOKS, _LOOK_MS, _LEAST_MS = 5, 2500, 1200  # for each speaker; how long each; the shortest turn that tells


def find_shown(project: Project) -> Iterator[Event]:
    """Look at each camera for a while during turns of each speaker.

    Parameters
    ----------
    project : Project
        Its recording and the films of its cameras where they really are.

    Yields
    ------
    Event
        Progress, and ``ShownFound`` with the cameras of which it can be told.

    Raises
    ------
    MediaError, EngineError
    """
    cameras = project.cameras.seen
    if len(cameras) < 2:
        raise MediaError(tr("There is no other camera yet. Add one first."))
    if not project.transcript.turns:
        raise MediaError(
            tr("Nobody speaks yet. Transcribe the recording, and tell the speakers apart first.")
        )
    pace, finder = Pace(), FaceFinder()
    found, unknown = list[tuple[int, tuple[str, ...]]](), list[str]()
    for nth, camera in enumerate(cameras):
        sightings = list[Sighting]()
        for step in _seen(project, camera, finder):
            if isinstance(step, float):
                yield pace.at(tr("Finding whom the cameras show"), (nth + step) / len(cameras))
            else:
                sightings.append(step)
        who = shown_in(project, sightings)
        if who is None:
            unknown.append(f"“{camera.name}”")
        else:
            found.append((camera.id, who))
    if unknown:
        yield Warning_(
            tr("Whom {cameras} shows cannot be told. Tick it in the booth.").format(
                cameras=", ".join(unknown)
            )
        )
    yield ShownFound(tuple(found))


def _seen(project: Project, camera: Camera, finder: FaceFinder) -> Iterator[float | Sighting]:
    """What is seen during some turns, at times of the recording; and how far it is."""
    import av

    media = camera.media or project.media
    assert media is not None
    spans = _spans(project, camera)
    try:
        with av.open(media.path) as film:
            film.streams.video[0].thread_type = "AUTO"
            for nth, (start, end) in enumerate(spans):
                yield nth / len(spans)
                own = (max(1, round(camera.own_ms(start))), round(camera.own_ms(end)))  # it seeks from 1 on
                for one in sightings_in(film, *own, finder):
                    yield replace(one, ms=round(camera.starts_ms + camera.rate * one.ms))
    except (av.FFmpegError, OSError) as error:
        raise MediaError(
            tr("The film of “{name}” cannot be read. Put it where it was first.").format(name=camera.name)
        ) from error


def _spans(project: Project, camera: Camera) -> list[tuple[int, int]]:
    """Passages in which each speaker speaks alone, spread over what the camera has, in order."""
    ends = camera.ends_ms if camera.media is not None else float(project.length_ms or 0)
    turns = [
        one
        for one in project.transcript.turns
        if one.speaker is not None
        and one.end_ms - one.start_ms >= _LEAST_MS
        and camera.starts_ms <= one.start_ms
        and one.end_ms <= ends
    ]
    found = list[tuple[int, int]]()
    for who in dict.fromkeys(one.speaker for one in turns):
        own = [one for one in turns if one.speaker == who]
        step = max(1, len(own) // _LOOKS)
        found += [(one.start_ms, min(one.end_ms, one.start_ms + _LOOK_MS)) for one in own[::step][:_LOOKS]]
    return sorted(found)
