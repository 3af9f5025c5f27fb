"""Who did what: names with notes, queries and versions; who has a project open elsewhere."""

import json
import os
import time
from pathlib import Path

import pytest
from episodes import episode
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

import dubrel.store.locks as locks
from dubrel.edits.notes import QUERY
from dubrel.edits.words.wording import replace_text
from dubrel.store.projectfile import open_project, read_version
from dubrel.store.sharedlocks import Holder, holder_of, is_shared, lock_path
from dubrel.store.versions import version_names
from dubrel.user.settings import SETTINGS, Settings


@pytest.fixture
def named(window, tmp_path):
    """A window of Isolde's with a project of its own."""
    SETTINGS.write(Settings(name="Isolde"))
    window.filing.open_path(episode(tmp_path / "one.dubrel", 0))
    window.show_room("wording")
    return window


def test_a_query_says_who_asks_whom_and_who_answered(named, tmp_path):
    page = named.rooms["wording"].pull_out.page("notes")
    words = [word.id for word in named.session.project.transcript.turns[0].words[:1]]
    page.add(QUERY, words, "Which one?")
    page.to.setText("Tobiah")
    page.keep()
    [note] = named.session.project.notes
    assert (note.by, note.to, note.answered_by) == ("Isolde", "Tobiah", "")
    SETTINGS.write(Settings(name="Tobiah"))
    page.answer.setText("The oak one.")
    page.keep()
    named.filing.save()
    [note] = open_project(tmp_path / "one.dubrel").notes
    assert (note.by, note.to, note.answer, note.answered_by) == ("Isolde", "Tobiah", "The oak one.", "Tobiah")
    [row] = page.rows(named.session.project)
    assert (row.text, row.note) == ("Which one?  ↳ The oak one. (Tobiah)", "Query, by Isolde, for Tobiah")


def test_a_version_says_who_saved_it_and_what_was_done_in_it(named, tmp_path, qtbot):
    path = tmp_path / "one.dubrel"
    turn = named.session.project.transcript.turns[0]
    named.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
    named.filing.save()
    SETTINGS.write(Settings(name="Tobiah"))
    named.session.step(lambda p: replace_text(p, turn.id, 0, 8, "Nobody"), "Type")
    named.filing.save()
    assert open_project(path).by == "Tobiah"
    assert [read_version(path, name).project.by for name in version_names(path)] == ["Isolde", ""]
    named.commands.run("versions")
    page = named.side_pages.versions
    qtbot.waitUntil(lambda: len(page.looked) == 3)
    assert [page.table.item(row, 1).text() for row in range(3)] == ["Tobiah", "Isolde", ""]
    page.table.setCurrentCell(1, 0)
    assert page.work.text() == "Isolde’s pass: 1 correction."


def test_a_name_is_given_in_the_settings(window):
    window.commands.run("settings")
    page = window.side_pages.settings
    page.name.setText("  Isolde   Penhallow ")
    QTest.keyClick(page.name, Qt.Key.Key_Return)
    assert SETTINGS.read().name == "Isolde Penhallow"


# -- on a network folder ------------------------------------------------------------------------


def held_by(path: Path, host: str, age_s: float) -> None:
    """Another machine has a project open, and gave its last sign of life some time ago."""
    lock = lock_path(path)
    lock.write_text(json.dumps({"who": "Tobiah", "host": host, "pid": 7, "since": time.time() - 3600}))
    os.utime(lock, (time.time() - age_s,) * 2)


def test_a_project_that_is_open_on_another_machine_is_read_only_and_says_whose_it_is(window, tmp_path):
    path = episode(tmp_path / "one.dubrel", 0)
    held_by(path, "studio-2", 30)
    window.filing.open_path(path)
    assert window.session.read_only
    assert window.message.text().startswith("“one.dubrel” is open elsewhere (Tobiah on studio-2, since ")
    held_by(path, "studio-2", 600)
    window.filing.open_path(path)
    assert not window.session.read_only, "a dead lock is taken over"


def test_a_project_on_a_network_folder_says_that_it_is_open_until_it_is_closed(tmp_path, monkeypatch, window):
    mounts = tmp_path / "mounts"
    mounts.write_text(f"/dev/sda1 / ext4 rw 0 0\nserver:/season {tmp_path / 'net'} nfs4 rw 0 0\n")
    (tmp_path / "net").mkdir()
    assert is_shared(tmp_path / "net", str(mounts))
    assert not is_shared(tmp_path, str(mounts))
    monkeypatch.setattr(locks, "is_shared", lambda folder: is_shared(folder, str(mounts)))
    SETTINGS.write(Settings(name="Isolde"))
    path = episode(tmp_path / "net" / "one.dubrel", 0)
    window.filing.open_path(path)
    said = json.loads(lock_path(path).read_text())
    assert (said["who"], said["pid"]) == ("Isolde", os.getpid())
    assert holder_of(path) is None, "this machine has locks of its own"
    window.commands.run("close")
    assert not lock_path(path).exists()
    lock_path(path).write_bytes(b"torn \xff")
    assert holder_of(path) is None
    assert str(Holder("", "a", 1, time.time())).startswith("a, since ")
