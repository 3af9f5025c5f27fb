"""Listen through a recording for what makes a clip lively; what was heard is kept in the cache."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from zipfile import BadZipFile

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_atomically
from dubrel.edits.cuts.pauses import Levels
from dubrel.finding.clips.heard import Heard
from dubrel.jobs.cuts.cutmedia import levels_of
from dubrel.jobs.machinery.events import Event, Pace
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.cache import clip_sound_path, has_clip_sound, is_read
from dubrel.media.sound import samples_of
from dubrel.model import Media
from dubrel.model.recognised import SoundSpot
from dubrel.speech.sound.pitch import pitches
from dubrel.speech.sound.soundspots import CLASSES, sound_spots

_PITCH_SHARE = 0.1  # of the time


def listen_for_clips(media: Media) -> Iterator[Event]:
    """Listen for laughter, applause and pitch.

    Yields
    ------
    Event
        Progress; what was heard is in the cache then, see :func:`heard_in`.

    Raises
    ------
    MediaError, EngineError
    """
    yield from read_recording(media)
    pace, samples = Pace(), samples_of(media)
    pitch, spots = np.zeros(0, np.float32), list[SoundSpot]()
    for step in pitches(samples):
        if isinstance(step, float):
            yield pace.at(tr("Listening for clips"), step * _PITCH_SHARE)
        else:
            pitch = step
    for found in sound_spots(samples):
        if isinstance(found, float):
            yield pace.at(tr("Listening for clips"), _PITCH_SHARE + found * (1 - _PITCH_SHARE))
        else:
            spots = found
    _keep(media, pitch, spots)


def _keep(media: Media, pitch: np.ndarray, spots: list[SoundSpot]) -> None:
    names = list(CLASSES)
    rows = np.array([(one.start_ms, one.end_ms, names.index(one.name)) for one in spots], np.int64)
    sure = np.array([one.sureness for one in spots], np.float32)
    with contextlib.suppress(DubrelError):  # it can be computed again
        write_atomically(
            clip_sound_path(media),
            lambda file: np.savez(file, pitch=pitch, spots=rows.reshape(len(spots), 3), sure=sure),
            private=True,
        )


def heard_in(media: Media | None) -> Heard | None:
    """What was heard earlier, if it is in the cache."""
    if media is None or not is_read(media):
        return None
    names = list(CLASSES)
    try:
        with np.load(clip_sound_path(media), allow_pickle=False) as found:
            pitch, rows, sure = found["pitch"], found["spots"], found["sure"]
        spots = [
            SoundSpot(int(start), int(end), names[int(name)], float(how))
            for (start, end, name), how in zip(rows, sure)
        ]
    except (OSError, ValueError, KeyError, IndexError, EOFError, BadZipFile, DubrelError):
        return None
    return Heard(levels_of(media) or Levels(np.zeros(0, np.float32), 10.0), pitch, tuple(spots))


def forget_damaged(media: Media) -> bool:
    """Remove what was heard where it cannot be read; whether there was something."""
    if not has_clip_sound(media) or heard_in(media) is not None:
        return False
    clip_sound_path(media).unlink(missing_ok=True)
    return True
