"""The pass Cut in the window: proposed, taken out, put back, played as it sounds, written."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import av
import numpy as np
import pytest
from conftest import DEMO, words
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from samples import boat_project

from dubrel.base.value import replace
from dubrel.desk.cut.cutdevice import CutDevice
from dubrel.edits.cuts.trimming import with_cut, with_cut_changed
from dubrel.edits.words.wording import replace_text
from dubrel.film.soundtracks.cutsound import CutSound
from dubrel.model import CutPassage
from dubrel.release.cutfiles import parts_of
from dubrel.store.projectfile import save


@pytest.fixture
def cut(window, qtbot):
    """The demo podcast in Cut, with what is proposed."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    window.show_room("cut")
    room = window.rooms["cut"]
    qtbot.waitUntil(lambda: not room.proposing.busy and bool(room.proposing.found))
    return room


def tokens(room, kind):
    return [one for paragraph in room.page.sheet.paragraphs for one in paragraph.tokens if one.kind == kind]


def run(room, name):
    room.desk.commands.run(name)


def test_pauses_are_proposed_and_taken_out_as_one_step(cut):
    before = cut.session.project
    offered = [one for one in tokens(cut, "pause") if one.proposed]
    assert len(offered) == len(cut.proposing.found) == 9
    assert cut.page.make.text() == "Take out 9"
    run(cut, "take_out_ticked")
    made = cut.cut
    assert made.name == "The cut" and made.joins == 8  # the last pause goes on to the end
    assert cut.session.project.transcript is before.transcript
    assert not [one for one in tokens(cut, "pause") if one.proposed] and len(tokens(cut, "pause")) == 9
    assert cut.page.figures.text() == "2:36 of 2:45, −0:08, 8 joins"
    assert cut.todo().text.startswith("8 joins")
    run(cut, "undo")
    assert cut.session.project.cuts == () and cut.page.make.text() == "Take out 9"
    run(cut, "redo")
    assert cut.cut == made


def test_what_is_unticked_stays(cut):
    sheet = cut.page.sheet
    first = next(one for one in tokens(cut, "pause") if one.proposed)
    sheet.go_to(first.start_ms)
    QTest.keyClick(sheet, Qt.Key.Key_Space)
    assert cut.page.make.text() == "Take out 8"
    run(cut, "take_out_ticked")
    assert cut.cut.joins == 7
    assert all(not one.start_ms <= first.start_ms < one.end_ms for one in cut.cut.taken)


def test_words_are_taken_out_by_delete_and_put_back(cut, qtbot):
    sheet, every = cut.page.sheet, words(cut.session.project)
    sheet.go_to(every[4].start_ms)
    for _ in range(2):
        QTest.keyClick(sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    QTest.keyClick(sheet, Qt.Key.Key_Delete)
    gone = tokens(cut, "gone")
    assert [(one.first, one.stop, one.why) for one in gone] == [(4, 7, "by hand")]
    assert cut.session.project.transcript.turns[0].words[4] is every[4]
    sheet.go_to(gone[0].start_ms)
    assert cut.panel.text.text().startswith(f"{(gone[0].end_ms - gone[0].start_ms) / 1000:.1f} s")
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert gone[0].start_ms in sheet.opened
    QTest.keyClick(sheet, Qt.Key.Key_Insert)
    assert not tokens(cut, "gone") and cut.cut.joins == 0


def test_a_selection_over_several_turns(cut):
    sheet, turns = cut.page.sheet, cut.session.project.transcript.turns
    sheet.go_to(turns[0].words[-2].start_ms)
    for _ in range(6):
        sheet.step(1, keep=True)
    run(cut, "take_out")
    gone = tokens(cut, "gone")
    assert len(gone) == 2 and cut.cut.joins == 1
    out = sum(one.end_ms - one.start_ms for one in cut.cut.taken)
    assert sum(one.end_ms - one.start_ms for one in gone) == pytest.approx(out, abs=700)
    for one in gone:
        sheet.go_to(one.start_ms + 1)
        run(cut, "put_back")
    assert not tokens(cut, "gone")


def test_what_is_found_again_is_the_same_and_its_turns_are_not_read_anew(cut, qtbot):
    before = list(cut.proposing.found)
    shown = {one.id: one for one in cut.page.sheet.paragraphs}
    turn = cut.session.project.transcript.turns[0]
    cut.session.step(lambda now: replace_text(now, turn.id, 0, len(turn.words[0].text), "Changed"), "Type")
    qtbot.waitUntil(lambda: not cut.proposing.busy)
    assert [one is old for one, old in zip(cut.proposing.found, before)] == [True] * len(before)
    anew = [one.turn.id for one in cut.page.sheet.paragraphs if shown[one.id] is not one]
    assert anew == [turn.id]


def test_other_rules_propose_otherwise_and_can_be_kept(cut, qtbot):
    cut.page.sentence.fields["longer_ms"].step(-4)
    qtbot.waitUntil(lambda: not cut.proposing.busy)
    assert cut.page.rules.longer_ms == 400 and len(cut.proposing.found) > 9
    cut.desk.window.dialogs.cut_name = lambda title, now: "Mine"
    run(cut, "keep_cut_rules")
    cut.desk.window.dialogs.cut_choice = lambda title, names: "Gentle"
    run(cut, "cut_rules")
    assert cut.page.rules.longer_ms == 1500
    seen = []
    cut.desk.window.dialogs.cut_choice = lambda title, names: (seen.extend(names), "Mine")[1]
    run(cut, "cut_rules")
    assert "Mine" in seen and cut.page.rules.longer_ms == 400


def test_the_cut_is_played_across_its_joins(cut, qtbot):
    run(cut, "take_out_ticked")
    join = cut.cut.passages[0].end_ms
    cut.desk.player.seek(join - 600)
    run(cut, "play_cut")
    player = cut.desk.player
    assert player.playing and cut.player.playing
    seen = []
    player.moved.connect(seen.append)
    qtbot.waitUntil(lambda: player.position > cut.cut.passages[1].start_ms + 200)
    out = range(join + 40, cut.cut.passages[1].start_ms - 40)
    assert seen and not [ms for ms in seen if ms in out]
    player.toggle()
    assert not player.playing and not cut.player.playing
    player.toggle()
    assert cut.player.playing
    cut.desk.go("wording")
    assert not player.playing


def test_a_join_is_played_for_two_seconds(cut, qtbot):
    run(cut, "take_out_ticked")
    cut.page.sheet.go_to(0)
    run(cut, "next_look")
    assert cut.player.playing
    assert cut.page.sheet.current().kind == "pause"
    qtbot.waitUntil(lambda: not cut.player.playing)
    assert cut.player.position == cut.cut.passages[0].end_ms + 1000


def test_a_join_is_dragged_and_nudged(cut):
    run(cut, "take_out_ticked")
    strip, join = cut.desk.window.strip, cut.cut.passages[0].end_ms
    strip.zoom(0.3, strip.x_of(join))
    strip.look_at(join - 3000, strip.scale)
    point = QPointF(strip.x_of(join), 40)
    grip = strip.layer.grip_at(strip, point)
    assert grip == ("join", 0, "out")
    strip.layer.drag(grip, join - 200)
    strip.layer.drag(grip, join - 300)
    assert cut.cut.passages[0].end_ms == join - 300
    run(cut, "undo")
    assert cut.cut.passages[0].end_ms == join
    cut.page.sheet.go_to(join)
    run(cut, "nudge_out_earlier")
    assert cut.cut.passages[0].end_ms == join - 10


def test_the_strip_and_the_sheet_paint_a_cut_in_both_themes(cut):
    from dubrel.desk.shell.kit.theme import DAY, NIGHT

    run(cut, "take_out_ticked")
    for theme in (DAY, NIGHT):
        cut.desk.window.set_theme(theme)
        image = cut.desk.window.grab().toImage()
        at = cut.page.mapTo(cut.desk.window, QPoint(6, 300)) * image.devicePixelRatio()
        assert image.pixelColor(at).name() == theme.colour("paper").name()


def test_words_that_change_meanwhile_change_on_the_sheet(cut, qtbot):
    run(cut, "take_out_ticked")
    turn = cut.session.project.transcript.turns[0]
    cut.session.step(lambda now: replace_text(now, turn.id, 0, 7, "Hello"), "Type")
    assert cut.page.sheet.paragraphs[0].turn.words[0].text == "Hello"
    assert cut.cut.joins == 8
    run(cut, "undo")
    assert cut.page.sheet.paragraphs[0].turn.words[0].text == "Welcome"


def test_another_project_has_other_cuts_and_proposals(cut, qtbot, tmp_path):
    run(cut, "take_out_ticked")
    run(cut, "play_cut")
    other = replace(boat_project(), title="Other")
    save(other, tmp_path / "other.dubrel")
    cut.desk.window.filing.open_path(tmp_path / "other.dubrel")
    cut.desk.window.show_room("cut")
    assert cut.cut is None and not cut.player.playing
    qtbot.waitUntil(lambda: not cut.proposing.busy)
    assert len(cut.page.sheet.paragraphs) == len(other.transcript.turns)
    assert all(one.end_ms < 60_000 for one in cut.proposing.found)


def test_nothing_open_says_what_to_do(window):
    window.show_room("cut")
    assert window.rooms["cut"].page.sheet.empty_title == "Nothing to cut yet"
    for name in ("take_out_ticked", "take_out", "put_back", "play_cut", "write_cut", "new_cut", "tick"):
        assert window.commands.why_not(name).endswith(".")


def test_a_cut_is_written_and_read_again(cut, qtbot, tmp_path):
    run(cut, "take_out_ticked")
    made = cut.cut
    for name in ("cut.otio", "cut.edl"):
        cut.desk.window.dialogs.file_to_write = lambda *_, name=name: tmp_path / name
        run(cut, "write_cut")
        assert (tmp_path / name).is_file()
    cut.desk.window.filing.open_path(tmp_path / "cut.otio")
    assert [one.name for one in cut.session.project.cuts] == ["The cut", "The cut 2"]
    assert [(one.start_ms, one.end_ms) for one in cut.cut.passages] == [
        (one.start_ms, one.end_ms) for one in made.passages
    ]
    cut.desk.window.dialogs.cut_name = lambda title, now: "From the editor"
    run(cut, "rename_cut")
    assert cut.cut.name == "From the editor" and cut.page.cuts.currentText() == "From the editor"
    run(cut, "delete_cut")
    assert cut.cut == made


def test_the_sound_of_a_cut_is_made_in_the_background(cut, qtbot, tmp_path):
    run(cut, "take_out_ticked")
    cut.desk.window.dialogs.file_to_write = lambda *_: tmp_path / "cut.flac"
    run(cut, "write_cut")
    qtbot.waitUntil(lambda: not cut.desk.jobs.busy)
    with av.open(str(tmp_path / "cut.flac")) as sound:
        assert abs(sound.duration / 1000 - cut.cut.length_ms) < 2


def test_the_player_hears_the_very_samples_of_the_cut():
    """What is read on demand, also from the middle, is what is written in one go."""
    from dubrel.cli.common import read_input

    project = read_input(DEMO / "slow-water-7.dubrel", True)
    spans = [(0, 5000), (6000, 9000), (60_000, 61_000), (12_000, 13_000), (13_200, 40_000)]
    project, cut_id = with_cut(project, "c", [CutPassage(a, b, cross_ms=20) for a, b in spans])
    path, parts = Path(project.media.path), parts_of(project.cut(cut_id), None)
    sound = CutSound(path, parts)
    whole = (np.clip(np.concatenate(list(sound.blocks()), axis=1).T, -1, 1) * 32767).astype("<i2").tobytes()
    sound.close()
    device = CutDevice(path, parts)
    found = b""
    assert device.size() == 44 + len(whole)
    for place in (0, 100_000, 480_000, 900_002, 2_000_000, 480_002):
        device.seek(44 + place)
        found = b"".join(bytes(device.readData(5000)) for _ in range(10))
        ours, theirs = (
            np.frombuffer(one, "<i2").astype(int) for one in (found, whole[place : place + 50_000])
        )
        assert np.abs(ours - theirs).max() <= 40, place
    device.seek(44 + 480_003)
    assert bytes(device.readData(1000)) == found[1:1001]
    device.end()
    assert device.readData(100) == b""


def test_release_writes_a_cut(cut, qtbot, tmp_path):
    from dubrel.release.kits import KITS, Item, Kit

    run(cut, "take_out_ticked")
    shorter = partial(
        with_cut_changed, cut_id=cut.cut.id, change=lambda it: replace(it, passages=it.passages[:3])
    )
    cut.session.step(shorter, "Shorten")
    window = cut.desk.window
    window.show_room("release")
    page = window.release
    page.folder.setText(str(tmp_path / "out"))
    page.show_kit(Kit("k", "{title} {form}", (Item("srt", {}), Item("recording-sound", {}))))
    page.of.choose(cut.cut.id)
    qtbot.waitUntil(lambda: not window.jobs.busy and len(page.plan) == 2)
    run(cut, "release")
    qtbot.waitUntil(lambda: len(list((tmp_path / "out").glob("[!.]*"))) == 2)
    qtbot.waitUntil(lambda: not window.jobs.busy)
    film = next(one for one in (tmp_path / "out").iterdir() if one.suffix == ".mp3")
    with av.open(str(film)) as made:
        assert abs(made.duration / 1000 - cut.cut.length_ms) < 120
    assert cut.session.project.releases[-1].kit == "k (The cut)"
    assert KITS and page.whats.isVisible()
    page.of.choose(0)
    assert page.plan[0].source.original.transcript is cut.session.project.transcript


def test_an_edit_that_has_changed_is_opened_with_its_words(cut, qtbot, tmp_path):
    from recordings import write_wav

    from dubrel.media.sound import decode_blocks

    samples = np.concatenate(list(decode_blocks(DEMO / "slow-water-7.opus"))) / 32768
    edited = np.concatenate([samples[3 * 16_000 : 33 * 16_000], samples[60 * 16_000 : 90 * 16_000]])
    path = write_wav(tmp_path / "edit.wav", edited)
    window = cut.desk.window
    window.dialogs.edited_file = lambda: path
    window.dialogs.conformed_file = lambda proposed: tmp_path / "edit.dubrel"
    title = window.session.project.title
    run(cut, "conform")
    qtbot.waitUntil(lambda: window.session.path == tmp_path / "edit.dubrel")
    assert window.session.project.length_ms == 60_000 and window.session.project.title == title
    assert window.session.media_path == path
    window.dialogs.edited_file = lambda: write_wav(tmp_path / "none.wav", np.zeros(160_000))
    window.dialogs.conformed_file = lambda proposed: tmp_path / "none.dubrel"
    said = []
    cut.desk.said.connect(said.append)
    run(cut, "conform")
    qtbot.waitUntil(lambda: any("shares no sound" in one for one in said))
    assert window.session.path == tmp_path / "edit.dubrel" and not (tmp_path / "none.dubrel").exists()


def test_what_is_in_doubt_is_ticked_only_by_hand(window, qtbot):
    from conftest import spoken

    from dubrel.edits.intake import set_turns
    from dubrel.model import Project, RecognisedTurn, Speaker

    said = spoken(
        "The old boat came out of the water at the yard. The old boat came out of the water at the yard."
    )
    turns = [RecognisedTurn(tuple(said[:11]), "s0"), RecognisedTurn(tuple(said[11:]), "s1")]
    project = set_turns(Project(title="Echo"), turns, [Speaker("s0", "Anna"), Speaker("s1", "Ben")], "en")
    window.session.open(project, None, saved=False)
    window.show_room("cut")
    room = window.rooms["cut"]
    qtbot.waitUntil(lambda: not room.proposing.busy and bool(room.proposing.found))
    doubtful = next(one for one in room.proposing.found if one.why == "said again")
    assert "somebody else" in doubtful.doubt and doubtful not in room.ticked()
    block = room.page.sheet.column.block(0)
    words_of_it = [one.token for one in block.pieces if one.token.proposed == doubtful]
    assert words_of_it and not any(block.ticked(one) for one in words_of_it)
    room.page.sheet.go_to(words_of_it[2].start_ms)
    window.commands.run("tick")
    assert doubtful in room.ticked()
    window.commands.run("take_out_ticked")
    assert [one.why for one in room.cut.taken if one.why == "said again"]


def test_a_cut_in_another_order_reads_as_it_plays(cut, qtbot):
    project = cut.session.project
    spans = [(60_000, 80_000), (3000, 33_000), (100_000, 110_000)]
    made, cut_id = with_cut(project, "Rough", [CutPassage(a, b) for a, b in spans])
    cut.session.apply(made, "Open a list", base=project)
    cut.choose(cut_id)
    shown = [
        one.turn.words[token.first].id
        for one in cut.page.sheet.paragraphs
        for token in one.tokens
        if token.kind == "word"
    ]
    from dubrel.edits.cuts.cutting import cut_project

    assert shown == [word.id for word in words(cut_project(made, made.cut(cut_id)))]
    assert len({one.id for one in cut.page.sheet.paragraphs}) == len(cut.page.sheet.paragraphs)
    cut.page.sheet.move_to((0, 0))
    heard, said = [], []
    cut.desk.said.connect(said.append)
    for _ in range(3):
        run(cut, "next_look")
        heard.append(cut.player.position)
        cut.player.pause()
    assert said == ["That was the last join."]
    assert [round(ms, -3) for ms in heard] == [19_000, 49_000, 49_000]  # a second before each join
    run(cut, "previous_look")
    assert round(cut.player.position, -3) == 19_000
    cut.player.pause()
    for name in ("take_out", "put_back", "undo", "tick", "play_join"):
        run(cut, name)
    for place in range(len(cut.page.sheet.paragraphs)):
        cut.page.sheet.move_to((place, 0))
    cut.page.sheet.follow(101_000)


def test_another_project_that_is_opened_while_a_question_stands_open_is_left_alone(cut, tmp_path):
    other, _ = with_cut(replace(boat_project(), title="Other"), "Theirs", [CutPassage(0, 900)])
    save(other, tmp_path / "other.dubrel")
    window = cut.desk.window
    run(cut, "take_out_ticked")

    def asked(*_):
        window.filing.open_path(tmp_path / "other.dubrel")
        return "Mine"

    window.dialogs.cut_name = asked
    for name in ("rename_cut", "new_cut"):
        run(cut, name)
        assert window.session.project.title == "Other"
        assert [one.name for one in window.session.project.cuts] == ["Theirs"]
        window.show_room("cut")


def test_a_film_of_a_cut_that_is_cancelled_leaves_nothing(window, qtbot, tmp_path):
    window.filing.open_path(DEMO / "heron-film.dubrel")
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    window.show_room("cut")
    room = window.rooms["cut"]
    qtbot.waitUntil(lambda: not room.proposing.busy and bool(room.proposing.found))
    run(room, "take_out_ticked")
    window.dialogs.captions_in = lambda: "inside"
    window.dialogs.file_to_write = lambda *_: tmp_path / "cut.mp4"
    run(room, "write_cut")
    qtbot.waitUntil(lambda: bool(list(tmp_path.iterdir())))  # it has begun
    run(room, "cancel")
    qtbot.waitUntil(lambda: not window.jobs.busy)
    assert list(tmp_path.iterdir()) == []
