"""Let a service transcribe a recording, and align its text with the sound here."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.text import tokens
from dubrel.jobs.machinery.events import Event, Pace, Recognised
from dubrel.media.fingerprint import content_digest
from dubrel.media.sound import passage, samples_of
from dubrel.model import Media
from dubrel.model.choices import Choices
from dubrel.speech.align.aligners import aligner_for
from dubrel.speech.recognise.doubt import DoubtJudge
from dubrel.speech.recognise.engines import engine_named
from dubrel.speech.recognise.listener import place_passage
from dubrel.speech.recognise.recogniser import Passage, RecognisedToken, Service

_ELSEWHERE = 0.9


def transcribe_remotely(media: Media, choices: Choices, pace: Pace) -> Iterator[Event]:
    """Send the recording away, wait, and give the text its times.

    Consent must have been asked for before; see :mod:`dubrel.user.settings`.

    Raises
    ------
    EngineError
        If the service fails for good.
    """
    service = engine_named(choices.engine)
    if not isinstance(service, Service):
        raise EngineError(tr("“{engine}” is not a service.").format(engine=choices.engine))
    samples, stage, at, last = samples_of(media), tr("Sending the recording"), 0.0, 0
    first, end = choices.span
    part = passage(samples, first, end)
    key = f"{content_digest(Path(media.path))}-{choices.language}"
    key += f"-{first}-{end}" if choices.to_ms else ""
    aligner, judge = aligner_for(choices.language), DoubtJudge(choices.language)
    for said in service.hear_recording(part, key):
        if isinstance(said, Passage):
            start = max(last, min(said.start_ms + first, media.duration_ms))
            words = place_passage(aligner, samples, start, max(start, said.end_ms + first), tokens(said.text))
            if words:
                last = words[-1].end_ms
                said_tokens = [RecognisedToken(word.text) for word in words]
                yield Recognised(tuple(judge.judge(words, said_tokens, [True] * len(words))))
            stage, at = "Aligning", max(at, _ELSEWHERE + (1 - _ELSEWHERE) * last / max(1, media.duration_ms))
        elif isinstance(said, str):
            stage = said
        else:
            at = said * _ELSEWHERE
        yield pace.at(stage, pace.part(at))
