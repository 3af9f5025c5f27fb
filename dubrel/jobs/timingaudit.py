"""The timing audit: transcribe a recording, align captions with it, compare."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import tokens
from dubrel.jobs.machinery.events import Audited, Event, Pace, Progress, Recognised
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.media.sound import samples_of
from dubrel.model import Cue, Media, RecognisedWord
from dubrel.speech.align.audit import audit
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.scriptalign import line_up

_TRANSCRIBING = 0.85
_ENOUGH = 30  # words: of fewer, all may be wrong in captions of this very recording


def audit_captions(media: Media, cues: Sequence[Cue]) -> Iterator[Event]:
    """Compare captions with the sound.

    Yields
    ------
    Event
        Progress, and at the end ``Audited``.

    Raises
    ------
    DubrelError
        If there are no captions, or they are of another recording.
    """
    if not cues:
        raise DubrelError(tr("There are no captions to audit. Set or open some first."))
    pace, heard = Pace(), list[RecognisedWord]()
    for event in transcribe(media):
        if isinstance(event, Recognised):
            heard += event.words
        elif isinstance(event, Progress):
            yield pace.at(event.stage, event.fraction * _TRANSCRIBING)
    yield pace.at(tr("Comparing"), _TRANSCRIBING)
    words = [word for cue in cues for line in cue.lines for word in tokens(line)]
    found = line_up(words, heard, samples_of(media), EnglishAligner())
    if found.another_recording and len(words) >= _ENOUGH:
        raise DubrelError(
            tr(
                "The captions do not seem to be of “{name}”: {share:.0%} of their words were found in it. "
                "Choose other captions or another recording."
            ).format(name=media.name, share=found.share)
        )
    yield Audited(audit(cues, found), tuple(found.words))
