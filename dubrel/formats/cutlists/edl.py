"""CMX 3600 edit decision lists: one line an event, in timecode of the recording and of the cut."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path, PurePath
from typing import BinaryIO

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.frametimecode import can_drop, frame_of, nominal, timecode
from dubrel.base.timecode import ms_to_frames, rate_in_words
from dubrel.formats.cutlists.cameratracks import (
    Part,
    begins_at,
    camera_named,
    film_frame,
    film_of,
    passages_of,
    recording_frame,
    switches_of,
)
from dubrel.formats.cutlists.cutlist import (
    USUAL_RATE,
    CutContent,
    CutEvent,
    CutForm,
    CutReading,
    Gathered,
    same_source,
    start_frame,
)
from dubrel.formats.shared.common import read_text
from dubrel.model import Camera, Project

_REEL = 8  # letters that a reel has in the oldest programs that read the form
_MOST_EVENTS = 100_000
_EVENT = re.compile(
    r"\s*(?P<number>\d+)\s+(?P<reel>\S+)\s+(?P<track>\S+)\s+(?P<kind>C|D|W\d+|K\w*)\s+(?P<long>\d+\s+)?"
    r"(?P<times>\d+[:.]\d+[:.]\d+[:;.,]\d+(\s+\d+[:.]\d+[:.]\d+[:;.,]\d+){3})\s*"
)
_SPEED = re.compile(r"M2\s+\S+\s+(-?\d+(?:\.\d+)?)")
_CLIP = re.compile(r"\*\s*(?:FROM|TO)\s+CLIP(?:\s+NAME)?\s*:\s*(.*)", re.I)
_FILE = re.compile(r"\*\s*(?:SOURCE FILE|FROM FILE|MEDIA FILE)\s*:\s*(.*)", re.I)


def write(content: CutContent, file: BinaryIO) -> None:
    """Write a list: picture and sound in one event, or in one each where they part."""
    rate, drop = content.rate, content.drop
    lines = [f"TITLE: {_line(content.cut.name)}", f"FCM: {'DROP FRAME' if drop else 'NON-DROP FRAME'}", ""]
    reel, number = _reel(content.reel), 1
    has_picture = content.project.has_picture
    begin = content.start_frame

    def clock(frame: int) -> str:
        return timecode(frame, rate, drop)

    markers = [
        (
            frame := ms_to_frames(note.start_ms, rate),
            f"{clock(frame).replace(';', ':')} CYAN    {_line(note.text or note.kind)}",
        )
        for note in content.made.notes
    ]
    reels = _reels(content)

    def event(name: str, channel: str, first: int, long: int, at: int) -> str:
        times = f"{clock(first)} {clock(first + long)} {clock(at)} {clock(at + long)}"
        return f"{number:03d}  {name:<8} {channel:<5} C        {times}"

    for one in content.events:
        if one.passage.plays == "gap" and one.at == 0:  # else a list begins with what plays first
            lines.append(event("BL", "V" if has_picture else "AA", 0, one.after - one.first, 0))
            number += 1
        for shot in content.shots_in(one):
            camera = content.project.cameras.camera(shot.camera)
            if camera is None:
                continue
            film = film_of(content.project, camera)
            first = film_frame(camera, shot.first, rate, rate) + begins_at(film, rate)
            lines.append(event(reels[shot.camera], "V", first, shot.frames, shot.at))
            lines.append(f"* FROM CLIP NAME: {_line(film.name if film else camera.name)}")
            lines.append(f"* SOURCE FILE: {_line(film.path if film else '')}")
            number += 1
        sounds = [row for row in _channels(one, has_picture) if not (content.shots and row[0] == "V")]
        for channel, first, after, at in sounds:
            name = channel.removesuffix("/V") if content.shots else channel
            lines.append(event(reel, name, begin + first, after - first, at))
            number += 1
        if sounds:
            lines.append(f"* FROM CLIP NAME: {_line(content.media_name)}")
        if one.name:
            lines.append(f"* COMMENT: {_line(one.name)}")
        notes = (note for frame, note in markers if one.at <= frame < one.at + one.after - one.first)
        lines += [f"* LOC: {note}" for note in notes]
    file.write(("\r\n".join(lines) + "\r\n").encode())


def _channels(one: CutEvent, has_picture: bool) -> list[tuple[str, int, int, int]]:
    """Channel, frames of the recording, and where it stands in the cut, of each line of an event."""
    if one.passage.plays == "gap":
        return []
    muted = one.passage.plays == "muted"
    picture = ("V", one.first, one.after, one.at)
    sound = ("AA", one.sound_first, one.sound_after, one.at + one.sound_first - one.first)
    if not has_picture:
        return [] if muted else [sound]
    if muted:
        return [picture]
    together = (one.first, one.after) == (one.sound_first, one.sound_after)
    return [("AA/V", *picture[1:])] if together else [picture, sound]


def _reels(content: CutContent) -> dict[int, str]:
    """Reels of cameras, told apart where the beginnings of their names are alike."""
    found: dict[int, str] = {}
    for one in content.project.cameras.all:
        film = film_of(content.project, one)
        name = _reel(PurePath(film.name).stem if film else one.name)
        nth = 2
        while name in found.values():
            name, nth = f"{name[: _REEL - len(str(nth))]}{nth}", nth + 1
        found[one.id] = name
    return found


def _reel(name: str) -> str:
    return re.sub(r"[^A-Za-z0-9_]", "", name)[:_REEL].upper() or "AX"


def _line(text: str) -> str:
    return " ".join(text.split())


def _loses(content: CutContent) -> list[str]:
    found = []
    crossing = sum(one.passage.cross_ms > 0 for one in content.events[:-1])
    if crossing:
        found.append(
            tr("An EDL counts whole frames: {fades} of sound became hard.").format(
                fades=counted(crossing, "cross-fade")
            )
        )
    if content.project.frame_rate is None:
        found.append(
            tr("The recording has no picture: the list counts {rate} frames.").format(
                rate=rate_in_words(content.rate)
            )
        )
    short = len(content.cut.passages) - len(content.events)
    if short:
        found.append(
            counted(
                short,
                "passage is shorter than a frame and left out.",
                "passages are shorter than a frame and left out.",
            )
        )
    unseen = {one.id for one in content.project.cameras.seen} - {one.camera for one in content.shots}
    if content.shots:
        found.append(
            tr("An EDL has one picture track: it holds the cut of the picture, not all that each camera has.")
        )
        if unseen:
            found.append(counted(len(unseen), "camera is not in it.", "cameras are not in it."))
    if content.events and content.events[-1].passage.plays == "gap":
        found.append(tr("The cut ends with a gap, which no event of an EDL can hold."))
    return found


# -- reading -------------------------------------------------------------------------------


@dataclass
class _Line:
    reel: str
    track: str
    kind: str
    times: list[int]
    clip: str = ""
    file: str = ""
    speed: float | None = None


@dataclass
class _List:
    title: str = ""
    lines: list[_Line] = field(default_factory=list)
    unknown: int = 0


def read(path: Path, project: Project, rate: Fraction | None) -> CutReading:
    """Read a list of a recording.

    Raises
    ------
    FormatError
        If it has no events, or counts frames of another rate than the picture.
    """
    rate = project.frame_rate or rate or USUAL_RATE
    text, said = read_text(path)
    found = _lines(text, rate, path)
    if not found.lines:
        raise FormatError(
            tr("“{path}” has no events. Choose an edit decision list (CMX 3600).").format(path=path)
        )
    pictures = [one for one in found.lines if "V" in one.track or one.track in ("B", "BB")]
    sounds = [one for one in found.lines if one.track.startswith("A") and "V" not in one.track]
    events = sorted(pictures or sounds, key=lambda one: one.times[2])
    events, shown = _cameras_joined(project, events, sounds, rate)
    gathered = Gathered(project, rate)
    begin = _begin(project, events, rate)
    at, dissolves, speeds, apart = events[0].times[2] if events else 0, 0, 0, 0
    sounds_at = {one.times[3]: one for one in sounds} if pictures else {}
    heard = _hearing(found.lines)
    for one in events:
        source_in, _, record_in, record_out = one.times
        if record_in > at:
            gathered.gap(record_in - at)
        long = record_out - max(at, record_in)
        at = max(at, record_out)
        dissolves += one.kind != "C"
        speeds += one.speed is not None
        if long <= 0:
            continue
        if one.reel.upper() in ("BL", "BLACK"):
            gathered.gap(long)
        elif _foreign(project, one):
            gathered.gap(long, one.clip or one.file or one.reel)
        else:
            first = source_in - begin
            lead = _lead(one, sounds_at)
            apart += lead != 0
            gathered.add(first, first + long, "all" if heard(one) else "muted", lead)
    said += gathered.said()
    said += _simpler(dissolves, speeds, found.unknown)
    if not gathered.passages or all(one.plays == "gap" for one in gathered.passages):
        names = ", ".join(f"“{one}”" for one in list(gathered.others)[:3]) or "nothing"
        raise FormatError(
            tr("“{path}” uses nothing of this recording, but {names}. Open the recording it is of.").format(
                path=path, names=names
            )
        )
    switches = switches_of(project, shown, rate) if shown else None
    return CutReading(found.title, gathered.passages, said, switches)


def _simpler(dissolves: int, speeds: int, unknown: int) -> Iterator[str]:
    """What was read as something simpler, or not at all."""
    if dissolves:
        yield counted(
            dissolves, "dissolve or wipe became a hard join.", "dissolves or wipes became hard joins."
        )
    if speeds:
        yield counted(
            speeds,
            "event plays at another speed; kept at normal speed.",
            "events play at another speed; kept at normal speed.",
        )
    if unknown:
        yield tr("{lines} could not be understood.").format(lines=counted(unknown, "line"))


def _hearing(lines: list[_Line]) -> Callable[[_Line], bool]:
    """Whether an event is heard; all are where the list says nothing of sound."""
    spans = sorted((one.times[2], one.times[3]) for one in lines if "A" in one.track or one.track == "B")
    starts = [start for start, _ in spans]

    def heard(one: _Line) -> bool:
        middle = (one.times[2] + one.times[3]) // 2
        nth = bisect_right(starts, middle) - 1
        return not spans or any(middle < end for _, end in spans[max(0, nth - 3) : nth + 1])

    return heard


def _cameras_joined(
    project: Project, events: list[_Line], sounds: list[_Line], rate: Fraction
) -> tuple[list[_Line], list[tuple[int, int]]]:
    """Events of several cameras as passages of the recording, and which camera is shown from where."""
    cameras = [_camera_of(project, one) for one in events]
    if not any(cameras):
        return events, []
    own = _begin(project, [*(one for one, camera in zip(events, cameras) if camera is None), *sounds], rate)
    zero = min(one.times[2] for one in (*events, *sounds))
    parts = [_part_of(project, one, own, zero, rate) for one in events]
    heard = [_part_of(project, one, own, zero, rate) for one in sorted(sounds, key=lambda one: one.times[2])]
    found, shown = passages_of(parts, heard)
    return [_line_of(project, one, own, zero) for one in found if one.first is not None or one.of], shown


def _part_of(project: Project, one: _Line, own: int, zero: int, rate: Fraction) -> Part:
    """An event as a part of a track: frames of the recording."""
    at, until = one.times[2] - zero, one.times[3] - zero
    camera = _camera_of(project, one)
    if camera is not None:
        begin = begins_at(camera.media, rate)
        film = one.times[0] - (begin if one.times[0] >= begin else 0)
        first = recording_frame(camera, film, rate, rate)
        return Part(at, until, first, camera.id, one, exact=False)
    foreign = one.reel.upper() in ("BL", "BLACK") or _foreign(project, one)
    return Part(at, until, None if foreign else one.times[0] - own, 0, one)


def _line_of(project: Project, part: Part, own: int, zero: int) -> _Line:
    """The same as an event of the recording; what comes from elsewhere stays as it is."""
    if part.first is None:
        assert isinstance(part.of, _Line)
        return part.of
    first = part.first + own
    times = [first, first + part.until - part.at, part.at + zero, part.until + zero]
    old = part.of if isinstance(part.of, _Line) else _Line("AX", "V", "C", times)
    return replace(old, times=times, clip=project.media.name if project.media else "", file="")


def _camera_of(project: Project, one: _Line) -> Camera | None:
    """The camera whose film an event is of; nothing for the recording, and for what is none of its."""
    camera = camera_named(project, one.file, one.clip)
    return camera if camera is not None and camera.media is not None else None


def _lines(text: str, rate: Fraction, path: Path) -> _List:
    found, drop = _List(), None
    for row in re.split(r"\r\n|\r|\n", text):
        stripped = row.strip()
        if not stripped:
            continue
        upper = stripped.upper()
        if upper.startswith("TITLE:"):
            found.title = stripped[6:].strip()
        elif upper.startswith("FCM:"):
            drop = "NON" not in upper and can_drop(rate)
        elif match := _EVENT.fullmatch(stripped):
            if len(found.lines) >= _MOST_EVENTS:
                raise FormatError(
                    tr("“{path}” has more than {most_events:,} events. Divide it.").format(
                        path=path, most_events=_MOST_EVENTS
                    )
                )
            found.lines.append(_event(match, rate, drop, path))
        elif found.lines and (match := _SPEED.match(upper)):
            speed = float(match[1])
            found.lines[-1].speed = None if abs(abs(speed) - nominal(rate)) < 0.05 else speed
        elif found.lines and (match := _CLIP.match(stripped)):
            found.lines[-1].clip = match[1].strip()
        elif found.lines and (match := _FILE.match(stripped)):
            found.lines[-1].file = match[1].strip()
        elif stripped[0].isdigit():
            found.unknown += 1
    return found


def _event(match: re.Match[str], rate: Fraction, drop: bool | None, path: Path) -> _Line:
    try:
        times = [frame_of(one, rate, drop or None) for one in match["times"].split()]
    except ValueError as error:
        raise FormatError(
            tr(
                "“{path}” counts more frames a second than the picture has ({rate}): event {match}. "
                "Export it at the rate of the recording."
            ).format(path=path, rate=rate_in_words(rate), match=match["number"])
        ) from error
    return _Line(match["reel"], match["track"].upper(), match["kind"], times)


def _begin(project: Project, events: list[_Line], rate: Fraction) -> int:
    """The frame at which the recording begins in the source times; none where these count from zero."""
    begin = start_frame(project, rate)
    return begin if begin and any(one.times[0] >= begin for one in events) else 0


def _foreign(project: Project, one: _Line) -> bool:
    """Whether an event names another source; reels are too short to tell by."""
    names = [name for name in (one.clip, one.file) if name]
    if names:
        return not same_source(project, *names)
    own = project.media.name if project.media else ""
    return (
        one.reel.upper() not in ("AX", "001")
        and bool(own)
        and _reel(own.rpartition(".")[0]) != _reel(one.reel)
    )


def _lead(one: _Line, sounds_at: dict[int, _Line]) -> int:
    """How many frames the next sound comes before its picture: where a line of sound ends earlier."""
    if not sounds_at or one.times[3] in sounds_at:
        return 0
    shift = one.times[2] - one.times[0]
    ends = [
        end
        for end, sound in sounds_at.items()
        if sound.times[2] - sound.times[0] == shift
        and one.times[2] < end < one.times[3] + (one.times[3] - one.times[2])
    ]
    return one.times[3] - ends[0] if ends else 0


FORM = CutForm(
    id="edl", label="Edit decision list (CMX 3600)", suffix=".edl", write=write, read=read, loses=_loses
)
