"""``dubrel find``, and terms on the command line, run as a user runs them."""

import json

from conftest import DEMO

from dubrel.cli import main
from dubrel.cli.transcribe import _terms
from dubrel.store.projectfile import read_project

PODCAST = str(DEMO / "slow-water-7.dubrel")


def test_find_prints_where_and_who(capsys):
    assert main(["find", "--whole", "narrowboat", PODCAST]) == 0
    line = capsys.readouterr().out.splitlines()[0]
    assert line.startswith("00:00:07.6\tIsolde\t") and "[narrowboat] Heron" in line
    assert main(["find", "xyzzy", PODCAST]) == 1
    assert main(["find", "--pattern", "(", PODCAST]) == 2


def test_find_by_sound_and_by_meaning_as_json(capsys):
    assert main(["find", "--sounds-like", "Heron", PODCAST, "--json", "--most", "3"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found[0]["text"] == "hair in" and len(found) == 3 and found[0]["score"] > found[2]["score"]
    assert main(["find", "--meaning", "what did they pay", PODCAST, "--json"]) == 0
    assert json.loads(capsys.readouterr().out)[0]["text"] == "How much has it cost so far?"


def test_terms_are_put_in_where_they_were_surely_meant(tmp_path, capsys):
    path = tmp_path / "terms.csv"
    path.write_text("term,transcribed as\nHeron,\ncaulking,cocking\n,empty\n")
    made = _terms(path, quiet=False)(read_project(DEMO / "slow-water-7.dubrel").project)
    text = " ".join(turn.text for turn in made.transcript.turns)
    assert "the Heron his 70 feet long" in text and "caulking, we drive cotton" in text.replace(
        "Caulking", "caulking"
    )
    assert [one.right for one in made.terms] == ["Slow Water", "Heron", "narrowboat", "caulking"]
    assert "without a term" in capsys.readouterr().err
