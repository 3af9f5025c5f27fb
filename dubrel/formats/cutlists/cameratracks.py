"""Cameras in cut lists: which frame of whose film is shown, and which moment of the recording that is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from pathlib import PurePath

from dubrel.base.frametimecode import frame_of
from dubrel.base.timecode import frames_to_ms
from dubrel.model import Camera, Media, Project, Switch


def film_of(project: Project, camera: Camera) -> Media | None:
    """The film of a camera; the recording for its own picture."""
    return camera.media or project.media


def begins_at(media: Media | None, count: Fraction) -> int:
    """The frame at which a film's own timecode begins; 0 where it has none."""
    try:
        return frame_of(media.timecode, count) if media is not None and media.timecode else 0
    except ValueError:
        return 0


def film_frame(camera: Camera, frame: int, rate: Fraction, count: Fraction) -> int:
    """The frame of a camera's film that is shown at a frame of the recording.

    Parameters
    ----------
    rate, count : Fraction
        Frames a second of the recording, and in which the film is counted.
    """
    own_s = (Fraction(frame) / rate - _exact(camera.starts_ms / 1000)) / _exact(camera.rate)
    return max(0, round(own_s * count))


def recording_frame(camera: Camera, frame: int, rate: Fraction, count: Fraction) -> int:
    """The frame of the recording at which a frame of a camera's film is shown."""
    return round((Fraction(frame) / count * _exact(camera.rate) + _exact(camera.starts_ms / 1000)) * rate)


def _exact(value: float) -> Fraction:
    return Fraction(value).limit_denominator(10**9)


def camera_named(project: Project, path: str, *names: str) -> Camera | None:
    """The camera whose film is meant: by its path, by the film's name where no other has it, by its own.

    ``None`` for the recording itself, and for what is none of the project's.
    """
    own = project.media
    films = [one for one in project.cameras.all if one.media is not None and one.seen]
    if path.startswith("/") and own is not None:
        if _same_path(path, own.path):
            return None
        there = next((one for one in films if one.media and _same_path(path, one.media.path)), None)
        if there is not None:
            return there
    known = [_plain(own.name)] if own is not None else []
    known += [_plain(one.media.name) for one in films if one.media]
    for name in map(_plain, (path, *names)):
        if name and known.count(name) == 1:
            return next((one for one in films if one.media and _plain(one.media.name) == name), None)
        called = next((one for one in project.cameras.all if name and _plain(one.name) == name), None)
        if called is not None:
            return called if called.media is not None else None
    return None


def _same_path(one: str, other: str) -> bool:
    return bool(other) and one.replace("\\", "/").rstrip("/") == other.replace("\\", "/")


def _plain(name: str) -> str:
    """A name without folders, suffix, capitals and signs."""
    stem = PurePath(name.replace("\\", "/")).stem
    return "".join(sign for sign in stem.casefold() if sign.isalnum())


def switches_of(project: Project, shown: Iterable[tuple[int, int]], rate: Fraction) -> tuple[Switch, ...]:
    """Switches by the frames of the recording at which shots begin, with the ids of their cameras.

    With 0 for the recording's own picture.
    """
    own = next((one.id for one in project.cameras.all if one.media is None), 0)
    found = [Switch(frames_to_ms(max(0, frame), rate), camera or own) for frame, camera in shown]
    return tuple(one for one in found if one.camera)


def joined_on(expected: int | None, first: int, cameras: Sequence[int]) -> bool:
    """Whether a shot goes on where the one before ended, but for the rounding of another camera's frames."""
    return expected is not None and any(cameras) and abs(first - expected) <= 1
