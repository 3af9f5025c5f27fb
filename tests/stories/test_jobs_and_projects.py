"""Jobs that run while another project is opened, something is undone or typed: each as it must go."""

import shutil
from pathlib import Path

import pytest
from conftest import BOARDS, DEMO, words
from recordings import hold, is_over

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.cli.transcribe import _targets
from dubrel.desk.sheet.spots import Spot
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.words.wording import replace_text, split_turn
from dubrel.jobs.machinery.events import Failed
from dubrel.media.probe import probe
from dubrel.store.projectfile import open_project


@pytest.fixture
def captioned(boards):
    return set_again(boards, DEFAULT_STYLE)


def test_opening_another_project_ends_the_job_and_leaves_the_opened_one_alone(window, qtbot, film):
    window.filing.open_path(film)
    window.commands.run("transcribe")
    qtbot.waitUntil(lambda: window.session.project.transcript.word_count > 0)
    transcribing = window.jobs.running("transcribe")
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    opened = window.session.project
    assert is_over(transcribing) and not window.jobs.runs("transcribe", "captions")
    assert window.session.project.tracks is opened.tracks
    assert (
        window.session.project.transcript.turns == open_project(DEMO / "slow-water-7.dubrel").transcript.turns
    )
    assert not window.session.dirty and window.session.history.depth == 0


def test_undoing_transcribe_again_ends_it_and_the_old_words_stay(window, qtbot, film, captioned):
    window.filing.open_path(film)
    project = replace(captioned, media=window.session.project.media)
    window.session.open(project, None, saved=True)
    window.commands.run("transcribe")
    qtbot.waitUntil(lambda: window.session.project.transcript.word_count > 5)
    transcribing = window.jobs.running("transcribe")
    window.commands.run("undo")
    assert window.session.project == project and not window.jobs.runs("transcribe")
    assert "cancelled" in window.message.text() and is_over(transcribing)
    assert window.session.project == project
    window.commands.run("redo")
    assert window.session.project.transcript.word_count > 5


def test_transcribing_that_fails_twice_takes_no_words_from_undo(window, qtbot, film, captioned):
    window.filing.open_path(film)
    project = replace(captioned, media=window.session.project.media)
    window.session.open(project, None, saved=True)
    form = window.intake.form.engine
    form.addItem("gone", "folder:/nowhere/at/all")
    form.setCurrentIndex(form.count() - 1)
    for _ in range(2):
        window.commands.run("transcribe")
        qtbot.waitUntil(lambda: not window.jobs.busy)
        assert window.session.project.transcript.word_count == 0
        assert "is not a folder" in window.message.text()
    while window.session.history.depth:
        window.commands.run("undo")
    assert window.session.project == project


def test_a_damaged_project_ends_nothing(window, tmp_path):
    held_job = hold(window, "transcribe")
    (tmp_path / "bad.dubrel").write_bytes(b"PK nothing")
    assert not window.filing.open_path(tmp_path / "bad.dubrel")
    assert held_job.running and "damaged" in window.message.text()


def test_transcribe_waits_until_the_file_has_been_read(window, film, monkeypatch):
    window.filing.open_path(film)
    reading = hold(window, "read")
    begun = []
    monkeypatch.setattr(window.jobs, "start_on_recording", lambda kind, *_, **__: begun.append(kind))
    window.commands.run("transcribe")
    assert begun == [] and reading.running and "as soon as" in window.message.text()
    assert window.jobs.runs("transcribe")
    window.jobs.end(window.jobs.running("read"), True)
    assert begun == ["transcribe"]


def test_jobs_run_side_by_side_and_each_is_cancelled_alone(window, film):
    window.filing.open_path(film)
    one, two = hold(window, "audit"), hold(window, "compare")
    assert one.running and two.running and len(window.jobs.all) >= 2
    window.jobs.cancel("audit")
    assert not one.running and two.running


def test_a_failing_recogniser_leaves_the_recording_running(window, qtbot, tmp_path):
    from dubrel.desk.intake.recording import StandInMicrophone

    window.dialogs.new_recording = lambda: tmp_path / "spoken.wav"
    window.dialogs.microphone = lambda: StandInMicrophone(DEMO / "heron-film.mp4", window, "--speed", "2")
    window.commands.run("record")
    qtbot.waitUntil(lambda: window.recorder.length_ms > 500)
    window.jobs.take(window.jobs.running("live"), Failed("The recogniser failed."))
    assert window.recorder.running and "recording goes on" in window.message.text()
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question)
    assert not window.filing.open_path(DEMO / "slow-water-7.dubrel")
    assert window.recorder.running and "recording is running" in asked[0]
    window.commands.run("record")
    qtbot.waitUntil(lambda: window.session.project.media is not None)


def test_another_recording_brings_its_own_length_and_picture(window, tmp_path, film):
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path / "other.opus")
    window.filing.open_path(film)
    assert window.session.project.media.has_video
    window.dialogs.recording = lambda name: tmp_path / "other.opus"
    window.commands.run("find_media")
    media = window.session.project.media
    assert media == replace(probe(tmp_path / "other.opus"), path=media.path) and not media.has_video
    window.commands.run("undo")
    assert window.session.project.media.has_video


def test_the_caret_stays_in_its_word_while_a_job_adds_and_splits(window, captioned):
    window.session.open(captioned, None, saved=True)
    window.show_room("wording")
    sheet = window.sheet
    turn = sheet.turns[1]
    sheet.move_caret(Spot(1, turn.offsets[3] + 2))
    word = turn.words[3].id

    def at():
        found = sheet.word_at_caret()
        return found[0].words[found[1]].id, sheet.caret.place - found[0].offsets[found[1]]

    window.session.amend(lambda project: split_turn(project, project.transcript.turns[0].id, 7))
    assert at() == (word, 2) and sheet.caret.turn == 2
    window.session.amend(lambda project: split_turn(project, turn.id, turn.offsets[2]))
    assert at() == (word, 2) and sheet.caret.turn == 3
    window.session.amend(lambda project: replace_text(project, project.transcript.turns[0].id, 0, 6, ""))
    assert at() == (word, 2)


def test_playing_again_and_then_seeking_elsewhere_stays_there(window, qtbot, film):
    window.filing.open_path(film)
    window.desk.play(1000, 1400)
    window.player.seek(20_000)
    qtbot.waitUntil(lambda: window.player.position > 20_200)
    assert window.player.playing
    window.player.pause()


@pytest.mark.parametrize("typed", ["hand", "hand.dubrel"])
def test_the_suffix_is_there_before_the_question_about_overwriting(window, tmp_path, typed, monkeypatch):
    from PySide6 import QtWidgets

    (tmp_path / "hand.dubrel").write_text("another")
    seen = []
    exec_ = QtWidgets.QFileDialog.exec

    def answer(dialog):
        seen.append(dialog.defaultSuffix())
        dialog.setOption(QtWidgets.QFileDialog.Option.DontConfirmOverwrite)
        dialog.selectFile(typed)
        return True

    monkeypatch.setattr(QtWidgets.QFileDialog, "exec", answer)
    path = window.ask.file_to_save(tmp_path / "x.dubrel")
    assert exec_ is not answer and seen == ["dubrel"] and path == tmp_path / "hand.dubrel"


def test_recordings_of_one_name_get_files_of_their_own(tmp_path):
    recordings = [Path("a/x.wav"), Path("b/x.wav"), Path("c/y.wav")]
    targets = _targets(recordings, tmp_path)
    assert len(set(targets)) == 3 and targets[2].name == "y.dubrel"
    assert [one.name for one in targets[:2]] == ["a x.dubrel", "b x.dubrel"]
    same = [Path("1/a/x.wav"), Path("2/a/x.wav")]
    assert len(set(_targets(same, tmp_path))) == 2


def test_the_time_of_saving_is_that_of_the_file(window, tmp_path, captioned):
    import os

    from dubrel.store.projectfile import save

    save(captioned, tmp_path / "old.dubrel")
    os.utime(tmp_path / "old.dubrel", (1_700_000_000, 1_700_000_000))
    window.filing.open_path(tmp_path / "old.dubrel")
    assert window.header.saved.text() == "Saved on 14 November 2023"


def test_an_old_project_opens_as_before():
    project = open_project(DEMO / "slow-water-7.dubrel")
    assert project.captions is not None and project.captions.style.max_cpl == 42
    assert all(note.words for note in project.notes)
    shown = [one for caption in project.captions.captions for one in caption.words]
    assert sorted(shown) == sorted(word.id for word in words(project))
    assert BOARDS.split()[0] in " ".join(word.text for word in words(project))
    assert project.captions.language == "en"
