"""Clips proposed: whole, standing by themselves, lively, each with its reasons and a title that was said."""

from __future__ import annotations

from random import Random

import numpy as np
import pytest
from conftest import DEMO, words
from random_projects import any_project

from dubrel.base.text import bare_word
from dubrel.base.value import replace
from dubrel.edits.cuts.pauses import Levels
from dubrel.finding.clips.heard import Heard, risen
from dubrel.finding.clips.leaning import leans
from dubrel.finding.clips.ranking import proposed_clips
from dubrel.finding.clips.showable import showable
from dubrel.finding.clips.titles import title_of
from dubrel.finding.encoder import vectors_of
from dubrel.jobs.cuts.clipsound import heard_in, listen_for_clips
from dubrel.media.probe import probe
from dubrel.media.sound import samples_of
from dubrel.model.cliprules import ClipRules
from dubrel.model.recognised import SoundSpot
from dubrel.project.sentences import Sentence, sentences_of
from dubrel.speech.sound.pitch import pitches
from dubrel.store.projectfile import read_project

FILLER = (
    "The meeting about the parking spaces is on Thursday.",
    "Somebody has moved the chairs to the other hall.",
    "The minutes of last month are in the blue folder.",
    "Please sign the list before you leave the building.",
    "The heating will be looked at in the week after Easter.",
    "New keys can be had at the office from nine to twelve.",
)
STORY = (
    "My grandmother once sailed a bathtub across the reservoir.",
    "The harbour master wrote her a ticket for sailing without a flag.",
    "She tied her apron to the broom and asked him for a receipt.",
)
ASKED = "How do you keep a hull from drying out in summer?"
ANSWER = (
    "You hang wet sacking over the planks and you water the sacking twice a day.",
    "My father kept a donkey that walked the hose along the dock.",
)


def talk(*parts):
    """Sentences one after the other: (who, text), each of six seconds, with half a second between."""
    made, word = [], 1
    for nth, (who, text) in enumerate(parts):
        ids = tuple(range(word, word + len(text.split())))
        word += len(ids)
        made.append(Sentence(text, ids, nth, who, nth * 6500, nth * 6500 + 6000))
    return made


def scene():
    lines = [("a", one) for one in FILLER * 2]
    story = [("b", one) for one in STORY]
    answer = [("a", ASKED), *(("b", one) for one in ANSWER)]
    return talk(*lines[:4], *story, *lines[4:8], *answer, *lines[8:])


LAUGHTER = Heard(spots=(SoundSpot(7 * 6500 - 400, 7 * 6500 + 2000, "laughter", 0.9),))
SHORT = ClipRules(low_s=12, high_s=20)


def found(sentences, rules=SHORT, heard=LAUGHTER, **how):
    vectors = vectors_of([one.text for one in sentences])
    return proposed_clips(sentences, vectors, rules, heard, "en", **how)


def sentences_in(sentences, clip):
    return [one.text for one in sentences if one.words[0] in clip.words]


def test_a_story_with_laughter_and_a_question_with_its_answer_come_first():
    sentences = scene()
    first, second = found(sentences)[:2]
    said = [sentences_in(sentences, one) for one in (first, second)]
    assert sorted(map(tuple, said)) == sorted([(ASKED, *ANSWER), STORY])


def test_each_says_why_in_words_and_figures():
    sentences = scene()
    reasons = {sentences_in(sentences, one)[0]: one.reasons for one in found(sentences)[:2]}
    assert "laughter at 00:00:45" in reasons[STORY[0]]
    assert any(one.startswith("question and answer (1") for one in reasons[ASKED])


def test_a_clip_lasts_until_the_laughter_ends():
    sentences = scene()
    story = next(one for one in found(sentences) if sentences_in(sentences, one)[-1] == STORY[-1])
    assert story.end_ms == sentences[7].start_ms  # laughter goes on under the next words, which are not in it


def test_what_counts_can_be_turned():
    sentences = scene()
    without = replace(SHORT, laughter=0, answers=3)
    assert sentences_in(sentences, found(sentences, without)[0])[0] == ASKED
    lively = replace(SHORT, laughter=3, answers=0)
    assert sentences_in(sentences, found(sentences, lively)[0])[-1] == STORY[-1]


def test_what_leans_on_what_was_said_before_is_not_proposed_unless_it_may():
    lines = [("a", f"But {one[0].lower()}{one[1:]}") for one in FILLER * 2]
    sentences = talk(*lines)
    assert found(sentences) == []
    some = found(sentences, replace(SHORT, alone="any"))
    assert some[0].stands is False
    assert some[0].reasons[-1] == "“But” leans on what was said before"


def test_by_topic_the_passage_about_it_comes_first():
    sentences = scene()
    about = vectors_of(["boats and sailing"])[0]
    best = found(sentences, about=about)[0]
    assert set(sentences_in(sentences, best)) & {*STORY, ASKED, *ANSWER} != set()
    assert best.reasons[0].startswith("near what was asked for (0.")


def test_more_like_this_leaves_out_this():
    sentences = scene()
    first = found(sentences)[0]
    other = found(sentences, but=[(first.start_ms, first.end_ms)])
    assert all(one.end_ms <= first.start_ms or one.start_ms >= first.end_ms for one in other)
    assert other != []


@pytest.mark.parametrize("seed", range(8))
def test_in_any_project_clips_are_whole_and_apart(seed):
    chance = Random(seed)
    project = any_project(chance)
    sentences = sentences_of(project)
    rng = np.random.default_rng(seed)
    vectors = rng.normal(size=(len(sentences), 512)).astype(np.float32)
    rules = ClipRules(low_s=2, high_s=chance.randint(4, 20), alone=chance.choice(("must", "rather", "any")))
    language = project.transcript.language
    clips = proposed_clips(sentences, vectors, rules, Heard(), language)
    starts = {one.start_ms for one in sentences}
    ends = {one.end_ms for one in sentences}
    said = {bare_word(token) for one in sentences for token in one.text.split()}
    for one in clips:
        assert one.start_ms in starts
        assert one.end_ms in ends
        assert rules.low_s * 1000 <= one.end_ms - one.start_ms <= rules.high_s * 1000
        assert {bare_word(token) for token in one.title.rstrip("…").split()} - said == set()
    for one in clips:
        for other in clips:
            shared = min(one.end_ms, other.end_ms) - max(one.start_ms, other.start_ms)
            shorter = min(one.end_ms - one.start_ms, other.end_ms - other.start_ms)
            assert one is other or shared <= 0.25 * shorter + 1


@pytest.mark.parametrize(
    ("text", "language", "amount"),
    [
        ("He came back.", "en", 0.8),
        ("It’s a boat that nobody wanted.", "en", 0.0),
        ("Why do they never hurry?", "en", 0.5),
        ("The lock keeper says that they never hurry.", "en", 0.3),
        ("The keeper at Bram Lock says that they never hurry.", "en", 0.0),
        ("Deshalb blieb er dort.", "de", 1.0),
        ("Mais la péniche est vieille.", "fr", 1.0),
        ("Ella volvió tarde.", "es", 0.8),
        ("…", "en", 0.0),
    ],
)
def test_what_points_outside(text, language, amount):
    assert leans(text, language)[0] == amount


def test_a_title_is_a_clause_that_was_said():
    texts = ["Well, I do not know, you see.", "Eighteen eighty one, and it still rings when you knock on it."]
    assert title_of(texts, {}, "en") in ("Eighteen eighty one", "And it still rings when you knock on it")
    assert title_of(["Yes."], {}, "en") == "Yes."
    assert title_of(["朝の船着き場は静かです。" * 8], {}, "ja").endswith("…")


def test_voices_are_weighed_against_their_own_average():
    sentences = talk(*[("a", FILLER[0]), ("b", FILLER[1])] * 4)
    decibels = np.full(8 * 650, -30, np.float32)
    decibels[2 * 650 : 3 * 650] = -24  # the second sentence of a
    pitch = np.full(8 * 130, 120, np.float32)
    pitch[3 * 130 : 4 * 130] = 240  # the second of b: an octave
    made = risen(sentences, Heard(Levels(decibels, 10.0), pitch))
    assert made[2, 0] == pytest.approx(6, abs=0.1)
    assert made[3, 1] == pytest.approx(12, abs=0.1)
    assert np.abs(np.delete(made[:, 0], 2)).max() < 0.1
    assert np.abs(made[:, 2]).max() == 0


@pytest.mark.parametrize("hertz", [90, 137, 210, 320])
def test_pitch_is_that_of_the_voice(hertz):
    time = np.arange(16_000 * 3) / 16_000
    wave = sum(np.sin(2 * np.pi * hertz * n * time) / n for n in range(1, 8))
    noise = np.random.default_rng(1).normal(size=len(time))
    *_, made = pitches((4000 * wave + 300 * noise).astype(np.int16))
    assert len(made) == 60
    assert np.nanmedian(made) == pytest.approx(hertz, rel=0.01)


def test_there_is_no_pitch_in_noise_and_silence():
    noise = np.random.default_rng(1).normal(size=32_000) * 3000
    *_, made = pitches(np.concatenate([noise, np.zeros(32_000)]).astype(np.int16))
    assert np.isnan(made).mean() > 0.95


def test_the_demo_is_heard_and_its_clips_are_those_of_the_recording():
    media = probe(DEMO / "slow-water-7.opus")
    said = [one for one in listen_for_clips(media) if one.stage == "Listening for clips"]
    shares = [one.fraction for one in said]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    heard = heard_in(media)
    assert [one.name for one in heard.spots][:1] == ["music"]
    assert len(heard.pitches) == len(samples_of(media)) // 800
    project = read_project(DEMO / "slow-water-7.dubrel").project
    sentences = sentences_of(project)
    clips = found(sentences, ClipRules(low_s=10, high_s=30), heard)
    assert len(clips) >= 3
    every = {word.id for word in words(project)}
    assert all(set(one.words) <= every for one in clips)


def test_sentences_that_name_things_are_those_to_show_a_picture_with():
    sentences = talk(
        ("a", "I think that this is a question of the right attitude and of patience."),
        ("a", "The heron stood in the reeds behind the old cabin."),
        ("a", "It was the decision of a committee, and nobody had an opinion."),
        ("a", "Everybody was of the same mind about that."),
        ("b", "Somebody drove from Winnipeg to Calgary with a piano."),
    )
    made = showable(sentences, "en")
    assert [(one.place, one.things) for one in made] == [
        (1, ("heron", "reeds", "cabin")),
        (4, ("Winnipeg", "Calgary", "piano")),
    ]


def test_of_two_neighbours_the_one_with_more_to_show_counts():
    near = [
        replace(one, start_ms=nth * 3000, end_ms=nth * 3000 + 2500)
        for nth, one in enumerate(
            talk(("a", "A donkey and a cart."), ("a", "A donkey, a cart, a barrel and a rope."))
        )
    ]
    assert [one.place for one in showable(near, "en")] == [1]


def test_in_other_languages_names_and_figures_are_shown(monkeypatch):
    sentences = talk(("a", "Ayer fuimos de Sevilla a Granada en 2 horas."), ("a", "No lo sé muy bien."))
    assert [one.things for one in showable(sentences, "es")] == [("Sevilla", "Granada", "2")]
    monkeypatch.setattr("dubrel.finding.clips.showable.LEXICON", DEMO / "nowhere")
    boats = talk(("a", "The heron stood in the reeds."), ("a", "From Oslo to Bergen in 7 hours."))
    assert [one.place for one in showable(boats, "en")] == [1]
