"""Files that are written: earlier versions, links, modes, damage."""

import os
import signal  # noqa: F401  scripts of these tests use it
import stat
from datetime import UTC, datetime, timedelta

import pytest
from conftest import words
from crashes import corrected, without_turn
from PySide6.QtTest import QTest

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.files import write_atomically
from dubrel.project.passages import passages
from dubrel.project.summary import summary
from dubrel.store import versions
from dubrel.store.projectfile import open_project, read_version, save
from dubrel.user.kept import DamageSaid, Kept

pytestmark = pytest.mark.usefixtures("own_state")


def test_saving_keeps_the_states_before(tmp_path, boards):
    path = tmp_path / "p.dubrel"
    for text in ("one", "two", "three"):
        save(corrected(boards, 0, text), path)
    names = versions.version_names(path)
    assert [words(read_version(path, name).project)[0].text for name in names] == ["two", "one"]
    save(corrected(boards, 0, "three"), path)
    assert versions.version_names(path) == names  # nothing changed, nothing kept
    assert words(open_project(path))[0].text == "three"


def test_versions_are_thinned_out_with_age():
    now = datetime(2026, 11, 26, 12, 0, tzinfo=UTC)
    every = [now - timedelta(minutes=7 * nth) for nth in range(2000)]  # for ten days
    found = versions.thinned([(f"versions/{at:%Y%m%dT%H%M%S.%f}Z.json.gz", b"") for at in every], now)
    ages = [now - versions.time_of(name) for name, _ in found]
    assert len(found) == 20 and ages == sorted(ages)
    assert sum(age < timedelta(hours=1) for age in ages) == 6
    assert max(ages) >= timedelta(hours=13)


def test_a_damaged_version_is_one_sentence_and_the_others_stay(tmp_path, boards):
    path = tmp_path / "p.dubrel"
    for text in ("one", "two", "three"):
        save(corrected(boards, 0, text), path)
    name = versions.version_names(path)[0]
    with pytest.raises(ProjectError, match="damaged"):
        read_version(path, name.replace("2026", "2025"))
    with pytest.raises(ValueError, match="too large, or cut off"):
        versions.unpacked(b"\x1f\x8b\x08\0\0\0\0\0\0\0")


def test_a_version_is_looked_at_and_brought_back_as_one_step(window, qtbot, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    window.session.open(boards, None, saved=False)
    window.session.save(path)
    QTest.keyClicks(window.sheet, "So ")
    window.filing.save()
    QTest.keyClicks(window.sheet, "now ")
    window.commands.run("versions")
    page = window.side_pages.versions
    assert page.names[0] == "" and len(page.names) == 2
    qtbot.waitUntil(lambda: len(page.looked) == 2)
    since = [page.table.item(row, 3).text() for row in range(2)]
    assert since[0].startswith("1 new word,") and since[1].startswith("2 new words,")
    page.table.setCurrentCell(1, 0)
    assert page.passages.rowCount() == 1
    before = window.session.project
    page.back.click()
    assert window.session.project.transcript == boards.transcript
    assert window.session.undo() == "Restore a version"
    assert window.session.project.transcript == before.transcript


def test_versions_go_along_where_a_project_is_saved_as_another_file(window, tmp_path, boards):
    first, second = tmp_path / "first.dubrel", tmp_path / "second.dubrel"
    window.session.open(boards, None, saved=False)
    window.session.save(first)
    QTest.keyClicks(window.sheet, "So ")
    window.session.save(first)
    QTest.keyClicks(window.sheet, "now ")
    window.session.save(second)
    counts = [len(words(read_version(second, name).project)) for name in versions.version_names(second)]
    assert counts == [len(words(boards)) + 1, len(words(boards))]
    assert len(versions.version_names(first)) == 1


def test_words_beside_words(boards):
    other = without_turn(corrected(corrected(boards, 0, "Chiefly"), 1, "elm,"), 1)
    found = passages(boards, other)
    assert [(one.before, one.after) for one in found] == [
        ("Mostly oak,", "Chiefly elm,"),
        (boards.transcript.turns[1].text, ""),
    ]
    assert passages(boards, boards) == [] and not summary(boards, boards)


def test_a_link_stays_a_link_and_a_mode_is_kept(tmp_path, boards):
    real = tmp_path / "elsewhere" / "real.dubrel"
    real.parent.mkdir()
    save(boards, real)
    real.chmod(0o640)
    link = tmp_path / "link.dubrel"
    link.symlink_to(real)
    save(corrected(boards, 0, "Chiefly"), link)
    assert link.is_symlink() and words(open_project(real))[0].text == "Chiefly"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert sorted(one.name for one in real.parent.iterdir()) == ["real.dubrel"]


def test_what_does_not_read_back_does_not_replace(tmp_path, boards, monkeypatch):
    path = tmp_path / "p.dubrel"
    save(boards, path)
    before = path.read_bytes()

    def rotten(target, write, verify=None, **how):
        def spoil(temporary):
            data = bytearray(temporary.read_bytes())
            data[60] ^= 4
            temporary.write_bytes(data)
            verify(temporary)

        write_atomically(target, write, spoil, **how)

    monkeypatch.setattr("dubrel.store.projectfile.write_atomically", rotten)
    with pytest.raises(Exception, match=r"does not hold|CRC|decompressing|bad"):
        save(corrected(boards, 0, "Chiefly"), path)
    assert path.read_bytes() == before


def test_a_device_is_not_replaced(tmp_path):
    fifo = tmp_path / "pipe"
    os.mkfifo(fifo)
    with pytest.raises(Exception, match="is a device, not a file"):
        write_atomically(fifo, lambda file: file.write(b"x"))
    assert stat.S_ISFIFO(fifo.stat().st_mode)


def test_a_damaged_file_is_put_aside_once_for_each_time(tmp_path):
    path, said = tmp_path / "queue.json", list[str]()
    damage = DamageSaid(said.append)
    kept = Kept("queue.json", "The queue", lambda value: value["items"], list, list, lambda: tmp_path)
    for name in ("queue damaged.json", "queue damaged 2.json"):
        path.write_text('{"items": NaN}')
        assert kept.read() == []
        assert (tmp_path / name).read_text() == '{"items": NaN}' and not path.exists()
    assert len(said) == 2 and "queue damaged 2.json" in said[1]
    damage.close()
    path.write_text("[")
    assert kept.read() == [] and len(said) == 2


def test_a_file_that_may_only_be_read_is_not_replaced(tmp_path, boards, monkeypatch):
    path = tmp_path / "p.dubrel"
    save(boards, path)
    before = path.read_bytes()
    monkeypatch.setattr(os, "access", lambda target, mode: False)  # as for anybody but root
    with pytest.raises(DubrelError, match="is read-only"):
        save(corrected(boards, 0, "Chiefly"), path)
    assert path.read_bytes() == before


def test_a_damaged_project_offers_its_latest_version_that_reads(window, tmp_path, boards):
    path = tmp_path / "p.dubrel"
    for text in ("one", "two", "three"):
        save(corrected(boards, 0, text), path)
    data = bytearray(path.read_bytes())
    data[60] ^= 0xFF  # inside the present state
    path.write_bytes(data)
    asked = []
    window.ask.yes = lambda question, go="": asked.append((question, go)) or False
    assert window.filing.open_path(path) is False
    assert "is damaged" in asked[0][0] and asked[0][1] == "Open the version"
    assert "is damaged" in window.message.toolTip() and window.session.path is None
    window.ask.yes = lambda question, go="": True
    assert window.filing.open_path(path) is True
    assert words(window.session.project)[0].text == "two"
    assert window.session.path is None and path.read_bytes() == bytes(data)  # it is saved as another file
