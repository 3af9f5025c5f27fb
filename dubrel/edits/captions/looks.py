"""How captions look: all of a track, or those of one speaker."""

from __future__ import annotations

from dubrel.base.value import replace
from dubrel.model import Look, Project
from dubrel.project.tracks import with_track


def with_look(project: Project, look: Look, speaker: str = "") -> Project:
    """The project with another look of its active captions.

    Parameters
    ----------
    look : Look
    speaker : str
        Id of the speaker whose captions get it; empty for all that have none of their own.
    """
    track = project.captions
    if track is None:
        return project
    if speaker:
        looks = tuple(sorted((dict(track.looks) | {speaker: look}).items()))
        return with_track(project, replace(track, looks=looks))
    return with_track(project, replace(track, look=look))
