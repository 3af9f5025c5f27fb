"""What a professional sees first: lines and captions that end with “the”, “with”, “is”."""

import pytest
from conftest import spoken
from openends import TEXT, open_ends
from openendsabroad import BEGIN
from openendsabroad import OPEN as OPEN_IN
from openendsabroad import UNSEEN as UNSEEN_IN

from dubrel.base.text import spaced_units
from dubrel.captions.bonds import bond_of
from dubrel.captions.styles import STYLES
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard, set_turns
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker
from dubrel.project.captiontext import text_of
from dubrel.project.sentences import sentences_of

STYLES_HELD = ("Web", "Films", "Television")


def lines_in(style):
    """Every line of the text in captions of a style."""
    project = set_again(add_heard(Project(title="Letters"), spoken(TEXT)), style)
    track = project.captions
    return [line for one in track.captions for line in text_of(project, track, one).lines]


@pytest.mark.parametrize(("name", "most"), [("Web", 0), ("Films", 0), ("Television", 2)])
def test_hardly_a_line_of_a_text_nobody_fitted_ends_open(name, most):
    lines = lines_in(STYLES[name])
    assert len(lines) > 90 and len(open_ends(lines)) <= most


def test_a_form_of_to_be_stays_with_what_it_says():
    for after in ("from", "the", "easy", "standing", "not"):
        assert bond_of("is", after, "en") > bond_of("bell", "is", "en")


def set_in(language, style):
    """The lines of a text in a language, caption by caption."""
    words, at = [], 500
    for text, spaced in spaced_units(UNSEEN_IN[language]):
        length = max(120, len(text) * (160 if language in ("ja", "zh") else 70))
        words.append(RecognisedWord(text, at, at + length, spaced=spaced))
        at += length + (440 if text[-1] in ".!?。！？" else 40)
    project = set_turns(Project("x"), [RecognisedTurn(tuple(words), "s")], [Speaker("s", "")], language)
    project = set_again(project, style)
    track = project.captions
    return [text_of(project, track, one).lines for one in track.captions]


@pytest.mark.parametrize("language", list(UNSEEN_IN))
def test_two_lines_in_a_hundred_at_most_end_open_in_any_language(language):
    last, first = OPEN_IN[language].split(), BEGIN.get(language, "").split()
    lines = [line for name in STYLES_HELD for each in set_in(language, STYLES[name]) for line in each]
    units = [[unit.lower() for unit, _ in spaced_units(line)] for line in lines]
    open_ = [line for line, row in zip(lines, units) if row[-1] in last or row[0] in first]
    assert len(lines) > 35
    assert len(open_) <= len(lines) * 0.02, open_


@pytest.mark.parametrize(
    ("one", "other", "language"),
    [
        ("o", "suficiente", "pt"),
        ("le", "bateau", "fr"),
        ("14.", "März", "de"),
        ("את", "הסירה", "he"),
        ("في", "البيت", "ar"),
        ("あの", "大きさ", "ja"),
        ("三月", "十四日", "ja"),
        ("새", "펌프가", "ko"),
        ("สาย", "เกินไป", "th"),
        ("Dr.", "Margaret", "en"),
        ("l'", "acqua", "it"),
        ("się", "stało", "pl"),
        ("не", "знал", "ru"),
    ],
)
def test_words_that_belong_together_are_bound(one, other, language):
    loose = {"pl": 30}.get(language, 74)
    assert bond_of(one, other, language) > loose


def test_what_stands_apart_is_not_bound():
    assert bond_of("сказал.", "Не", "ru") == 0
    assert bond_of("14.", "The", "en") == 0
    assert bond_of("水です。", "その", "ja") == 0


def test_an_ordinal_ends_no_sentence_where_a_point_makes_it_one():
    said = enumerate("Am 14. März 1987.".split())
    words = [RecognisedWord(text, nth * 400, nth * 400 + 300) for nth, text in said]
    for language, wanted in (("de", ["Am 14. März 1987."]), ("en", ["Am 14.", "März 1987."])):
        project = set_turns(Project("x"), [RecognisedTurn(tuple(words), "s")], [Speaker("s", "")], language)
        assert [one.text for one in sentences_of(project)] == wanted


def test_units_never_run_over_the_end_of_a_sentence():
    text = "水です。それから、行きました！「はい。」と言う。"
    units = [unit for unit, _ in spaced_units(text)]
    assert units == ["水です。", "それから、", "行きました！", "「はい。」と", "言う。"]
    assert "".join(units) == text


def test_a_space_of_thai_parts_what_a_caption_holds():
    lines = [line for each in set_in("th", STYLES["Television"]) for line in each]
    assert lines[0] == "ครั้งแรกที่ฉันมาถึงเมืองนี้"
    assert any(len(each) == 2 for each in set_in("th", STYLES["Television"]))
