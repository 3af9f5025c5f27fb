"""Merging a colleague's changes in the window."""

import shutil
import zipfile
from pathlib import Path

import av
import numpy as np
import pytest
from conftest import DEMO
from episodes import episode
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from samples import beginning

from dubrel.base.value import replace
from dubrel.cli import main
from dubrel.desk.together.mergedialog import MergeDialog, about_merge
from dubrel.edits.words.wording import replace_text
from dubrel.media.probe import probe
from dubrel.media.sound import decode_blocks
from dubrel.store.handover import unpack_handover
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


# -- handing over -----------------------------------------------------------------------------


@pytest.fixture(scope="module")
def archive(tmp_path_factory, scene):
    """The beginning of the film, handed over by command."""
    folder = tmp_path_factory.mktemp("handed")
    film = Path(shutil.copy(scene, folder / "heron-film.mp4"))
    begun = beginning(open_project(DEMO / "heron-film.dubrel"), 2)
    save(replace(begun, media=probe(film)), folder / "heron-film.dubrel")
    archive = folder / "heron.dubrel-handover"
    assert main(["handover", str(folder / "heron-film.dubrel"), "-o", str(archive), "--quiet"]) == 0
    return archive


@pytest.fixture
def handed(tmp_path, archive):
    """A project of the film, and a colleague's folder with its archive alone."""
    for name in ("heron-film.dubrel", "heron-film.mp4"):
        shutil.copy(archive.with_name(name), tmp_path)
    (tmp_path / "colleague").mkdir()
    return tmp_path / "heron-film.dubrel", Path(shutil.copy(archive, tmp_path / "colleague"))


def test_what_is_handed_over_is_worked_on_without_the_recording_and_comes_back(window, handed, qtbot):
    mine, archive = handed
    film = mine.with_suffix(".mp4")
    film.rename(film.with_name("away.mp4"))
    window.filing.open_path(archive)
    session = window.session
    assert session.path == archive.with_suffix("") / "heron-film.dubrel"
    assert session.media_path == session.path.with_suffix(".mkv")
    qtbot.waitUntil(lambda: not session.recording_check.busy)
    assert not session.is_another
    with av.open(str(session.media_path)) as small:
        assert small.streams.video[0].height == 360
        assert small.streams.audio[0].codec_context.name.endswith("opus")
    turn = session.project.transcript.turns[0]
    session.step(lambda p: replace_text(p, turn.id, 0, len(turn.words[0].text), "Changed"), "Type")
    window.filing.save()
    film.with_name("away.mp4").rename(film)
    theirs = session.path
    window.filing.open_path(mine)
    window.dialogs.colleagues_project = lambda: theirs
    window.dialogs.merging = lambda name, about, conflicts: {one.key: "mine" for one in conflicts}
    window.commands.run("merge_project")
    assert window.session.project.transcript.turns[0].text.startswith("Changed")
    assert window.session.media_path == film
    assert window.session.project.media.name == "heron-film.mp4"


def test_the_full_recording_is_found_by_its_digest_when_it_lies_beside_what_was_handed_over(
    window, handed, qtbot
):
    mine, archive = handed
    window.filing.open_path(archive)
    full = window.session.path.with_name("from the disk.mp4")
    shutil.copy(mine.with_suffix(".mp4"), full)
    window.filing.open_path(mine)
    window.filing.open_path(archive.with_suffix("") / "heron-film.dubrel")
    qtbot.waitUntil(lambda: window.session.media_path == full)
    assert not window.session.dirty or window.session.project.media.path == str(full)


def test_the_sound_of_a_stand_in_is_where_that_of_the_recording_is(handed, tmp_path):
    mine, archive = handed
    small = unpack_handover(archive).with_suffix(".mkv")
    whole = [np.concatenate(list(decode_blocks(one))) for one in (mine.with_suffix(".mp4"), small)]
    length = min(map(len, whole))
    one, other = (sound[:length].astype(float) for sound in whole)
    piece = one[16_000 * 12 : 16_000 * 16]
    found = np.correlate(other[16_000 * 12 - 800 : 16_000 * 16 + 800], piece, "valid").argmax() - 800
    assert abs(found) <= 16, "within a millisecond"


def test_what_was_not_handed_over_by_us_is_refused_and_nothing_is_written(window, tmp_path):
    for nth, names in enumerate((["../out.dubrel"], ["a.dubrel", "b.dubrel"], ["film.mkv"])):
        path = tmp_path / f"{nth}.dubrel-handover"
        with zipfile.ZipFile(path, "w") as archive:
            for name in names:
                archive.writestr(name, b"x")
        window.filing.open_path(path)
        assert "was not handed over by Dubrel" in window.message.text()
    (tmp_path / "torn.dubrel-handover").write_bytes(b"PK\x03\x04 torn")
    window.filing.open_path(tmp_path / "torn.dubrel-handover")
    assert "is damaged" in window.message.text()
    assert sorted(one.suffix for one in tmp_path.iterdir()) == [".dubrel-handover"] * 4
    assert window.session.path is None


def test_handing_over_in_the_window(window, files, qtbot):
    mine, _ = files
    window.commands.run("hand_over")
    assert window.message.text() == "This project has no file yet. Save it first."
    window.filing.open_path(mine)
    out = mine.with_suffix(".dubrel-handover")
    window.dialogs.handover_file = lambda proposed: proposed
    window.commands.run("hand_over")
    qtbot.waitUntil(lambda: not window.jobs.busy)
    assert out.is_file()
    assert open_project(unpack_handover(out)).transcript == open_project(mine).transcript
