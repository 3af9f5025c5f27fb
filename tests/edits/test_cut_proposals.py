"""What is proposed to be taken out of a cut: pauses, fillers, repeats, what is said again."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import spoken, words

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.edits.cuts.pauses import Levels, gaps, pauses, quiet_level, quiet_passages
from dubrel.edits.cuts.removals import removals, still_open, without_removals
from dubrel.edits.cuts.takes import said_again
from dubrel.edits.cuts.totals import figures
from dubrel.edits.cuts.trimming import with_whole
from dubrel.edits.intake import add_heard, set_turns
from dubrel.edits.words.striking import struck
from dubrel.model import Media, Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.model.cutrules import PRESETS, CutRules
from dubrel.user.cutrules import OWN, all_rules, forget_rules, keep_rules

NOTHING = CutRules(pauses=False, fillers=False, repeats=False, struck=False, again=False)


def said(text, language="en", people=("s0",)):
    heard = spoken(text)
    if len(people) == 1:
        project = add_heard(Project(), heard)
        return replace(project, transcript=replace(project.transcript, language=language))
    half = len(heard) // 2
    turns = [RecognisedTurn(tuple(heard[:half]), people[0]), RecognisedTurn(tuple(heard[half:]), people[1])]
    return set_turns(Project(), turns, [Speaker(one, one) for one in people], language)


def two_words(gap_ms=2000, length_ms=6000):
    """Two words with a pause between them."""
    heard = [RecognisedWord("One.", 1000, 1500), RecognisedWord("Two.", 1500 + gap_ms, 2000 + gap_ms)]
    project = add_heard(Project(media=Media("a.wav", "", "", length_ms, channels=1)), heard)
    return project


def levels(*loud, length_ms=6000, floor=-60.0, speech=-20.0):
    """Levels every 10 ms: loud between some times."""
    made = np.full(length_ms // 10, floor, np.float32)
    for a, b in loud:
        made[a // 10 : b // 10] = speech
    return Levels(made, 10.0)


class TestPauses:
    def test_a_pause_becomes_as_long_as_wished(self):
        found = pauses(two_words(), 800, 300)
        assert [(one.start_ms, one.end_ms) for one in found] == [(0, 700), (1650, 3350), (4300, 6000)]

    def test_no_crumb_stays_at_the_end(self):
        """The level is known in steps of 10 ms, the recording ends between two."""
        sound = levels((1000, 1500), (3500, 4000))
        assert pauses(two_words(length_ms=6007), 800, 0, sound, keep_ms=0)[-1].end_ms == 6007

    def test_one_that_is_not_longer_stays(self):
        assert [one.start_ms for one in pauses(two_words(800), 800, 300)] == [0, 3100]

    def test_removed_but_for_the_room_around_words(self):
        found = pauses(two_words(), 800, 0, keep_ms=40)
        assert [(one.start_ms, one.end_ms) for one in found] == [(0, 960), (1540, 3460), (4040, 6000)]

    def test_a_breath_is_no_pause_unless_wished(self):
        sound = levels((1000, 1500), (2300, 2700), (3500, 4000))
        found = pauses(two_words(), 600, 200, sound)
        assert [(one.start_ms, one.end_ms) for one in found][1:3] == [(1600, 2200), (2800, 3400)]
        whole = pauses(two_words(), 600, 200, sound, sounds=True)
        assert [(one.start_ms, one.end_ms) for one in whole][1] == (1600, 3400)

    def test_the_tail_of_a_word_is_not_cut_into(self):
        """The word is heard 250 ms longer than it is thought to be."""
        sound = levels((1000, 1750), (3500, 4000))
        [_, middle, _] = pauses(two_words(), 800, 0, sound, keep_ms=0)
        assert middle.start_ms >= 1750 and middle.end_ms == 3500

    def test_noise_does_not_hide_pauses(self):
        rng = np.random.default_rng(1)
        sound = levels((1000, 1500), (3500, 4000), floor=-35.0)
        noisy = Levels(sound.decibels + rng.normal(0, 1.2, len(sound.decibels)).astype(np.float32), 10.0)
        assert -34 < quiet_level(two_words(), noisy) < -24
        assert len(pauses(two_words(), 800, 300, noisy)) == 3

    def test_a_level_can_be_set(self):
        sound = levels((1000, 1500), (3500, 4000), floor=-50.0)
        assert pauses(two_words(), 800, 300, sound, below_db=-55.0) == []

    def test_a_recording_without_words_by_level_alone(self):
        project = Project(media=Media("a.wav", "", "", 6000, channels=1))
        found = pauses(project, 800, 300, levels((1000, 2000), (4000, 5000)))
        assert [(one.start_ms, one.end_ms) for one in found] == [(0, 700), (2150, 3850), (5300, 6000)]

    def test_nothing_at_all(self):
        assert pauses(Project(), 800, 300) == [] and gaps(Project()) == []
        assert quiet_passages(Levels(np.zeros(0, np.float32), 10.0), -40) == []
        assert Levels.of_peaks(np.zeros((0, 2), np.int16)).length_ms == 0


AGAIN = {
    "broken off": (
        "The knees, the knees are, let me do that again. The knees are sound though, and strong.",
        [("The knees, the knees are, let me do that again.", "The knees are sound though,")],
    ),
    "announced": (
        "She carried flour and coal for years. Sorry, again. She carried flour and coal for years.",
        [("She carried flour and coal for years. Sorry, again.", "She carried flour")],
    ),
    "a sentence that was not ended": (
        "So we make a pattern from thin– So we make a pattern from thin plywood, and steam the new oak.",
        [("So we make a pattern from thin–", "So we make a pattern from thin plywood,")],
    ),
}


class TestSaidAgain:
    @pytest.mark.parametrize("name", AGAIN)
    def test_the_last_take_stays(self, name):
        text, wanted = AGAIN[name]
        [one] = said_again(said(text))
        assert one.sure >= 0.5 and not one.doubt
        assert one.takes[0].text == wanted[0][0] and one.takes[one.usual].text.startswith(wanted[0][1])

    def test_of_three_takes_the_last_whole_one(self):
        text = (
            "Welcome to Slow Water, a show about an old boat. Take two. Welcome to Slow Water, the show "
            "about an old boat. Take three. Welcome to Slow Water the show. This week we talk of oak."
        )
        [one] = said_again(said(text))
        assert [take.whole for take in one.takes][1:] == [True, False] and one.usual == 1

    @pytest.mark.parametrize(
        "text",
        [
            "We go slow. We go slow. The river is wide.",
            "Slow water, slow boat, down to the sea. The mill was old and the wheel was gone before we came "
            "to it. Slow water, slow boat, down to the sea. And then the rain came hard on the deck. "
            "Slow water, slow boat, down to the sea.",
            "We lost the rope. We lost the plank. We lost it all in one night.",
            "",
        ],
    )
    def test_a_refrain_and_a_figure_of_speech_are_none(self, text):
        found = said_again(said(text)) if text else said_again(Project())
        assert [one for one in found if one.sure >= 0.5] == []

    def test_somebody_else_who_says_it_is_in_doubt(self):
        text = "The old boat came out of the water at the yard. " * 2
        [one] = said_again(said(text, people=("s0", "s1")))
        assert one.sure < 0.5 and one.doubt == "somebody else says it"

    def test_another_take_can_be_chosen(self):
        project = said(AGAIN["announced"][0])
        [again] = said_again(project)
        [first] = removals(project, replace(NOTHING, again=True))
        [second] = removals(project, replace(NOTHING, again=True), keep_take={again.takes[0].words: 0})
        assert first.end_ms <= again.takes[1].start_ms and second.start_ms >= again.takes[0].end_ms

    def test_in_other_languages(self):
        german = "Der Steven ist gut erhalten. Entschuldigung, nochmal. Der Steven ist gut erhalten."
        [one] = said_again(said(german, "de"))
        assert one.sure >= 0.5 and "Entschuldigung" in one.takes[0].text


class TestTogether:
    TEXT = (
        "Um, the old boat was, was dry. We we saw it. "
        "The keel is long. Sorry, again. The keel is long and sound."
    )

    def test_each_kind_has_its_reason_and_none_lies_in_another(self):
        project = said(self.TEXT)
        every = words(project)
        project = struck(project, [every[2].id], True)
        found = [one for one in removals(project, CutRules(longer_ms=300, becomes_ms=100)) if one.ticked]
        assert {one.why for one in found} == {"filler", "repeat", "struck", "said again", "pause"}
        spans = sorted((one.start_ms, one.end_ms) for one in found)
        inside = [(a, b) for a, b in zip(spans, spans[1:]) if b[0] < a[1] - 80]
        assert inside == []

    def test_done_as_one_and_nothing_is_offered_twice(self):
        project, cut_id = with_whole(said(self.TEXT))
        rules = CutRules(longer_ms=300, becomes_ms=100)
        found = removals(project, rules)
        made = without_removals(project, cut_id, [one for one in found if one.ticked], rules)
        assert made.transcript is project.transcript
        assert [one for one in still_open(found, made.cut(cut_id)) if one.ticked] == []
        lengths = [
            b.start_ms - a.end_ms for a, b in zip(made.cut(cut_id).passages, made.cut(cut_id).passages[1:])
        ]
        assert min(lengths) > 0 and min(p.end_ms - p.start_ms for p in made.cut(cut_id).passages) > 40
        total = figures(made.cut(cut_id), project.transcript.turns[-1].end_ms)
        assert total.saved_ms == sum(ms for _, _, ms in total.by_kind) > 3000

    @pytest.mark.parametrize("how", ["muted", "gap"])
    def test_pauses_can_keep_their_time(self, how):
        project, cut_id = with_whole(two_words())
        rules = replace(NOTHING, pauses=True, pauses_as=how)
        made = without_removals(project, cut_id, removals(project, rules), rules).cut(cut_id)
        assert made.length_ms == 6000 and [one.plays for one in made.passages].count(how) == 3
        assert still_open(removals(project, rules), made) == []

    def test_words_that_are_gone_meanwhile_take_nothing_along(self):
        project = said(self.TEXT)
        found = removals(project, CutRules())
        other, cut_id = with_whole(said("Quite another text."))
        kept = [one for one in found if one.start_ms < 500]
        assert without_removals(other, cut_id, kept, CutRules()).cut(cut_id).passages


class TestRules:
    def test_kept_under_a_name_and_forgotten(self):
        keep_rules(CutRules("Mine", longer_ms=650))
        assert all_rules()["Mine"].longer_ms == 650
        keep_rules(CutRules("Mine", longer_ms=700))
        assert [one.longer_ms for one in OWN.read()] == [700]
        forget_rules("Mine")
        assert set(all_rules()) == set(PRESETS)

    @pytest.mark.parametrize("name", ["", "  ", "Gentle"])
    def test_no_name_and_that_of_another(self, name):
        with pytest.raises(DubrelError):
            keep_rules(CutRules(name))

    @pytest.mark.parametrize(
        "text",
        ["{", "[1]", '[{"name": "x", "longer_ms": "y"}]', '[{"name": "x", "odd": 1}]', '[{"name": ""}]'],
    )
    def test_a_damaged_file_is_put_aside(self, text):
        OWN.path.parent.mkdir(parents=True, exist_ok=True)
        OWN.path.write_text(text)
        assert set(all_rules()) == set(PRESETS)
        assert not OWN.path.exists() and list(OWN.path.parent.glob("cutrules*"))
