"""A script that exists, aligned with the sound."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import detect_language, language_name
from dubrel.base.text import word_units
from dubrel.formats.scripts.script import Kind, Piece
from dubrel.jobs.machinery.events import Aligned, Event, Pace, Progress, Recognised, Warning_
from dubrel.jobs.transcribing.crew import Crew
from dubrel.jobs.transcribing.transcribe import read_recording, speech_chunks, transcribe
from dubrel.media.sound import passage, samples_of
from dubrel.model import Media, RecognisedTurn, RecognisedWord, Speaker, Timing, opening
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.scriptalign import ScriptAlignment, line_up
from dubrel.speech.align.synthscript import align_by_synthesis
from dubrel.speech.recognise.builtin import BuiltinRecogniser
from dubrel.speech.recognise.denoising import prepared
from dubrel.speech.sound.activity import Chunk

_HEARING = 0.85
_SAMPLED = 5
_SURE_ENGLISH = -0.45


def align_script(
    media: Media, pieces: Sequence[Piece], language: str = "", crew: Crew | None = None
) -> Iterator[Event]:
    """Give a script its times: English by choices, any other language by speaking it.

    Parameters
    ----------
    media : Media
    pieces : sequence of Piece
    language : str
        Of the script; found in its text if left out.
    crew : Crew, optional
        Who transcribes in place of processes here.

    Yields
    ------
    Event
        Progress and warnings, and at the end the script with times.

    Raises
    ------
    DubrelError
        If the script seems to be of another recording or in another language.
    """
    pace = Pace()
    speech = [piece for piece in pieces if piece.kind is Kind.SPEECH]
    words = [word for piece in speech for line in piece.text.split("\n") for word in word_units(line)]
    language = language or detect_language(" ".join(words)) or "en"
    english = language.split("-")[0] == "en"
    events = _by_hearing(media, words, pace, crew) if english else _by_speaking(media, words, language, pace)
    found = None
    for said in events:
        if isinstance(said, ScriptAlignment):
            found = said
        else:
            yield said
    assert found is not None
    unheard = sum(word.timing is Timing.UNHEARD for word in found.words)
    if unheard:
        yield Warning_(
            counted(
                unheard,
                "word of the script is not in the recording; it is kept without a time.",
                "words of the script are not in the recording; they are kept without a time.",
            )
        )
    if found.extra:
        yield Warning_(
            counted(
                len(found.extra),
                "spoken word is not in the script; a note beside the text shows where.",
                "spoken words are not in the script; notes beside the text show where.",
            )
        )
    turns, speakers = _turns(speech, found.words)
    yield Aligned(turns, speakers, tuple(found.extra), unheard, language)


def _by_hearing(
    media: Media, words: list[str], pace: Pace, crew: Crew | None
) -> Iterator[Event | ScriptAlignment]:
    heard: list[RecognisedWord] = []
    for event in transcribe(media, crew=crew):
        if isinstance(event, Recognised):
            heard += event.words
        elif isinstance(event, Progress):
            yield pace.at(event.stage, event.fraction * _HEARING)
    yield pace.at(tr("Aligning"), _HEARING)
    found = line_up(words, heard, samples_of(media), EnglishAligner())
    if found.another_recording:
        raise DubrelError(
            tr(
                "The script does not seem to be of “{name}”: {share:.0%} of its words were found in "
                "it. Choose another script or recording."
            ).format(name=media.name, share=found.share)
        )
    yield found


def _by_speaking(
    media: Media, words: list[str], language: str, pace: Pace
) -> Iterator[Event | ScriptAlignment]:
    for event in read_recording(media):
        yield pace.at(event.stage, event.fraction * 0.2) if isinstance(event, Progress) else event
    samples, chunks = samples_of(media), []
    for chunk in speech_chunks(samples):
        chunks.append(chunk)
        yield pace.at(tr("Detecting speech"), 0.2 + 0.2 * min(1.0, chunk.end_ms / max(1, media.duration_ms)))
    if sounds_english(samples, chunks):
        raise DubrelError(
            tr(
                "The script is in {language}, but English is spoken in “{name}”. Choose the script "
                "of this recording."
            ).format(language=tr(language_name(language)), name=media.name)
        )
    for said in align_by_synthesis(words, samples, chunks, language):
        if isinstance(said, float):
            yield pace.at(tr("Aligning"), 0.4 + 0.6 * said)
        else:
            yield ScriptAlignment(said, [], 1.0)


def sounds_english(samples: np.ndarray, chunks: Sequence[Chunk]) -> bool:
    """Whether the built-in recogniser, which knows only English, is sure of what it transcribes."""
    step = max(1, len(chunks) // _SAMPLED)
    sounds = [
        prepared(np.array(passage(samples, one.start_ms, one.end_ms))) for one in chunks[::step][:_SAMPLED]
    ]
    totals = [token.total for tokens in BuiltinRecogniser().hear(sounds) for token in tokens]
    return len(totals) >= 10 and sum(totals) / len(totals) > _SURE_ENGLISH


def _turns(
    speech: Sequence[Piece], words: list[RecognisedWord]
) -> tuple[tuple[RecognisedTurn, ...], tuple[Speaker, ...]]:
    names = list(dict.fromkeys(piece.speaker for piece in speech if piece.speaker))
    ids = {name: f"s{number}" for number, name in enumerate(names, 1)}
    turns, at = [], 0
    for piece in speech:
        said: list[RecognisedWord] = []
        lines = piece.text.split("\n")
        for line in lines:
            count = len(word_units(line))
            row = words[at : at + count]
            if row and len(lines) > 1:
                row[0] = opening(row[0], said[-1].text if said else "")
            said += row
            at += count
        turns.append(RecognisedTurn(tuple(said), ids.get(piece.speaker)))
    return tuple(turns), tuple(Speaker(one, name) for name, one in ids.items())
