"""Find what is heard but not said."""

from __future__ import annotations

from collections.abc import Iterator

from dubrel.base.catalogue import tr
from dubrel.jobs.machinery.events import Event, Pace, SoundsFound
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.sound import samples_of
from dubrel.model import Media
from dubrel.speech.sound.soundspots import sound_spots


def find_sounds(media: Media) -> Iterator[Event]:
    """Listen through a recording for sounds.

    Yields
    ------
    Event
        Progress, and ``SoundsFound``.

    Raises
    ------
    MediaError, EngineError
    """
    yield from read_recording(media)
    pace = Pace()
    yield pace.at(tr("Finding sounds"), 0.0)
    for found in sound_spots(samples_of(media)):
        yield SoundsFound(tuple(found)) if isinstance(found, list) else pace.at(tr("Finding sounds"), found)
