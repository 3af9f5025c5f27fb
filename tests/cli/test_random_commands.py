"""Commands with options by chance: whatever is asked for, the answer is a status and a sentence.

More of the slow ones: ``SLOW_SEEDS=400 .venv/bin/python -m pytest tests/cli/test_random_commands.py``.
"""

import argparse
import os
import random
import shutil
from collections.abc import Iterable

import pytest
from conftest import DEMO
from recordings import cut_short

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
SLOW = {  # with what they are for; the film is so short that each takes a moment
    "transcribe": {"media": ("short.mp4", "*.mp4"), "output": ("out.srt", "out.dubrel")},
    "speakers": {"media": ("short.mp4",), "output": ("out.rttm", "out.json")},
    "translate": {
        "input": ("film.dubrel", "words.srt"),
        "to": ("pt", "es"),
        "output": ("out.srt", "out.xlf"),
    },
    "speak": {"input": ("words.srt",), "output": ("out.wav", "out.mp4"), "voice": ("auto", "formant")},
    "align": {"media": ("short.mp4",), "script": ("words.txt",), "output": ("out.vtt", "out.dubrel")},
    "audit": {"media": ("short.mp4",), "captions": ("words.srt",), "fix": ("out.srt",)},
    "conform": {"input": ("film.dubrel",), "new": ("short.mp4",), "output": ("out.srt", "out.dubrel")},
    "cameras": {"input": ("film.dubrel",), "films": ("short.mp4",), "output": ("out.otio", "out.edl")},
    "clips": {"input": ("film.dubrel",), "output": ("clips",), "length": ("2:9",), "most": ("2",)},
    "shots": {"input": ("short.mp4",)},
    "forward": {"media": ("short.mp4",), "output": ("out.wav", "out.mp4"), "amount": ("50",)},
    "handover": {"project": ("film.dubrel",)},
    "merge": {"mine": ("film.dubrel",), "theirs": ("film.dubrel",), "output": ("out.dubrel",)},
}
_SLOW_SEEDS = int(os.environ.get("SLOW_SEEDS", "10"))
WORK = ("run", "release")  # of a series: they take their time


@pytest.fixture(scope="session")
def short_film(tmp_path_factory):
    return cut_short(DEMO / "heron-film.mp4", tmp_path_factory.mktemp("short") / "short.mp4", 4.0)


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


def value_for(action: argparse.Action, chance: random.Random, of: str = "") -> str:
    meant = SLOW.get(of, {}).get(action.dest)
    if meant is not None and chance.random() < 0.85:
        return chance.choice(meant)
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


def command(chance: random.Random, names: Iterable[str], often: float) -> list[str]:
    """A command with what it needs, and some of what it may have."""
    [commands] = [one for one in parser()._actions if isinstance(one, argparse._SubParsersAction)]
    name = chance.choice([*names])
    argv, first = [name], []
    for action in commands.choices[name]._actions:
        if not action.option_strings:
            first.append(value_for(action, chance, name))
        elif action.dest not in ("help", "scheduler") and (action.required or chance.random() < often):
            argv.append(chance.choice(action.option_strings))
            argv += [] if action.nargs == 0 else [value_for(action, chance, name)]
    return [*argv, *(["--", *first] if first else [])]


def check(argv: list[str], capsys) -> None:
    """Run it; what it says."""
    try:
        status = main(argv)
    except SystemExit as ended:  # of the library that reads options
        status = ended.code
    said = capsys.readouterr()
    assert status in (0, 1, 2), (argv, said.err)
    lines = [line for line in said.err.splitlines() if line.startswith("dubrel: ")]
    assert "Traceback" not in said.err and (status != 2 or lines or "usage: " in said.err), argv
    assert all(line.rstrip().endswith((".", "!", "?", "”", ")")) for line in lines), (argv, lines)


@pytest.mark.parametrize("seed", range(30))
def test_any_command_ends_with_a_status_and_sentences(here, capsys, seed):
    check(command(random.Random(seed), QUICK, 0.25), capsys)


@pytest.mark.parametrize("seed", range(_SLOW_SEEDS))
def test_so_does_one_that_takes_its_time(here, short_film, capsys, seed):
    shutil.copy(short_film, "short.mp4")
    (here / "words.txt").write_text("Anna: Oak, mostly, and most of it tired.\n")
    check(command(random.Random(f"slow {seed}"), SLOW, 0.15), capsys)
