"""Work that cannot be lost: the journal, recovery, versions, two windows on one file."""

import json
import os
import signal  # noqa: F401  scripts of these tests use it
import stat
import time

import pytest
from conftest import spoken, words
from crashes import corrected, crashed, grown, left_by_a_crash
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dubrel.base.errors import DubrelError
from dubrel.base.folders import state_folder
from dubrel.cli import main
from dubrel.desk.shell.pages.startpage import state_of
from dubrel.edits.intake import add_heard
from dubrel.model import Project
from dubrel.project.changes import change_between
from dubrel.project.passages import passages
from dubrel.store.deltas import applied, delta, empty_rows
from dubrel.store.journal import Journal, journals_folder
from dubrel.store.projectfile import open_project, save
from dubrel.store.recovery import discard, leftovers, look
from dubrel.store.validating import project_of
from dubrel.user.recents import recents, remember

pytestmark = pytest.mark.usefixtures("own_state")


def test_steps_are_written_as_what_changed_and_read_back_the_same(boards):
    rows, before = empty_rows(), Project()
    for step in grown(boards):
        change = json.loads(json.dumps(delta(before, step)))
        rows, before = applied(rows, change), step
        project, said = project_of(rows)
        assert project == step and said == []


def test_a_correction_costs_a_line_however_long_the_project_is(boards):
    long = boards
    for nth in range(200):
        long = add_heard(long, spoken("Some more words. And a few others.", start=100_000 * (nth + 1)))
    change = delta(long, corrected(long, 700, "boats"))
    assert len(json.dumps(change)) < 1500
    assert len(change_between(long, corrected(long, 700, "boats")).turns) == 1


def test_what_was_put_down_is_there_after_a_kill(tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    found = left_by_a_crash(
        tmp_path,
        f"""
from pathlib import Path
path = Path({str(path)!r})
project = open_project(path)
journal = Journal(project, path)
for nth in range(5):
    project = corrected(project, nth, f"changed{{nth}}")
    journal.offer(project)
    time.sleep(0.1)
until_on_the_disk(journals_folder(), b"changed4")
os.kill(os.getpid(), signal.SIGKILL)
""",
    )
    assert len(found) == 1
    left = found[0]
    assert [word.text for word in words(left.project)[:5]] == [f"changed{nth}" for nth in range(5)]
    assert left.base == boards and left.path == path
    assert left.newer.corrected == 5 and str(left.newer) == "5 corrections"
    assert time.time() - left.at < 30


def test_a_line_that_was_cut_off_costs_only_itself(tmp_path, boards):
    found = left_by_a_crash(
        tmp_path,
        """
journal = Journal(Project())
project = add_heard(Project(title="Boards"), spoken("One two three. Four five six."))
journal.offer(project); journal.flush()
journal.offer(corrected(project, 0, "Seven")); journal.flush()
os._exit(1)
""",
    )
    log = found[0].folder / "log"
    whole = log.read_bytes()
    assert words(found[0].project)[0].text == "Seven"
    log.write_bytes(whole[:-4])
    assert words(leftovers()[0].project)[0].text == "One"
    log.write_bytes(whole[:-30] + b"x" + whole[-29:])
    assert words(leftovers()[0].project)[0].text == "One"
    log.write_bytes(b"")
    assert leftovers() == [] and list(journals_folder().iterdir()) == []


def test_the_journal_is_private_and_goes_when_the_project_is_saved(window, tmp_path, boards):
    window.session.open(boards, None, saved=False)
    QTest.keyClicks(window.sheet, "so ")
    assert window.session.keep_safe()
    folder = next(journals_folder().iterdir())
    for one in (state_folder(), journals_folder(), folder):
        assert stat.S_IMODE(one.stat().st_mode) == 0o700
    assert {stat.S_IMODE(one.stat().st_mode) for one in folder.iterdir()} == {0o600}
    assert leftovers() == []  # its window lives
    window.session.save(tmp_path / "p.dubrel")
    assert list(journals_folder().iterdir()) == []


def test_a_full_disk_is_said_once_and_what_was_written_stays(boards, monkeypatch):
    said = []
    journal = Journal(Project(), problem=said.append)
    journal.offer(boards)
    assert journal.flush()
    log = journal.folder / "log"
    before = log.read_bytes()
    real = os.fsync

    def full(handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    for text in ("boats", "barges"):
        journal.offer(corrected(boards, 3, text))
        assert not journal.flush()
    assert said == ["What is not saved cannot be kept safe: the disk is full. Save your work."]
    assert log.read_bytes() == before
    monkeypatch.setattr(os, "fsync", real)
    assert journal.flush() and log.read_bytes() != before
    journal.close()


def test_a_long_journal_begins_anew_and_loses_nothing(boards, monkeypatch):
    monkeypatch.setattr("dubrel.store.journal._MOST_LOG_BYTES", 3000)
    journal = Journal(Project())
    for nth in range(12):
        boards = corrected(boards, nth, f"changed{nth}")
        journal.offer(boards)
        journal.flush()
    assert len(list(journals_folder().iterdir())) == 1
    assert (journal.folder / "log").stat().st_size < 6000
    journal.close(keep=True)
    assert leftovers()[0].project == boards


def test_recover_lists_and_writes_out(tmp_path, capsys):
    script = """
journal = Journal(Project())
journal.offer(add_heard(Project(title="Boards"), spoken("One two three. Four five six.")))
journal.flush(); os._exit(1)
"""
    assert len(left_by_a_crash(tmp_path, script)) == 1
    assert main(["recover"]) == 0
    assert "“Boards”  6 new words" in capsys.readouterr().out
    assert main(["recover", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)[0]["newer"]["new"] == 6
    assert main(["recover", "-o", str(tmp_path / "out.txt"), "--quiet"]) == 0
    assert (tmp_path / "out.txt").read_text().split() == "One two three. Four five six.".split()
    assert main(["recover", "-o", str(tmp_path / "out.dubrel"), "--which", "2"]) == 2
    assert "There is no number 2: 1 found" in capsys.readouterr().err
    assert main(["recover", "-o", str(tmp_path / "out.dubrel")]) == 0
    assert open_project(tmp_path / "out.dubrel").title == "Boards"
    assert main(["recover", "-o", str(tmp_path / "out.dubrel")]) == 2
    assert "No unsaved work was found" in capsys.readouterr().err


# -- the window ---------------------------------------------------------------------


def test_the_start_page_offers_what_was_left_behind_and_brings_it_back(window, qtbot, tmp_path, boards):
    path, found = crashed(tmp_path, boards)
    window.show_start()
    page = window.starting.page
    qtbot.waitUntil(lambda: len(page.cards) == 1)
    assert page.cards[0].text.text() == "“Boards” was not closed. Newer than its file: 1 correction."
    seen = []
    window.ask.unsaved_work = lambda text, found: seen.append(found) or False
    page.cards[0].look.click()
    assert [(one.before, one.after, one.lead) for one in seen[0]] == [("most", "boats,", "Mostly oak, and")]
    assert window.session.path is None
    page.cards[0].back.click()
    session = window.session
    assert session.path == path and session.dirty and words(session.project)[3].text == "boats,"
    assert not found[0].folder.exists()
    session.keep_safe()
    assert leftovers() == [] and len(list(journals_folder().iterdir())) == 1  # it is this window's now
    assert window.filing.save() is True
    assert words(open_project(path))[3].text == "boats," and list(journals_folder().iterdir()) == []


def test_what_was_left_behind_is_offered_when_its_project_is_opened(window, qtbot, tmp_path, boards):
    path, _ = crashed(tmp_path, boards)
    window.filing.open_path(path)
    window.starting.refresh()
    qtbot.waitUntil(lambda: window.starting.bar.isVisible())
    assert "1 correction" in window.starting.bar.text.text()
    window.ask.unsaved_work = lambda text, found: True
    window.starting.bar.look.click()
    assert words(window.session.project)[3].text == "boats," and window.session.path == path
    assert not window.starting.bar.isVisible()


def test_a_file_that_is_another_now_is_not_written_over(window, tmp_path, boards):
    path, _ = crashed(tmp_path, boards)
    save(corrected(boards, 0, "Chiefly"), path)
    left = leftovers()[0]
    assert left.path is None
    window.starting.bring_back(left)
    assert window.session.path is None and words(window.session.project)[3].text == "boats,"
    assert words(open_project(path))[0].text == "Chiefly"


def test_what_is_not_wanted_is_deleted_only_after_a_question(window, qtbot, tmp_path, boards):
    crashed(tmp_path, boards)
    window.show_start()
    qtbot.waitUntil(lambda: len(window.starting.page.cards) == 1)
    window.ask.yes = lambda question, go="": False
    window.starting.page.cards[0].drop.click()
    assert len(leftovers()) == 1
    window.ask.yes = lambda question, go="": True
    window.starting.page.cards[0].drop.click()
    qtbot.waitUntil(lambda: not window.starting.page.cards)
    assert leftovers() == []


def test_recent_projects_are_listed_with_how_they_stand(window, qtbot, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    qtbot.waitUntil(lambda: [one.title for one in recents()] == ["Boards"])
    assert state_of(recents()[0]) == "3 unassigned, not released"
    remember(boards, path, (), released=(boards, time.time()))
    assert state_of(recents()[0]) == "released today"
    remember(corrected(boards, 0, "Chiefly"), path, ("2 doubts",))
    assert state_of(recents()[0]) == "2 doubts, released, changed since"
    window.commands.run("close")
    page = window.starting.page
    qtbot.waitUntil(lambda: page.list.count() == 1)
    assert not window.session.project.transcript.turns
    QTest.keyClick(page.list, Qt.Key.Key_Return)
    assert window.session.path == path and window.whole.currentWidget() is window.body
    path.unlink()
    assert recents() == []


# -- two at once ------------------------------------------------------------------------


def test_a_discarded_journal_is_gone(boards):
    journal = Journal(Project())
    journal.offer(boards)
    journal.flush()
    folder = journal.folder
    journal.close(keep=True)
    assert folder.is_dir()
    discard(folder)
    assert leftovers() == []


def test_what_cannot_be_written_after_all_is_kept(film, film_events, tmp_path, monkeypatch, capsys):
    """The target is tried before the work; where its disk fills meanwhile, the words are in the journal."""
    monkeypatch.setattr("dubrel.jobs.wholefile.transcribe", lambda media, choices: iter(film_events))

    def full(*args, **how):
        raise DubrelError("“out.srt” was not written: the disk is full; free some space and try again.")

    with monkeypatch.context() as patched:
        patched.setattr("dubrel.cli.transcribe.write_output", full)
        assert main(["transcribe", str(film), "-o", str(tmp_path / "out.srt"), "--quiet"]) == 2
    said = capsys.readouterr().err
    assert "the disk is full" in said and "dubrel recover" in said
    left = leftovers()
    assert len(left) == 1 and left[0].newer.new == left[0].project.transcript.word_count > 100
    assert main(["transcribe", str(film), "-o", str(tmp_path / "out.srt"), "--quiet"]) == 0
    assert leftovers() == []  # it has been transcribed to its end


def test_a_place_that_cannot_be_written_is_refused_before_the_work(film, tmp_path, capsys):
    for target, why in (
        (tmp_path / "gone" / "x.srt", "does not exist"),
        (tmp_path / ("x" * 300 + ".srt"), "too long"),
    ):
        assert main(["transcribe", str(film), "-o", str(target)]) == 2
        said = capsys.readouterr().err
        assert why in said and "Reading" not in said


def test_a_killed_queue_keeps_the_words_it_had(film, tmp_path):
    """The worker is killed while it transcribes: its words are offered, and a whole run takes their place."""
    script = f"""
from dubrel.model.choices import Choices
from dubrel.jobs.wholefile import transcribe_to_file
import dubrel.jobs.wholefile as wholefile
from dubrel.jobs.machinery.events import Recognised, Progress
def some(media, choices):
    yield Recognised(tuple(spoken("One two three. Four five six.")))
    until_on_the_disk(journals_folder(), b"six.")
    os.kill(os.getpid(), signal.SIGKILL)
wholefile.transcribe = some
list(transcribe_to_file({str(film)!r}, Choices(), {str(tmp_path / "out.dubrel")!r}))
"""
    found = left_by_a_crash(tmp_path, script)
    assert [one.newer.new for one in found] == [6] and found[0].meta.kind == "recording"
    assert found[0].project.media.name == film.name


@pytest.mark.parametrize("nth", range(4))
def test_a_session_that_is_killed_at_any_moment_loses_less_than_a_second(nth):
    """A real window that types, takes in words, undoes and saves.

    ``benchmarks/killed.py`` kills it 200 times.
    """
    from killed import killed_once

    assert killed_once(nth, seed=7) <= 1.0


def test_what_was_saved_in_the_last_moment_is_not_offered(tmp_path, boards):
    """Killed between writing the project file and giving the journal up: nothing is missing in the file."""
    path, found = crashed(tmp_path, boards)
    save(found[0].project, path)
    assert leftovers() == [] and list(journals_folder().iterdir()) == []


def test_what_the_file_has_meanwhile_is_not_counted(tmp_path, boards):
    path, _ = crashed(tmp_path, boards)
    save(corrected(boards, 0, "Chiefly"), path)
    [left] = leftovers()
    assert left.path is None and [(one.before, one.after) for one in passages(left.base, left.project)] == [
        ("Chiefly oak, and most", "Mostly oak, and boats,")
    ]


def test_a_damaged_journal_is_read_as_far_as_it_goes_or_said(tmp_path, boards, capsys):
    """Bytes flipped, cut off and put in, in all of its files; and odd steps whose checksums are right."""
    import random
    import zlib

    path = tmp_path / "p.dubrel"
    save(boards, path)
    journal = Journal(open_project(path), path)
    for step in grown(open_project(path))[1:]:
        journal.offer(step)
        journal.flush()
    journal.close(keep=True)
    [folder] = journals_folder().iterdir()
    files = {one.name: one.read_bytes() for one in folder.iterdir()}
    chance, read = random.Random(4), 0
    for _ in range(250):
        for name, data in files.items():
            found = bytearray(data)
            if name != "lock" and chance.random() < 0.4:
                at = chance.randrange(len(found))
                found[at : at + chance.randrange(3)] = chance.randbytes(chance.randrange(3))
            if name == "log" and chance.random() < 0.5:
                texts = [line[9:] for line in bytes(found).split(b"\n") if line]
                found = bytearray(b"".join(b"%08x " % zlib.crc32(text) + text + b"\n" for text in texts))
            (folder / name).write_bytes(found)
        read += look(folder) is not None
    assert read > 80
    for name, data in files.items():
        (folder / name).write_bytes(b"" if name == "base.dubrel" else data)
    assert main(["recover"]) == 0 and f"“{folder}” cannot be read" in capsys.readouterr().err
