"""From a recording to a finished project file: transcribed, set into captions, saved."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions import set_again
from dubrel.errors import DubrelError
from dubrel.jobs.choices import AS_USUAL, Choices
from dubrel.jobs.events import Event, Pace, Progress, Warning_, Written
from dubrel.jobs.fold import fold
from dubrel.jobs.tellapart import find_speakers, question, speaker_bounds
from dubrel.jobs.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.model import HouseStyle, Project, Transcript
from dubrel.store.projectfile import save


def transcribed_project(
    path: Path, choices: Choices = AS_USUAL, style: HouseStyle = DEFAULT_STYLE
) -> Iterator[Event | Project]:
    """Transcribe a recording and set its captions.

    Yields
    ------
    Event or Project
        Progress and warnings; at the end the project. Where the work fails or
        is interrupted after words were transcribed, the project with those comes
        before the error, so that they can be kept.

    Raises
    ------
    DubrelError
        If it cannot be read or nobody speaks in it.
    """
    media = probe(path)
    project = Project(title=path.stem, media=media, transcript=Transcript(choices.language or "en"))
    try:
        for event in transcribe(media, choices):
            project = fold(project, event)
            if isinstance(event, Progress | Warning_):
                yield event
        if not project.transcript.word_count:
            raise DubrelError(f"No speech was found in “{path}”. Choose another recording.")
        if choices.speakers != "off" and not choices.apart:
            for event in find_speakers(media, question(project), *speaker_bounds(choices.speakers)):
                project = fold(project, event)
                if isinstance(event, Progress | Warning_):
                    yield event
    except (DubrelError, KeyboardInterrupt):
        if project.transcript.word_count:
            yield set_again(project, style)
        raise
    yield set_again(project, style)


def transcribe_to_file(path: str, choices: Choices, output: str) -> Iterator[Event]:
    """Transcribe a recording and save its project; the job of one recording of the queue.

    Yields
    ------
    Event
        Progress and warnings, and at the end ``Written``; what was transcribed
        before a failure is saved too.
    """
    pace = Pace()
    for said in transcribed_project(Path(path), choices):
        if isinstance(said, Project):
            yield pace.at("Writing", 0.99)
            save(said, Path(output))
            yield Written(output)
        else:
            yield said
