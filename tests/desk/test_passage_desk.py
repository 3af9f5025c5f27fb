"""In and out points on the strip, and what is done between them."""

import shutil

import pytest
from conftest import DEMO
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from recordings import is_over

from dubrel.desk.sheet.spots import Spot
from dubrel.edits.words.passage import words_between


@pytest.fixture
def opened(window, film, tmp_path, qtbot):
    """The film with its project, its sound read."""
    shutil.copy(DEMO / "heron-film.dubrel", tmp_path / "heron.dubrel")
    window.filing.open_path(tmp_path / "heron.dubrel", film)
    qtbot.waitUntil(lambda: window.session.peaks is not None)
    window.commands.run("transcribe_passage")
    assert "Set an in and an out point" in window.message.text()
    return window


def mark(window, start, end):
    for ms, key in ((start, Qt.Key.Key_I), (end, Qt.Key.Key_O)):
        window.player.seek(ms)
        QTest.keyClick(window.strip, key)


def test_i_and_o_set_the_points_and_one_on_the_wrong_side_takes_the_other_away(opened):
    mark(opened, 5000, 9000)
    assert opened.desk.span == (5000, 9000)
    assert opened.message.text() == "In 00:00:05.0, out 00:00:09.0."
    opened.player.seek(12_000)
    opened.commands.run("mark_in")
    assert opened.desk.span == (12_000, None)
    opened.commands.run("clear_marks")
    assert opened.desk.span == (None, None)


def test_what_is_outside_stands_back_on_the_strip(opened):
    opened.strip.show_all()
    plain = opened.strip.grab().toImage()
    mark(opened, 20_000, 40_000)
    opened.player.seek(30_000)
    marked = opened.strip.grab().toImage()
    ratio = opened.strip.devicePixelRatioF()
    at = lambda image, ms: image.pixelColor(round(opened.strip.x_of(ms) * ratio), 25).name()  # noqa: E731
    assert at(marked, 10_000) == opened.theme.colour("desk").name() != at(plain, 10_000)
    assert at(marked, 25_000) == at(plain, 25_000)


def test_a_passage_is_transcribed_again_in_one_step_and_undone(opened, qtbot):
    before = opened.session.project
    mark(opened, 10_000, 25_000)
    outside = [w.id for t in before.transcript.turns for w in t.words if w.end_ms < 9_000]
    opened.commands.run("transcribe_passage")
    qtbot.waitUntil(lambda: not opened.jobs.runs("passage"))
    now = opened.session.project
    new = words_between(now, 10_000, 25_000)
    old = {w.id for w in words_between(before, 10_000, 25_000)}
    assert new and old.isdisjoint(w.id for w in new)
    assert [w.id for t in now.transcript.turns for w in t.words if w.end_ms < 9_000] == outside
    assert opened.message.text() == f"{len(new)} words transcribed between in and out."
    opened.commands.run("undo")
    assert opened.session.project.transcript == before.transcript


def test_undo_or_another_project_meanwhile_ends_it(opened, qtbot, tmp_path):
    turn = opened.session.project.transcript.turns[0]
    from dubrel.edits.words.wording import set_proofed

    opened.session.step(lambda p: set_proofed(p, turn.id, True), "Proof")
    mark(opened, 10_000, 25_000)
    opened.commands.run("transcribe_passage")
    opened.commands.run("undo")
    assert not opened.jobs.runs("passage")
    opened.commands.run("transcribe_passage")
    again = opened.jobs.running("passage")
    opened.filing.open_path(DEMO / "slow-water-7.dubrel")
    assert is_over(again) and not opened.jobs.runs("passage") and opened.desk.span == (None, None)
    assert opened.session.project.title == "Slow Water 7"


def test_a_selection_over_several_turns_is_a_passage_too(opened):
    turns = opened.session.project.transcript.turns
    opened.show_room("wording")
    opened.sheet.anchor, opened.sheet.caret = Spot(0, 0), Spot(2, len(turns[2].text))
    opened.commands.run("release_passage")
    [cut] = opened.session.project.cuts
    assert (cut.passages[0].start_ms, cut.passages[0].end_ms) == (turns[0].start_ms, turns[2].end_ms)
    assert opened.desk.room == "release" and opened.release.of.cut.id == cut.id
    opened.commands.run("release_passage")
    assert len(opened.session.project.cuts) == 1


def test_captions_and_translation_of_a_passage_alone(opened, qtbot):
    opened.filing.open_path(DEMO / "slow-water-7.dubrel")
    opened.show_room("translation")
    mark(opened, 14_000, 24_000)
    before = opened.session.project
    opened.dialogs.yes = lambda question, go="": False
    opened.commands.run("translate_passage")
    assert opened.session.project is before  # approved by hand, and the user said no
    opened.dialogs.yes = lambda question, go="": True
    opened.commands.run("translate_passage")
    qtbot.waitUntil(lambda: not opened.jobs.runs("translate"))
    track = next(one for one in opened.session.project.tracks if not one.spoken)
    old = next(one for one in before.tracks if not one.spoken)
    changed = {a.id for a in track.captions} ^ {a.id for a in old.captions}
    changed |= {a.id for a in track.captions for b in old.captions if a.id == b.id and a != b}
    spans = [one for t in (track, old) for one in t.captions if one.id in changed]
    assert spans and all(13_000 <= one.start_ms < 24_500 for one in spans)
    opened.commands.run("captions_passage")
    ours, theirs = opened.session.project.captions.captions, before.captions.captions
    far = lambda rows: [one for one in rows if one.start_ms > 30_000]  # noqa: E731
    assert far(ours) == far(theirs)
