"""Commands with options by chance: whatever is asked for, the answer is a status and a sentence."""

import argparse
import random
import shutil

import pytest
from conftest import DEMO

from dubrel.cli import main, parser

QUICK = ("convert", "captions", "check", "find", "cut", "release", "merge", "recover", "series")
INPUTS = (
    "podcast.dubrel",
    "film.dubrel",
    "words.srt",
    "empty.srt",
    "broken.dubrel",
    "none.srt",
    "a folder",
    "",
)
OUTPUTS = (
    "out.srt",
    "out.vtt",
    "out.json",
    "out.dubrel",
    "out.otio",
    "out.edl",
    "out.xyz",
    "nowhere/out.srt",
    "",
)
TEXTS = (
    "",
    " ",
    "oak",
    "0",
    "-1",
    "7",
    "nan",
    "1e9",
    "0:10-0:20",
    "9:00-9:10",
    "0.8:0.3",
    "en",
    "xx",
    "Web",
    "“q”",
)
WORK = ("run", "release")  # of a series: they take their time


@pytest.fixture
def here(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    shutil.copy(DEMO / "slow-water-7.dubrel", "podcast.dubrel")
    shutil.copy(DEMO / "heron-film.dubrel", "film.dubrel")
    (tmp_path / "words.srt").write_text("1\n00:00:01,000 --> 00:00:02,500\nOak, mostly.\n")
    (tmp_path / "empty.srt").write_text("")
    (tmp_path / "broken.dubrel").write_bytes(b"PK\x03\x04 nothing that can be read")
    (tmp_path / "a folder").mkdir()
    return tmp_path


def value_for(action: argparse.Action, chance: random.Random) -> str:
    if action.choices is not None:
        return chance.choice([str(one) for one in action.choices if one not in WORK])
    name = action.dest
    if name in ("output", "fix", "report", "explain"):
        return chance.choice(OUTPUTS)
    if name in (
        "input",
        "project",
        "mine",
        "theirs",
        "files",
        "base",
        "speakers",
        "cut_list",
        "series",
        "what",
    ):
        return chance.choice(INPUTS)
    return chance.choice(TEXTS)


def command(chance: random.Random) -> list[str]:
    """A command with what it needs, and some of what it may have."""
    [commands] = [one for one in parser()._actions if isinstance(one, argparse._SubParsersAction)]
    name = chance.choice(QUICK)
    argv, first = [name], []
    for action in commands.choices[name]._actions:
        if not action.option_strings:
            first.append(value_for(action, chance))
        elif action.dest not in ("help", "media", "scheduler") and (
            action.required or chance.random() < 0.25
        ):
            argv.append(chance.choice(action.option_strings))
            argv += [] if action.nargs == 0 else [value_for(action, chance)]
    return [*argv, *(["--", *first] if first else [])]


@pytest.mark.parametrize("seed", range(30))
def test_any_command_ends_with_a_status_and_sentences(here, capsys, seed):
    argv = command(random.Random(seed))
    try:
        status = main(argv)
    except SystemExit as ended:  # of the library that reads options
        status = ended.code
    said = capsys.readouterr()
    assert status in (0, 1, 2), (argv, said.err)
    lines = [line for line in said.err.replace("\r", "\n").splitlines() if line.startswith("dubrel: ")]
    assert "Traceback" not in said.err and (status != 2 or lines or "usage: " in said.err), argv
    assert all(line.rstrip().endswith((".", "!", "?", "”", ")")) for line in lines), (argv, lines)
