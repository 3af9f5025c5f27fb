"""Cameras in cut lists: which frame of whose film is shown, and which moment of the recording that is."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Sequence
from fractions import Fraction
from itertools import pairwise
from pathlib import PurePath
from typing import Any

from dubrel.base.frametimecode import frame_of
from dubrel.base.timecode import frames_to_ms
from dubrel.base.value import Value, replace
from dubrel.edits.cameras.gathering import plain_switches
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
    return plain_switches((one for one in found if one.camera), project.cameras.all)


class Part(Value):
    """A part of a track.

    Attributes
    ----------
    at, until : int
        Frames of the cut.
    first : int or None
        The frame of the recording that plays at its beginning; ``None`` for none.
    camera : int
        Whose picture it is; 0 for that of the recording.
    of : object
        What it was read from.
    exact : bool
        Whether the frame of the recording is known, or one beside it may be meant.
    """

    at: int
    until: int
    first: int | None
    camera: int = 0
    of: Any = None
    exact: bool = True

    @property
    def after(self) -> int | None:
        """The frame of the recording that would play on."""
        return None if self.first is None else self.first + self.until - self.at


def passages_of(pictures: Sequence[Part], sounds: Sequence[Part]) -> tuple[list[Part], list[tuple[int, int]]]:
    """Passages of the recording by what is seen of several cameras and heard of the recording.

    Shots that go on where the one before ended are one passage, unless the sound begins or ends between
    them. Where a camera counts other frames than the recording, the sound says the exact one; where
    nothing is seen, what is heard is the passage.

    Parameters
    ----------
    pictures, sounds : sequence of Part
        In order, none over another.

    Returns
    -------
    passages : list of Part
    shown : list of (int, int)
        From which frame of the recording which camera is shown.
    """
    found, shown = list[Part](), list[tuple[int, int]]()
    starts = [one.at for one in sounds]

    def sound_at(at: int) -> Part | None:
        nth = bisect_right(starts, at) - 1
        there = sounds[nth] if nth >= 0 and at < sounds[nth].until else None
        return there if there is not None and there.first is not None else None

    for one in _without_holes(pictures, sounds, sound_at):
        first, last = one.first, found[-1] if found else None
        if first is None:
            found.append(one)
            continue
        heard = sound_at((one.at + one.until) // 2)
        off = 0 if one.exact else 1
        if heard is not None and heard.first is not None and off:
            exact = heard.first + one.at - heard.at
            first, off = (exact, 0) if abs(exact - first) <= 1 else (first, 1)
        near = last is not None and last.until == one.at and last.after is not None
        if near and last is not None and last.after is not None and abs(last.after - first) <= off:
            before = sound_at((last.at + last.until) // 2)
            if (before is None) == (heard is None):
                shown.append((last.after, one.camera))
                found[-1] = replace(last, until=one.until)
                continue
            first = last.after
        if one.camera >= 0:
            shown.append((first, one.camera))
        found.append(replace(one, first=first))
    return found, [(first, camera) for first, camera in shown if camera >= 0]


def _without_holes(
    pictures: Sequence[Part], sounds: Sequence[Part], sound_at: Callable[[int], Part | None]
) -> Iterator[Part]:
    """Pictures, and where there is none what is heard, with no camera (−1)."""
    at = 0
    end = max((one.until for one in (*pictures[-1:], *sounds[-1:])), default=0)
    for one in [*pictures, Part(end, end, None)]:
        spans = [(at, one.at)] if one.at > at else []
        spans += [(one.at, one.until)] if one.first is None and one.of is None and one.until > one.at else []
        for start, stop in spans:
            edges = {edge for each in sounds for edge in (each.at, each.until) if start < edge < stop}
            for a, b in pairwise([start, *sorted(edges), stop]):
                heard = sound_at((a + b) // 2)
                first = None if heard is None or heard.first is None else heard.first + a - heard.at
                yield Part(a, b, first, -1)
        at = max(at, one.until)
        if one.until > one.at and (one.first is not None or one.of is not None):
            yield one
