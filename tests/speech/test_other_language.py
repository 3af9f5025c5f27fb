"""Speech that is no English is said so before an hour of nonsense is written; noisy English is not."""

import numpy as np
import pytest
from conftest import DEMO
from languages import STORIES
from recordings import write_wav

from dubrel.cli import main
from dubrel.jobs.machinery.events import Recognised, Warning_
from dubrel.jobs.transcribing.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.media.sound import decode_blocks
from dubrel.model import RecognisedWord
from dubrel.model.choices import Choices
from dubrel.speech.align.synthesis import speak
from dubrel.speech.recognise.otherlanguage import OtherLanguage


@pytest.fixture(scope="module")
def polish(tmp_path_factory):
    said = speak(STORIES["pl"].split(), "pl").samples[: 15 * 16_000]
    sound = np.concatenate([np.zeros(8000), said])
    return write_wav(tmp_path_factory.mktemp("polish") / "polish.wav", sound)


def test_another_language_is_refused_before_nonsense_is_written(polish, tmp_path, capsys):
    out = tmp_path / "out.srt"
    assert main(["transcribe", str(polish), "-o", str(out), "--quiet"]) == 2
    said = capsys.readouterr().err
    assert "does not sound like English" in said and "--language en" in said
    assert not out.exists()


def test_where_the_user_says_that_it_is_english_it_is_a_warning_and_goes_on(polish):
    events = list(transcribe(probe(polish), Choices(language="en")))
    said = [one.message for one in events if isinstance(one, Warning_)]
    assert any(one.startswith("This does not sound like English") for one in said)
    assert sum(len(one.words) for one in events if isinstance(one, Recognised)) > 20


def heard(doubt, count=60):
    return [RecognisedWord("word", 300 * k, 300 * k + 200, doubt) for k in range(count)]


def test_few_words_and_sure_words_are_not_judged_and_it_is_said_once():
    clear = np.concatenate([list(decode_blocks(DEMO / "heron-film.mp4"))[k] for k in range(5)])
    assert not OtherLanguage(clear).hear(heard(0.9, 20))
    assert not OtherLanguage(clear).hear(heard(0.2))
    other = OtherLanguage(clear)
    assert other.hear(heard(0.9))
    assert not other.hear(heard(0.9))


def test_noise_makes_english_doubtful_and_is_not_taken_for_another_language():
    noisy = (np.random.default_rng(3).standard_normal(20 * 16_000) * 3000).astype(np.int16)
    assert not OtherLanguage(noisy).hear(heard(0.9))
