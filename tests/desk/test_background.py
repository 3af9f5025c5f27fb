"""What runs beside the interface: results in order, forgotten ones never taken, nothing behind slow work."""

from __future__ import annotations

import logging
import threading

import pytest

from dubrel.desk.shell.core.background import Background, beside
from dubrel.desk.shell.core.session import Session
from dubrel.model import Project


@pytest.fixture
def background(qtbot):
    made = Background()
    yield made
    made.close()


@pytest.fixture
def gate():
    """Slow work waits until it is set; the test never leaves a thread behind."""
    made = threading.Event()
    yield made
    made.set()


def test_results_are_taken_in_order_on_the_thread_of_the_interface(qtbot, background):
    taken = []
    for one in range(5):
        background.ask(lambda one=one: one, lambda found: taken.append((found, threading.current_thread())))
    qtbot.waitUntil(lambda: not background.busy)
    assert taken == [(one, threading.main_thread()) for one in range(5)]


def test_the_newest_replaces_what_runs_and_what_waits(qtbot, gate):
    background = Background(newest=True)
    taken, done = [], []

    def work(one):
        gate.wait()
        done.append(one)
        return one

    for one in range(4):
        background.ask(lambda one=one: work(one), taken.append)
    gate.set()
    qtbot.waitUntil(lambda: not background.busy)
    assert taken == [3]
    assert done == [0, 3]  # what had not begun was never begun
    background.close()


def test_work_that_runs_can_see_that_it_was_forgotten(qtbot, background, gate):
    background = Background(newest=True)
    outdated, said = background.outdated(), []
    background.ask(lambda: gate.wait() and said.append(outdated()), lambda _: None)
    assert not outdated()
    background.forget()
    gate.set()
    background.ask(lambda: None, lambda _: said.append("next"))
    qtbot.waitUntil(lambda: not background.busy)
    assert said == [True, "next"]
    background.close()


def test_what_was_asked_of_a_project_is_forgotten_with_it(qtbot, gate):
    session, taken = Session(), []
    background = Background(until=session.opened)
    background.ask(gate.wait, taken.append)
    session.open(Project(title="another"), None, saved=True)
    gate.set()
    background.ask(lambda: "of this one", taken.append)
    qtbot.waitUntil(lambda: not background.busy)
    assert taken == ["of this one"]
    background.close()


def test_a_failure_goes_to_who_asked_or_into_the_log(qtbot, background, caplog):
    failures = []
    background.ask(lambda: 1 / 0, failures.append, failures.append)
    with caplog.at_level(logging.ERROR):
        background.ask(lambda: {}["missing"], failures.append)
        qtbot.waitUntil(lambda: not background.busy)
    assert [type(one) for one in failures] == [ZeroDivisionError]
    assert "KeyError" in caplog.text


def test_one_that_forgets_while_its_results_are_taken_takes_no_more(qtbot, background):
    taken = []

    def first(found):
        taken.append(found)
        background.forget()

    background.ask(lambda: 1, first)
    background.ask(lambda: 2, taken.append)
    qtbot.waitUntil(lambda: not background.busy)
    assert taken == [1]


def test_full_pools_keep_nobody_waiting(qtbot, gate):
    slow, quick, taken = Background(), Background(), []
    for _ in range(50):
        slow.ask(gate.wait, lambda _: None)
    quick.ask(lambda: "at once", taken.append)
    qtbot.waitUntil(lambda: taken == ["at once"])
    assert beside(lambda: "too") == "too"
    slow.close()
    quick.close()


def test_slow_things_take_turns_and_what_is_forgotten_is_left_out(qtbot, gate):
    first, second, third = (Background(slow=True) for _ in range(3))
    quick, begun, taken = Background(), [], []
    first.ask(gate.wait, lambda _: taken.append("first"))
    second.ask(lambda: begun.append("second"), lambda _: None)
    third.ask(lambda: begun.append("third"), lambda _: taken.append("third"))
    quick.ask(lambda: "at once", taken.append)
    qtbot.waitUntil(lambda: taken == ["at once"])
    assert begun == []
    second.forget()
    gate.set()
    qtbot.waitUntil(lambda: taken == ["at once", "first", "third"])
    assert begun == ["third"]
    for one in (first, second, third, quick):
        one.close()


def test_closed_it_begins_nothing_that_waited(qtbot, gate):
    background, begun = Background(), []
    background.ask(gate.wait, lambda _: None)
    background.ask(lambda: begun.append(1), lambda _: None)
    background.close()
    gate.set()
    another = Background()
    another.ask(lambda: None, begun.append)
    qtbot.waitUntil(lambda: not another.busy)
    assert begun == [None]
    another.close()
