"""Clips in the window: found, made, played, trimmed, joined, released, together with what else goes on."""

from __future__ import annotations

import pytest
from conftest import DEMO
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtTest import QTest
from samples import boat_project

from dubrel.base.value import replace
from dubrel.edits.cuts.clips import clips_of, said_in
from dubrel.edits.words.wording import replace_text
from dubrel.formats.register import read_file
from dubrel.media.cache import clip_sound_path
from dubrel.release.kits import Item, Kit, keep_kit
from dubrel.store.projectfile import save


@pytest.fixture
def clips(window, qtbot):
    """The demo podcast with clips of ten to thirty seconds proposed."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    window.commands.run("clips")
    made = window.rooms["cut"].clips
    sentence = made.page.sentence
    sentence.fields["low_s"].step(-2)
    sentence.fields["high_s"].step(-6)
    found(made, qtbot)
    return made


def found(clips, qtbot):
    """Wait until what is proposed stands."""
    quiet = lambda: not clips.finding.busy and not clips.desk.jobs.runs("clips")  # noqa: E731
    qtbot.waitUntil(lambda: quiet() and bool(clips.page.list.rows))


def choose(clips, *places):
    model = clips.page.list.selectionModel()
    rows = [clips.page.list.model().index(place, 0) for place in places]
    clips.page.list.setCurrentIndex(rows[-1])
    model.clearSelection()
    for one in rows:
        model.select(one, QItemSelectionModel.SelectionFlag.Select)


def run(clips, name):
    clips.desk.commands.run(name)


def titles(clips):
    return [one.title for one in clips.page.list.rows]


def test_what_is_proposed_says_why_and_plays_on_the_strip(clips):
    rows = clips.page.list.rows
    assert len(rows) >= 5
    assert all(10_000 <= one.length_ms <= 30_000 for one in rows)
    assert all("stands by itself" in one.why for one in rows)
    choose(clips, 1)
    assert clips.desk.player.position == rows[1].start_ms
    assert [(one.start_ms, one.end_ms) for one in clips.shown.passages] == list(rows[1].spans)
    assert clips.panel.text.text() == said_in(clips.session.project, clips.shown)


def test_enter_makes_a_clip_and_enter_again_opens_it_in_the_cut(clips):
    choose(clips, 2)
    title = clips.row.title
    QTest.keyClick(clips.page.list, Qt.Key.Key_Return)
    [clip] = clips_of(clips.session.project)
    assert (clip.name, clips.row.clip_id) == (title, clip.id)
    assert clips.page.make.text() == "Open the clip"
    assert titles(clips).count(title) == 1
    QTest.keyClick(clips.page.list, Qt.Key.Key_Return)
    assert clips.on is False
    assert clips.room.cut == clip
    assert clips.desk.room == "cut"


def test_making_is_one_step_that_can_be_undone_and_done_again(clips):
    choose(clips, 0, 1, 3)
    assert clips.page.make.text() == "Make 3 clips"
    run(clips, "make_clip")
    assert len(clips_of(clips.session.project)) == 3
    run(clips, "undo")
    assert clips.session.project.cuts == ()
    assert not any(one.clip_id for one in clips.page.list.rows)
    run(clips, "redo")
    assert [bool(one.clip_id) for one in clips.page.list.rows[:4]] == [True, True, True, False]


def test_edges_go_word_by_word(clips):
    choose(clips, 1)
    run(clips, "make_clip")
    said = clips.panel.text.text().split()
    run(clips, "clip_begin_later")
    run(clips, "clip_end_earlier")
    assert clips.panel.text.text().split() == said[1:-1]
    run(clips, "undo")
    run(clips, "undo")
    assert clips.panel.text.text().split() == said


def test_the_pauses_of_a_clip_go_by_the_rules_of_the_cut_and_come_back(clips, qtbot):
    qtbot.waitUntil(lambda: not clips.room.proposing.busy)
    clips.room.cut_page.show_rules(replace(clips.room.proposing.rules, longer_ms=400, becomes_ms=150))
    qtbot.waitUntil(lambda: not clips.room.proposing.busy)
    choose(clips, 1)
    run(clips, "make_clip")
    before, said = clips.shown, clips.panel.text.text()
    run(clips, "tighten_clip")
    after = clips.shown
    assert after.joins > before.joins
    assert after.length_ms < before.length_ms - 400
    assert clips.panel.text.text() == said
    run(clips, "tighten_clip")
    assert clips.shown == after
    run(clips, "undo")
    assert clips.shown == before


def test_several_passages_become_one_clip(clips):
    choose(clips, 0, 1)
    texts = [one.title for one in clips.page.list.chosen]
    spans = [span for one in clips.page.list.chosen for span in one.spans]
    run(clips, "join_clips")
    [clip] = clips_of(clips.session.project)
    assert clip.name == texts[0]
    assert len(clip.passages) == 2
    assert clip.passages[0].start_ms <= spans[0][0] < clip.passages[0].end_ms


def test_joining_takes_clips_that_were_made_along(clips):
    choose(clips, 0, 1)
    run(clips, "make_clip")
    choose(clips, 0, 1, 2)
    run(clips, "join_clips")
    assert len(clips_of(clips.session.project)) == 1
    run(clips, "undo")
    assert len(clips_of(clips.session.project)) == 2


def test_what_is_done_to_the_cut_is_done_to_the_clip_that_is_chosen(clips):
    choose(clips, 0, 1)
    run(clips, "make_clip")
    for place in (0, 1):
        choose(clips, place)
        assert clips.room.cut.id == clips.row.clip_id
    clips.room.layer.let_go(("join", 0, "out"))
    assert not clips.desk.player.playing


def test_deleting_a_clip_brings_the_proposal_back(clips):
    choose(clips, 0)
    before = titles(clips)
    run(clips, "make_clip")
    QTest.keyClick(clips.page.list, Qt.Key.Key_Delete)
    assert clips_of(clips.session.project) == []
    assert sorted(titles(clips)) == sorted(before)


def test_a_clip_named_while_another_project_is_opened_changes_nothing_there(clips, monkeypatch, tmp_path):
    save(boat_project(), tmp_path / "boat.dubrel")
    choose(clips, 0)
    run(clips, "make_clip")
    window = clips.desk.window

    def answer(*_):
        window.filing.open_path(tmp_path / "boat.dubrel")
        return "Another name"

    monkeypatch.setattr(clips.room.ask, "cut_name", answer)
    run(clips, "rename_clip")
    assert clips.session.project.cuts == ()


def test_by_topic_and_back(clips, qtbot):
    clips.page.about.setFocus()
    QTest.keyClicks(clips.page.about, "ducks")
    QTest.keyClick(clips.page.about, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "ducks" in clips.page.list.rows[0].title)
    assert clips.page.list.rows[0].why.startswith("near what was asked for (0.")
    clips.page.about.clear()
    clips.page.about.returnPressed.emit()
    qtbot.waitUntil(lambda: not clips.page.list.rows[0].why.startswith("near"))


def test_more_like_this_leaves_it_out_and_all_come_again(clips, qtbot):
    choose(clips, 1)
    this = clips.row
    run(clips, "more_like_this")
    qtbot.waitUntil(lambda: this.spans not in [one.spans for one in clips.page.list.rows])
    assert clips.page.like.text() == "All again"
    run(clips, "more_like_this")
    qtbot.waitUntil(lambda: this.spans in [one.spans for one in clips.page.list.rows])


def test_words_that_change_are_looked_at_again(clips, qtbot):
    turns = clips.session.project.transcript.turns
    turn = next(one for one in turns if " ducks " in one.text)
    at = turn.text.index("ducks")
    clips.session.step(lambda now: replace_text(now, turn.id, at, at + 5, "geese"), "Correct")
    found(clips, qtbot)
    qtbot.waitUntil(lambda: any("geese" in one for one in titles(clips)))


def test_another_project_shows_the_cut_and_keeps_no_clip(clips, tmp_path, qtbot):
    save(boat_project(), tmp_path / "boat.dubrel")
    choose(clips, 0)
    clips.desk.window.filing.open_path(tmp_path / "boat.dubrel")
    assert clips.on is False
    assert clips.page.list.rows == []
    run(clips, "clips")
    clips.page.sentence.fields["low_s"].step(-4)
    found(clips, qtbot)
    run(clips, "make_clip")
    assert len(clips_of(clips.session.project)) == 1


def test_with_nothing_open_the_command_says_why(window):
    window.commands.run("clips")
    assert window.desk.room != "cut"
    assert window.rooms["cut"].clips.on is False


def test_commands_of_the_cut_wait_while_clips_are_shown(clips):
    before = clips.session.project
    run(clips, "take_out_ticked")
    run(clips, "put_back")
    run(clips, "next_look")
    assert clips.session.project is before
    run(clips, "clips")
    assert clips.on is False
    assert clips.room.page is clips.room.cut_page


def test_the_cut_stays_that_of_the_whole_when_only_clips_are_there(clips, qtbot):
    choose(clips, 0)
    run(clips, "make_clip")
    run(clips, "clips")
    clips.room.cut_id = 0
    clips.room.refresh()
    qtbot.waitUntil(lambda: not clips.room.proposing.busy and bool(clips.room.proposing.found))
    run(clips, "take_out_ticked")
    assert [(one.name, one.clip) for one in clips.session.project.cuts][1] == ("The cut", False)
    assert clips.session.project.cuts[0].joins == 0


def test_an_edge_dragged_on_the_strip_moves_that_of_the_clip_and_never_a_proposal(clips):
    choose(clips, 0)
    before = clips.session.project
    clips.room.layer.drag(("join", 0, "in"), clips.row.start_ms + 500)
    assert clips.session.project is before
    run(clips, "make_clip")
    clip = clips_of(clips.session.project)[0]
    clips.room.layer.drag(("join", 0, "in"), clip.passages[0].start_ms + 500)
    assert clips_of(clips.session.project)[0].passages[0].start_ms == clip.passages[0].start_ms + 500


def test_clips_are_released_by_a_kit_into_a_folder_each(clips, tmp_path, monkeypatch, qtbot):
    keep_kit(Kit("Only captions", "{title}", (Item("srt"), Item("text"))))
    choose(clips, 0, 1)
    run(clips, "make_clip")
    run(clips, "make_clip")
    monkeypatch.setattr(clips.room.ask, "cut_choice", lambda title, names: "Only captions")
    monkeypatch.setattr(clips.room.ask, "clip_folder", lambda: tmp_path / "out")
    run(clips, "release_clips")
    qtbot.waitUntil(lambda: not clips.desk.jobs.runs("release-clips"))
    files = sorted((tmp_path / "out").rglob("*.srt"))
    assert [one.parent.name[:3] for one in files] == ["01 ", "02 "]
    for path, clip in zip(files, clips_of(clips.session.project)):
        assert clip.name.rstrip("?") in path.name
        cues = read_file(path).project
        assert 0 <= cues.captions.captions[0].start_ms < 2000
        assert cues.captions.captions[-1].end_ms <= clip.length_ms + 100


def test_what_was_heard_and_is_damaged_is_listened_to_again(clips, qtbot):
    path = clip_sound_path(clips.session.recording)
    path.write_bytes(b"nothing of the kind")
    clips.finding.heard = None
    clips.finding.look()
    qtbot.waitUntil(lambda: path.is_file() and path.stat().st_size > 1000)
    found(clips, qtbot)
    assert len(clips.page.list.rows) >= 5


def test_a_recording_that_is_gone_leaves_clips_by_words(window, qtbot, tmp_path):
    project = replace(boat_project(), media=None)
    save(project, tmp_path / "boat.dubrel")
    window.filing.open_path(tmp_path / "boat.dubrel")
    window.commands.run("clips")
    clips = window.rooms["cut"].clips
    clips.page.sentence.fields["low_s"].step(-4)
    found(clips, qtbot)
    assert not window.jobs.runs("clips")
