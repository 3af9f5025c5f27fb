"""Work that a crash left: what scripts and tests of it share."""

import subprocess
import sys
import time

from conftest import ROOT, spoken

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.store.projectfile import save
from dubrel.store.recovery import leftovers

_PRELUDE = f"""
import os, signal, sys, time
sys.path[:0] = [{str(ROOT / "tests")!r}]
from conftest import spoken
from crashes import corrected, until_on_the_disk
from dubrel.edits.intake import add_heard
from dubrel.model import Project
from dubrel.store.journal import Journal, journals_folder
from dubrel.store.projectfile import open_project
"""


def corrected(project, nth, text):
    """The project with one word written otherwise."""
    turns, at = list(project.transcript.turns), nth
    for place, turn in enumerate(turns):
        if at < len(turn.words):
            changed = list(turn.words)
            changed[at] = replace(changed[at], text=text)
            turns[place] = replace(turn, words=tuple(changed))
            break
        at -= len(turn.words)
    return replace(project, transcript=replace(project.transcript, turns=tuple(turns)))


def without_turn(project, place):
    """The project without a turn, set into captions again."""
    turns = project.transcript.turns
    kept = (*turns[:place], *turns[place + 1 :])
    return set_again(replace(project, transcript=replace(project.transcript, turns=kept)), DEFAULT_STYLE)


def left_by_a_crash(tmp_path, script):
    """Run a script that ends in its midst; what it left behind."""
    subprocess.run([sys.executable, "-c", _PRELUDE + script], check=False, cwd=tmp_path, timeout=60)
    return leftovers()


def until_on_the_disk(folder, piece):
    """Wait until a log holds something: a busy disk may take its time."""
    until = time.monotonic() + 50
    while not any(piece in log.read_bytes() for log in folder.glob("*/log")):
        assert time.monotonic() < until, "nothing was written"
        time.sleep(0.02)


def grown(project):
    """Some steps of different kinds, each from the one before."""
    steps = [project]
    steps.append(set_again(project, DEFAULT_STYLE))
    steps.append(corrected(steps[-1], 3, "boats"))
    steps.append(add_heard(steps[-1], spoken("And one more. Then another.", start=60_000)))
    steps.append(without_turn(steps[-1], 1))
    steps.append(replace(steps[-1], title="Renamed", subtitle="–"))
    steps.append(steps[2])
    return steps


def crashed(tmp_path, boards):
    """A project file, and newer work beside it that a crash left."""
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    return path, left_by_a_crash(
        tmp_path,
        f"""
from pathlib import Path
path = Path({str(path)!r})
journal = Journal(open_project(path), path)
journal.offer(corrected(open_project(path), 3, "boats,")); journal.flush()
os._exit(1)
""",
    )
