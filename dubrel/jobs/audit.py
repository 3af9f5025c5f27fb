"""The timing audit: hear a recording, line captions up with it, compare."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.captions.checks import caption_lines, caption_words
from dubrel.edits.intake import Cue, HeardWord
from dubrel.errors import DubrelError
from dubrel.jobs.events import Audited, Event, Heard, Pace, Progress
from dubrel.jobs.transcribe import transcribe
from dubrel.media.sound import samples_of
from dubrel.model import Media, Project
from dubrel.speech.align import EnglishAligner
from dubrel.speech.audit import audit
from dubrel.speech.lineup import line_up

_HEARING = 0.85


def cues_of(project: Project) -> list[Cue]:
    """The captions of a project as cues, in order of time."""
    if project.captions is None:
        return []
    words = project.transcript.words_by_id
    return [
        Cue(one.start_ms, one.end_ms, tuple(caption_lines(one, words)))
        for one in sorted(project.captions.captions, key=lambda one: one.start_ms)
    ]


def words_of(project: Project, found: Sequence[HeardWord]) -> dict[int, HeardWord]:
    """The words of ``Audited`` by the ids of the words that the captions hold."""
    by_id = project.transcript.words_by_id
    captions = sorted(project.captions.captions if project.captions else (), key=lambda one: one.start_ms)
    ids = [word.id for caption in captions for word in caption_words(caption, by_id)]
    return dict(zip(ids, found, strict=True))


def audit_captions(media: Media, cues: Sequence[Cue]) -> Iterator[Event]:
    """Compare captions with the sound.

    Yields
    ------
    Event
        Progress, and at the end ``Audited``.

    Raises
    ------
    DubrelError
        If there are no captions.
    """
    if not cues:
        raise DubrelError("There are no captions to audit. Set or open some first.")
    pace, heard = Pace(), list[HeardWord]()
    for event in transcribe(media):
        if isinstance(event, Heard):
            heard += event.words
        elif isinstance(event, Progress):
            yield pace.at(event.stage, event.fraction * _HEARING)
    yield pace.at("Comparing", _HEARING)
    words = [word for cue in cues for line in cue.lines for word in line.split()]
    found = line_up(words, heard, samples_of(media), EnglishAligner())
    yield Audited(audit(cues, found), tuple(found.words))
