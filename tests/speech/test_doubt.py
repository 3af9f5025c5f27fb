"""Doubt comes from evidence: it tells wrong words from right ones."""

import numpy as np
import pytest
from conftest import spoken, truth

from dubrel.base.text import bare_word
from dubrel.base.textpairs import pair_words
from dubrel.speech.recognise.doubt import DoubtJudge
from dubrel.speech.recognise.recogniser import RecognisedToken


@pytest.fixture(scope="module")
def judge():
    return DoubtJudge()


def judged(judge, words, sure=-0.2):
    """Words that the recogniser was equally sure of, heard twice the same."""
    tokens = [RecognisedToken(word.text, sure, sure, 2.0) for word in words]
    return judge.judge(words, tokens, [True] * len(words))


def test_wrong_words_of_a_real_hearing_are_more_doubtful(film_words):
    heard = film_words
    said, texts = [bare_word(w[0]) for w in truth("heron-film")], [bare_word(w.text) for w in heard]
    right = {
        h for r, h in pair_words(said, texts).pairs if r is not None and h is not None and said[r] == texts[h]
    }
    doubts = np.array([word.doubt for word in heard])
    wrong = np.array([k not in right for k in range(len(heard))])
    assert ((doubts >= 0) & (doubts <= 1)).all() and doubts.std() > 0.05
    higher = (doubts[wrong][:, None] > doubts[~wrong][None, :]).mean()
    assert higher > 0.7


def test_evidence_against_a_word_raises_its_doubt(judge):
    words = spoken("we are going to the house in the morning")
    tokens = [RecognisedToken(word.text, -0.1, -0.1, 4.0) for word in words]
    agreed = [True] * len(words)
    sure = judge.judge(words, tokens, agreed)[5].doubt
    unsure = [*tokens[:5], RecognisedToken("house", -2.0, -2.5, 0.1), *tokens[6:]]
    assert judge.judge(words, unsure, agreed)[5].doubt > sure + 0.3
    differs = [*agreed[:5], False, *agreed[6:]]
    assert judge.judge(words, tokens, differs)[5].doubt > sure + 0.05
    assert sure < 0.2


def test_other_languages_are_judged_without_the_english_model():
    words = spoken("la casa de la madera vieja")
    tokens = [RecognisedToken(word.text, -0.1, -0.1, 4.0) for word in words]
    other = DoubtJudge("es")
    assert other.evidence(words, tokens, [True] * 6).shape == (9, 6)
    assert all(word.doubt < 0.3 for word in other.judge(words, tokens, [True] * 6))


def test_everything_gets_a_doubt_and_nothing_else_changes(judge):
    words = spoken("— 1881, xyzzy! ☺ “Heron’s” naïve")
    found = judged(judge, words)
    assert [(w.text, w.start_ms, w.end_ms) for w in found] == [(w.text, w.start_ms, w.end_ms) for w in words]
    assert judged(judge, []) == []
    assert all(0 <= word.doubt < 1 for word in found)


def test_next_doubt_by_key_plays_it_and_accept_goes_on(window, qtbot):
    from dubrel.base.value import replace
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project

    words = [
        replace(w, doubt=0.8 if w.text in ("two", "five") else 0.1)
        for w in spoken("one two three four five six")
    ]
    window.session.open(add_heard(Project(), words), None, saved=True)
    window.show_room("wording")
    assert window.rail.buttons[2].todo == "2 doubts"
    window.commands.run("next_look")
    assert window.sheet.selected_text() == "two"
    window.commands.run("accept")
    assert window.sheet.selected_text() == "five"
    window.commands.run("previous_look")
    assert window.doubts.count == 1
    window.rooms["wording"].panel.slider.setValue(5)
    assert window.doubts.count == 5
    window.commands.run("undo")
    assert window.doubts.count == 6
