"""How far a command is: one line of a terminal that nothing else is written into."""

import io
from types import SimpleNamespace

import pytest
from conftest import DEMO
from recordings import cut_short

from dubrel.cli import main
from dubrel.cli.common import say, show, shown
from dubrel.jobs.machinery.events import Finished, Progress, Warning_


class Terminal(io.StringIO):
    """A terminal that keeps what is written to it."""

    def isatty(self):
        return True


@pytest.fixture
def terminal(monkeypatch):
    made = Terminal()
    monkeypatch.setattr("dubrel.cli.common.sys", SimpleNamespace(stderr=made, argv=["dubrel"]))
    return made


def test_progress_is_one_line_and_gone_before_anything_is_said(terminal):
    show(Progress("Reading", 0.5), False)
    show(Progress("Reading", 0.75, 3.2), False)
    assert terminal.getvalue().endswith("\r\033[KReading: 75%, 3 s left")
    show(Warning_("A word is missing."), False)
    show(Progress("Writing", 0.1), False)
    say("Done with it.")
    assert terminal.getvalue().count("\n") == 2
    for said in ("dubrel: A word is missing.\n", "dubrel: Done with it.\n"):
        assert f"\r\033[K{said}" in terminal.getvalue()


def test_it_is_gone_once_the_job_is_done_or_fails(terminal):
    assert [*shown([Progress("Reading", 0.5), Finished()], False)][1] == Finished()
    assert terminal.getvalue().endswith("Reading: 50%\r\033[K")

    def failing():
        yield Progress("Reading", 0.6)
        raise ValueError

    with pytest.raises(ValueError):
        list(shown(failing(), False))
    assert terminal.getvalue().endswith("Reading: 60%\r\033[K")


def test_a_line_never_wraps(terminal, monkeypatch):
    monkeypatch.setenv("COLUMNS", "30")
    show(Progress("Writing a film with a long name.mp4", 0.5), False)
    assert terminal.getvalue() == "\r\033[KWriting a film with a long na"
    say("Done.")


def test_in_a_file_it_is_a_line_for_each_fifth_of_each_stage(capsys):
    for share in range(100):
        show(Progress("Reading", share / 100), False)
        show(Finished(), False)  # what a job says besides begins no new count
    show(Progress("Writing", 0.0), False)
    assert capsys.readouterr().err.splitlines() == [
        *(f"Reading: {share}%" for share in (0, 20, 40, 60, 80)),
        "Writing: 0%",
    ]
    show(Progress("Reading", 0.5), True)
    assert capsys.readouterr().err == ""


def test_a_command_leaves_nothing_but_its_result_on_a_terminal(terminal, capsys, tmp_path):
    film = cut_short(DEMO / "heron-film.mp4", tmp_path / "film.mp4", 12.0)
    assert main(["shots", str(film)]) == 0
    assert "Finding shot changes: 9" in terminal.getvalue() and terminal.getvalue().endswith("\r\033[K")
    assert capsys.readouterr().out == "00:00:10.320\n"
