"""Files of a cut that are sound or film: what is to be made of the recording."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Literal

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.value import replace
from dubrel.edits.cameras.camerashots import camera_shots
from dubrel.edits.cuts.cutting import cut_project, seen_media
from dubrel.edits.cuts.trimming import WHOLE, length_of
from dubrel.film.order import FilmOrder, FilmShot
from dubrel.film.soundtracks.cutsound import SOUND_CODECS, CutPart
from dubrel.formats.texts.chapters import chapters_of
from dubrel.model import Cameras, Cut, CutPassage, Project
from dubrel.project.timeline import placements
from dubrel.release.films import one_at_a_time, shown_of, streams_of

CaptionsIn = Literal["none", "burned", "inside"]
FILM_SUFFIXES = (".mp4", ".mkv")
MEDIA_SUFFIXES = (*SOUND_CODECS, *FILM_SUFFIXES)
_EXACT = 10**9
_CHAPTERS_IN = (".mp4", ".mkv", ".m4a", ".mp3")


def parts_of(cut: Cut, rate: Fraction | None) -> tuple[CutPart, ...]:
    """The passages of a cut as they are rendered."""
    dressed = [one for one in cut.passages if one.end_ms > one.start_ms]
    places = placements(cut, rate)
    if len(places) < len(dressed):  # some last no whole frame
        kept = {(one.start_ms, one.end_ms) for one in places}
        dressed = [one for one in dressed if (one.start_ms, one.end_ms) in kept][: len(places)]
    lead = 1000 / float(rate) if rate else 0.0
    return tuple(
        CutPart(
            place.start_ms,
            place.end_ms,
            place.at_ms,
            place.until_ms,
            one.plays,
            one.cross_ms,
            round(one.lead_frames * lead),
        )
        for place, one in zip(places, dressed)
    )


def cut_order(
    project: Project, cut: Cut, target: Path, captions: CaptionsIn = "none", crf: int = 20
) -> FilmOrder:
    """What is to be made for a file of a cut, by its suffix.

    Raises
    ------
    MediaError
        If the recording is not there, has no picture for a film, or the cut is empty.
    """
    media, suffix = project.media, target.suffix.lower()
    if suffix not in MEDIA_SUFFIXES:
        raise MediaError(
            tr("“{target}” is not a form of sound or film. Choose {listed}.").format(
                target=target, listed=", ".join(MEDIA_SUFFIXES)
            )
        )
    if media is None or not Path(media.path).is_file():
        raise MediaError(
            tr("“{name}” needs the recording, which is not where it was. Find it first.").format(
                name=target.name
            )
        )
    if target.exists() and target.samefile(media.path):
        raise MediaError(
            tr("“{target}” is the recording itself. Choose another name for the cut.").format(target=target)
        )
    if not cut.passages:
        raise MediaError(
            tr("“{name}” has no passages. Put something into the cut first.").format(name=cut.name)
        )
    film = suffix in FILM_SUFFIXES
    if film and not project.has_picture:
        raise MediaError(
            tr("“{name}” has no picture. Write the cut as sound, such as .m4a.").format(name=media.name)
        )
    if not film and not media.has_audio:
        raise MediaError(
            tr("“{name}” has no sound. Write the cut as a film, such as .mp4.").format(name=media.name)
        )
    made = cut_project(project, cut)
    shown = one_at_a_time(shown_of(made, made.captions)) if film and captions == "burned" else ()
    rate = project.frame_rate or Fraction(25)
    return FilmOrder(
        "cut-film" if film else "cut-sound",
        media.path,
        str(target),
        shown=tuple(shown),
        streams=tuple(streams_of(made)) if film and captions == "inside" else (),
        chapters=tuple(chapters_of(made)) if suffix in _CHAPTERS_IN else (),
        crf=crf,
        parts=parts_of(cut, project.frame_rate),
        rate=rate,
        shots=tuple(film_shots(project, cut, rate)) if film else (),
        tracks=media.sound,
    )


def camera_cut(project: Project) -> Cut | None:
    """All of the recording as the cameras show it; nothing where its own picture is all that is shown."""
    length = length_of(project)
    rate = project.frame_rate
    if rate is None or not length or not any(one.seen and one.media for one in project.cameras.all):
        return None
    whole = Cut(0, WHOLE, (CutPassage(0, length),))
    own = {one.id for one in project.cameras.all if one.media is None}
    return whole if any(one.camera not in own for one in camera_shots(project, whole, rate)) else None


def as_the_cameras_show_it(project: Project) -> Project:
    """The project with what its cameras show for the picture of its recording, which is still to be made."""
    media = seen_media(project)
    return replace(project, media=replace(media, path="", relative="") if media else None, cameras=Cameras())


def film_shots(project: Project, cut: Cut, rate: Fraction) -> Iterator[FilmShot]:
    """Where the picture of a cut comes from; nothing where it is that of the recording throughout.

    Raises
    ------
    MediaError
        If the film of a camera that is shown is not there.
    """
    if not project.cameras.all:
        return
    shots = camera_shots(project, cut, rate)
    cameras = {one.id: one for one in project.cameras.all}
    if all(one.camera in cameras and cameras[one.camera].media is None for one in shots):
        return
    for shot in shots:
        camera = cameras.get(shot.camera)
        media = (camera.media or project.media) if camera else None
        if camera is None or media is None:
            continue
        if not Path(media.path).is_file():
            raise MediaError(
                tr(
                    "The film of “{name}” is not where it was: “{path}”. Put it there again, or add "
                    "it from where it is now."
                ).format(name=camera.name, path=media.path)
            )
        pace = 1 / Fraction(camera.rate).limit_denominator(_EXACT)
        starts = Fraction(camera.starts_ms / 1000).limit_denominator(_EXACT)
        start = (Fraction(shot.first) / rate - starts) * pace
        yield FilmShot(media.path, shot.at, shot.until, start, pace)
