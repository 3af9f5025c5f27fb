"""Packages of others add recognisers, translators, voices, forms, checks: the example is used."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys

import pytest
from conftest import DEMO, ROOT
from recordings import part_of

EXAMPLE = ROOT / "examples" / "addons"
SHOUTED = (
    "1\n00:00:01,000 --> 00:00:04,000\nSLOW WATER\n\n2\n00:00:05,000 --> 00:00:08,000\nOak & <i>elm</i>.\n"
)
IN_THE_WINDOW = """
import sys
from pathlib import Path
from PySide6.QtWidgets import QApplication, QLabel
from dubrel.desk.passes import make_rooms
from dubrel.desk.shell.kit.theme import DAY
from dubrel.desk.shell.frame.window import MainWindow
app = QApplication([])
window = MainWindow(DAY, make_rooms)
window.filing.open_path(Path(sys.argv[1]))
window.show_room("intake")
engine = window.rooms["intake"].page.form.engine
print([engine.itemText(nth) for nth in range(engine.count())])
window.show_room("captions")
findings = window.rooms["captions"].findings
findings.settle()
print([one.rule for found in findings.by_caption.values() for one in found])
facts = window.rooms["captions"].panel.advice_facts
print([one.text() for one in facts.findChildren(QLabel)])
"""


def installed(source, folder):
    """A package installed into a folder, as pip does it, with nothing from elsewhere."""
    pip = [sys.executable, "-m", "pip", "install", "-q", "--no-index", "--no-deps", "--no-build-isolation"]
    subprocess.run([*pip, "--target", str(folder), str(source)], check=True, capture_output=True)
    return folder


@pytest.fixture(scope="module")
def addons(tmp_path_factory):
    """The folder in which the example is installed."""
    folder = tmp_path_factory.mktemp("addons")
    shutil.copytree(EXAMPLE, folder / "source")
    return installed(folder / "source", folder / "site")


@pytest.fixture
def dubrel(addons, tmp_path):
    """Runs the command line with the example installed."""

    def run(*argv, code=None, site=addons):
        call = ["-c", code] if code else ["-m", "dubrel"]
        env = {
            **os.environ,
            "PYTHONPATH": os.pathsep.join([str(ROOT), str(site)]),
            "DUBREL_LOG": str(tmp_path / "l"),
        }
        ran = subprocess.run(
            [sys.executable, *call, *map(str, argv)], capture_output=True, text=True, env=env, cwd=tmp_path
        )
        return ran.returncode, ran.stdout, ran.stderr

    return run


def test_a_form_is_written_read_back_and_read(dubrel, tmp_path):
    (tmp_path / "a.srt").write_text(SHOUTED)
    assert dubrel("convert", "a.srt", "b.cues")[0] == 0
    assert (tmp_path / "b.cues").read_text() == "1000 4000 SLOW WATER\n5000 8000 Oak & elm.\n"
    assert dubrel("convert", "b.cues", "c.vtt")[0] == 0
    assert "00:00:05.000 --> 00:00:08.000\nOak &amp; elm.\n" in (tmp_path / "c.vtt").read_text()


def test_a_recogniser_transcribes_by_its_name(dubrel, tmp_path):
    part_of(DEMO / "slow-water-7.opus", tmp_path / "a.wav", 24)
    status, _, said = dubrel("transcribe", "a.wav", "--engine", "tally", "-o", "a.txt", "--quiet")
    assert status == 0, said
    said = " ".join((tmp_path / "a.txt").read_text().split())  # speakers may be told apart inside a piece
    assert said.count("Piece number") == 2


def test_a_translator_is_found_by_its_name(dubrel, tmp_path):
    (tmp_path / "a.srt").write_text(SHOUTED)
    status, _, said = dubrel("translate", "a.srt", "--to", "de", "--engine", "capitals", "-o", "b.srt")
    assert status == 0, said
    assert "OAK & ELM." in (tmp_path / "b.srt").read_text()


def test_a_voice_speaks_by_its_name_and_its_language(dubrel, tmp_path):
    (tmp_path / "a.srt").write_text(SHOUTED)
    order = ("speak", "a.srt", "-o", "b.wav", "--language", "eo", "--captions", "c.srt", "--quiet")
    status, _, said = dubrel(*order, "--voice", "whistle")
    assert status == 0, said
    assert "SLOW WATER" in (tmp_path / "c.srt").read_text()
    assert (tmp_path / "b.wav").stat().st_size > 5 * 48_000
    status, _, said = dubrel("speak", "a.srt", "-o", "d.wav", "--language", "en", "--voice", "whistle")
    assert status == 2
    assert "The voice “whistle” does not speak English" in said


def test_a_check_stands_with_those_that_ship(dubrel, tmp_path):
    (tmp_path / "a.srt").write_text(SHOUTED)
    _, said, _ = dubrel("check", "a.srt")
    assert "is written in capitals throughout" in said


def test_the_window_has_the_recogniser_and_the_check(dubrel, tmp_path):
    (tmp_path / "a.srt").write_text(SHOUTED)
    status, said, problems = dubrel(tmp_path / "a.srt", code=IN_THE_WINDOW)
    assert status == 0, problems
    engines, rules, advice = said.splitlines()
    assert "Tally, an example" in engines
    assert "shouting" in rules
    assert "All in capitals" in advice


@pytest.mark.parametrize(
    ("file", "spoilt", "why"),
    [
        ("cuelist.py", "import nowhere_to_be_found", "No module named 'nowhere_to_be_found'"),
        ("shouting.py", "CHECK = 3", "Check is expected, and it is int"),
        ("tally.py", "1 / 0", "division by zero"),
        ("capitals.py", "del ENGINE", "has no attribute 'ENGINE'"),
    ],
)
def test_one_that_cannot_be_used_is_said_and_everything_else_works(
    dubrel, addons, tmp_path, file, spoilt, why
):
    site = tmp_path / "site"
    shutil.copytree(addons, site)
    module = site / "dubrel_addons" / file
    module.write_text(f"{module.read_text()}\n{spoilt}\n")
    (tmp_path / "a.srt").write_text(SHOUTED)
    status, _, said = dubrel("convert", "a.srt", "b.vtt", site=site)
    assert status == 0
    assert [why in one for one in said.splitlines()] == [True]
    assert "everything else works" in said
    assert "SLOW WATER" in (tmp_path / "b.vtt").read_text()


def test_a_name_that_is_not_there_is_told_with_those_that_are(dubrel, tmp_path):
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path / "a.opus")
    status, _, said = dubrel("transcribe", "a.opus", "--engine", "other", "-o", "a.txt")
    assert status == 2
    assert "known: builtin, folder:PATH of a model, remote:ADDRESS, tally." in said
