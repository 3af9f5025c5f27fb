"""What takes seconds of a long project, computed in a process of its own."""

import os
import signal
import threading
import time
from concurrent.futures import CancelledError
from random import Random

import pytest
from conftest import DEMO
from random_projects import any_project

from dubrel.edits.cuts.removals import removals
from dubrel.jobs.machinery import apart as module
from dubrel.jobs.machinery.apart import Apart, packed, unpacked
from dubrel.model.cutrules import PRESETS
from dubrel.release.readiness import not_ready
from dubrel.store.projectfile import open_project


@pytest.fixture
def apart(monkeypatch):
    monkeypatch.setattr(module, "LONG", 0)
    made = Apart()
    yield made
    made.close()


@pytest.fixture(scope="module")
def talk():
    return open_project(DEMO / "slow-water-7.dubrel")


def process_of(_project):
    return os.getpid()


def asleep(_project, path):
    path.write_text(str(os.getpid()))
    time.sleep(60)


def asleep_once(project, path):
    if path.exists():
        return project.title
    asleep(project, path)
    return ""


def fails(_project):
    raise ValueError("no such thing")


def test_it_finds_what_is_found_here(apart, talk):
    rules = next(iter(PRESETS.values()))
    assert apart.compute(process_of, talk) != os.getpid()
    assert apart.compute(not_ready, talk) == not_ready(talk)
    assert apart.compute(removals, talk, rules) == removals(talk, rules)
    with pytest.raises(ValueError, match="no such thing"):
        apart.compute(fails, talk)


def test_a_short_project_is_computed_here(talk):
    made = Apart()
    assert made.compute(process_of, talk) == os.getpid()
    made.close()


@pytest.mark.parametrize("seed", range(12))
def test_any_project_arrives_as_it_was_sent(monkeypatch, seed):
    monkeypatch.setattr(module, "_TURNS", 2)
    monkeypatch.setattr(module, "_CAPTIONS", 3)
    project = any_project(Random(seed))
    there = unpacked(packed(project))
    assert there == project
    assert (there.next_id, there.by) == (project.next_id, project.by)


def test_a_process_that_is_killed_is_done_without(apart, talk, tmp_path):
    found, began = [], tmp_path / "began"
    asking = threading.Thread(target=lambda: found.append(apart.compute(asleep_once, talk, began)))
    asking.start()
    while not began.exists() or not began.read_text():
        time.sleep(0.01)
    os.kill(int(began.read_text()), signal.SIGKILL)
    asking.join(30)
    assert found == [talk.title]


def test_closed_it_ends_what_is_computed_and_begins_nothing(apart, talk, tmp_path):
    errors, began = [], tmp_path / "began"

    def ask():
        try:
            apart.compute(asleep, talk, began)
        except Exception as error:
            errors.append(error)

    asking = threading.Thread(target=ask)
    asking.start()
    while not began.exists():
        time.sleep(0.01)
    apart.close()
    asking.join(30)
    assert not asking.is_alive() and len(errors) == 1
    with pytest.raises(CancelledError):
        apart.compute(process_of, talk)
