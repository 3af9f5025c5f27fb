"""Films and recordings as deliverables; how they are made stands in ``dubrel.release.films``."""

from __future__ import annotations

from dubrel.film.fontfiles import SHIPPED, fallbacks
from dubrel.formats.shared.form import FILM, Content, FilmKind, Form, Needs
from dubrel.project.captiontext import shown_captions
from dubrel.release.pdf import boxes


def _warns(content: Content) -> str:
    """Letters of the captions that no font has."""
    project = content.project
    track = project.captions
    family = track.look.font if track and track.look.font in SHIPPED else "Inter"
    text = "".join(line for _, text in shown_captions(project, track) for line in text.lines)
    return boxes(fallbacks(family, text).missing)


def _form(id: str, label: str, suffix: str, needs: Needs, film: FilmKind) -> Form:
    drawn, spoken = film in ("burn", "sound"), film == "spoken"
    return Form(
        id=id,
        label=label,
        suffixes=(suffix,) if suffix else (),
        group=FILM,
        needs=needs,
        film=film,
        each_track=drawn or spoken,
        warns=_warns if drawn else lambda content: "",
    )


FORMS = (
    _form("film", "Film, captions burned in", ".mp4", "film", "burn"),
    _form("film-inside-mp4", "Film with caption tracks, MP4", ".mp4", "film", "inside"),
    _form("film-inside-mkv", "Film with caption tracks, MKV", ".mkv", "", "inside"),
    _form("film-sound", "Film of the sound, with captions", ".mp4", "sound", "sound"),
    _form("recording", "Recording, as it is", "", "", "copy"),
    _form("recording-sound", "Sound of the recording, small", ".mp3", "audio", "small"),
    _form("forward-wav", "Sound, voice brought forward, WAV", ".wav", "audio", "forward"),
    _form("forward-flac", "Sound, voice brought forward, FLAC", ".flac", "audio", "forward"),
    _form("forward-mp3", "Sound, voice brought forward, MP3", ".mp3", "audio", "forward"),
    _form("forward-m4a", "Sound, voice brought forward, M4A", ".m4a", "audio", "forward"),
    _form("forward-film", "Film, voice brought forward", ".mp4", "film", "forward"),
    _form("spoken-wav", "Spoken, WAV", ".wav", "", "spoken"),
    _form("spoken-mp3", "Spoken, MP3", ".mp3", "", "spoken"),
    _form("spoken-m4a", "Spoken, M4A", ".m4a", "", "spoken"),
    _form("spoken-mp4", "Film with a spoken sound track, MP4", ".mp4", "film", "spoken"),
    _form("spoken-mkv", "Film with a spoken sound track, MKV", ".mkv", "film", "spoken"),
    _form("media-chapters", "Recording with chapters inside", "", "media-chapters", "chapters"),
)
