"""OpenTimelineIO: a timeline with picture and sound tracks, joins, and markers from notes and chapters."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, BinaryIO

from dubrel.base.errors import FormatError
from dubrel.base.text import counted
from dubrel.base.timecode import ms_to_frames, parse_rate
from dubrel.formats.cutlists.cutlist import (
    CutContent,
    CutEvent,
    CutForm,
    CutReading,
    Gathered,
    cross_ms_of,
    same_source,
    start_frame,
)
from dubrel.model import Project
from dubrel.model.cuts import Plays

_MS = Fraction(1000)  # sound alone is counted in milliseconds
_COLOURS = {"Chapter": "GREEN", "Query": "YELLOW", "Clip": "PURPLE", "Picture wanted": "PINK"}
_PLAIN = (24, 25, 30, 48, 50, 60, 1000)


def _time(frames: float, rate: Fraction) -> Any:
    from opentimelineio.opentime import RationalTime

    return RationalTime(frames, float(rate))


def _range(first: int, frames: int, rate: Fraction) -> Any:
    from opentimelineio.opentime import TimeRange

    return TimeRange(_time(first, rate), _time(frames, rate))


# -- writing ---------------------------------------------------------------------------------


def timeline_of(content: CutContent) -> Any:
    """The timeline of a cut."""
    from opentimelineio import schema

    made = schema.Timeline(name=content.cut.name)
    media = content.project.media
    has_picture = bool(media and media.has_video)
    if has_picture:
        made.tracks.append(_picture(content))
    if media is None or media.has_audio or not has_picture:
        made.tracks.append(_sound(content))
    made.tracks.markers.extend(_markers(content))
    return made


def _reference(content: CutContent) -> Any:
    from opentimelineio import schema

    media = content.project.media
    frames = ms_to_frames(media.duration_ms if media else content.cut.length_ms, content.rate)
    available = _range(content.start_frame, frames, content.rate)
    if media is None or not media.path:
        return schema.MissingReference(name=content.media_name, available_range=available)
    made = schema.ExternalReference(Path(media.path).absolute().as_uri(), available)
    made.name = content.media_name
    return made


def _clip(content: CutContent, one: CutEvent, first: int, after: int) -> Any:
    from opentimelineio import schema

    return schema.Clip(
        name=one.name or content.reel,
        media_reference=_reference(content),
        source_range=_range(content.start_frame + first, after - first, content.rate),
    )


def _gap(frames: int, rate: Fraction) -> Any:
    from opentimelineio import schema

    return schema.Gap(source_range=_range(0, frames, rate))


def _picture(content: CutContent) -> Any:
    from opentimelineio import schema

    track = schema.Track(name="Picture", kind=schema.TrackKind.Video)
    for one in content.events:
        if one.passage.plays == "gap":
            track.append(_gap(one.after - one.first, content.rate))
        else:
            track.append(_clip(content, one, one.first, one.after))
    return track


def _sound(content: CutContent) -> Any:
    from opentimelineio import schema

    track = schema.Track(name="Sound", kind=schema.TrackKind.Audio)
    events = content.events
    for one, following in zip(events, [*events[1:], None]):
        first, after = one.sound_first, one.sound_after
        heard = one.passage.plays == "all"
        track.append(_clip(content, one, first, after) if heard else _gap(after - first, content.rate))
        half = one.passage.cross_ms / 2000 * float(content.rate)
        if half and heard and following is not None and following.passage.plays == "all":
            track.append(
                schema.Transition(
                    name="Constant power",
                    transition_type=schema.TransitionTypes.SMPTE_Dissolve,
                    in_offset=_time(half, content.rate),
                    out_offset=_time(half, content.rate),
                )
            )
    return track


def _markers(content: CutContent) -> Iterator[Any]:
    from opentimelineio import schema

    for note in content.made.notes:
        first = ms_to_frames(note.start_ms, content.rate)
        long = ms_to_frames(note.end_ms, content.rate) - first if note.end_ms else 0
        yield schema.Marker(
            name=note.text or note.kind,
            marked_range=_range(first, max(0, long), content.rate),
            color=_COLOURS.get(note.kind, "CYAN"),
            metadata={"dubrel": {"kind": note.kind}},
        )


def _rated(content: CutContent) -> CutContent:
    """Sound alone counts in milliseconds, which is exact."""
    from dataclasses import replace

    return content if content.project.frame_rate else replace(content, rate=_MS, drop=False)


def write(content: CutContent, file: BinaryIO) -> None:
    """Write a timeline as JSON."""
    from opentimelineio import adapters

    text = adapters.write_to_string(timeline_of(_rated(content)), "otio_json")
    file.write(text.encode())


def write_bundle(content: CutContent, file: BinaryIO) -> None:
    """Write a timeline with the recording in one archive.

    Raises
    ------
    FormatError
        If the recording is not there.
    """
    import shutil
    import tempfile

    from opentimelineio import adapters, exceptions

    media = content.project.media
    if media is None or not Path(media.path).is_file():
        raise FormatError(
            f"The recording “{content.media_name}” is not there, so it cannot go into the bundle. Open it, or"
            " write .otio."
        )
    with tempfile.TemporaryDirectory(prefix="dubrel-") as folder:
        bundle = Path(folder) / "cut.otioz"
        try:
            adapters.write_to_file(timeline_of(_rated(content)), str(bundle), "otioz")
        except (exceptions.OTIOError, ValueError, OSError) as error:
            raise FormatError(f"The bundle cannot be written: {error}. Write .otio instead.") from error
        with bundle.open("rb") as made:
            shutil.copyfileobj(made, file)


# -- reading -----------------------------------------------------------------------------------


@dataclass
class _Piece:
    """A part of a track: frames of the recording or nothing."""

    frames: int
    first: int | None = None  # without a start timecode
    name: str = ""
    cross_ms: int = 0


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
    count = project.frame_rate or _MS
    reader = _Reader(project, count)
    tracks = list(made.tracks)
    pictures = [one for one in tracks if one.kind == schema.TrackKind.Video and len(one)]
    sounds = [one for one in tracks if one.kind == schema.TrackKind.Audio and len(one)]
    if not pictures and not sounds:
        raise FormatError(f"“{path}” has no clips. Choose a timeline with clips of this recording.")
    leading = reader.pieces(_most_of_it(reader, pictures or sounds))
    others = len(pictures or sounds) - 1
    if others:
        reader.said.append(
            f"{counted(others, 'further track')} of the timeline"
            f" {'was' if others == 1 else 'were'} passed over; the cut follows one."
        )
    under = reader.pieces(_most_of_it(reader, sounds)) if pictures and sounds else None
    gathered = Gathered(project, count)
    _gather(gathered, leading, under)
    said = [*reader.said, *gathered.said()]
    if not any(one.plays != "gap" for one in gathered.passages):
        names = ", ".join(f"“{one}”" for one in list(gathered.others)[:3]) or "nothing"
        raise FormatError(
            f"“{path}” uses nothing of this recording, but {names}. Open the recording it is of."
        )
    return CutReading(made.name or "", gathered.passages, said)


def _opened(path: Path, adapter: str) -> Any:
    from opentimelineio import adapters, exceptions, schema

    try:
        found = adapters.read_from_file(str(path), adapter)
    except (exceptions.OTIOError, ValueError, OSError, KeyError, RuntimeError) as error:
        raise FormatError(
            f"“{path}” is no timeline that can be read. Export it again as OpenTimelineIO."
        ) from error
    if isinstance(found, schema.SerializableCollection):
        found = next((one for one in found if isinstance(one, schema.Timeline)), found)
    if not isinstance(found, schema.Timeline):
        raise FormatError(f"“{path}” holds no timeline. Export the sequence itself.")
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
            self._say("A clip without a length was left out.")
            return []
        frames = self.frames(trimmed.duration)
        if isinstance(item, schema.Gap) or not getattr(item, "enabled", True):
            return [_Piece(frames)]
        if any(isinstance(one, schema.TimeEffect) for one in item.effects):
            self._say("Changes of speed are not kept: those clips play at the usual speed.")
        elif len(item.effects):
            self._say("Effects on clips are not kept.")
        if isinstance(item, schema.Clip):
            return [self._clip(item, trimmed, frames)]
        if isinstance(item, schema.Stack | schema.Track):
            return self._nested(item, trimmed, frames)
        return [_Piece(frames, name=item.name or "another kind of item")]

    def _clip(self, item: Any, trimmed: Any, frames: int) -> _Piece:
        reference = item.media_reference
        url = getattr(reference, "target_url", "") or getattr(reference, "target_url_base", "") or ""
        name = getattr(reference, "name", "") or ""
        names = [one for one in (_unquoted(url), name) if one]
        if names and not same_source(self.project, *names):
            return _Piece(frames, name=_unquoted(url).rpartition("/")[2] or name)
        if not names and not same_source(self.project, item.name):
            self._say("Clips without a reference were taken to be of this recording.")
        first = self.frames(trimmed.start_time)
        available = getattr(reference, "available_range", None)
        begin = self.frames(available.start_time) if available is not None else self.begin
        if first < begin:  # some programs count from the start of the file, whatever it says
            begin = 0
        return _Piece(frames, first - begin)

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


FORM = CutForm(id="otio", label="Timeline (OpenTimelineIO)", suffix=".otio", write=write, read=read)
BUNDLE = CutForm(
    id="otioz",
    label="Timeline with its recording (OpenTimelineIO bundle)",
    suffix=".otioz",
    write=write_bundle,
    read=read_bundle,
)
