"""Choices and aligning, measured against speech whose clock is known."""

import json
from pathlib import Path

import numpy as np
import pytest
from conftest import DEMO, truth, words

from dubrel.base.errors import EngineError, MediaError
from dubrel.base.text import bare_word
from dubrel.edits.intake import add_heard
from dubrel.jobs.machinery.events import Progress, Recognised
from dubrel.jobs.machinery.runner import Job
from dubrel.jobs.transcribing.transcribe import read_recording, speech_chunks
from dubrel.media.probe import probe
from dubrel.media.sound import passage, samples_of
from dubrel.model import Media, Project, Timing
from dubrel.speech.align.by_length import spread
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.pronounce import dictionary, phones_of, spoken_forms
from dubrel.speech.recognise.engines import engine_named
from dubrel.speech.sound.activity import cut_chunks, speech_stretches
from dubrel.store.projectfile import open_project


@pytest.fixture(scope="module")
def aligner():
    return EnglishAligner()


@pytest.fixture(scope="module")
def heard(film_events):
    """The film as our own engine hears it, with everything it said on the way."""
    return film_events


def heard_words(events):
    return [word for event in events if isinstance(event, Recognised) for word in event.words]


def test_true_text_is_aligned_within_the_frame_of_a_syllable(film, aligner):
    samples = samples_of(probe(film))
    starts, ends = [], []
    for turn in json.loads((DEMO / "heron-film.truth.json").read_text())["turns"]:
        begin, end = turn["words"][0][1] - 200, turn["words"][-1][2] + 200
        found = aligner.align(np.array(passage(samples, begin, end)), [w[0] for w in turn["words"]], begin)
        assert {word.timing for word in found} == {Timing.ALIGNED}
        starts += [abs(word.start_ms - w[1]) for word, w in zip(found, turn["words"])]
        ends += [abs(word.end_ms - w[2]) for word, w in zip(found, turn["words"])]
    assert np.median(starts) <= 12 and np.percentile(starts, 95) <= 35
    assert np.median(ends) <= 15 and np.percentile(ends, 95) <= 60


def test_the_film_is_heard_in_order_and_mostly_right(heard):
    found = heard_words(heard)
    assert all(a.end_ms <= b.start_ms for a, b in zip(found, found[1:]))
    said = [bare_word(text) for text, _, _ in truth("heron-film")]
    texts = [bare_word(word.text) for word in found]
    assert len(set(said) & set(texts)) / len(set(said)) > 0.8
    assert 0.9 < len(texts) / len(said) < 1.1


def test_heard_words_stand_where_they_are_said(heard):
    true = {(bare_word(text), start // 400): start for text, start, _ in truth("heron-film")}
    errors = []
    for word in heard_words(heard):
        for slot in (word.start_ms // 400 + step for step in (-1, 0, 1)):
            if (bare_word(word.text), slot) in true:
                errors.append(abs(true[bare_word(word.text), slot] - word.start_ms))
                break
    assert len(errors) > 100
    assert np.median(errors) <= 20 and np.percentile(errors, 90) <= 60


def test_progress_grows_to_the_end_and_text_comes_before_it(heard):
    fractions = [event.fraction for event in heard if isinstance(event, Progress)]
    assert fractions == sorted(fractions) and fractions[-1] > 0.9
    first_text = next(k for k, event in enumerate(heard) if isinstance(event, Recognised))
    assert first_text < len(heard) / 2


def test_turns_begin_after_pauses(heard):
    project = add_heard(Project(), heard_words(heard))
    for before, after in zip(project.transcript.turns, project.transcript.turns[1:]):
        assert after.start_ms - before.end_ms >= 500
    assert len(words(project)) == len(heard_words(heard))


def test_music_and_silence_give_no_words(film):
    samples = samples_of(probe(film))
    assert next(speech_chunks(samples)).start_ms > 2500
    assert list(speech_chunks(np.zeros(16_000 * 30, np.int16))) == []
    noise = (np.random.default_rng(5).standard_normal(16_000 * 20) * 300).astype(np.int16)
    assert list(speech_chunks(noise)) == []


def test_chunks_are_cut_in_pauses_never_in_a_word(film):
    samples = samples_of(probe(film))
    chunks = list(speech_chunks(samples))
    edges = [ms for chunk in chunks for ms in (chunk.start_ms, chunk.end_ms)]
    for text, start, end in truth("heron-film"):
        assert not any(start + 40 < edge < end - 40 for edge in edges), text
        assert any(chunk.start_ms <= start + 40 and end - 40 <= chunk.end_ms for chunk in chunks), text


def test_speech_without_a_pause_is_cut_where_it_is_quietest():
    probability = np.ones(1500, np.float32)
    loudness = np.full(1500, 100.0)
    loudness[[400, 801, 1203]] = 0
    chunks = cut_chunks(probability, loudness)
    assert all(chunk.end_ms - chunk.start_ms <= 16_000 + 2 * 160 for chunk in chunks)
    assert chunks[0].start_ms == 0 and chunks[-1].end_ms == 48_000
    assert any(abs(chunk.end_ms - 400 * 32) <= 200 for chunk in chunks)


def test_short_noises_are_no_speech():
    probability = np.zeros(100)
    probability[10:12] = 1
    probability[50:70] = 1
    probability[73:80] = 1
    assert speech_stretches(probability) == [(50, 80)]


def test_text_that_cannot_be_aligned_is_spread_and_marked(aligner):
    found = aligner.align(
        np.zeros(1600, np.int16), "far too many words for so short a silence here".split(), 500
    )
    assert {word.timing for word in found} == {Timing.SPREAD}
    assert found[0].start_ms == 500 and found[-1].end_ms == 600
    assert [w.start_ms for w in spread(["a", "bbb"], 0, 400)] == [0, 100]


def test_a_lone_dash_has_no_time_of_its_own(film, aligner):
    samples = samples_of(probe(film))
    found = aligner.align(np.array(passage(samples, 3000, 6000)), "Early in — the morning".split(), 3000)
    assert [word.text for word in found] == ["Early", "in", "—", "the", "morning"]
    assert found[2].start_ms == found[2].end_ms == found[1].end_ms


@pytest.mark.parametrize(
    ("word", "forms"),
    [
        ("1881", ["eighteen", "eighty", "one"]),
        ("$5", ["five", "dollars"]),
        ("3.5%", ["three", "point", "five", "percent"]),
        ("22nd", ["twenty", "second"]),
        ("4,200", ["four", "thousand", "two", "hundred"]),
        ("naïve", ["naive"]),
        ("BBQZ", ["b.", "b.", "q.", "z."]),
        ("Heron’s", ["heron's"]),
        ("—", []),
    ],
)
def test_what_is_said_for_what_is_written(word, forms):
    said = spoken_forms(word)
    assert [one for one in said if one != "and"] == forms


def _entries() -> dict[str, str]:
    """Every first pronunciation of the dictionary, read line by line."""
    from pocketsphinx import get_model_path

    lines = Path(get_model_path("en-us/cmudict-en-us.dict")).read_text().splitlines()
    return {word: phones.strip() for word, _, phones in (line.partition(" ") for line in lines) if word}


def test_a_word_is_looked_up_where_it_stands():
    entries, found = _entries(), dictionary()
    some = ["'bout", "a", "zywicki", *[word for word in entries if "(" not in word][::97]]
    assert [found[word] for word in some] == [entries[word] for word in some]
    gone = ["", "!", "a(2)", "~", "é", *[word + "qx" for word in some]]
    assert [word for word in gone if word in found] == []


def test_no_word_is_without_a_pronunciation():
    inventory = {phone for phones in list(_entries().values())[:5000] for phone in phones.split()}
    for form in ("sternpost", "morwenna", "tobiah", "xyzzy", "grrr", "fenn's", "qa.", "bordage", "q", "zzz"):
        phones = phones_of(form).split()
        assert phones and set(phones) <= inventory, form
    assert phones_of("sternpost") == f"{dictionary()['stern']} {dictionary()['post']}"


def test_words_without_any_sound_are_spread():
    found = EnglishAligner().align(np.zeros(0, np.int16), ["the", "Heron"], 5000)
    assert [(one.text, one.timing) for one in found] == [("the", Timing.SPREAD), ("Heron", Timing.SPREAD)]


def test_an_engine_that_is_not_there():
    with pytest.raises(EngineError, match="no recogniser “nonesuch”"):
        engine_named("nonesuch")


def collect(job, seconds):
    import time

    events, until = [], time.monotonic() + seconds
    while job.running and time.monotonic() < until:
        events += job.events()
        time.sleep(0.02)
    return events


def test_a_job_fails_in_one_sentence(tmp_path):
    job = Job(
        "read", Media("gone.wav", str(tmp_path / "gone.wav"), "ff" * 16, 1000, channels=1, sample_rate=8000)
    )
    events = collect(job, 60)
    assert "gone.wav" in events[-1].message and "is not there" in events[-1].message
    with pytest.raises(MediaError):
        probe(tmp_path / "gone.wav")


def test_a_cancelled_job_stops_and_keeps_what_was_heard(film):
    import time

    job = Job("transcribe", probe(film))
    events, until = [], time.monotonic() + 60
    while not heard_words(events) and time.monotonic() < until:
        events += job.events()
        time.sleep(0.02)
    process = job.process
    events += job.cancel()
    assert not job.running and not process.is_alive()
    assert 0 < len(heard_words(events)) < len(truth("heron-film"))
    assert job.events() == []


def test_the_times_of_a_passage_do_not_hang_on_what_was_aligned_before():
    """Two processes share a recording, and each has aligned other passages of it by then."""
    project = open_project(DEMO / "slow-water-7.dubrel")
    media = probe(DEMO / "slow-water-7.opus")
    list(read_recording(media))
    samples, turns = samples_of(media), project.transcript.turns[:6]

    def aligned(aligner, turn):
        sound = np.array(passage(samples, turn.start_ms, turn.end_ms))
        return aligner.align(sound, [word.text for word in turn.words], turn.start_ms)

    fresh = [aligned(EnglishAligner(), turn) for turn in turns]
    one = EnglishAligner()
    assert [aligned(one, turn) for turn in reversed(turns)] == fresh[::-1]
