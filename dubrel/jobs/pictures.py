"""Find shot changes and lettering in a film."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.errors import DubrelError
from dubrel.jobs.events import Event, Pace, PicturesFound
from dubrel.media.pictures import Pictures, look_at_frames
from dubrel.model import Media


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
        raise DubrelError(f"“{media.name}” has no picture, so it has no shot changes. Choose a film.")
    pace = Pace()
    yield pace.at("Finding shot changes", 0.0)
    for found in look_at_frames(Path(media.path), media.duration_ms, media.frame_rate):
        if isinstance(found, Pictures):
            yield PicturesFound(media.name, found.shots, found.banners)
        else:
            yield pace.at("Finding shot changes", found)
