"""Every form that a deliverable can have, by group, and why there is nothing to write in one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.formats.register import FORMS as FILES
from dubrel.formats.shared.form import GROUPS, Form, Needs
from dubrel.formats.texts.chapters import chapters_of
from dubrel.model import Project
from dubrel.release import filmforms, pdf, webpage

_HOLD_CHAPTERS = (".mp4", ".m4v", ".m4a", ".mkv", ".mka", ".mp3", ".mov")
_all = [*FILES.values(), *pdf.FORMS, *webpage.FORMS, *filmforms.FORMS]
FORMS: dict[str, Form] = {
    one.id: one
    for one in sorted(_all, key=lambda one: GROUPS.index(one.group))
    if one.write is not None or one.film
}


def why_not(form: Form, project: Project) -> str:
    """Why there is nothing to write in a form; empty where there is."""
    if not project.transcript.word_count:
        return tr("There are no words yet. Transcribe the recording first.")
    if all(word.struck for turn in project.transcript.turns for word in turn.words):
        return tr("Every word is struck.")
    if not any(map(form.writes, (project.transcript.language, *(one.language for one in project.tracks)))):
        return tr("{form} has no letters for this language. Choose TTML or WebVTT.").format(
            form=tr(form.label)
        )
    if form.film and (project.media is None or not Path(project.media.path).is_file()):
        return tr("The recording is not here. Texts can be written without it.")
    return _LACKS[form.needs](project)


def _no_translation(project: Project) -> str:
    there = any(not one.spoken and one.captions for one in project.tracks)
    return "" if there else tr("There is no translation yet.")


def _no_chapters(project: Project) -> str:
    return "" if chapters_of(project) else tr("There are no chapters yet.")


def _no_queries(project: Project) -> str:
    return "" if any(one.kind == "Query" for one in project.notes) else tr("There are no queries.")


def _no_picture(project: Project) -> str:
    return "" if project.media and project.media.has_video else tr("The recording has no picture.")


def _no_sound_alone(project: Project) -> str:
    media = project.media
    alone = media is not None and media.has_audio and not media.has_video
    return "" if alone else tr("This is for recordings without a picture.")


def _no_sound(project: Project) -> str:
    return "" if project.media and project.media.has_audio else tr("The recording has no sound.")


def _no_room_for_chapters(project: Project) -> str:
    if said := _no_chapters(project):
        return said
    if project.media and Path(project.media.path).suffix.lower() not in _HOLD_CHAPTERS:
        return tr("Files of that form cannot hold chapters. MP4, M4A, MP3 and MKV can.")
    return ""


_LACKS: dict[Needs, Callable[[Project], str]] = {
    "": lambda project: "",
    "translation": _no_translation,
    "chapters": _no_chapters,
    "queries": _no_queries,
    "film": _no_picture,
    "sound": _no_sound_alone,
    "audio": _no_sound,
    "media-chapters": _no_room_for_chapters,
}
