"""Which colours can be told apart: text, edges and traces, by contrast; speakers, by every kind of eyes."""

from itertools import combinations

import numpy as np
import pytest
from colours import BLINDNESS, contrast, difference, lab

from dubrel.desk.shell.kit.theme import THEMES

TEXT, EDGE, APART = 4.5, 3.0, 12.0
GROUNDS = ("paper", "desk", "selection")
PAIRS = [
    *((role, ground, TEXT) for role in ("ink", "quiet", "action", "look", "live") for ground in GROUNDS),
    ("on_action", "action", TEXT),
    *(("edge", ground, EDGE) for ground in ("paper", "desk")),
    *(("action", ground, EDGE) for ground in GROUNDS),
    ("trace", "paper", EDGE),
    ("action", "on_action", EDGE),
]


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
def test_every_pair_that_is_used_can_be_told_apart(theme):
    measured = [
        (one, other, round(contrast(getattr(theme, one), getattr(theme, other)), 2), least)
        for one, other, least in PAIRS
    ]
    assert [pair for pair in measured if pair[2] < pair[3]] == []


@pytest.mark.parametrize("name", ["day-sharp", "night-sharp"])
def test_high_contrast_is_seven_to_one_for_text_and_edges_are_as_clear_as_text(name):
    theme = THEMES[name]
    text = [contrast(getattr(theme, one), getattr(theme, on)) for one, on, least in PAIRS if least == TEXT]
    assert min(text) >= 7.0
    assert min(contrast(getattr(theme, one), theme.paper) for one in ("edge", "hairline", "trace")) >= TEXT


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
@pytest.mark.parametrize("eyes", BLINDNESS)
def test_speakers_differ_for_every_kind_of_eyes(theme, eyes):
    seen = [lab(one, eyes) for one in theme.voices]
    least = min(difference(one, other) for one, other in combinations(seen, 2))
    assert least >= APART


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
def test_the_names_of_speakers_can_be_read(theme):
    assert min(contrast(one, theme.paper) for one in theme.voices) >= TEXT


def test_the_measure_is_that_of_the_paper_it_comes_from():
    pairs = (
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
        ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
        ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    )
    for one, other, wanted in pairs:
        assert difference(np.array(one), np.array(other)) == pytest.approx(wanted, abs=1e-4)
