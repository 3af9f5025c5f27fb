"""A script that exists, lined up with the sound."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.edits.intake import HeardTurn, HeardWord
from dubrel.errors import DubrelError
from dubrel.formats.script import Kind, Piece
from dubrel.jobs.events import Event, Heard, LinedUp, Pace, Progress, Warning_
from dubrel.jobs.transcribe import transcribe
from dubrel.media.sound import samples_of
from dubrel.model import Media, Speaker, Timing
from dubrel.speech.align import EnglishAligner
from dubrel.speech.lineup import line_up

_HEARING = 0.85


def line_up_script(media: Media, pieces: Sequence[Piece]) -> Iterator[Event]:
    """Hear a recording and give a script its times.

    Yields
    ------
    Event
        Progress and warnings, and at the end the script with times.

    Raises
    ------
    DubrelError
        If the script seems to be of another recording.
    """
    pace = Pace()
    heard: list[HeardWord] = []
    for event in transcribe(media):
        if isinstance(event, Heard):
            heard += event.words
        elif isinstance(event, Progress):
            yield pace.at(event.stage, event.fraction * _HEARING)
    speech = [piece for piece in pieces if piece.kind is Kind.SPEECH]
    words = [word for piece in speech for word in piece.text.split()]
    yield pace.at("Lining up", _HEARING)
    found = line_up(words, heard, samples_of(media), EnglishAligner())
    if found.another_recording:
        raise DubrelError(
            f"The script does not seem to be of “{media.name}”: {found.share:.0%} of its words were heard. "
            "Choose another script or recording."
        )
    unheard = sum(word.timing is Timing.UNHEARD for word in found.words)
    if unheard:
        yield Warning_(f"{unheard} words of the script were not heard; they are kept without a time.")
    if found.extra:
        yield Warning_(f"{len(found.extra)} words were said that are not in the script.")
    turns, speakers = _turns(speech, found.words)
    yield LinedUp(turns, speakers, tuple(found.extra), unheard)


def _turns(
    speech: Sequence[Piece], words: list[HeardWord]
) -> tuple[tuple[HeardTurn, ...], tuple[Speaker, ...]]:
    names = list(dict.fromkeys(piece.speaker for piece in speech if piece.speaker))
    ids = {name: f"s{number}" for number, name in enumerate(names, 1)}
    turns, at = [], 0
    for piece in speech:
        count = len(piece.text.split())
        turns.append(HeardTurn(tuple(words[at : at + count]), ids.get(piece.speaker)))
        at += count
    return tuple(turns), tuple(Speaker(one, name) for name, one in ids.items())
