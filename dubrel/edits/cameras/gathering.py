"""Which cameras there are: brought in, named, assigned to who is seen, taken away; one of them the sound."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import PurePath

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import snap_to_frame
from dubrel.base.value import replace
from dubrel.edits.cuts.cutting import placed_project
from dubrel.model import Camera, Cameras, Cut, FrameKey, Framing, Media, Project, Switch
from dubrel.project.timeline import Placement

_MOST_NAME = 60


def with_cameras(project: Project, found: Iterable[tuple[Media, float, float]]) -> Project:
    """The project with more cameras; one whose film is there already is placed anew.

    Parameters
    ----------
    found : iterable of (Media, float, float)
        The film, when it starts in time of the recording in milliseconds, and the pace of its clock.
    """
    cameras, next_id = list(project.cameras.all), project.next_id
    media = project.media
    if media is not None and media.has_video and not any(one.media is None for one in cameras):
        cameras.insert(0, Camera(next_id, _name(media, cameras)))
        next_id += 1
    for film, starts, rate in found:
        known = next((nth for nth, one in enumerate(cameras) if one.media and _same(one.media, film)), None)
        if known is not None:
            cameras[known] = replace(cameras[known], media=film, starts_ms=starts, rate=rate)
            continue
        cameras.append(Camera(next_id, _name(film, cameras), film, starts, rate))
        next_id += 1
    return replace(project, cameras=replace(project.cameras, all=tuple(cameras)), next_id=next_id)


def _same(one: Media, other: Media) -> bool:
    return one.path == other.path or (one.name == other.name and one.size == other.size > 0)


def _name(media: Media, cameras: Iterable[Camera]) -> str:
    """The name of a film without its suffix, told apart from others."""
    taken = {one.name for one in cameras}
    name = PurePath(media.name).stem[:_MOST_NAME] or "Camera"
    nth = 2
    while name in taken:
        name, nth = f"{name.removesuffix(f' {nth - 1}')} {nth}", nth + 1
    return name


def camera_changed(
    project: Project,
    camera_id: int,
    *,
    name: str | None = None,
    shows: Iterable[str] | None = None,
    starts_ms: float | None = None,
) -> Project:
    """The project with a camera that is called otherwise, shows others, or is placed by hand."""
    old = project.cameras.camera(camera_id)
    if old is None:
        return project
    new = replace(
        old,
        name=old.name if name is None else " ".join(name.split())[:_MOST_NAME] or old.name,
        shows=old.shows if shows is None else tuple(dict.fromkeys(shows)),
        starts_ms=old.starts_ms if starts_ms is None or old.media is None else starts_ms,
    )
    if new == old:
        return project
    made = tuple(new if one is old else one for one in project.cameras.all)
    return replace(project, cameras=replace(project.cameras, all=made))


def without_camera(project: Project, camera_id: int) -> Project:
    """The project without a camera; where it was shown, what was shown before stays.

    The picture of the recording itself goes with the last of the others.
    """
    left = tuple(one for one in project.cameras.all if one.id != camera_id)
    if len(left) == len(project.cameras.all):
        return project
    if not any(one.media for one in left):
        return replace(project, cameras=Cameras())
    switches = (one for one in project.cameras.switches if one.camera != camera_id)
    return replace(project, cameras=Cameras(left, plain_switches(switches, left)))


def plain_switches(switches: Iterable[Switch], cameras: tuple[Camera, ...]) -> tuple[Switch, ...]:
    """Switches in order of time, without those that change nothing."""
    found = list[Switch]()
    now = next((one.id for one in cameras if one.seen), 0)
    for one in sorted(switches, key=lambda one: one.ms):
        if one.camera != now:
            found.append(one)
            now = one.camera
    return tuple(found)


# -- one is the sound ------------------------------------------------------------------------


def sound_from(project: Project, camera_id: int) -> Project:
    """The project with the sound of a camera or recorder as its recording; the old one is a camera then.

    Words, captions, cuts and switches keep their moments, on the clock of the new recording.

    Raises
    ------
    DubrelError
        If it has no sound, or words are spoken, or captions stand, while it does not run.
    """
    camera, old = project.cameras.camera(camera_id), project.media
    if camera is None or camera.media is None or old is None:
        return project
    media = camera.media
    if not media.has_audio:
        raise DubrelError(tr("“{name}” has no sound. Choose another file for it.").format(name=camera.name))
    lost = sum(
        not camera.starts_ms <= (word.start_ms + word.end_ms) / 2 < camera.ends_ms
        for turn in project.transcript.turns
        for word in turn.words
    )
    if lost:
        were = counted(lost, "word is", "words are")
        raise DubrelError(
            tr(
                "{were} spoken while “{name}” does not run. Choose a file for the sound that runs "
                "through all of it."
            ).format(were=were, name=camera.name)
        )
    start, end = max(0.0, camera.starts_ms), min(float(old.duration_ms), camera.ends_ms)
    place = Placement(
        round(start),
        round(end),
        max(0, round(camera.own_ms(start))),
        min(media.duration_ms, round(camera.own_ms(end))),
    )
    made = placed_project(project, [place])
    gone = {one.id for track in project.tracks for one in track.captions}
    gone -= {one.id for track in made.tracks for one in track.captions}
    if gone:
        stand = counted(len(gone), "caption stands", "captions stand")
        raise DubrelError(
            tr(
                "{stand} where “{name}” does not run. Move or delete them first, or choose a file "
                "for the sound that runs through all of it."
            ).format(stand=stand, name=camera.name)
        )
    moved = replace(
        made,
        media=media,
        releases=project.releases,
        notes=_notes(project, made, camera),
        framing=_framing(project.framing, camera),
        cameras=_cameras(project, camera, made.next_id),
        next_id=made.next_id + 1,
    )
    return replace(moved, cuts=tuple(_cut(one, camera, moved) for one in project.cuts))


def _on_clock(camera: Camera, ms: float) -> int:
    media = camera.media
    assert media is not None
    return min(max(0, round(camera.own_ms(ms))), media.duration_ms)


def _notes(project: Project, made: Project, camera: Camera) -> tuple:
    """All notes, those in which nothing is said too."""
    kept = {one.id: one for one in made.notes}
    return tuple(
        kept.get(one.id)
        or replace(
            one,
            start_ms=_on_clock(camera, one.start_ms),
            end_ms=_on_clock(camera, one.end_ms) if one.end_ms else 0,
        )
        for one in project.notes
    )


def _cut(cut: Cut, camera: Camera, project: Project) -> Cut:
    def placed(ms: int) -> int:
        return snap_to_frame(_on_clock(camera, ms), project.frame_rate)

    passages = (
        replace(one, start_ms=placed(one.start_ms), end_ms=placed(one.end_ms)) for one in cut.passages
    )
    taken = (replace(one, start_ms=placed(one.start_ms), end_ms=placed(one.end_ms)) for one in cut.taken)
    return replace(
        cut,
        passages=tuple(one for one in passages if one.end_ms > one.start_ms),
        taken=tuple(one for one in taken if one.end_ms > one.start_ms),
    )


def _framing(framing: Framing, camera: Camera) -> Framing:
    keys: dict[int, FrameKey] = {}
    for one in framing.keys:
        ms = _on_clock(camera, one.ms)
        keys[ms] = replace(one, ms=ms)
    return Framing(tuple(keys[ms] for ms in sorted(keys)))


def _cameras(project: Project, sound: Camera, free: int) -> Cameras:
    """The cameras on the clock of one of them, which is the recording now."""
    found = list[Camera]()
    old = project.media
    own = next((one for one in project.cameras.all if one.media is None), None)
    for one in project.cameras.all:
        if one is sound:
            if sound.media is not None and sound.media.has_video:
                found.append(Camera(one.id, one.name, shows=one.shows))
        elif one.media is None:
            found.append(replace(one, media=old, starts_ms=sound.own_ms(0), rate=1 / sound.rate))
        else:
            found.append(replace(one, starts_ms=sound.own_ms(one.starts_ms), rate=one.rate / sound.rate))
    if own is None and old is not None:  # a recorder: kept, so that the sound can come from it again
        found.append(Camera(free, _name(old, found), old, sound.own_ms(0), 1 / sound.rate))
    ids = {one.id for one in found}
    switches = (Switch(_on_clock(sound, one.ms), one.camera) for one in project.cameras.switches)
    return Cameras(tuple(found), plain_switches((one for one in switches if one.camera in ids), tuple(found)))
