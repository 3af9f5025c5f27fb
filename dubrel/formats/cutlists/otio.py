"""OpenTimelineIO: a timeline with picture and sound tracks, joins, and markers from notes and chapters."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any, BinaryIO

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import ms_to_frames
from dubrel.base.value import replace
from dubrel.edits.cameras.camerashots import CameraShot, runs
from dubrel.formats.cutlists.cameratracks import (
    begins_at,
    film_frame,
    film_of,
)
from dubrel.formats.cutlists.cutlist import (
    CutContent,
    CutEvent,
    CutForm,
)
from dubrel.formats.cutlists.otioreading import MS_RATE, read, read_bundle
from dubrel.model import Camera

_COLOURS = {"Chapter": "GREEN", "Query": "YELLOW", "Clip": "PURPLE", "Picture wanted": "PINK"}


def _time(frames: float, rate: Fraction) -> Any:
    from opentimelineio.opentime import RationalTime

    return RationalTime(frames, float(rate))


def _range(first: int, frames: int, rate: Fraction) -> Any:
    from opentimelineio.opentime import TimeRange

    return TimeRange(_time(first, rate), _time(frames, rate))


def _range_of(first: int, count: Fraction, frames: int, rate: Fraction) -> Any:
    """Frames from one that is counted in another rate."""
    from opentimelineio.opentime import TimeRange

    return TimeRange(_time(first, count), _time(frames, rate))


# -- writing ---------------------------------------------------------------------------------


def timeline_of(content: CutContent) -> Any:
    """The timeline of a cut."""
    from opentimelineio import schema

    made = schema.Timeline(name=content.cut.name)
    media = content.project.media
    has_picture = content.project.has_picture
    if content.shots:
        made.tracks.extend(_camera_track(content, one) for one in reversed(content.project.cameras.seen))
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


def _film_clip(content: CutContent, camera: Camera, shot: CameraShot) -> Any:
    """Frames of a camera's film, counted in its own."""
    from opentimelineio import schema

    media = film_of(content.project, camera)
    count = (media.frame_rate if media else None) or content.rate
    begin = begins_at(media, count)
    first = film_frame(camera, shot.first, content.rate, count)
    frames = ms_to_frames(media.duration_ms, count) if media else first + shot.frames
    reference = schema.ExternalReference(
        Path(media.path if media else "").absolute().as_uri(), _range(begin, frames, count)
    )
    reference.name = media.name if media else ""
    return schema.Clip(
        name=camera.name,
        media_reference=reference,
        source_range=_range_of(begin + first, count, shot.frames, content.rate),
        metadata={"dubrel": {"recording_frame": shot.first}},
    )


def _camera_track(content: CutContent, camera: Camera) -> Any:
    """All that a camera has of the cut, edited where the picture is; not enabled, for what is shown."""
    from opentimelineio import schema

    track = schema.Track(name=camera.name, kind=schema.TrackKind.Video)
    length = content.project.length_ms
    for one in content.events:
        for shot in content.shots_in(one) if one.passage.plays != "gap" else ():
            start, end = (float(frame * 1000 / content.rate) for frame in (shot.first, shot.after))
            if runs(camera, length, start, end):
                clip = _film_clip(content, camera, shot)
                clip.enabled = False
                track.append(clip)
            else:
                track.append(_gap(shot.frames, content.rate))
        if one.passage.plays == "gap":
            track.append(_gap(one.after - one.first, content.rate))
    return track


def _gap(frames: int, rate: Fraction) -> Any:
    from opentimelineio import schema

    return schema.Gap(source_range=_range(0, frames, rate))


def _picture(content: CutContent) -> Any:
    from opentimelineio import schema

    track = schema.Track(name="Picture", kind=schema.TrackKind.Video)
    for one in content.events:
        if one.passage.plays == "gap":
            track.append(_gap(one.after - one.first, content.rate))
        elif not content.shots:
            track.append(_clip(content, one, one.first, one.after))
        for shot in content.shots_in(one):
            track.append(_shot(content, one, shot))
    return track


def _shot(content: CutContent, event: CutEvent, shot: CameraShot) -> Any:
    camera = content.project.cameras.camera(shot.camera)
    if camera is None:
        return _gap(shot.frames, content.rate)
    if camera.media is None:
        return _clip(content, event, shot.first, shot.after)
    return _film_clip(content, camera, shot)


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
    return content if content.project.frame_rate else replace(content, rate=MS_RATE, drop=False)


def write(content: CutContent, file: BinaryIO) -> None:
    """Write a timeline as JSON."""
    from opentimelineio import adapters

    text = adapters.write_to_string(timeline_of(_rated(content)), "otio_json")
    file.write(text.encode())


def _name_apart(timeline: Any, content: CutContent, folder: Path) -> None:
    """Films of cameras by the names of the cameras: in a bundle no two files have one name."""
    named: dict[str, str] = {}
    for one in content.project.cameras.all if content.shots else ():
        if one.media is not None:
            link = folder / f"{one.name.replace('/', '-')}{Path(one.media.path).suffix}"
            link.symlink_to(one.media.path)
            named[Path(one.media.path).absolute().as_uri()] = link.as_uri()
    for clip in timeline.find_clips():
        reference = clip.media_reference
        url = getattr(reference, "target_url", "")
        if url in named:
            reference.target_url = named[url]
            clip.media_reference = reference


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
            tr(
                "The recording “{media_name}” is not there, so it cannot go into the bundle. Open "
                "it, or write .otio."
            ).format(media_name=content.media_name)
        )
    for one in content.project.cameras.seen if content.shots else ():
        if one.media is not None and not Path(one.media.path).is_file():
            raise FormatError(
                tr(
                    "The film of “{name}” is not there, so it cannot go into the bundle. Put it "
                    "there again, or write .otio."
                ).format(name=one.name)
            )
    with tempfile.TemporaryDirectory(prefix="dubrel-") as folder:
        bundle = Path(folder) / "cut.otioz"
        try:
            timeline = timeline_of(_rated(content))
            _name_apart(timeline, content, Path(folder))
            adapters.write_to_file(timeline, str(bundle), "otioz")
        except (exceptions.OTIOError, ValueError, OSError) as error:
            raise FormatError(
                tr("The bundle cannot be written: {error}. Write .otio instead.").format(error=error)
            ) from error
        with bundle.open("rb") as made:
            shutil.copyfileobj(made, file)


FORM = CutForm(id="otio", label="Timeline (OpenTimelineIO)", suffix=".otio", write=write, read=read)
BUNDLE = CutForm(
    id="otioz",
    label="Timeline with its recording (OpenTimelineIO bundle)",
    suffix=".otioz",
    write=write_bundle,
    read=read_bundle,
)
