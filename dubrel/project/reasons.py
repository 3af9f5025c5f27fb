"""Why something cannot be done with a project now, in one sentence; empty where it can."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.model import Media, Project


def no_recording(project: Project, is_there: bool) -> str:
    """Why nothing can be done with the recording; ``is_there`` whether its file was found."""
    if project.media is None:
        return tr("Bring in a recording first.")
    return "" if is_there else tr("The recording is no longer where it was. Find it in Intake first.")


def no_sound(project: Project, is_there: bool) -> str:
    """Why nothing can be transcribed."""
    if reason := no_recording(project, is_there):
        return reason
    return "" if project.media is not None and project.media.has_audio else tr("The recording has no sound.")


def no_words(project: Project) -> str:
    """Why nothing can be done with words."""
    return "" if project.transcript.turns else tr("There are no words yet. Transcribe first.")


def no_captions(project: Project) -> str:
    """Why nothing can be done with captions."""
    track = project.captions
    if track is not None and track.captions:
        return ""
    if project.transcript.turns:
        return tr("There are no captions yet. Set them first.")
    return tr("There are no captions yet. Transcribe first.")


def no_speakers(project: Project, least: int = 1) -> str:
    """Why nothing can be done with speakers."""
    count = len(project.transcript.speakers)
    if count >= least:
        return ""
    return tr("There is no other speaker.") if count else tr("There are no speakers yet.")


def all_assigned(project: Project) -> str:
    """Why speakers cannot be told apart any more."""
    turns = project.transcript.turns
    done = bool(turns) and all(turn.confirmed for turn in turns)
    return (
        tr("You have assigned every turn yourself, so there is nothing left to tell apart.") if done else ""
    )


def no_notes(project: Project, kind: str) -> str:
    """Why there is no note of a kind to go to."""
    return (
        ""
        if any(note.kind == kind for note in project.notes)
        else tr("There is no note “{kind}”.").format(kind=tr(kind))
    )


def not_found(media: Media) -> str:
    """Why the recording of a project was not opened."""
    try:
        there = Path(media.path).exists()
    except (OSError, ValueError):
        there = False
    if there:
        return tr(
            "“{path}” in this project does not have the name of a recording, so it was not opened. Find the "
            "recording in Intake."
        ).format(path=media.path)
    return tr("The recording is not where it was. Go to Intake and find it.")
