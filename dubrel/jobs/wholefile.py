"""From a recording to a finished project file: heard, set into captions, saved."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.captions.styles import DEFAULT_STYLE, HouseStyle
from dubrel.edits.captions import set_again
from dubrel.edits.intake import add_heard, add_turns
from dubrel.edits.overlaps import with_overlaps
from dubrel.edits.speakers import assign_speakers
from dubrel.errors import DubrelError
from dubrel.jobs.events import Event, Heard, HeardTurns, Pace, SpeakersFound, Written
from dubrel.jobs.hearing import AS_USUAL, Hearing
from dubrel.jobs.speakers import find_speakers, question, speaker_bounds
from dubrel.jobs.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.model import Project, Transcript
from dubrel.projectfile import save


def heard_project(
    path: Path, hearing: Hearing = AS_USUAL, style: HouseStyle = DEFAULT_STYLE
) -> Iterator[Event | Project]:
    """Hear a recording and set its captions.

    Yields
    ------
    Event or Project
        Progress and warnings; at the end the project.

    Raises
    ------
    DubrelError
        If it cannot be read or nobody speaks in it.
    """
    media = probe(path)
    project = Project(title=path.stem, media=media, transcript=Transcript(hearing.language or "en"))
    for event in transcribe(media, hearing):
        if isinstance(event, Heard):
            project = add_heard(project, event.words)
        elif isinstance(event, HeardTurns):
            project = add_turns(project, event.turns, event.speakers)
        else:
            yield event
    if not project.transcript.word_count:
        raise DubrelError(f"No speech was found in “{path}”. Choose another recording.")
    if hearing.speakers != "off" and not hearing.apart:
        for said in find_speakers(media, question(project), *speaker_bounds(hearing.speakers)):
            if isinstance(said, SpeakersFound):
                project = assign_speakers(project, said.labels, said.certainty, said.also)
            else:
                yield said
    yield set_again(with_overlaps(project) if hearing.apart else project, style)


def hear_to_file(path: str, hearing: Hearing, output: str) -> Iterator[Event]:
    """Hear a recording and save its project; the job of one recording of the queue.

    Yields
    ------
    Event
        Progress and warnings, and at the end ``Written``.
    """
    pace = Pace()
    for said in heard_project(Path(path), hearing):
        if isinstance(said, Project):
            yield pace.at("Writing", 0.99)
            save(said, Path(output))
            yield Written(output)
        else:
            yield said
