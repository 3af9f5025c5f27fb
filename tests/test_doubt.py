"""Doubt comes from evidence: it tells wrong words from right ones."""

import numpy as np
import pytest
from conftest import spoken, truth

from dubrel.jobs.events import Heard
from dubrel.jobs.transcribe import transcribe
from dubrel.media.probe import probe
from dubrel.speech.compare import pair_words
from dubrel.speech.doubt import DoubtJudge
from dubrel.text import bare_word


@pytest.fixture(scope="module")
def judge():
    return DoubtJudge()


def test_wrong_words_of_a_real_hearing_are_more_doubtful(film):
    heard = [word for event in transcribe(probe(film)) if isinstance(event, Heard) for word in event.words]
    said, texts = [bare_word(w[0]) for w in truth("heron-film")], [bare_word(w.text) for w in heard]
    right = {
        h for r, h in pair_words(said, texts).pairs if r is not None and h is not None and said[r] == texts[h]
    }
    doubts = np.array([word.doubt for word in heard])
    wrong = np.array([k not in right for k in range(len(heard))])
    assert ((doubts >= 0) & (doubts <= 1)).all() and doubts.std() > 0.05
    higher = (doubts[wrong][:, None] > doubts[~wrong][None, :]).mean()
    assert higher > 0.7


def test_a_word_out_of_place_is_doubted(judge):
    fits = judge.judge(spoken("we are going to the house in the morning"))
    strays = judge.judge(spoken("we are going to the thine in the morning"))
    assert strays[5].doubt > fits[5].doubt + 0.2
    assert [word.text for word in strays] == "we are going to the thine in the morning".split()


def test_everything_gets_a_doubt_and_nothing_else_changes(judge):
    words = spoken("— 1881, xyzzy! ☺ “Heron’s” naïve")
    judged = judge.judge(words)
    assert [(w.text, w.start_ms, w.end_ms) for w in judged] == [(w.text, w.start_ms, w.end_ms) for w in words]
    assert judge.judge([]) == []
    assert judged[0].doubt == 0.0 and judged[2].doubt > 0


def test_next_doubt_by_key_plays_it_and_accept_goes_on(window, qtbot):
    from dataclasses import replace

    from dubrel.edits.intake import add_heard
    from dubrel.model import Project

    words = [
        replace(w, doubt=0.8 if w.text in ("two", "five") else 0.1)
        for w in spoken("one two three four five six")
    ]
    window.session.open(add_heard(Project(), words), None, saved=True)
    window.show_pass(2)
    window.findings.settle()
    assert window.rail.buttons[2].todo == "2 doubts"
    window.commands.run("next_look")
    assert window.sheet.selected_text() == "two"
    assert window.player.position == max(0, words[1].start_ms - 600)
    window.commands.run("accept")
    assert window.sheet.selected_text() == "five"
    window.commands.run("previous_look")
    assert window.findings.doubt_count == 1
    window.booth.slider.setValue(5)
    assert window.findings.doubt_count == 5
    window.commands.run("undo")
    assert window.findings.doubt_count == 6
