"""Recording: the file is on the disk as it comes, and its text appears meanwhile."""

import errno
import struct
import subprocess
import sys
import threading
import time
from itertools import islice

import numpy as np
import pytest
from conftest import DEMO, truth, words

from dubrel.base.errors import MediaError
from dubrel.base.text import bare_word
from dubrel.desk.intake.recording import StandInMicrophone
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.transcribing.live import transcribe_live
from dubrel.media.growingwave import GrowingWave, live_mark
from dubrel.media.probe import probe
from dubrel.model.choices import Choices
from dubrel.standins.microphone import pieces

FILM = DEMO / "heron-film.mp4"


def test_what_was_written_a_second_ago_can_be_read_without_closing(tmp_path):
    wave = GrowingWave(tmp_path / "r.wav", 8000)
    for _ in range(35):
        wave.add(bytes(1600))
    media = probe(tmp_path / "r.wav")
    assert 2500 <= media.duration_ms <= 3500 == wave.length_ms
    wave.add(bytes(200))
    wave.close()
    data = (tmp_path / "r.wav").read_bytes()
    assert struct.unpack("<I", data[40:44])[0] == len(data) - 44 == 35 * 1600 + 200
    with pytest.raises(MediaError, match="exists"):
        GrowingWave(tmp_path / "r.wav")


def test_a_disk_that_fills_keeps_what_was_recorded(tmp_path, monkeypatch):
    wave = GrowingWave(tmp_path / "r.wav", 8000)
    wave.add(bytes(32_000))

    class Full:
        def __getattr__(self, name):
            raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(wave, "_file", Full())
    with pytest.raises(MediaError, match="disk is full"):
        wave.add(bytes(1600))
    wave.close()
    assert probe(tmp_path / "r.wav").duration_ms == 2000


def test_the_stand_in_plays_in_the_time_of_the_file_and_can_break():
    command = [sys.executable, "-m", "dubrel.standins.microphone", str(FILM), "--speed", "20"]
    broken = subprocess.run([*command, "--break-after", "2"], capture_output=True)
    assert broken.returncode == 1 and len(broken.stdout) == 2 * 48_000 * 2
    whole = b"".join(pieces(FILM))
    assert abs(len(whole) / 96_000 - probe(FILM).duration_ms / 1000) < 0.2


def test_words_come_while_the_file_grows_and_stand_where_they_are_said(tmp_path):
    path = tmp_path / "live.wav"
    wave = GrowingWave(path)
    live_mark(path).touch()

    first = threading.Event()

    def speak():
        for nth, piece in enumerate(islice(pieces(FILM), 300)):
            if nth == 250:
                first.wait(60)  # the rest is said only when the beginning has been heard
            wave.add(piece)
            time.sleep(0.002)
        wave.close()
        live_mark(path).unlink()

    speaker = threading.Thread(target=speak)
    speaker.start()
    early, heard = 0, []
    for event in transcribe_live(str(path), 48_000, Choices()):
        if isinstance(event, Recognised):
            early += speaker.is_alive()
            first.set()
            heard += event.words
    assert early >= 1
    assert all(a.end_ms <= b.start_ms for a, b in zip(heard, heard[1:]))
    true = {(bare_word(text), start // 500): start for text, start, _ in truth("heron-film")}
    near = [
        abs(true[key] - word.start_ms)
        for word in heard
        for step in (-1, 0, 1)
        if (key := (bare_word(word.text), word.start_ms // 500 + step)) in true
    ]
    assert len(near) > 0.75 * len(heard) > 50 and np.median(near) <= 30
    said = sum(end < 30_000 for _, _, end in truth("heron-film"))
    assert 0.9 * said < len(heard) < 1.12 * said


@pytest.fixture
def recording(window, tmp_path):
    """A window that records from the stand-in, four times as fast."""
    path = tmp_path / "spoken.wav"
    window.dialogs.new_recording = lambda: path
    window.dialogs.microphone = lambda: StandInMicrophone(FILM, window, "--speed", "4")
    yield path
    window.recorder.stop()


def test_text_appears_while_recording_and_stopping_leaves_a_normal_project(window, qtbot, recording):
    window.commands.run("record")
    assert window.recorder.running and window.rooms["intake"].live.bar.isVisible() and recording.is_file()
    qtbot.waitUntil(lambda: window.session.project.transcript.word_count > 5)
    assert window.recorder.running and "Recording" in window.rooms["intake"].live.bar.text.text()
    assert window.rooms["intake"].live.bar.meter.value > 0
    sheet = window.sheet
    sheet.setFocus()
    qtbot.keyClicks(sheet, "Quietly ")
    window.commands.run("record")
    assert not window.recorder.running and not window.rooms["intake"].live.bar.isVisible()
    qtbot.waitUntil(lambda: window.session.project.media is not None)
    qtbot.waitUntil(lambda: window.session.project.captions is not None)
    project = window.session.project
    assert project.media.name == "spoken.wav" and words(project)[0].text == "Quietly"
    assert project.media.duration_ms >= words(project)[-1].end_ms - 200
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    window.commands.run("undo")
    assert words(window.session.project)[0].text != "Quietly" and window.session.project.media is not None


def test_a_microphone_that_goes_away_keeps_what_it_heard(window, qtbot, recording):
    window.dialogs.microphone = lambda: StandInMicrophone(FILM, window, "--speed", "20", "--break-after", "6")
    window.commands.run("record")
    qtbot.waitUntil(lambda: not window.recorder.running)
    assert "was disconnected" in window.message.text()
    qtbot.waitUntil(lambda: window.session.project.media is not None)
    assert abs(probe(recording).duration_ms - 6000) < 200


def test_a_place_that_cannot_be_written_is_one_sentence(window, recording, tmp_path):
    window.dialogs.new_recording = lambda: tmp_path / "nowhere" / "r.wav"
    window.commands.run("record")
    assert not window.recorder.running and "cannot be written to" in window.message.text()


@pytest.mark.parametrize("ended", [False, True])
def test_leaving_a_recording_ends_it_and_keeps_it_with_its_project(window, qtbot, recording, film, ended):
    window.commands.run("record")
    qtbot.waitUntil(lambda: window.session.project.transcript.word_count > 5)
    if ended:  # the microphone is silent already, the text still comes
        window.recorder.stop()
    asked = []
    window.dialogs.unsaved = lambda title: asked.append(window.session.project) or "cancel"
    assert not window.filing.open_path(film)
    assert not window.recorder.running and not window.rooms["intake"].live.bar.isVisible()
    [project] = asked
    assert project.media.name == "spoken.wav" and project.transcript.word_count > 5
    assert probe(recording).duration_ms >= words(project)[-1].end_ms - 200
    window.commands.run("cancel")
    assert window.session.project.media.name == "spoken.wav"
