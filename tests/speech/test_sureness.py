"""How sure the machine is of who says each word: found, kept, shown and fixed."""

import json
import zipfile
from itertools import product

import numpy as np
import pytest
from conftest import words
from PySide6.QtGui import QImage
from recordings import to_json
from samples import shape

from dubrel.edits.speakers.assigning import assign_speakers, split_speaker
from dubrel.edits.speakers.voices import give_turn
from dubrel.edits.words.wording import split_turn
from dubrel.formats.words import transcriptjson
from dubrel.project.talk import UNSURE, is_unsure, unsure_runs
from dubrel.speech.speakers.diarise import _TEMPER, _sureness, _way
from dubrel.store.projectfile import from_json, open_project, save

SURE = [0.99, 0.95, 0.5, 0.6, 0.9, 0.99, 0.3, 0.2, 0.4]


@pytest.fixture
def unsure(three):
    """Three turns of three words; nobody has confirmed them."""
    return assign_speakers(three, [0, 0, 0, 1, 1, 1, 0, 0, 0], SURE)


def test_sureness_is_the_share_of_all_ways_that_agree():
    chance = np.random.default_rng(3)
    emission = np.log(chance.dirichlet(np.ones(3), 6))
    costs = chance.uniform(0.2, 4, 6)
    labels = _way(emission, costs)
    total, agree = 0.0, np.zeros(6)
    for way in product(range(3), repeat=6):
        score = sum(emission[k, one] for k, one in enumerate(way))
        score -= sum(costs[k] for k in range(1, 6) if way[k] != way[k - 1])
        weight = np.exp(_TEMPER * score)
        total += weight
        agree += weight * (np.array(way) == labels)
    assert np.allclose(_sureness(emission, costs, labels), agree / total)


def test_sureness_of_a_long_recording_does_not_vanish():
    emission = np.log(np.tile([[0.7, 0.3]], (30_000, 1)))
    emission[10_000] = [-1e6, 0.0]  # a person has said it
    costs = np.full(30_000, 2.0)
    labels = _way(emission, costs)
    found = _sureness(emission, costs, labels)
    assert np.isfinite(found).all() and (found > 0.3).all() and found[10_000] == pytest.approx(1)
    assert found[10_001] < found[20_000]


def test_each_word_keeps_its_sureness_when_turns_are_cut(unsure):
    turn = unsure.transcript.turns[0]
    assert turn.sureness == 0.5 and is_unsure(turn)
    cut = split_turn(unsure, turn.id, len("One two "))
    first, second = cut.transcript.turns[:2]
    assert (first.sureness, second.sureness) == (0.95, 0.5)
    assert not is_unsure(first) and is_unsure(second)
    apart, _ = split_speaker(unsure, "s1", {words(unsure)[8].id})
    assert [one.sure for one in words(apart)] == SURE


def test_runs_of_unsure_words_end_where_a_person_has_spoken(unsure):
    assert [unsure_runs(turn) for turn in unsure.transcript.turns] == [[(2, 3)], [(0, 1)], [(0, 3)]]
    given = give_turn(unsure, unsure.transcript.turns[2].id, "s2")
    assert unsure_runs(given.transcript.turns[2]) == [] and UNSURE > 0.6


def test_files_keep_it(unsure, tmp_path):
    path = tmp_path / "unsure.dubrel"
    save(unsure, path)
    assert [one.sure for one in words(open_project(path))] == SURE
    transcript = tmp_path / "unsure.json"
    transcript.write_text(transcriptjson.write(unsure))
    assert [one.sure for one in words(transcriptjson.read(transcript).project)] == SURE
    with zipfile.ZipFile(path) as archive:
        assert len(json.loads(archive.read("project.json"))["words"]["sure"]) == len(SURE)


def test_an_earlier_file_says_it_for_whole_turns(three):
    value = to_json(three)
    del value["words"]["sure"]
    value["turns"] = [[*row, 0.25 * (k + 1)] for k, row in enumerate(value["turns"])]
    assert [turn.sureness for turn in from_json(value).project.transcript.turns] == [0.25, 0.5, 0.75]


def test_unsure_words_are_selected_and_given_alone(window, unsure):
    window.session.open(unsure, None, saved=True)
    window.show_room("voices")
    window.commands.run("next_uncertain")
    assert (
        window.sheet.selected_words() == [(0, 2, 3)] and "50% sure who says “three.”" in window.message.text()
    )
    window.commands.run("speaker_2")
    assert shape(window.session.project)[:2] == [("s1", "One two"), ("s2", "three.")]
    window.commands.run("next_uncertain")
    assert window.sheet.selected_words() == [(2, 0, 1)]
    window.commands.run("next_uncertain")
    assert window.sheet.caret.turn == 3 and window.sheet.selected_words() == []  # the whole turn
    window.commands.run("speaker_1")
    window.commands.run("next_uncertain")
    assert window.sheet.selected_words() == [(2, 0, 1)]  # around the end


def test_unsure_words_have_a_broken_line_in_voices_only(window, unsure, qtbot):
    sure = assign_speakers(unsure, [0, 0, 0, 1, 1, 1, 0, 0, 0], [1.0] * 9)
    pictures = {}
    for name, project in (("unsure", unsure), ("sure", sure)):
        sheet = window.sheet
        window.session.open(project, None, saved=True)
        for place in ("voices", "wording"):
            window.show_room(place)
            block = sheet.column.block(0)
            _, rect = block.word_rects(2)[0]
            picture = QImage(round(block.style.measure), round(block.style.pitch), QImage.Format.Format_RGB32)
            picture.fill(block.style.theme.colour("paper"))
            _draw(block, picture)
            pictures[name, place] = picture.copy(rect.toRect())
    assert pictures["unsure", "wording"] == pictures["sure", "wording"] == pictures["sure", "voices"]
    assert pictures["unsure", "voices"] != pictures["sure", "voices"]


def _draw(block, picture):
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QPainter

    painter = QPainter(picture)
    block.paint(painter, QPointF(0, 0), None, None)
    painter.end()
