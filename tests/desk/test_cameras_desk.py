"""Cameras in the window: found, shown by key, cut by rules, one of them the sound."""

import shutil
from pathlib import Path

import pytest
from camerafilms import camera_film, talk_sound
from conftest import spoken
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from recordings import hold, is_over

from dubrel.base.value import replace
from dubrel.edits.cameras.gathering import camera_changed, with_cameras
from dubrel.edits.intake import set_turns
from dubrel.media.probe import probe
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.store.projectfile import open_project, save

SAID = "It was dry for sixty years and then she was carried up to the yard by the people of the lock."


@pytest.fixture(scope="module")
def films(tmp_path_factory, talk):
    folder = tmp_path_factory.mktemp("films")
    sound = talk_sound(talk[0][: 30 * 16_000])
    camera_film(folder / "hall.mkv", 0, sound, 0.0, 30)
    camera_film(folder / "near.mkv", 1, sound, -3.0, 36, ppm=40)
    camera_film(folder / "late.mkv", 2, sound, 10.0, 15)
    camera_film(folder / "recorder.wav", 3, sound, -1.0, 34, picture=False)
    return folder


@pytest.fixture
def cameras(window, films, tmp_path, qtbot):
    """The view of cameras, with the film of the hall open; others are added by the real job."""
    people = [Speaker("a", "Anna"), Speaker("b", "Ben")]
    rows = [
        RecognisedTurn(tuple(spoken(SAID, start=at)), who)
        for who, at in (("a", 1000), ("b", 12_000), ("a", 21_000))
    ]
    for one in films.iterdir():
        shutil.copy(one, tmp_path / one.name)
    project = set_turns(Project(title="Hall", media=probe(tmp_path / "hall.mkv")), rows, people, "en")
    save(project, tmp_path / "hall.dubrel")
    window.filing.open_path(tmp_path / "hall.dubrel")
    qtbot.waitUntil(lambda: window.session.media_path is not None)
    window.show_room("cut")
    window.commands.run("cameras")
    view = window.rooms["cut"].cameras
    view.folder, view.said = tmp_path, []
    window.desk.said.connect(view.said.append)
    return view


def add(view, qtbot, *names):
    view.bring([view.folder / name for name in names])
    qtbot.waitUntil(lambda: not view.desk.jobs.runs("cameras"))


@pytest.fixture
def two(cameras):
    """Near shows Anna; late runs from the tenth to the twenty-fifth second and shows Ben."""
    rows = [
        (probe(cameras.folder / name), starts, 1.0)
        for name, starts in (("near.mkv", -3000.0), ("late.mkv", 10_000.0))
    ]
    cameras.session.step(lambda now: with_cameras(now, rows), "Add cameras")
    _, near, late = cameras.session.project.cameras.all
    cameras.session.step(
        lambda now: camera_changed(camera_changed(now, near.id, shows=["a"]), late.id, shows=["b"]), "Shows"
    )
    return cameras


def press(view, key):
    view.page.setFocus()
    QTest.keyClick(view.page, key)


def switches(view):
    names = {one.id: one.name for one in view.session.project.cameras.all}
    return [(one.ms, names[one.camera]) for one in view.session.project.cameras.switches]


def tint(image):
    """Which made camera a picture is of, by its blue."""
    colours = [image.pixelColor(image.width() // 2 + 3, y) for y in range(2, image.height(), 7)]
    return sum(one.blueF() - one.greenF() for one in colours) / len(colours)


def test_without_another_camera_the_page_says_what_to_do(cameras):
    assert "their sound says when they ran" in cameras.page.empty.text()
    assert cameras.page.empty.isVisible()
    assert not cameras.page.propose.isEnabled()


def test_cameras_are_found_by_their_sound_in_one_step(cameras, qtbot):
    add(cameras, qtbot, "near.mkv", "recorder.wav")
    found = cameras.session.project.cameras
    assert [(one.name, one.seen) for one in found.all] == [
        ("hall", True),
        ("near", True),
        ("recorder", False),
    ]
    assert found.all[1].starts_ms == pytest.approx(-3000, abs=3)
    assert [one.seen.name for one in cameras.page.monitors.monitors] == ["hall", "near"]
    cameras.desk.commands.run("undo")
    assert cameras.session.project.cameras.all == ()
    assert cameras.page.empty.isVisible()
    cameras.desk.commands.run("redo")
    assert len(cameras.session.project.cameras.all) == 3


def test_a_file_of_another_event_is_said_and_nothing_is_added(cameras, qtbot, tmp_path):
    (tmp_path / "notes.mkv").write_text("no film")
    cameras.bring([tmp_path / "notes.mkv"])
    qtbot.waitUntil(lambda: "notes.mkv" in " ".join(cameras.said))
    assert cameras.session.project.cameras.all == ()


def test_another_project_that_is_opened_meanwhile_gets_no_cameras(cameras, qtbot, tmp_path):
    other = tmp_path / "other.dubrel"
    save(Project(title="Other", media=probe(tmp_path / "near.mkv")), other)
    cameras.bring([tmp_path / "late.mkv"])
    matching = cameras.desk.jobs.running("cameras")
    cameras.desk.window.filing.open_path(other)
    assert is_over(matching)
    assert cameras.session.project.title == "Other"
    assert cameras.session.project.cameras.all == ()
    assert not cameras.on


def test_words_that_arrive_while_cameras_are_found_stay(cameras, qtbot):
    from dubrel.model import Note

    cameras.bring([cameras.folder / "near.mkv"])
    note = Note(9999, 500, "Show note", "kept")
    cameras.session.amend(lambda now: replace(now, notes=(*now.notes, note)))
    qtbot.waitUntil(lambda: not cameras.desk.jobs.runs("cameras"))
    assert cameras.session.project.notes[-1] == note
    assert len(cameras.session.project.cameras.all) == 2


def test_digits_show_a_camera_from_the_playhead_on(two):
    two.desk.player.seek(5013)
    press(two, Qt.Key.Key_2)
    two.desk.player.seek(15_000)
    press(two, Qt.Key.Key_3)
    press(two, Qt.Key.Key_9)
    assert switches(two) == [(5000, "near"), (15_000, "late")]
    assert [one.seen.shown for one in two.page.monitors.monitors] == [False, False, True]
    press(two, Qt.Key.Key_Backspace)
    assert switches(two) == [(5000, "near")]
    two.desk.commands.run("undo")
    two.desk.commands.run("undo")
    two.desk.commands.run("undo")
    assert switches(two) == []


def test_switching_while_it_plays(two, qtbot):
    two.desk.player.seek(4000)
    two.desk.player.play()
    qtbot.waitUntil(lambda: two.desk.player.position > 4400)
    press(two, Qt.Key.Key_2)
    assert two.desk.player.playing
    two.desk.player.pause()
    [(ms, name)] = switches(two)
    assert name == "near"
    assert 4360 <= ms <= two.desk.player.position


def test_pictures_are_of_the_camera_and_the_moment(two, qtbot):
    two.desk.player.seek(12_000)
    monitors = two.page.monitors.monitors
    qtbot.waitUntil(lambda: all(one.image is not None for one in monitors))
    qtbot.waitUntil(lambda: tint(monitors[0].image) < -0.2 and tint(monitors[2].image) > 0.05)
    tints = [tint(one.image) for one in monitors]
    assert tints == sorted(tints)
    booth = two.desk.picture()
    assert booth.camera is None
    press(two, Qt.Key.Key_3)
    qtbot.waitUntil(lambda: booth.camera is not None)
    assert tint(booth.camera) == pytest.approx(tints[2], abs=0.1)
    two.desk.player.seek(27_000)  # it runs no longer
    qtbot.waitUntil(lambda: booth.camera is None)
    assert monitors[2].seen.runs is False


def test_the_booth_shows_the_camera_in_other_passes_too(two, qtbot):
    two.desk.player.seek(12_000)
    press(two, Qt.Key.Key_2)
    two.desk.commands.run("go_captions")
    two.desk.player.seek(12_400)
    booth = two.desk.picture()
    qtbot.waitUntil(lambda: booth.camera is not None and tint(booth.camera) < 0)


def test_the_picture_is_cut_by_the_rules_in_one_step(two, qtbot):
    two.desk.commands.run("cut_picture")
    qtbot.waitUntil(lambda: bool(two.session.project.cameras.switches))
    assert [name for _, name in switches(two)] == ["near", "late", "near"]
    assert two.page.state.text() == "3 shots; 1 to 3 show a camera"
    two.desk.commands.run("undo")
    assert switches(two) == []


def test_rules_of_the_sentence_are_those_of_the_cut(two, qtbot):
    two.page.sentence.fields["shortest_ms"].step(30)
    assert two.rules.shortest_ms == 17_000
    two.desk.commands.run("cut_picture")
    qtbot.waitUntil(lambda: "The picture is cut" in " ".join(two.said))
    assert [name for _, name in switches(two)] == ["near"]
    assert two.page.state.text() == "1 shot; 1 to 3 show a camera"


def test_whom_a_camera_shows_its_name_and_its_place(two):
    two.desk.commands.run("next_camera")
    assert two.panel.heading.text() == "near"
    assert "starts 00:00:03.0" in two.panel.when.text()
    [(_, anna), (_, ben)] = two.panel.boxes
    assert (anna.text(), anna.isChecked(), ben.isChecked()) == ("Anna", True, False)
    ben.click()
    assert two.session.project.cameras.all[1].shows == ("a", "b")
    two.room.ask.cut_name = lambda title, now: f"{now} the window"
    two.desk.commands.run("rename_camera")
    assert two.page.monitors.monitors[1].seen.name == "near the window"
    before = two.session.project.cameras.all[1].starts_ms
    two.desk.commands.run("camera_later")
    two.desk.commands.run("camera_later")
    assert two.session.project.cameras.all[1].starts_ms == pytest.approx(before + 80)
    two.desk.commands.run("remove_camera")
    assert [one.name for one in two.session.project.cameras.all] == ["hall", "late"]


def test_a_switch_is_dragged_on_its_lane_in_one_step(two):
    two.desk.player.seek(5000)
    press(two, Qt.Key.Key_2)
    lanes = two.page.lanes
    at = QPoint(round(lanes.x_of(5000)), 40)
    QTest.mousePress(lanes, Qt.MouseButton.LeftButton, pos=at)
    for ms in (6000, 7000, 8000):
        QTest.mouseMove(lanes, QPoint(round(lanes.x_of(ms)), 40))
    QTest.mouseRelease(lanes, Qt.MouseButton.LeftButton, pos=QPoint(round(lanes.x_of(8000)), 40))
    [(ms, _)] = switches(two)
    assert ms == pytest.approx(8000, abs=80)
    two.desk.commands.run("undo")
    assert switches(two) == [(5000, "near")]
    two.desk.commands.run("switch_later")
    assert switches(two) == [(5040, "near")]


def test_the_sound_of_a_recorder_becomes_the_recording_and_undo_takes_it_back(two, qtbot):
    add(two, qtbot, "recorder.wav")
    two.choose(two.session.project.cameras.all[-1].id)
    before = two.session.project.transcript.turns[0].start_ms
    two.desk.commands.run("take_sound")
    assert two.session.media_path.name == "recorder.wav"
    assert two.session.project.transcript.turns[0].start_ms == pytest.approx(before + 1000, abs=2)
    assert two.session.project.frame_rate == 25
    assert [one.name for one in two.session.project.cameras.all] == ["hall", "near", "late"]
    two.desk.commands.run("undo")
    assert two.session.media_path.name == "hall.mkv"
    assert two.session.project.transcript.turns[0].start_ms == before
    two.desk.commands.run("redo")
    assert two.session.media_path.name == "recorder.wav"


def test_the_sound_is_not_taken_while_the_recording_is_worked_on(two):
    hold(two.desk.window, "shots")
    two.choose(two.session.project.cameras.all[1].id)
    two.desk.commands.run("take_sound")
    assert "still being worked on" in " ".join(two.said)
    assert two.session.media_path.name == "hall.mkv"


def test_cameras_and_clips_take_each_others_place(two):
    room = two.room
    two.desk.commands.run("clips")
    assert (room.clips.on, two.on) == (True, False)
    assert room.page is room.clips.page
    two.desk.commands.run("cameras")
    assert (room.clips.on, two.on) == (False, True)
    assert room.page is two.page
    two.desk.commands.run("take_out")
    assert "Cameras are shown" in " ".join(two.said)
    two.desk.commands.run("cameras")
    assert room.page is room.cut_page


def test_saved_and_opened_elsewhere_the_cameras_are_found(two, qtbot, tmp_path):
    press(two, Qt.Key.Key_2)
    two.desk.commands.run("save")
    assert not two.session.dirty
    moved = Path(f"{tmp_path} moved")
    shutil.move(tmp_path, moved)
    try:
        project = open_project(moved / "hall.dubrel")
        assert project.cameras.switches == two.session.project.cameras.switches
        two.desk.window.filing.open_path(moved / "hall.dubrel")
        assert two.session.project.cameras.all[1].media.path == str(moved / "near.mkv")
        assert not two.session.dirty
    finally:
        two.desk.window.session.close()
        shutil.move(moved, tmp_path)


def test_a_film_that_is_gone_shows_nothing_and_is_said_when_the_cut_is_written(two, qtbot, tmp_path):
    press(two, Qt.Key.Key_2)
    (tmp_path / "near.mkv").unlink()
    two.desk.player.seek(2000)
    QApplication.processEvents()
    two.room.ask.file_to_write = lambda name, film: tmp_path / "out.mp4"
    two.room.ask.captions_in = lambda: "none"
    two.desk.commands.run("write_cut")
    assert "The film of “near” is not where it was" in " ".join(two.said)
    assert not (tmp_path / "out.mp4").exists()


def test_the_film_of_the_cameras_is_written_without_any_cut(two, qtbot, tmp_path):
    from camerafilms import frames_in

    two.desk.player.seek(5000)
    press(two, Qt.Key.Key_2)
    two.room.ask.file_to_write = lambda name, film: tmp_path / "out.mp4"
    two.room.ask.captions_in = lambda: "none"
    two.desk.commands.run("write_cut")
    qtbot.waitUntil(lambda: "Written: out.mp4" in " ".join(two.said))
    assert [camera for camera, _ in frames_in(tmp_path / "out.mp4")] == [0] * 125 + [1] * 625
    assert two.session.project.cuts == ()


def test_whom_cameras_show_is_one_step_and_stays_with_the_project_it_was_looked_for_in(two):
    from dubrel.jobs.machinery.events import ShownFound

    _, near, late = two.session.project.cameras.all
    before = two.session.project
    two.take_shown(ShownFound(((near.id, ("b",)), (late.id, ()))))
    assert [one.shows for one in two.session.project.cameras.all] == [(), ("b",), ()]
    assert "Whom 2 cameras show was found" in two.said[-1]
    two.desk.commands.run("undo")
    assert two.session.project.cameras == before.cameras


def test_words_of_a_recording_do_not_come_into_a_project_of_another_sound(two, qtbot):
    """The sound was taken from a camera, that was undone, words come, and it is done again."""
    from dubrel.jobs.machinery.events import Recognised
    from dubrel.jobs.machinery.fold import arrival

    near = two.session.project.cameras.all[1]
    qtbot.waitUntil(lambda: not two.desk.jobs.busy)
    two.choose(near.id)
    two.desk.commands.run("take_sound")
    two.desk.commands.run("undo")
    hold(two.desk.window, "transcribe")
    words = tuple(spoken("And more.", start=28_000))
    two.desk.jobs.arrive("transcribe", arrival(Recognised(words), two.session.project.next_id))
    assert two.session.project.transcript.turns[-1].text.endswith("And more.")
    two.desk.commands.run("redo")
    assert two.session.project.media.name == "near.mkv"
    assert not two.session.project.transcript.turns[-1].text.endswith("And more.")
    two.desk.commands.run("undo")
    assert two.session.project.transcript.turns[-1].text.endswith("And more.")
