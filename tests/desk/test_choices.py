"""Choices a recording in the window: text as it comes, correcting meanwhile, cancel."""

import os
import subprocess
import sys

import pytest
from conftest import DEMO, scene_truth, truth, words
from PySide6.QtTest import QTest
from recordings import is_over

from dubrel.desk.sheet.spots import Spot


@pytest.fixture
def opened(window, scene):
    assert window.filing.open_path(scene)
    return window


def heard(window):
    return words(window.session.project)


def test_transcribe_edit_meanwhile_and_publish(opened, qtbot, tmp_path):
    window = opened
    window.intake.form.speakers.setCurrentIndex(1)
    window.commands.run("transcribe")
    assert window.jobs.runs("transcribe") and window.current.id == "wording"
    assert window.sheet.empty_title == "Transcribing"
    qtbot.waitUntil(lambda: len(heard(window)) > 10)
    before = window.session.project
    window.sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(window.sheet, "Very ")
    qtbot.waitUntil(lambda: window.jobs.runs("speakers"))
    window.sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(window.sheet, "So ")  # typed while voices are told apart
    qtbot.waitUntil(lambda: not window.jobs.busy)
    qtbot.waitUntil(lambda: not window.jobs.runs("captions"))
    speakers = window.session.project.transcript.speakers
    assert speakers and all(turn.speaker for turn in window.session.project.transcript.turns)
    assert heard(window)[0].text.startswith("So")
    assert 0.85 < len(heard(window)) / len(scene_truth()) < 1.15
    project = window.session.project
    assert project.captions is not None
    held = [one for caption in project.captions.captions for one in caption.words]
    assert held == [word.id for word in heard(window)]
    while window.session.history.depth:
        window.commands.run("undo")
    assert [word.text for word in heard(window)][: len(words(before))] == [w.text for w in words(before)]
    assert heard(window)[0].text == "Early"
    window.release.folder.setText(str(tmp_path))
    window.show_room("release")
    window.commands.run("release")
    qtbot.waitUntil(lambda: window.release.report.text().count("the same") == 2)


def test_cancel_keeps_what_was_heard(window, film, qtbot):
    assert window.filing.open_path(film)
    window.commands.run("transcribe")
    qtbot.waitUntil(lambda: len(heard(window)) > 0)
    transcribing = window.jobs.running("transcribe")
    window.commands.run("cancel")
    count = len(heard(window))
    assert not window.jobs.runs("transcribe") and 0 < count < len(truth("heron-film"))
    qtbot.waitUntil(lambda: window.session.project.captions is not None)
    assert is_over(transcribing) and len(heard(window)) == count
    window.commands.run("undo")


def test_transcribing_again_can_be_undone(window, film, qtbot):
    assert window.filing.open_path(film)
    window.commands.run("transcribe")
    qtbot.waitUntil(lambda: len(heard(window)) > 0)
    window.commands.run("cancel")
    qtbot.waitUntil(lambda: not window.jobs.runs("captions"))
    kept = window.session.project
    window.commands.run("transcribe")
    assert heard(window) == []
    window.commands.run("cancel")
    window.commands.run("undo")
    assert window.session.project.transcript == kept.transcript


def test_a_video_without_sound_says_so(window, tmp_path):
    from recordings import write_media

    path = write_media(tmp_path / "mute.mp4", video=("libx264", "25"), sound=False, form="mp4")
    assert window.filing.open_path(path)
    assert not window.intake.transcribe.isEnabled()
    assert window.session.project.media.has_video


def test_a_recording_that_vanishes_says_so(window, tmp_path, qtbot):
    from recordings import write_media

    path = write_media(tmp_path / "a.flac")
    assert window.filing.open_path(path)
    window.jobs.cancel_all()
    path.unlink()
    window.commands.run("transcribe")
    qtbot.waitUntil(lambda: not window.jobs.busy)
    assert "a.flac" in window.intake.problem.text()
    assert window.isVisible()


@pytest.fixture
def display():
    """A virtual screen."""
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    with os.fdopen(read) as pipe:
        number = pipe.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait()


PROBE = """
import sys
from pathlib import Path
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
import dubrel.desk.application as application

def look():
    window = next(w for w in QApplication.topLevelWidgets() if w.isVisible())
    QApplication.primaryScreen().grabWindow(0).save(sys.argv[2])
    print(QApplication.platformName(), window.windowTitle(), flush=True)
    window.ask.unsaved = lambda title: "discard"
    window.close()

old = QApplication.exec
def run(*args):
    QTimer.singleShot(3000, look)
    return old()
QApplication.exec = staticmethod(run)
sys.exit(application.run([Path(sys.argv[1])]))
"""


def test_a_real_window_on_a_real_screen(display, tmp_path):
    from PySide6.QtGui import QImage

    picture = tmp_path / "screen.png"
    command = [sys.executable, "-c", PROBE, str(DEMO / "slow-water-7.dubrel"), str(picture)]
    environment = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb"}
    done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    assert done.stdout.startswith("xcb Slow Water 7")
    image = QImage(str(picture))
    assert image.width() == 1280
    assert image.pixelColor(400, 100).name() == "#fbf8f1"
    colours = {image.pixelColor(x, y).name() for x in range(0, 1280, 16) for y in range(0, 800, 16)}
    assert len(colours) > 12
