"""Timelines of OpenTimelineIO read as a cut of the recording, and as a cut of the picture of its cameras."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import parse_rate
from dubrel.formats.cutlists.cameratracks import (
    Part,
    begins_at,
    camera_named,
    passages_of,
    recording_frame,
    switches_of,
)
from dubrel.formats.cutlists.cutlist import CutReading, Gathered, cross_ms_of, same_source, start_frame
from dubrel.model import Camera, Media, Project
from dubrel.model.cuts import Plays

MS_RATE = Fraction(1000)
"""Sound alone is counted in milliseconds."""
_PLAIN = (24, 25, 30, 48, 50, 60, 1000)


@dataclass
class _Piece:
    """A part of a track: frames of the recording or nothing."""

    frames: int
    first: int | None = None  # without a start timecode
    name: str = ""
    cross_ms: int = 0
    camera: int = 0  # whose film it is; 0 for the recording
    exact: bool = True  # whether the frame of the recording is known


def read(path: Path, project: Project, rate: Fraction | None) -> CutReading:
    """Read a timeline of a recording.

    Raises
    ------
    FormatError
        If it is none, or uses nothing of the recording.
    """
    del rate  # a timeline says its own
    return _read(path, project, "otio_json")


def read_bundle(path: Path, project: Project, rate: Fraction | None) -> CutReading:
    """Read the timeline of a bundle; see :func:`read`."""
    del rate
    return _read(path, project, "otioz")


def _read(path: Path, project: Project, adapter: str) -> CutReading:
    from opentimelineio import schema

    made = _opened(path, adapter)
    count = project.frame_rate or MS_RATE
    reader = _Reader(project, count)
    tracks = list(made.tracks)
    pictures = [one for one in tracks if one.kind == schema.TrackKind.Video and len(one)]
    sounds = [one for one in tracks if one.kind == schema.TrackKind.Audio and len(one)]
    if not pictures and not sounds:
        raise FormatError(
            tr("“{path}” has no clips. Choose a timeline with clips of this recording.").format(path=path)
        )
    leading = reader.pieces(_most_of_it(reader, pictures or sounds))
    others = sum(reader.plays(one) for one in pictures or sounds) - 1
    if others > 0:
        reader.said.append(
            counted(
                others,
                "further track of the timeline was passed over; the cut follows one.",
                "further tracks of the timeline were passed over; the cut follows one.",
            )
        )
    under = reader.pieces(_most_of_it(reader, sounds)) if pictures and sounds else None
    if under is not None and not any(one.first is not None for one in leading):
        leading, under = under, None  # nothing is seen of what is heard
    shown: list[tuple[int, int]] = []
    if any(one.camera for one in leading):
        leading, shown = _cameras_joined(leading, under or [])
    gathered = Gathered(project, count)
    _gather(gathered, leading, under)
    said = [*reader.said, *gathered.said()]
    if not any(one.plays != "gap" for one in gathered.passages):
        names = ", ".join(f"“{one}”" for one in list(gathered.others)[:3]) or "nothing"
        raise FormatError(
            tr("“{path}” uses nothing of this recording, but {names}. Open the recording it is of.").format(
                path=path, names=names
            )
        )
    switches = switches_of(project, shown, count) if shown else None
    return CutReading(made.name or "", gathered.passages, said, switches)


def _cameras_joined(pieces: list[_Piece], under: list[_Piece]) -> tuple[list[_Piece], list[tuple[int, int]]]:
    """Pieces of several cameras as passages of the recording, and which camera is shown from where."""
    parts = [_part_of(*one) for one in _placed(pieces)]
    found, shown = passages_of(parts, [_part_of(*one) for one in _placed(under)])
    return [_piece_of(one) for one in found], shown


def _part_of(at: int, until: int, piece: _Piece) -> Part:
    of = piece if piece.first is not None or piece.name else None
    return Part(at, until, piece.first, piece.camera, of, piece.exact)


def _piece_of(part: Part) -> _Piece:
    old = part.of if isinstance(part.of, _Piece) else _Piece(0)
    return replace(old, frames=part.until - part.at, first=part.first, camera=max(0, part.camera))


def _opened(path: Path, adapter: str) -> Any:
    from opentimelineio import adapters, exceptions, schema

    try:
        found = adapters.read_from_file(str(path), adapter)
    except (exceptions.OTIOError, ValueError, OSError, KeyError, RuntimeError) as error:
        raise FormatError(
            tr("“{path}” is not a timeline that can be read. Export it again as OpenTimelineIO.").format(
                path=path
            )
        ) from error
    if isinstance(found, schema.SerializableCollection):
        found = next((one for one in found if isinstance(one, schema.Timeline)), found)
    if not isinstance(found, schema.Timeline):
        raise FormatError(tr("“{path}” holds no timeline. Export the sequence itself.").format(path=path))
    return found


class _Reader:
    """Walks the tracks of a timeline."""

    def __init__(self, project: Project, rate: Fraction) -> None:
        self.project, self.rate = project, rate
        self.begin = start_frame(project, rate)
        self.said: list[str] = []

    def _say(self, text: str) -> None:
        if text not in self.said:
            self.said.append(text)

    def frames(self, time: Any) -> int:
        """A time of the timeline in frames of the recording."""
        value = Fraction(time.value).limit_denominator(10**6) / exact_rate(time.rate)
        return math.floor(value * self.rate + Fraction(1, 2))

    def plays(self, track: Any) -> bool:
        """Whether anything of a track is enabled."""
        from opentimelineio import schema

        return any(not isinstance(one, schema.Gap) and getattr(one, "enabled", True) for one in track)

    def pieces(self, track: Any) -> list[_Piece]:
        """What a track plays, nested sequences opened."""
        from opentimelineio import schema

        found = list[_Piece]()
        for child in track:
            if isinstance(child, schema.Transition):
                if found:
                    found[-1].cross_ms = cross_ms_of(
                        child.in_offset.value + child.out_offset.value, exact_rate(child.in_offset.rate)
                    )
                continue
            found += self._item(child)
        return found

    def _item(self, item: Any) -> list[_Piece]:
        from opentimelineio import schema

        try:
            trimmed = item.trimmed_range()
        except Exception:  # noqa: BLE001 - the library raises what its C++ part does
            self._say(tr("A clip without a length was left out."))
            return []
        frames = self.frames(trimmed.duration)
        if isinstance(item, schema.Gap) or not getattr(item, "enabled", True):
            return [_Piece(frames)]
        if any(isinstance(one, schema.TimeEffect) for one in item.effects):
            self._say(tr("Changes of speed are not kept: those clips play at normal speed."))
        elif len(item.effects):
            self._say(tr("Effects on clips are not kept."))
        if isinstance(item, schema.Clip):
            return [self._clip(item, trimmed, frames)]
        if isinstance(item, schema.Stack | schema.Track):
            return self._nested(item, trimmed, frames)
        return [_Piece(frames, name=item.name or tr("another kind of item"))]

    def _clip(self, item: Any, trimmed: Any, frames: int) -> _Piece:
        reference = item.media_reference
        url = getattr(reference, "target_url", "") or getattr(reference, "target_url_base", "") or ""
        name = getattr(reference, "name", "") or ""
        names = [one for one in (_unquoted(url), name) if one]
        camera = camera_named(self.project, _unquoted(url).removeprefix("file://"), *names)
        if camera is not None and camera.media is not None:
            return self._of_camera(camera, camera.media, item, trimmed, frames)
        if names and not same_source(self.project, *names):
            return _Piece(frames, name=_unquoted(url).rpartition("/")[2] or name)
        if not names and not same_source(self.project, item.name):
            self._say(tr("Clips without a reference were taken to be of this recording."))
        first = self.frames(trimmed.start_time)
        available = getattr(reference, "available_range", None)
        begin = self.frames(available.start_time) if available is not None else self.begin
        if first < begin:  # some programs count from the start of the file, whatever it says
            begin = 0
        return _Piece(frames, first - begin)

    def _of_camera(self, camera: Camera, film: Media, item: Any, trimmed: Any, frames: int) -> _Piece:
        """The moment of the recording at which a part of a camera's film is shown."""
        count = film.frame_rate or self.rate
        start = trimmed.start_time
        first = math.floor(
            Fraction(start.value).limit_denominator(10**6) / exact_rate(start.rate) * count + Fraction(1, 2)
        )
        begin = begins_at(film, count)
        own = first - (begin if first >= begin else 0)
        found, said = recording_frame(camera, own, self.rate, count), dict(item.metadata.get("dubrel", {}))
        exact = said.get("recording_frame")  # what we wrote, unless the clip was trimmed since
        known = isinstance(exact, int) and abs(exact - found) <= 1
        return _Piece(frames, exact if known else found, camera=camera.id, exact=known)

    def _nested(self, item: Any, trimmed: Any, frames: int) -> list[_Piece]:
        """What plays of a nested sequence in the range that is used."""
        from opentimelineio import schema

        tracks = [item] if isinstance(item, schema.Track) else [one for one in item if len(one)]
        tracks = [one for one in tracks if isinstance(one, schema.Track)] or tracks
        if not tracks:
            return [_Piece(frames)]
        inner = tracks[0]
        pieces = self.pieces(inner) if isinstance(inner, schema.Track) else self._item(inner)
        return _part(pieces, self.frames(trimmed.start_time), frames)


def _part(pieces: list[_Piece], start: int, frames: int) -> list[_Piece]:
    found, at, end = list[_Piece](), 0, start + frames
    for one in pieces:
        a, b = max(start, at), min(end, at + one.frames)
        if b > a:
            first = None if one.first is None else one.first + a - at
            found.append(_Piece(b - a, first, one.name, one.cross_ms))
        at += one.frames
    if at < end:
        found.append(_Piece(end - max(start, at)))
    return found


def _most_of_it(reader: _Reader, tracks: list[Any]) -> Any:
    """The track on which most of the recording plays; of several the first."""
    if len(tracks) == 1:
        return tracks[0]
    said = list(reader.said)
    sums = [sum(one.frames for one in reader.pieces(track) if one.first is not None) for track in tracks]
    reader.said[:] = said
    return tracks[sums.index(max(sums))]


def _gather(gathered: Gathered, leading: list[_Piece], under: list[_Piece] | None) -> None:
    """Passages by the pieces of the leading track; the sound under it says what is muted, and what leads."""
    at = 0
    sounds = _placed(under) if under is not None else []
    for nth, one in enumerate(leading):
        start, end = at, at + one.frames
        at = end
        if one.first is None:
            gathered.gap(one.frames, one.name)
            continue
        plays: Plays = "all"
        lead, cross = 0, one.cross_ms
        if under is not None:
            mine = next((s for s in sounds if s[0] <= (start + end) // 2 < s[1]), None)
            if mine is None or mine[2].first is None:
                plays = "muted"
            else:
                lead = end - mine[1] if nth + 1 < len(leading) and abs(end - mine[1]) < one.frames else 0
                cross = mine[2].cross_ms
        gathered.add(one.first, one.first + one.frames, plays, lead, cross)


def _placed(pieces: list[_Piece]) -> list[tuple[int, int, _Piece]]:
    found, at = [], 0
    for one in pieces:
        found.append((at, at + one.frames, one))
        at += one.frames
    return found


def _unquoted(url: str) -> str:
    from urllib.parse import unquote

    return unquote(url)


def exact_rate(rate: float) -> Fraction:
    """The exact rate that a number stands for.

    Examples
    --------
    >>> exact_rate(29.97), exact_rate(23.976023976023978), exact_rate(25.0)
    (Fraction(30000, 1001), Fraction(24000, 1001), Fraction(25, 1))
    """
    for whole in _PLAIN:
        if abs(rate - whole) < 1e-6:
            return Fraction(whole)
        if abs(rate - whole * 1000 / 1001) < 2e-3:
            return Fraction(whole * 1000, 1001)
    return parse_rate(str(Fraction(rate).limit_denominator(1001)))
