"""Where two chunks meet; music that is not speech."""

import numpy as np
import pytest
from recordings import tune

from dubrel.jobs.transcribing.crew import Part
from dubrel.jobs.transcribing.tally import Tally
from dubrel.jobs.transcribing.transcribe import speech_chunks
from dubrel.media.sound import RATE
from dubrel.model import RecognisedWord
from dubrel.speech.recognise.chunk_seams import Joins, join
from dubrel.speech.recognise.listener import Listener
from dubrel.speech.sound.soundclasses import SoundClassifier


def two(before, after, pause):
    """The last word of a chunk and the first of the next, a pause apart."""
    words = RecognisedWord(before, 1000, 1400), RecognisedWord(after, 1400 + pause, 1700 + pause)
    return [word.text for word in join(*words, english=True)]


@pytest.mark.parametrize(
    ("before", "after", "pause", "wanted"),
    [
        ("times.", "it", 500, ["times.", "It"]),
        ("times?", "it", 100, ["times?", "It"]),
        ("age.", "wisdom", 100, ["age", "wisdom"]),
        ("the.", "Heron", 300, ["the", "Heron"]),
        ("of.", "The", 300, ["of", "the"]),
        ("boat", "The", 700, ["boat.", "The"]),
        ("boat", "The", 100, ["boat", "the"]),
        ("boat", "The", 400, ["boat", "The"]),
        ("boat,", "The", 700, ["boat,", "The"]),
        ("boat", "Anna", 100, ["boat", "Anna"]),
        ("U.S.", "navy", 100, ["U.S.", "navy"]),
        ("U.S.", "navy", 500, ["U.S.", "navy"]),
        (".", "it", 100, [".", "It"]),
        ("Mr.", "heron", 100, ["Mr.", "heron"]),
        ("so...", "it", 100, ["so...", "It"]),
        ("I", "went", 100, ["I", "went"]),
        ("times.", "It", 100, ["times.", "It"]),
        ("время.", "это", 500, ["время.", "Это"]),
        ("時間。", "それ", 500, ["時間。", "それ"]),
    ],
)
def test_pause_and_text_settle_the_join(before, after, pause, wanted):
    assert two(before, after, pause) == wanted


def test_words_of_other_languages_are_known_by_no_list():
    words = RecognisedWord("bon", 0, 300), RecognisedWord("The", 350, 500)
    assert [word.text for word in join(*words, english=False)] == ["bon", "The"]


def test_every_word_comes_once_and_in_order():
    joins = Joins("en-GB")
    chunks = [["One", "of."], ["The", "boats"], [], ["left."], ["it", "sank."]]
    came, at = [], 0
    for chunk in chunks:
        words = [
            RecognisedWord(text, at + 100 * place, at + 100 * place + 90) for place, text in enumerate(chunk)
        ]
        came += joins.take(words)
        at += 400
    came += joins.rest()
    assert " ".join(word.text for word in came) == "One of the boats left. It sank."
    assert [word.start_ms for word in came] == [0, 100, 400, 500, 1200, 1600, 1700]


def test_without_holding_back_a_word_that_is_out_stays_as_it_is():
    joins = Joins("en", hold=False)
    first = joins.take([RecognisedWord("of.", 0, 90)])
    then = joins.take([RecognisedWord("The", 200, 290)])
    assert [word.text for word in (*first, *then, *joins.rest())] == ["of.", "The"]


def test_music_becomes_no_words():
    samples = tune(180)
    listener, tally = Listener("builtin", "en"), Tally()
    chunks = list(speech_chunks(samples))
    heard = listener.listen(samples, chunks)
    assert chunks != []
    assert [word.text for one in heard for word in one.words] == []
    music = sum(one.music for one in heard)
    assert music > 0
    for chunk, one in zip(chunks, heard):
        tally.count(Part(chunk, None), one)
    [warning] = tally.warnings()
    assert warning.message.startswith(f"{music} passages of music gave doubtful text")


def test_silence_and_speech_are_no_music(talk):
    classes = SoundClassifier()
    assert not classes.is_music(np.zeros(3 * RATE, np.int16))
    assert not classes.is_music(talk[0][: 8 * RATE])


def test_speech_over_music_keeps_its_words(talk):
    loud, soft = talk[0][: 20 * RATE].astype(np.int32), tune(20).astype(np.int32) // 6
    mixed = np.clip(loud + soft, -32768, 32767).astype(np.int16)
    listener = Listener("builtin", "en")
    heard = listener.listen(mixed, list(speech_chunks(mixed)))
    said = sum(end <= 20_000 for _, end in ((word.start_ms, word.end_ms) for word in talk[1]))
    assert not any(one.music for one in heard)
    assert sum(len(one.words) for one in heard) > 0.8 * said
