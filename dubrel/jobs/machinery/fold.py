"""What a job's event makes of a project: the one place, for desk, command line and queue.

``fold(project, event)`` is the next project. Where a history holds many values,
``arrival(event, first_id)`` is the same as a function that builds what is new
once and shares it between all of them.
"""

from __future__ import annotations

from collections.abc import Callable

from dubrel.base.value import replace
from dubrel.edits.captions.resetting import sources_renewed
from dubrel.edits.intake import appended_turns, appended_words, set_turns
from dubrel.edits.speakers.assigning import found_taken, with_overlaps
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.words.unscripted import with_unscripted
from dubrel.jobs.machinery.events import (
    Aligned,
    CaptionsSet,
    Event,
    PicturesFound,
    Recognised,
    RecognisedTurns,
    SentencesTranslated,
    SpeakersFound,
    TurnsComplete,
)
from dubrel.model import CaptionTrack, Project
from dubrel.project.follow import rewords, words_followed
from dubrel.project.followspeakers import speakers_followed

Step = Callable[[Project], Project]


def fold(project: Project, event: Event) -> Project:
    """The project with what an event brings; the same object for events that bring nothing."""
    return arrival(event, project.next_id)(project)


def arrival(event: Event, first_id: int) -> Step:
    """An event as a function ``Project -> Project`` that gives the same ids in every value.

    Parameters
    ----------
    event : Event
    first_id : int
        Not given in any of the values yet.
    """
    if isinstance(event, Recognised):
        return rewords(appended_words(event.words, first_id))
    if isinstance(event, RecognisedTurns):
        return rewords(appended_turns(event.turns, event.speakers, first_id))
    if isinstance(event, TurnsComplete):
        return with_overlaps
    if isinstance(event, Aligned):
        return lambda project: with_unscripted(
            set_turns(project, event.turns, event.speakers, event.language), event.extra
        )
    if isinstance(event, SpeakersFound):
        return lambda project: speakers_followed(
            project, found_taken(project, event.words, event.labels, event.certainty, event.also)[0]
        )
    if isinstance(event, CaptionsSet):
        return lambda project: _with_captions(project, event.project)
    if isinstance(event, PicturesFound):
        return lambda project: _with_pictures(project, event)
    if isinstance(event, SentencesTranslated):
        return lambda project: _with_translations(project, event, first_id)
    return lambda project: project


def _with_translations(project: Project, event: SentencesTranslated, first_id: int) -> Project:
    """Translated sentences in their track, which another value may not have."""
    return with_translations(
        replace(project, next_id=max(project.next_id, first_id)), event.track, event.found, event.over
    )


def _with_pictures(project: Project, event: PicturesFound) -> Project:
    """What was found in the frames of the film, if it is still the same one."""
    if project.media is None or project.media.name != event.name:
        return project
    return replace(project, media=replace(project.media, shots=event.shots, banners=event.banners))


def _with_captions(project: Project, made: Project) -> Project:
    """The track that was set for a value, in another one: it follows what differs between both.

    Other tracks stay.
    """
    if made.captions is None:
        return project
    before = project.track(made.captions.id)
    track = _with_free_ids(made.captions, before, project.next_id)
    alone = replace(made, tracks=(track,), active=track.id)
    free = max(project.next_id, track.id + 1, *(one.id + 1 for one in track.captions), 0)
    present = replace(project, tracks=(track,), active=track.id, next_id=free)
    followed = speakers_followed(alone, words_followed(alone, present))
    new = followed.track(track.id)
    if new is None:
        return project
    tracks = tuple(new if one.id == new.id else one for one in project.tracks)
    tracks = tracks if before else (*project.tracks, new)
    project = replace(project, tracks=tracks, active=new.id, next_id=followed.next_id)
    return sources_renewed(project, before) if before else project


def _with_free_ids(track: CaptionTrack, before: CaptionTrack | None, next_id: int) -> CaptionTrack:
    """A track that was made of an earlier value, with ids that nothing has got meanwhile."""
    known = {one.id for one in before.captions} if before else set()
    fresh = [one.id for one in track.captions if one.id not in known] + [track.id] * (before is None)
    by = max(0, next_id - min(fresh, default=next_id))
    captions = tuple(one if one.id in known else replace(one, id=one.id + by) for one in track.captions)
    return replace(track, id=track.id if before else track.id + by, captions=captions)
