"""Compare the sheet with a second engine's reading or with a reference text."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words
from dubrel.base.value import Value, replace
from dubrel.edits.words.readings import Difference, differences
from dubrel.jobs.machinery.events import Event, Read, Recognised, RecognisedTurns
from dubrel.jobs.transcribing.transcribe import read_recording, speech_chunks, transcribe
from dubrel.media.sound import passage, samples_of
from dubrel.model import Media, Project, RecognisedWord, Timing, Transcript
from dubrel.model.choices import Choices, is_remote
from dubrel.speech.align.pronounce import spoken_forms


class Comparison(Value):
    """The sheet against another reading.

    Attributes
    ----------
    differences : list of Difference
    words : int
        Words of the other reading.
    agreed : int
        Words that both have.
    substitutions, insertions, deletions : int
        Against the other reading as the truth: an insertion is only on the sheet.
    """

    differences: list[Difference]
    words: int
    agreed: int
    substitutions: int
    insertions: int
    deletions: int

    @property
    def word_error_rate(self) -> float:
        """Edits over the words of the other reading."""
        return (self.substitutions + self.insertions + self.deletions) / max(1, self.words)


def read_again(media: Media, choices: Choices, start_ms: int, end_ms: int) -> Iterator[Event]:
    """Transcribe a recording, or a passage of it, with an engine.

    Yields
    ------
    Event
        Progress, and at the end ``Read`` with all words.
    """
    words: list[RecognisedWord] = []
    whole = start_ms <= 0 and end_ms >= media.duration_ms
    if whole or is_remote(choices.engine):
        for event in transcribe(media, choices):
            if isinstance(event, Recognised):
                words += event.words
            elif isinstance(event, RecognisedTurns):
                words += [word for turn in event.turns for word in turn.words]
            else:
                yield event
        words = [word for word in words if word.end_ms > start_ms and word.start_ms < end_ms]
    else:
        from dubrel.speech.recognise.listener import Listener

        yield from read_recording(media)
        listener, sound = (
            Listener(choices.engine, choices.language),
            passage(samples_of(media), start_ms, end_ms),
        )
        for found in listener.listen(sound, list(speech_chunks(sound))):
            words += [one.later(start_ms) for one in found.words]
    yield Read(tuple(words), start_ms, end_ms)


def compare_with_words(
    project: Project, theirs: Sequence[RecognisedWord], start_ms: int, end_ms: int
) -> Comparison:
    """Compare the words of the sheet between two times with another reading of them."""
    turns = [
        replace(turn, words=kept)
        for turn in project.transcript.turns
        if (kept := tuple(w for w in turn.words if w.end_ms > start_ms and w.start_ms < end_ms))
    ]
    part = replace(project, transcript=Transcript(project.transcript.language, (), tuple(turns)))
    ours = [_said(word.text) for turn in turns for word in turn.words]
    others = [_said(word.text) for word in theirs]
    pairing = pair_words(others, ours)
    pairs = [(mine, other) for other, mine in pairing.pairs]
    same = [mine is not None and other is not None and ours[mine] == others[other] for mine, other in pairs]
    return Comparison(
        differences(part, theirs, pairs, same),
        len(others),
        sum(same),
        pairing.substitutions,
        pairing.insertions,
        pairing.deletions,
    )


def _said(word: str) -> str:
    """What is compared: figures as they are spoken, no punctuation, no case."""
    digits = any(sign.isdigit() for sign in word)
    return " ".join(spoken_forms(word)) if digits else bare_word(word)


def compare_with_text(project: Project, text: str) -> Comparison:
    """Compare the whole sheet with a reference text."""
    words = [RecognisedWord(word, 0, 0, timing=Timing.TYPED) for word in text.split() if bare_word(word)]
    return compare_with_words(project, words, -1, 1 << 62)
