"""Spaces that may not be broken hold signs and figures at their words, in every form and in the window."""

import json

import pytest

from dubrel.base.text import tidied, tokens
from dubrel.captions.setting.textlines import best_text
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.cli import main
from dubrel.formats.register import read_file
from dubrel.store.projectfile import open_project, save

FRENCH = """1
00:00:01,000 --> 00:00:04,000
«\u00a0Oui\u202f!\u00a0» Le bateau coûte
10\u202f000\u00a0€ à M.\u00a0Brun.

2
00:00:05,000 --> 00:00:07,000
&nbsp;&nbsp;Bonjour à tous, mes amis,
&nbsp; il pleut&nbsp;; rentrons.
"""
LOST = "Not kept, because Dubrel has no place for it: no-break spaces between two words (1)."
WORDS = ["«\u00a0Oui\u202f!\u00a0»", "Le", "bateau", "coûte", "10\u202f000\u00a0€", "à", "M.", "Brun."]


@pytest.fixture
def french(tmp_path):
    """A file of French captions."""
    path = tmp_path / "bateau.srt"
    path.write_text(FRENCH, encoding="utf-8")
    return path


def texts_of(project):
    """The texts of the words."""
    return [word.text for turn in project.transcript.turns for word in turn.words]


def test_held_signs_are_part_of_their_word_and_others_are_said(french):
    found = read_file(french)
    assert texts_of(found.project)[:8] == WORDS
    assert texts_of(found.project)[-3:] == ["il", "pleut\u00a0;", "rentrons."]
    assert found.warnings == (LOST,)


@pytest.mark.parametrize("suffix", ["srt", "vtt", "ttml", "csv", "tsv", "json", "lrc"])
def test_every_form_carries_them(french, tmp_path, suffix):
    path = tmp_path / f"out.{suffix}"
    assert main(["convert", str(french), str(path)]) == 0
    assert texts_of(read_file(path).project)[:8] == WORDS


def test_what_stl_has_no_letters_for_is_said(french, tmp_path, capsys):
    path = tmp_path / "out.stl"
    assert main(["convert", str(french), str(path)]) == 0
    said = " ".join(texts_of(read_file(path).project)).split()
    wanted = " ".join(WORDS).replace("€", "?").split()
    assert said[: len(wanted)] == wanted
    assert "EBU STL has no room for some letters of 1 caption." in capsys.readouterr().err


def test_the_project_file_carries_them(french, tmp_path):
    project = read_file(french).project
    path = tmp_path / "bateau.dubrel"
    save(project, path)
    assert texts_of(open_project(path)) == texts_of(project)


def test_no_line_breaks_at_one():
    text = "Le vieux bateau nous a coûté plus de 10\u202f000\u00a0€ cette année\u00a0!"
    lines = best_text(text, DEFAULT_STYLE, "fr").split("\n")
    assert len(lines) == 2
    assert tidied(" ".join(lines)) == text
    assert any("10\u202f000\u00a0€" in line for line in lines)


def test_tokens_of_layout_are_apart():
    assert tokens("a\u00a0\u00a0b") == ["a", "b"]
    assert tokens("\u00a0a \u00a0 b\u00a0") == ["a", "b"]
    assert tokens("— \u202f oui") == ["—", "oui"]
    assert tokens("\u00a0") == []


def test_a_transcript_of_another_program_may_hold_them(tmp_path):
    words = [
        {"text": "10\u00a0000", "start_ms": 0, "end_ms": 500},
        {"text": "two\u00a0words", "start_ms": 500, "end_ms": 900},
    ]
    path = tmp_path / "said.json"
    path.write_text(
        json.dumps(
            {
                "dubrel": 1,
                "language": "fr",
                "speakers": [],
                "turns": [{"start_ms": 0, "end_ms": 900, "words": words}],
            }
        )
    )
    found = read_file(path)
    assert texts_of(found.project) == ["10\u00a0000", "two", "words"]
    assert "Some words held white space; each part is a word now." in found.warnings
