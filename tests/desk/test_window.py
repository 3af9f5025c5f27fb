"""The window, driven as a person drives it."""

import shutil
from pathlib import Path

import pytest
from conftest import BOARDS, DEMO, spoken, words
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication, QInputMethodEvent
from PySide6.QtTest import QTest
from recordings import caption_lines

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.shell.kit.theme import DAY
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.model import Project, Speaker
from dubrel.store.projectfile import open_project


@pytest.fixture
def demo(tmp_path) -> Path:
    for name in ("slow-water-7.dubrel", "slow-water-7.opus"):
        shutil.copy(DEMO / name, tmp_path / name)
    return tmp_path / "slow-water-7.dubrel"


@pytest.fixture
def sheet(window):
    """The sheet of a window with a small project, the caret at its beginning."""
    project = set_again(add_heard(Project(title="Boards"), spoken(BOARDS)), DEFAULT_STYLE)
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    window.sheet.setFocus()
    return window.sheet


def text(sheet, turn=0):
    return sheet.turns[turn].text


def key(sheet, *keys, modifier=Qt.KeyboardModifier.NoModifier):
    for one in keys:
        QTest.keyClick(sheet, one, modifier)


def test_typing_is_what_any_editor_does(sheet):
    before = sheet.turns[0].words
    sheet.move_caret(Spot(0, len("Mostly")))
    QTest.keyClicks(sheet, " old English")
    assert text(sheet).startswith("Mostly old English oak,")
    assert sheet.caret == Spot(0, len("Mostly old English"))
    assert sheet.turns[0].words[0] is before[0]
    assert sheet.turns[0].words[3:] == before[1:]
    key(sheet, *[Qt.Key.Key_Backspace] * len(" old English"))
    assert text(sheet).startswith("Mostly oak,")


def test_typing_at_every_kind_of_place(sheet):
    QTest.keyClicks(sheet, "So ")
    assert text(sheet).startswith("SoMostly") or text(sheet).startswith("So Mostly")
    key(sheet, Qt.Key.Key_End)
    end_of_line = sheet.caret
    assert end_of_line.place > 5
    sheet.move_caret(Spot(0, len(text(sheet))))
    QTest.keyClicks(sheet, " And more")
    assert text(sheet).endswith("tired. And more")
    sheet.move_caret(Spot(0, text(sheet).index("tired") + 2))
    QTest.keyClicks(sheet, " ")
    assert "ti red." in text(sheet)
    key(sheet, Qt.Key.Key_Backspace)
    assert "tired." in text(sheet)


def test_a_space_waits_for_its_word(sheet):
    at = text(sheet).index("oak,") + len("oak,")
    sheet.move_caret(Spot(0, at))
    before = sheet.session.project
    QTest.keyClicks(sheet, "  ")
    assert sheet.session.project == before
    assert sheet.caret == Spot(0, at + 1)
    key(sheet, Qt.Key.Key_Left)
    assert sheet.pending is None and sheet.caret == Spot(0, at)


def test_undo_goes_word_by_word_back_to_the_very_same_value(window, sheet):
    before = window.session.project
    sheet.move_caret(Spot(0, 6))
    QTest.keyClicks(sheet, " one two three")
    steps = window.session.history.depth
    assert 3 <= steps <= 6
    for _ in range(steps):
        window.commands.run("undo")
    assert window.session.project == before
    for _ in range(steps):
        window.commands.run("redo")
    assert text(sheet).startswith("Mostly one two three oak,")


def test_twenty_steps_back_and_forth(window, sheet):
    values = [window.session.project]
    for nth in range(20):
        sheet.move_caret(Spot(0, 0))
        sheet.write(f"w{nth}")
        QTest.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton)  # what is typed next is another step
        values.append(window.session.project)
    for value in reversed(values[:-1]):
        window.commands.run("undo")
        assert window.session.project == value
    for value in values[1:]:
        window.commands.run("redo")
        assert window.session.project == value


def test_enter_splits_and_backspace_joins(sheet):
    whole = [turn.text for turn in sheet.turns]
    sheet.move_caret(Spot(0, text(sheet).index("most of")))
    key(sheet, Qt.Key.Key_Return)
    assert [turn.text for turn in sheet.turns][:2] == ["Mostly oak, and", "most of it tired."]
    assert sheet.caret == Spot(1, 0)
    key(sheet, Qt.Key.Key_Backspace)
    assert [turn.text for turn in sheet.turns] == whole
    assert sheet.caret == Spot(0, len("Mostly oak, and"))


def test_select_copy_cut_paste(sheet):
    sheet.move_caret(Spot(0, 0))
    key(sheet, Qt.Key.Key_Right, Qt.Key.Key_Right, modifier=Qt.KeyboardModifier.ShiftModifier)
    key(sheet, Qt.Key.Key_C, modifier=Qt.KeyboardModifier.ControlModifier)
    assert QGuiApplication.clipboard().text() == "Mo"
    key(sheet, Qt.Key.Key_A, modifier=Qt.KeyboardModifier.ControlModifier)
    assert sheet.selected_text() == "\n\n".join(turn.text for turn in sheet.turns)
    sheet.move_caret(Spot(0, 0))
    key(
        sheet,
        Qt.Key.Key_Right,
        modifier=Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    key(sheet, Qt.Key.Key_X, modifier=Qt.KeyboardModifier.ControlModifier)
    assert text(sheet).startswith("oak, and")
    QGuiApplication.clipboard().setText("Nearly all\n is ")
    key(sheet, Qt.Key.Key_V, modifier=Qt.KeyboardModifier.ControlModifier)
    assert text(sheet).startswith("Nearly all is oak, and")


def test_deleting_over_several_turns(sheet):
    last = sheet.turns[-1].text
    sheet.move_caret(Spot(0, 6))
    sheet.move_caret(Spot(2, 3), keep=True)
    key(sheet, Qt.Key.Key_Delete)
    assert [turn.text for turn in sheet.turns] == ["Mostly" + last[3:]]


def test_moving_by_keys_reaches_everything(sheet):
    key(sheet, Qt.Key.Key_End, modifier=Qt.KeyboardModifier.ControlModifier)
    assert sheet.caret == Spot(len(sheet.turns) - 1, len(sheet.turns[-1].text))
    for _ in range(30):
        key(sheet, Qt.Key.Key_Up)
    assert sheet.caret.turn == 0
    places = set()
    for _ in range(len(text(sheet))):
        places.add(sheet.caret.place)
        key(sheet, Qt.Key.Key_Right)
    assert len(places) > 10
    key(sheet, Qt.Key.Key_Home, modifier=Qt.KeyboardModifier.ControlModifier)
    for _ in range(30):
        key(sheet, Qt.Key.Key_Down)
    assert sheet.caret.turn == len(sheet.turns) - 1


def test_signs_beyond_the_basic_plane_are_one_step(sheet):
    sheet.move_caret(Spot(0, 0))
    sheet.write("🏴‍☠️é")
    assert text(sheet).startswith("🏴‍☠️éMostly")
    key(sheet, Qt.Key.Key_Backspace)
    key(sheet, Qt.Key.Key_Backspace)
    assert text(sheet).startswith("Mostly")


def test_an_input_method_composes_and_commits(sheet):
    sheet.move_caret(Spot(0, 0))
    QGuiApplication.sendEvent(sheet, QInputMethodEvent("に", []))
    assert sheet.preedit == "に" and text(sheet).startswith("Mostly")
    done = QInputMethodEvent("", [])
    done.setCommitString("日本")
    QGuiApplication.sendEvent(sheet, done)
    assert sheet.preedit == "" and text(sheet).startswith("日本Mostly")


def test_a_correction_shows_in_its_caption_at_once(window, sheet):
    sheet.move_caret(Spot(0, len(text(sheet)) - 1))
    QTest.keyClicks(sheet, "ness")
    caption = window.session.project.captions.captions[0]
    assert " ".join(caption_lines(window.session.project, caption)).endswith("tiredness.")
    window.show_room("captions")
    window.stanzas.grab()
    assert " ".join(window.stanzas.column.block(0).text.lines).endswith("tiredness.")


def test_a_click_on_a_word_moves_the_playhead_there(window, sheet):
    sheet.grab()
    word = sheet.turns[1].words[2]
    rect = sheet.column.block(1).word_rects(2)[0][1].translated(sheet.origin(1))
    QTest.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
    assert window.player.position == word.start_ms
    assert window.rooms["wording"].panel.facts.value("Word") == word.text
    assert sheet.spoken == (sheet.turns[1].id, 2)


def test_drag_an_edge_on_the_strip_is_one_step(window, sheet):
    strip = window.strip
    strip.scale, strip.start_ms = 10.0, 0.0
    caption = window.session.project.captions.captions[0]
    depth = window.session.history.depth
    x, y = round(strip.x_of(caption.end_ms)) - 2, 112
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    for step in range(1, 8):
        QTest.mouseMove(strip, QPoint(x - 6 * step, y))
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPoint(x - 42, y))
    moved = window.session.project.captions.captions[0]
    assert moved.end_ms == pytest.approx(caption.end_ms - 420, abs=30)
    assert window.session.history.depth == depth + 1
    window.commands.run("undo")
    assert window.session.project.captions.captions[0] == caption


def test_the_strip_zooms_from_all_to_single_words(window, demo):
    window.filing.open_path(demo)
    strip = window.strip
    strip.show_all()
    assert strip.ms_at(strip.width()) == pytest.approx(strip.duration, rel=0.01)
    for _ in range(30):
        window.commands.run("zoom_in")
    assert (strip.ms_at(strip.width()) - strip.start_ms) < 1500
    assert not strip.grab().isNull()


def _has_trace(window) -> bool:
    picture = window.booth.picture.grab().toImage()
    trace = window.theme.colour("trace").name()
    return any(
        picture.pixelColor(x, picture.height() * 35 // 100).name() == trace for x in range(picture.width())
    )


def test_open_the_demo_and_see_where_the_work_stands(window, demo, qtbot):
    window.filing.open_path(demo)
    window.grab()  # the first frame is without the sound
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    qtbot.waitUntil(lambda: _has_trace(window))
    qtbot.waitUntil(lambda: not window.jobs.busy)
    window.findings.settle()
    assert window.current.id == "wording"
    states = {one.text(): one.todo for one in window.rail.buttons}
    assert states["Intake"] == "1 recording" and states["Voices"] == "all named"
    assert states["Captions"] == "1 to fix"
    window.commands.run("go_captions")
    window.commands.run("next_look")
    if window.findings.by_caption:
        current = window.stanzas.captions[window.stanzas.current]
        assert window.findings.of(current)


def test_playing_marks_the_word_and_keeps_the_caret(window, demo, qtbot):
    window.filing.open_path(demo)
    window.sheet.move_caret(Spot(1, 3))
    window.player.seek(14_300)
    window.commands.run("play")
    QTest.keyClicks(window.sheet, "x")
    qtbot.waitUntil(lambda: window.player.position > 16_000)
    QTest.keyClicks(window.sheet, "y")
    window.commands.run("play")
    assert not window.player.playing
    assert window.sheet.caret == Spot(1, 5)
    assert "xy" in window.sheet.turns[1].text
    spoken_turn = next(turn for turn in window.sheet.turns if turn.id == window.sheet.spoken[0])
    word = spoken_turn.words[window.sheet.spoken[1]]
    assert word.start_ms <= window.player.position
    window.commands.run("back")
    assert window.player.position >= 10_500


def test_captions_are_set_again_as_one_step(window, sheet, qtbot):
    before = window.session.project
    window.commands.run("set_again")
    sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(sheet, "x")  # edited while they are being set
    qtbot.waitUntil(lambda: not window.jobs.runs("captions"))
    project = window.session.project
    held = [one for caption in project.captions.captions for one in caption.words]
    assert held == [word.id for word in words(project)]
    window.commands.run("undo")
    window.commands.run("undo")
    assert window.session.project == before


def test_speakers_by_key(window, sheet, monkeypatch):
    names = iter([("Tobiah", "Guest"), ("Tobiah Fenn", "Host")])
    monkeypatch.setattr(window.dialogs, "speaker_facts", lambda speaker, known: next(names))
    sheet.move_caret(Spot(1, 0))
    window.commands.run("speaker_1")
    assert window.session.project.transcript.speakers[0].name == "Tobiah"
    assert [turn.speaker for turn in sheet.turns] == [
        None,
        window.session.project.transcript.speakers[0].id,
        None,
    ]
    window.commands.run("rename")
    [speaker] = window.session.project.transcript.speakers
    assert speaker == Speaker(speaker.id, "Tobiah Fenn", "Host")


def test_save_close_and_open_again(window, sheet, tmp_path, monkeypatch):
    QTest.keyClicks(sheet, "x")
    assert window.session.dirty and window.header.saved.text() == "Not saved"
    path = tmp_path / "kept.dubrel"
    monkeypatch.setattr(window.dialogs, "file_to_save", lambda proposed: path)
    window.commands.run("save")
    assert not window.session.dirty and open_project(path) == window.session.project
    kept = window.session.project
    window.session.open(Project(), None, saved=True)
    window.filing.open_path(path)
    assert window.session.project == kept


def test_unsaved_work_is_asked_about(window, sheet, monkeypatch):
    QTest.keyClicks(sheet, "x")
    asked = []
    monkeypatch.setattr(window.dialogs, "unsaved", lambda title: asked.append(1) or "cancel")
    assert not window.close() and window.isVisible() and asked == [1]
    assert not window.filing.open_path(DEMO / "heron-film.mp4")
    monkeypatch.setattr(window.dialogs, "unsaved", lambda title: "discard")
    assert window.close()


def test_a_full_disk_while_saving_says_so_and_loses_nothing(window, sheet, tmp_path, monkeypatch):
    path = tmp_path / "p.dubrel"
    window.session.save(path)
    before = open_project(path)
    QTest.keyClicks(sheet, "x")
    import errno
    import os

    def full(handle):
        raise OSError(errno.ENOSPC, "full")

    monkeypatch.setattr(os, "fsync", full)
    assert window.filing.save() is False
    assert "disk is full" in window.message.toolTip()
    assert window.session.dirty and open_project(path) == before != window.session.project


@pytest.mark.parametrize("name", ["broken.dubrel", "text.mp3", "empty.wav", "prose.srt"])
def test_a_broken_file_leaves_the_open_project_alone(window, sheet, tmp_path, name):
    path = tmp_path / name
    path.write_text("" if name.startswith("empty") else "no such thing " * 40)
    before = window.session.project
    assert window.filing.open_path(path) is False
    assert window.session.project == before
    assert name in window.message.toolTip() and "Traceback" not in window.message.toolTip()


def test_another_project_begins_at_its_beginning(window, sheet, boards):
    window.session.open(boards, None, saved=True)
    sheet.move_caret(Spot(0, 4))
    sheet.move_caret(Spot(0, 20), keep=True)
    assert sheet.selected_words()
    window.session.open(replace(boards, title="Another"), None, saved=True)
    assert sheet.caret == sheet.anchor == Spot(0, 0) and not sheet.selected_words()
    assert sheet.verticalScrollBar().value() == 0


def test_a_dropped_file_is_opened(window, tmp_path):
    path = tmp_path / "dröp it.srt"
    path.write_text("1\n00:00:01,000 --> 00:00:03,000\nDropped here\n")
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(50, 50),
        Qt.DropAction.CopyAction,
        mime,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(event)
    assert [word.text for word in words(window.session.project)] == ["Dropped", "here"]
    assert window.current.id == "captions"


PAIR = {
    "boat.srt": ("The boat was built a hundred years ago.", "Nobody knows why she was painted green."),
    "barco.srt": ("O barco foi construído há cem anos.", "Ninguém sabe porque o pintaram de verde."),
}


def dropped(window, paths):
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, mime, left, none))


def test_two_caption_files_in_two_languages_are_an_original_and_its_translation(window, tmp_path):
    for name, lines in PAIR.items():
        cues = (
            f"{nth}\n00:00:0{nth * 3},000 --> 00:00:0{nth * 3 + 2},000\n{text}\n"
            for nth, text in enumerate(lines, 1)
        )
        (tmp_path / name).write_text("\n".join(cues))
    dropped(window, [tmp_path / "boat.srt", tmp_path / "barco.srt"])
    original, translation = window.session.project.tracks
    assert (original.language, translation.language, translation.translates) == ("en", "pt", original.id)
    assert [one.text for one in translation.captions] == list(PAIR["barco.srt"])
    assert [one.start_ms for one in translation.captions] == [3000, 6000]
    assert window.current.id == "translation"
    before = window.session.project
    dropped(window, [tmp_path / "boat.srt", tmp_path / "boat.srt"])
    assert window.session.project is before


def test_a_recording_that_moved_is_found_again(window, demo, tmp_path, monkeypatch):
    moved = tmp_path / "elsewhere" / "renamed.opus"
    moved.parent.mkdir()
    shutil.move(tmp_path / "slow-water-7.opus", moved)
    window.filing.open_path(demo)
    assert window.session.media_path is None and "not where it was" in window.message.text()
    monkeypatch.setattr(window.dialogs, "recording", lambda name: moved)
    window.commands.run("find_media")
    assert window.session.media_path == moved
    assert window.session.project.media.path == str(moved)


def test_release_writes_and_compares(window, sheet, tmp_path, qtbot):
    window.show_room("release")
    window.release.folder.setText(str(tmp_path / "new folder" / "out"))
    window.commands.run("release")
    qtbot.waitUntil(lambda: not window.jobs.busy)
    made = sorted(one.name for one in (tmp_path / "new folder" / "out").iterdir())
    assert made == ["Boards en.srt", "Boards en.vtt"]
    assert window.release.report.text().count("the same") == 2
    window.release.folder.setText("/proc/nowhere")
    window.commands.run("release")
    qtbot.waitUntil(lambda: not window.jobs.busy)
    assert "Choose another folder" in window.release.report.text()


def test_every_command_can_be_found_and_its_keys_changed(window, qtbot):
    from dubrel.desk.shell.frame.finder import Finder

    finder = Finder(window.commands, DAY, window)
    qtbot.addWidget(finder)
    finder.open()
    qtbot.waitExposed(finder)
    assert finder.list.count() == len(window.commands.actions)
    finder.field.setText("whole strip")
    assert finder.chosen == "zoom_all"
    QTest.keyClick(finder.field, Qt.Key.Key_F2)
    QTest.keyClick(finder.field, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert "“Save” already has these keys" in finder.hint.text()
    QTest.keyClick(finder.field, Qt.Key.Key_F2)
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    QTest.keyClick(finder.field, Qt.Key.Key_F12, both)
    assert window.commands.keys("zoom_all") == "Ctrl+Shift+F12"
    keys = [action.shortcut().toString() for action in window.commands.actions.values()]
    given = [one for one in keys if one]
    assert len(given) == len(set(given))


def test_both_themes_and_small_windows_paint(window, demo):
    window.filing.open_path(demo)
    for size in ((1280, 800), (900, 600), (2200, 1300)):
        window.resize(*size)
        for name in ("go_intake", "go_wording", "go_captions", "go_release", "theme"):
            window.commands.run(name)
            assert not window.grab().isNull()


def test_a_right_to_left_transcript_is_set_from_the_right(window):
    from dubrel.base.value import replace

    project = add_heard(Project(), spoken("שלום לכולם, ברוכים הבאים לתוכנית שלנו."))
    project = replace(project, transcript=replace(project.transcript, language="he"))
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    window.sheet.grab()
    block = window.sheet.column.block(0)
    first, last = block.word_rects(0)[0][1], block.word_rects(3)[0][1]
    assert first.left() > last.left()
    window.sheet.move_caret(Spot(0, 4))
    window.sheet.write("ים")
    assert window.sheet.turns[0].text.startswith("שלוםים")


def test_what_was_said_of_a_project_goes_with_it_and_what_is_said_of_the_next_stays(window, tmp_path):
    window.filing.open_path(DEMO / "heron-film.dubrel")
    window.desk.say("The other recogniser is transcribing.")
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    assert window.message.text() == ""
    assert window.footer.last[-1][1] == "The other recogniser is transcribing."
    alone = tmp_path / "alone.dubrel"
    shutil.copy(DEMO / "heron-film.dubrel", alone)  # without its recording beside it
    window.filing.open_path(alone)
    assert "not where it was" in window.message.text()
