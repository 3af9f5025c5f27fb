"""Many recordings: the queue as a value, on disk, on the desk, and on the command line."""

import shutil

import numpy as np
import pytest
from conftest import DEMO
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from recordings import hold, tune, write_wav

from dubrel.cli import main
from dubrel.desk.intake.queuework import QueueWork
from dubrel.jobs.machinery.events import Failed, Finished, Warning_
from dubrel.jobs.machinery.runner import Job
from dubrel.jobs.wholefile import transcribe_to_file
from dubrel.media.cache import is_read
from dubrel.media.probe import probe
from dubrel.media.sound import passage, samples_of
from dubrel.model.choices import Choices
from dubrel.store.projectfile import open_project
from dubrel.user.queue import QUEUE, Queue, State, free_output
from dubrel.user.settings import SETTINGS, Settings

HERE, ELSEWHERE = Choices(), Choices("remote:http://127.0.0.1:1")


@pytest.fixture(autouse=True)
def no_queue_of_before():
    QUEUE.path.unlink(missing_ok=True)
    yield
    QUEUE.path.unlink(missing_ok=True)


@pytest.fixture
def recordings(film, tmp_path):
    """Two short recordings and one that is none."""
    samples = samples_of(probe(film))
    for name, start in (("one", 3000), ("two", 11_000)):
        write_wav(tmp_path / f"{name}.wav", np.array(passage(samples, start, start + 5000)) / 32768)
    (tmp_path / "broken.wav").write_text("no sound at all")
    return [tmp_path / "one.wav", tmp_path / "broken.wav", tmp_path / "two.wav"]


def states(queue):
    return [item.state.value for item in queue.items]


def test_one_is_heard_here_at_a_time_and_one_elsewhere(tmp_path):
    queue = (
        Queue().add([tmp_path / "a", tmp_path / "b"], HERE).add([tmp_path / "c", tmp_path / "d"], ELSEWHERE)
    )
    assert queue.next_to_run().id == 1
    queue = queue.change(1, state=State.RUNNING)
    assert queue.next_to_run().id == 3
    queue = queue.change(3, state=State.RUNNING)
    assert queue.next_to_run() is None
    assert queue.change(1, state=State.PAUSED).next_to_run().id == 2


def test_a_recording_of_the_queue_is_released_by_its_kit_when_it_is_done(window, qtbot, recordings):
    one = recordings[0]
    page = window.rooms["intake"].page
    work = window.rooms["intake"].queue
    work.add([one], Choices(kit="Captions for the web"))
    assert page.form.kit.isVisibleTo(page) and page.form.kit.findData("Transcript for a client") > 0
    qtbot.waitUntil(lambda: states(work.queue) == ["done"])
    folder = one.with_name("one release")
    assert sorted(path.name for path in folder.iterdir()) == ["one en.srt", "one en.vtt"]
    [record] = open_project(one.with_suffix(".dubrel")).releases
    assert record.kit == "Captions for the web" and len(record.files) == 2


def test_a_kit_that_is_gone_keeps_the_project_and_says_so(tmp_path, recordings):
    one = recordings[0]
    said = list(transcribe_to_file(str(one), Choices(kit="No such kit"), str(tmp_path / "one.dubrel")))
    warnings = [event.message for event in said if isinstance(event, Warning_)]
    assert len(warnings) == 1 and warnings[0].startswith("Not released: There is no kit “No such kit”")
    assert open_project(tmp_path / "one.dubrel").transcript.word_count > 3


def test_order_removing_and_adding_twice(tmp_path):
    queue = Queue().add([tmp_path / name for name in "abc"], HERE)
    assert [one.id for one in queue.move(3, -2).items] == [3, 1, 2]
    assert [one.id for one in queue.move(1, 5).items] == [2, 3, 1]
    assert queue.move(9, 1) == queue
    assert len(queue.add([tmp_path / "a"], HERE).items) == 3
    again = queue.change(1, state=State.DONE).add([tmp_path / "a"], HERE)
    assert [one.id for one in again.items] == [1, 2, 3, 4]
    assert [one.id for one in again.remove(2).items] == [1, 3, 4]


def test_what_ran_waits_again_after_a_restart(tmp_path):
    queue = Queue().add([tmp_path / "a", tmp_path / "b"], Choices("builtin", "en", True))
    QUEUE.write(queue.change(1, state=State.RUNNING).change(2, state=State.FAILED, reason="gone"))
    found = QUEUE.read().after_restart()
    assert states(found) == ["waiting", "failed"] and found.items[1].reason == "gone"
    assert found.items[0].choices == Choices("builtin", "en", True)
    QUEUE.path.write_text("{")
    assert QUEUE.read() == Queue()


def test_a_project_that_is_there_is_never_written_over(tmp_path):
    assert free_output(tmp_path / "a.wav").name == "a.dubrel"
    (tmp_path / "a.dubrel").touch()
    assert free_output(tmp_path / "a.wav").name == "a 2.dubrel"


def drop(window, paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    window.dropEvent(
        QDropEvent(
            QPointF(5, 5),
            Qt.DropAction.CopyAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )


def test_dropped_recordings_are_heard_one_after_the_other(window, qtbot, recordings):
    drop(window, recordings)
    assert window.queue.queue.items[0].choices.speakers == "auto"
    assert window.intake.queue.table.item(0, 1).text() == "Built in, English, speakers"
    assert states(window.queue.queue) == ["waiting"] * 3
    assert window.current.id == "intake" and window.intake.queue.isVisible()
    qtbot.waitUntil(lambda: states(window.queue.queue) == ["done", "failed", "done"])
    assert "broken.wav" in window.queue.queue.items[1].reason
    panel = window.intake.queue
    assert panel.heading.text() == "Queue: all transcribed"
    panel.table.setCurrentCell(0, 0)
    assert panel.buttons["open"].isEnabled() and not panel.buttons["pause"].isEnabled()
    panel.table.setFocus()
    qtbot.keyClick(panel.table, Qt.Key.Key_Return)
    assert window.session.project.title == "one" and window.session.project.captions.captions
    transcript = open_project(recordings[2].with_suffix(".dubrel")).transcript
    assert transcript.word_count > 5 and len({turn.speaker for turn in transcript.turns}) == 1


def test_a_recording_is_paused_goes_on_and_is_cancelled(window, qtbot, tmp_path):
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path / "long.opus")
    shutil.copy(DEMO / "heron-film.mp4", tmp_path / "next.mp4")
    window.rooms["intake"].enqueue([tmp_path / "long.opus", tmp_path / "next.mp4"])
    qtbot.waitUntil(lambda: window.queue.progress.get(1) is not None)
    panel = window.intake.queue
    panel.table.setCurrentCell(0, 0)
    qtbot.keyClick(panel.table, Qt.Key.Key_Space)
    assert states(window.queue.queue)[0] == "paused"
    qtbot.waitUntil(lambda: states(window.queue.queue) == ["paused", "running"])
    before = window.queue.progress[1]
    qtbot.waitUntil(lambda: window.queue.progress.get(2) is not None)
    assert window.queue.progress[1] == before
    qtbot.keyClick(panel.table, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert [one.id for one in window.queue.queue.items] == [2, 1]
    panel.table.setCurrentCell(0, 0)
    qtbot.keyClick(panel.table, Qt.Key.Key_Delete)
    assert [one.id for one in window.queue.queue.items] == [1]
    panel.act("pause")
    qtbot.waitUntil(lambda: states(window.queue.queue) == ["running"])
    qtbot.waitUntil(lambda: window.queue.progress[1] != before)
    panel.act("remove")
    assert window.queue.queue.items == () and not list(tmp_path.glob("*.dubrel"))


def test_recordings_for_a_service_show_their_price_and_settings_can_change(window, recordings, service):
    engine = f"remote:{service.address}"
    SETTINGS.write(Settings((engine,)))
    window.intake.fill_engines(engine)
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question) or len(asked) > 1
    window.rooms["intake"].enqueue(recordings)
    assert window.queue.queue.items == () and "2 recordings would leave this machine" in asked[0]
    hold(window, "transcribe")  # something else is being transcribed
    window.rooms["intake"].enqueue(recordings)
    panel, item = window.intake.queue, window.queue.queue.items[0]
    prices = [one.price for one in window.queue.queue.items]
    assert prices[1] == "" and prices[2] == prices[0]  # the broken one has none, and its place
    assert item.price.startswith("0.00 EUR") and panel.table.item(0, 3).text() == f"costs {item.price}"
    assert SETTINGS.read().consented == (engine,)
    window.intake.fill_engines("builtin")
    speakers = window.intake.form.speakers
    speakers.setCurrentIndex(speakers.findData("3"))
    panel.table.setCurrentCell(0, 0)
    panel.act("settings")
    assert window.queue.queue.items[0].choices == Choices("builtin", "en", False, "3")
    assert (
        window.queue.queue.items[0].price == ""
        and panel.table.item(0, 1).text() == "Built in, English, 3 speakers"
    )
    assert window.queue.queue.items[2].choices.engine == engine and not service.jobs
    SETTINGS.write(Settings())


def test_the_queue_goes_on_after_a_restart(window, qtbot, recordings):
    window.queue.add(recordings[:1], HERE)
    qtbot.waitUntil(lambda: states(window.queue.queue) == ["running"])
    window.queue.stop()
    again = QueueWork(window.jobs)
    assert states(again.queue) == ["waiting"]
    qtbot.waitUntil(lambda: states(again.queue) == ["done"])
    assert recordings[0].with_suffix(".dubrel").is_file()


def test_a_cancelled_job_takes_its_helpers_with_it(qtbot):
    from pathlib import Path

    job = Job("transcribe", probe(DEMO / "slow-water-7.opus"))
    qtbot.waitUntil(lambda: len(job.family()) >= 3)
    family = job.family()
    job.pause()
    assert job.running
    job.cancel()

    def alive(pid):
        try:
            return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
        except OSError:  # it is gone
            return False

    qtbot.waitUntil(lambda: not any(alive(pid) for pid in family))


def test_files_that_are_no_recordings_are_left_out(window, tmp_path):
    (tmp_path / "notes.txt").write_text("x")
    window.rooms["intake"].enqueue([tmp_path / "notes.txt"])
    assert window.queue.queue.items == () and "not a recording" in window.message.text()


def test_many_files_and_patterns_on_the_command_line(recordings, tmp_path, capsys):
    out = tmp_path / "out"
    out.mkdir()
    assert main(["transcribe", str(tmp_path / "*.wav"), "-o", str(out / ".srt"), "--quiet"]) == 2
    assert "broken.wav" in capsys.readouterr().err
    assert sorted(one.name for one in out.iterdir()) == ["one.srt", "two.srt"]
    assert main(["transcribe", str(recordings[0]), str(recordings[2]), "-o", str(out), "--quiet"]) == 0
    assert (out / "two.dubrel").is_file()
    assert main(["transcribe", str(recordings[0]), "-o", str(out / ".vtt"), "--quiet"]) == 0
    assert (out / "one.vtt").is_file()
    assert main(["transcribe", str(tmp_path / "zz*.wav"), "-o", str(out), "--quiet"]) == 2
    assert main(["transcribe", *map(str, recordings), "-o", str(out / "all.srt"), "--quiet"]) == 2
    said = capsys.readouterr().err
    assert "matches no file" in said and "one file for 3 recordings" in said


def test_nothing_is_sent_without_consent(recordings, tmp_path, capsys, service):
    command = [
        "transcribe",
        str(recordings[0]),
        "-o",
        str(tmp_path / "o.srt"),
        "--engine",
        f"remote:{service.address}",
    ]
    assert main(command) == 2
    said = capsys.readouterr().err
    assert "costs 0.00 EUR" in said and "--send" in said and not service.jobs
    assert main([*command, "--send", "--quiet"]) == 0
    assert (tmp_path / "o.srt").read_text().count("-->") >= 2
    assert main([*command, "--quiet"]) == 0


def test_a_job_that_is_paused_and_resumed_as_it_ends_ends_once(tmp_path):
    """Standing still is asked for while it ends, after it has ended, and twice."""
    media = probe(write_wav(tmp_path / "a.wav", tune(2) / 32768))
    job, said = Job("read", media), []
    while job.running:
        job.pause()
        job.go_on()
        job.go_on()
        said += job.events()
    job.pause()
    job.go_on()
    assert job.cancel() == []
    assert [type(one).__name__ for one in said if isinstance(one, Finished | Failed)] == ["Finished"]
    assert is_read(media)
