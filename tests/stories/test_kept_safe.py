"""Work that cannot be lost: the journal, recovery, versions, two windows on one file."""

import json
import os
import signal  # noqa: F401  scripts of these tests use it
import stat
import subprocess
import sys
import time
from datetime import UTC, datetime, timedelta

import pytest
from conftest import ROOT, spoken, words
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.files import write_atomically
from dubrel.base.folders import state_folder
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.cli import main
from dubrel.desk.shell.pages.startpage import state_of
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.model import Project
from dubrel.model.choices import Choices
from dubrel.project.changes import change_between
from dubrel.project.passages import passages
from dubrel.project.summary import summary
from dubrel.store import versions
from dubrel.store.deltas import applied, delta, empty_rows
from dubrel.store.journal import Journal, journals_folder
from dubrel.store.locks import claim
from dubrel.store.projectfile import open_project, read_version, save
from dubrel.store.recovery import discard, leftovers, look
from dubrel.store.validating import project_of
from dubrel.user.kept import DamageSaid, Kept
from dubrel.user.recents import recents, remember


@pytest.fixture(autouse=True)
def own_state(tmp_path_factory, monkeypatch):
    """A state folder for each test, so that nothing that others left is found."""
    folder = tmp_path_factory.mktemp("state")
    monkeypatch.setenv("XDG_STATE_HOME", str(folder))
    monkeypatch.setenv("XDG_DATA_HOME", str(folder / "data"))
    return folder


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
    code = (
        f"import sys; sys.path[:0] = {[str(ROOT / 'tests'), str(ROOT / 'tests' / 'stories')]!r}\nfrom"
        f" test_kept_safe import *\n{script}"
    )
    subprocess.run([sys.executable, "-c", code], check=False, cwd=tmp_path, timeout=60)
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


# -- versions -------------------------------------------------------------------------


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


# -- two at once ------------------------------------------------------------------------


@pytest.fixture
def second(window, qtbot):
    """Another window."""
    from conftest import equipped

    from dubrel.desk.shell.kit.theme import DAY

    made = equipped(DAY)
    made.show_room("intake")
    made.dialogs.unsaved = lambda title: "discard"
    qtbot.addWidget(made)
    made.show()
    yield made
    made.desk.stop()


def test_a_project_that_is_open_elsewhere_can_only_be_read(window, second, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    second.filing.open_path(path)
    assert "open in another window" in second.message.toolTip() and second.header.saved.text() == "Read-only"
    before = second.session.project
    QTest.keyClicks(second.sheet, "x")
    QTest.keyClick(second.sheet, Qt.Key.Key_Backspace)
    second.commands.run("set_again")
    second.commands.run("proofed")
    assert second.session.project is before and second.session.history.depth == 0
    assert "read-only here" in second.message.toolTip()
    QTest.keyClicks(window.sheet, "x")
    assert window.filing.save() is True
    copy = tmp_path / "copy.dubrel"
    second.ask.file_to_save = lambda proposed: path
    assert second.filing.save() is False and "another window" in second.message.toolTip()
    second.ask.file_to_save = lambda proposed: copy
    assert second.filing.save() is True
    QTest.keyClicks(second.sheet, "y")
    assert second.session.project is not before and second.filing.save() is True
    assert open_project(copy) != open_project(path)


def test_closing_lets_the_next_one_write(window, second, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    window.commands.run("close")
    second.filing.open_path(path)
    assert not second.session.read_only
    assert claim(path) is None


def test_a_file_that_was_changed_by_another_is_noticed_and_neither_state_is_lost(window, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    QTest.keyClicks(window.sheet, "Ours ")
    save(corrected(boards, 0, "Theirs"), path)
    asked = []
    window.ask.changed_outside = lambda name: asked.append(name) or "cancel"
    assert window.filing.save() is False and asked == ["boards.dubrel"]
    assert words(open_project(path))[0].text == "Theirs" and window.session.dirty
    window.ask.changed_outside = lambda name: "save"
    assert window.filing.save() is True
    assert words(open_project(path))[0].text == "Ours"
    kept = [words(read_version(path, name).project)[0].text for name in versions.version_names(path)]
    assert "Theirs" in kept
    assert window.filing.save() is True  # it is not asked twice


# -- files ------------------------------------------------------------------------------


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


def test_a_discarded_journal_is_gone(boards):
    journal = Journal(Project())
    journal.offer(boards)
    journal.flush()
    folder = journal.folder
    journal.close(keep=True)
    assert folder.is_dir()
    discard(folder)
    assert leftovers() == []


# -- nothing is done for nothing ----------------------------------------------------------


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


def test_one_window_works_on_the_queue(window, second, tmp_path, film):
    assert window.queue._claim is not None and second.queue._claim is None
    second.queue.add([film], Choices())
    assert "Another window of Dubrel works on the queue" in second.message.toolTip()
    window.queue.add([film], Choices())
    window.queue.pause_or_go_on(1)
    second.show_room("wording")
    second.show_room("intake")
    assert [one.path for one in second.queue.queue.items] == [str(film)]
    assert second.queue.queue.items[0].state == "paused" and not second.queue._jobs
    window.desk.stop()
    second.queue.remove(1)
    assert second.queue.queue.items == () and second.queue._claim is not None


def test_a_notification_is_sent_only_while_another_window_is_in_front(window, monkeypatch, qtbot):
    sent = []
    monkeypatch.setattr("dubrel.desk.shell.core.notify.send", sent.append)
    monkeypatch.setattr(window, "isActiveWindow", lambda: False)
    window.jobs.done.emit("“Boards”: transcribing is done.", time.monotonic() - 3)
    window.jobs.done.emit("“Boards”: aligning is done.", time.monotonic() - 60)
    qtbot.waitUntil(lambda: len(sent) == 1)
    monkeypatch.setattr(window, "isActiveWindow", lambda: True)
    window.jobs.done.emit("The queue is done.", time.monotonic() - 60)
    assert sent == ["“Boards”: aligning is done."]


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


def test_a_notification_reaches_the_desktop():
    """A bus of our own, with a service on it that takes notifications as a desktop does."""
    service = """
import threading
from jeepney import HeaderFields, MessageType, new_method_return
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection
from dubrel.desk.shell.core.notify import send
bus = open_dbus_connection(bus="SESSION")
bus.send_and_get_reply(message_bus.RequestName("org.freedesktop.Notifications"))
sent = []
sending = threading.Thread(target=lambda: sent.append(send("Slow Water: transcribing is done.")))
sending.start()
while True:
    message = bus.receive()
    if message.header.message_type is MessageType.method_call:
        print(message.header.fields[HeaderFields.member], message.body[4])
        bus.send(new_method_return(message, "u", (1,)))
        break
sending.join()
print(sent)
"""
    ran = subprocess.run(
        ["dbus-run-session", "--", sys.executable, "-c", service],
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert ran.stdout.splitlines() == ["Notify Slow Water: transcribing is done.", "[True]"]


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
