"""Find shot changes and lettering in a film; what was found once is kept with the recording's cache."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Iterator
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_text
from dubrel.base.value import asdict
from dubrel.jobs.machinery.events import Event, Pace, PicturesFound
from dubrel.media.cache import cache_folder
from dubrel.media.pictures import Pictures, look_at_frames
from dubrel.model import Banner, Media, Project

_VERSION = 1  # of the way in which they are found


def find_pictures(media: Media) -> Iterator[Event]:
    """Look at every frame of a film.

    Yields
    ------
    Event
        Progress, and ``PicturesFound``.

    Raises
    ------
    DubrelError
        If there is no picture, or it cannot be read.
    """
    if not media.has_video:
        raise DubrelError(
            tr("“{name}” has no picture, so it has no shot changes. Choose a film.").format(name=media.name)
        )
    pace = Pace()
    yield pace.at(tr("Finding shot changes"), 0.0)
    kept = cache_folder(media) / "pictures.json"
    if (known := _known(kept)) is not None:
        yield PicturesFound(media.name, known.shots, known.banners)
        return
    for found in look_at_frames(Path(media.path), media.duration_ms, media.frame_rate):
        if isinstance(found, Pictures):
            _keep(kept, found)
            yield PicturesFound(media.name, found.shots, found.banners)
        else:
            yield pace.at(tr("Finding shot changes"), found)


def looked_at(project: Project) -> Iterator[Event | Project]:
    """Find shot changes and lettering of a project's film, unless they are known.

    Yields
    ------
    Event or Project
        Progress, at the end the project with what was found.
    """
    from dubrel.jobs.machinery.fold import fold  # late: verbs of every kind

    media = project.media
    if media is not None and media.has_video and media.shots is None and Path(media.path).is_file():
        for event in find_pictures(media):
            yield event
            project = fold(project, event)
    yield project


def _known(path: Path) -> Pictures | None:
    """What was found before; nothing where that cannot be read."""
    try:
        value = json.loads(path.read_text(encoding="utf-8"))
        if value["version"] != _VERSION:
            return None
        return Pictures(tuple(map(int, value["shots"])), tuple(Banner(**one) for one in value["banners"]))
    except (OSError, ValueError, TypeError, KeyError):
        return None


def _keep(path: Path, found: Pictures) -> None:
    banners = [asdict(one) for one in found.banners]
    value = {"version": _VERSION, "shots": list(found.shots), "banners": banners}
    with contextlib.suppress(DubrelError, OSError):  # it can be found again
        write_text(path, json.dumps(value), private=True)
