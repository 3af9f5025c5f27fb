"""Merging a colleague's changes in the window."""

import shutil

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from test_series_desk import episode

from dubrel.cli import main
from dubrel.desk.together.mergedialog import MergeDialog, about_merge
from dubrel.edits.words.wording import replace_text
from dubrel.store.projectfile import open_project, read_version, save
from dubrel.store.versions import version_names


def written(path, was, now):
    """A project file in which a colleague wrote something otherwise, and saved."""
    project = open_project(path)
    turn = project.transcript.turns[0]
    at = turn.text.index(was)
    save(replace_text(project, turn.id, at, at + len(was), now), path)


@pytest.fixture
def files(tmp_path):
    """My file and the colleague's copy of it."""
    mine = episode(tmp_path / "mine.dubrel", 0)
    theirs = tmp_path / "theirs.dubrel"
    shutil.copy(mine, theirs)
    return mine, theirs


def mine_says(window):
    return window.session.project.transcript.turns[0].text


def test_a_colleagues_changes_come_in_one_step_and_their_state_stays_a_version(window, files):
    mine, theirs = files
    window.filing.open_path(mine)
    turn = window.session.project.transcript.turns[0]
    window.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
    written(theirs, "dry", "damp")
    asked = []
    window.dialogs.colleagues_project = lambda: theirs
    window.dialogs.merging = lambda name, about, conflicts: asked.append((about, conflicts)) or {}
    window.commands.run("merge_project")
    assert mine_says(window) == "Somebody found the stern post. It was damp oak."
    assert asked == [("New from the colleague: 1 correction. Nothing was changed by both differently.", ())]
    assert window.session.history.undo_label == "Merge theirs.dubrel"
    window.filing.save()
    there = [read_version(mine, name).project.transcript.turns[0].text for name in version_names(mine)]
    assert open_project(theirs).transcript.turns[0].text in there
    window.session.undo()
    assert mine_says(window) == "Somebody found the stern post. It was dry oak."


def test_what_both_changed_is_decided_by_key(window, files, qtbot):
    mine, theirs = files
    window.filing.open_path(mine)
    turn = window.session.project.transcript.turns[0]
    window.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
    written(theirs, "We", "Nobody")
    written(theirs, "dry", "damp")
    shown = []

    def decide(name, about, conflicts):
        dialog = MergeDialog(window.desk, name, about, conflicts)
        shown.append([dialog.table.item(0, column).text() for column in range(5)])
        QTest.keyClick(dialog.table, Qt.Key.Key_Right)
        assert dialog.table.item(0, 4).checkState() == Qt.CheckState.Checked
        return dialog.decisions

    window.dialogs.colleagues_project = lambda: theirs
    window.dialogs.merging = decide
    window.commands.run("merge_project")
    assert shown == [["0:01", "the words", "We", "Somebody", "Nobody"]]
    assert mine_says(window) == "Nobody found the stern post. It was damp oak."


def test_words_that_arrive_while_the_dialog_is_open_stay(window, files):
    mine, theirs = files
    window.filing.open_path(mine)
    written(theirs, "dry", "damp")
    turn = window.session.project.transcript.turns[0]

    def meanwhile(name, about, conflicts):
        window.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
        return {}

    window.dialogs.colleagues_project = lambda: theirs
    window.dialogs.merging = meanwhile
    window.commands.run("merge_project")
    assert mine_says(window) == "Somebody found the stern post. It was damp oak."


def test_another_project_opened_meanwhile_is_left_alone(window, files, tmp_path):
    mine, theirs = files
    window.filing.open_path(mine)
    written(theirs, "dry", "damp")
    other = episode(tmp_path / "other.dubrel", 1)
    window.dialogs.colleagues_project = lambda: theirs
    window.dialogs.merging = lambda *_: window.filing.open_path(other) and {}
    window.commands.run("merge_project")
    assert window.session.path == other
    assert not window.session.dirty
    assert open_project(mine).transcript.turns[0].text == "We found the stern post. It was dry oak."


def test_what_cannot_be_merged_is_said_and_changes_nothing(window, files, tmp_path):
    mine, theirs = files
    window.commands.run("merge_project")
    assert window.message.text() == "This project has no file yet. Save it first."
    window.filing.open_path(mine)
    before = window.session.project
    stranger = episode(tmp_path / "stranger.dubrel", 1)
    for path, expected in (
        (mine, "That is the file of this project."),
        (tmp_path / "none.dubrel", "does not exist"),
        (theirs, "has nothing that is not here already"),
    ):
        window.dialogs.colleagues_project = lambda path=path: path
        window.commands.run("merge_project")
        assert expected in window.message.text()
    window.dialogs.colleagues_project = lambda: stranger
    window.commands.run("merge_project")  # nothing tells what both began with, and nobody says it
    assert window.session.project is before
    assert about_merge("", ()).endswith("Nothing was changed by both differently.")


def test_merge_by_command(files, tmp_path, capsys):
    mine, theirs = files
    written(mine, "We", "Somebody")
    written(theirs, "dry", "damp")
    out = tmp_path / "out.dubrel"
    assert main(["merge", str(mine), str(theirs), "-o", str(out), "--quiet"]) == 0
    assert open_project(out).transcript.turns[0].text == "Somebody found the stern post. It was damp oak."
    written(theirs, "We", "Nobody")
    assert main(["merge", str(mine), str(theirs), "--take", "theirs", "-o", str(out), "--quiet"]) == 1
    assert capsys.readouterr().out.split("\t")[1:] == ["the words", "Somebody", "Nobody\n"]
    assert open_project(out).transcript.turns[0].text == "Nobody found the stern post. It was damp oak."
    stranger = episode(tmp_path / "stranger.dubrel", 1)
    assert main(["merge", str(mine), str(stranger), "-o", str(out)]) == 2
    assert "no state in common" in capsys.readouterr().err
    assert main(["merge", str(mine), str(stranger), "--base", str(mine), "--quiet"]) == 0
