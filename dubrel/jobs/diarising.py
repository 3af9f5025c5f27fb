"""Tell the speakers of a transcript apart in its recording."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, field
from dubrel.jobs.machinery.events import Event, Pace, Progress, SpeakersFound, Warning_
from dubrel.jobs.transcribing.transcribe import read_recording
from dubrel.media.sound import samples_of
from dubrel.model import Media, Project, RecognisedWord
from dubrel.speech.speakers.diarise import Voices, diarise
from dubrel.speech.speakers.second_print import person_prints
from dubrel.speech.speakers.voiceprint import VoiceEncoder

_READING = 0.1
MOST = 40


class Asked(Value):
    """What is asked about a transcript.

    Attributes
    ----------
    words : sequence of RecognisedWord
        All words, in order.
    ids : sequence of int
        Their ids.
    now : sequence of int
        The number of the speaker who says each word so far, or -1.
    fixed : dict of int to int
        Places of words whose speaker a person has said, and the speaker's number.
    prints : bool
        Whether prints are wanted by which persons can be known again.
    """

    words: Sequence[RecognisedWord]
    ids: Sequence[int] = ()
    now: Sequence[int] = ()
    fixed: dict[int, int] = field(default_factory=dict)
    prints: bool = False


def find_speakers(media: Media, asked: Asked, least: int = 1, most: int = MOST) -> Iterator[Event]:
    """Find the speaker of every word.

    Parameters
    ----------
    media : Media
    asked : Asked
    least, most : int
        Bounds of the number of speakers.

    Yields
    ------
    Event
        Progress, and at the end ``SpeakersFound``.

    Raises
    ------
    DubrelError
        If there are no words.
    """
    if not asked.words:
        raise DubrelError(
            tr("There are no words yet to tell speakers apart in. Transcribe the recording first.")
        )
    pace = Pace()
    for event in read_recording(media):
        yield pace.at(event.stage, event.fraction * _READING) if isinstance(event, Progress) else event
    samples = samples_of(media)
    found = diarise(
        samples, asked.words, VoiceEncoder(), least=least, most=most, fixed=asked.fixed, now=asked.now
    )
    for said in found:
        if isinstance(said, Voices):
            prints = person_prints(samples, asked.words, said.labels) if asked.prints else np.zeros((0, 0))
            too_many = _too_many(len(set(said.labels.tolist())), said.people)
            if too_many:
                yield Warning_(too_many)
            yield SpeakersFound(
                tuple(asked.ids),
                tuple(said.labels.tolist()),
                tuple(said.sureness.tolist()),
                tuple(said.also.tolist()),
                tuple(tuple(row) for row in prints.tolist()),
                too_many,
            )
        else:
            yield pace.at(tr("Telling speakers apart"), _READING + (1 - _READING) * said)


def _too_many(speakers: int, people: int) -> str:
    if speakers <= people:
        return ""
    heard = tr("one person") if people == 1 else counted(people, "person", "people")
    return tr(
        "There are {speakers} speakers, as you asked, but they sound like {fewer}. Ask for fewer, or "
        "merge speakers who are the same person."
    ).format(speakers=speakers, fewer=heard)


def speaker_bounds(wanted: str) -> tuple[int, int]:
    """The least and the greatest number of speakers that ``auto``, ``N`` or ``N-M`` means.

    Raises
    ------
    DubrelError
        If it is none of these.
    """
    if wanted == "auto":
        return 1, MOST
    low, _, high = wanted.partition("-")
    if low.isdigit() and (high.isdigit() or not high):
        least, most = int(low), int(high or low)
        if 1 <= least <= most <= MOST:
            return least, most
    raise DubrelError(
        tr(
            "“{wanted}” is not a number of speakers. Write auto, a number up to {most}, or a range "
            "such as 2-4."
        ).format(wanted=wanted, most=MOST)
    )


def question_of_speaker(project: Project, speaker_id: str) -> Asked:
    """The words of one speaker as the job wants them."""
    words = [word for turn in project.transcript.turns if turn.speaker == speaker_id for word in turn.words]
    heard = [RecognisedWord(word.text, word.start_ms, word.end_ms) for word in words]
    return Asked(heard, [word.id for word in words])


def question_between(project: Project, start_ms: int, end_ms: int) -> Asked:
    """The words between two times as the job wants them."""
    whole = question(project)
    middles = [(one.start_ms + one.end_ms) / 2 for one in whole.words]
    inside = [nth for nth, middle in enumerate(middles) if start_ms <= middle < end_ms]
    places = {nth: place for place, nth in enumerate(inside)}
    return Asked(
        [whole.words[nth] for nth in inside],
        [whole.ids[nth] for nth in inside],
        [whole.now[nth] for nth in inside],
        {places[nth]: number for nth, number in whole.fixed.items() if nth in places},
    )


def question(project: Project, prints: bool = False) -> Asked:
    """The words of a project as the job wants them, and what its turns tell of them."""
    words: list[RecognisedWord] = []
    ids: list[int] = []
    now: list[int] = []
    fixed: dict[int, int] = {}
    numbers = {one.id: place for place, one in enumerate(project.transcript.speakers)}
    for turn in project.transcript.turns:
        for word in turn.words:
            if turn.confirmed and turn.speaker in numbers:
                fixed[len(words)] = numbers[turn.speaker]
            words.append(RecognisedWord(word.text, word.start_ms, word.end_ms))
            ids.append(word.id)
            now.append(numbers.get(turn.speaker or "", -1))
    return Asked(words, ids, now, fixed, prints)
