"""The parts of the desk, each by itself."""

import random
from dataclasses import dataclass

import numpy as np
import pytest
from conftest import BOARDS, spoken, words
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QWheelEvent
from PySide6.QtTest import QTest

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.column import Column
from dubrel.desk.sheet.turnblock import from_utf16, utf16
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.times import move_edge
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.intake import add_heard
from dubrel.edits.words.wording import replace_text, split_turn
from dubrel.media.peaks import Peaks
from dubrel.model import Note, Project
from dubrel.project.index import exchanged, index_of, turn_of, turn_with, word_with
from dubrel.project.queries import word_at


def captioned(text=BOARDS):
    return set_again(add_heard(Project(title="Boards"), spoken(text)), DEFAULT_STYLE)


def long_project(count=4000):
    stock = "slow water runs under the old wooden boat and nobody hurries it along".split()
    text = " ".join(stock[k % 13] + ("." if k % 12 == 11 else "") for k in range(count))
    return captioned(text)


# -- what changed -----------------------------------------------------------------


def test_what_differs_is_found_by_identity():
    a, b, c, d, x, y = (object() for _ in range(6))
    assert exchanged((a, b), (a, b)) == ([], [])
    assert exchanged((a, b, c, d), (a, x, d)) == ([b, c], [x])
    assert exchanged((a, b), (a, x, b)) == ([], [x])
    assert exchanged((), (a,)) == ([], [a])
    assert exchanged((a, b, c, d), (x, b, c, y)) == ([a, d], [x, y])
    assert exchanged((a, b, c, d), (x, b, c, d, y)) == ([a], [x, y])


def test_any_difference_can_be_replayed():
    chance = random.Random(8)
    pool = [object() for _ in range(30)]
    for _ in range(200):
        old = tuple(chance.sample(pool, chance.randrange(9)))
        new, others = list(old), [one for one in pool if one not in old]
        for _ in range(chance.randrange(4)):
            at = chance.randrange(len(new) + 1)
            new[at : at + chance.randrange(3)] = [others.pop() for _ in range(chance.randrange(3))]
        gone, come = exchanged(old, tuple(new))
        kept = [one for one in old if one not in gone]
        assert {*kept, *come} == set(new) and not {*gone} - {*old} and not {*come} - {*new}


def test_a_session_knows_every_word_after_every_step(qtbot):
    session, chance = Session(), random.Random(2)
    session.open(captioned(), None, saved=True)
    for _ in range(60):
        turns = session.project.transcript.turns
        turn = chance.choice(turns)
        at = chance.randrange(len(turn.text))
        action = chance.randrange(4)
        if action == 0:
            session.apply(split_turn(session.project, turn.id, at), "Split", base=session.project)
        elif action == 1 and session.history.depth:
            session.undo()
        elif action == 2:
            session.redo()
        else:
            session.apply(
                replace_text(session.project, turn.id, at, at + 2, "z y"), "Type", base=session.project
            )
        for turn in session.project.transcript.turns:
            assert turn_with(session.project, turn.id) is turn
            for word in turn.words:
                assert turn_of(session.project, word.id) is turn
                assert word_with(session.project, word.id) is word
        assert len(index_of(session.project).turn_of) == len(words(session.project))


def test_dirty_means_not_the_saved_value(qtbot, tmp_path):
    session = Session()
    session.open(captioned(), None, saved=True)
    assert not session.dirty
    turn = session.project.transcript.turns[0]
    session.apply(replace_text(session.project, turn.id, 0, 0, "x"), "Type", base=session.project)
    assert session.dirty
    session.undo()
    assert not session.dirty
    session.redo()
    session.save(tmp_path / "a.dubrel")
    assert not session.dirty and session.path == tmp_path / "a.dubrel"
    session.undo()
    assert session.dirty


# -- the checks, kept up ------------------------------------------------------------


def test_findings_kept_up_are_those_of_a_full_check(window):
    window.session.open(long_project(700), None, saved=True)
    findings, chance = window.findings, random.Random(4)
    for _ in range(40):
        project = window.session.project
        if chance.random() < 0.5:
            caption = chance.choice(project.captions.captions)
            edge, to = chance.choice([("in", caption.start_ms + 900), ("out", caption.end_ms - 900)])
            window.session.apply(
                move_edge(project, caption.id, edge, to), "Move", base=window.session.project
            )
        else:
            turn = chance.choice(project.transcript.turns)
            text = chance.choice(["extraordinarily ", "a ", ""])
            window.session.apply(
                replace_text(project, turn.id, 0, chance.choice([0, 5]), text),
                "Type",
                base=window.session.project,
            )
        if chance.random() < 0.2:
            window.session.undo()
    findings.settle()
    project = window.session.project
    full = check_track(project, project.captions)
    assert findings.by_caption == full
    counts = {rule: count for rule, count in findings.rules.items() if count}
    rules = [finding.rule for found in full.values() for finding in found]
    assert counts == {rule: rules.count(rule) for rule in set(rules)}


# -- the column -----------------------------------------------------------------------


@dataclass(frozen=True)
class Item:
    id: int
    size: int


class Brick:
    def __init__(self, item):
        self.item = item

    def measure(self):
        return float(self.item.size * 10)


def column(sizes):
    made = Column(lambda items: [33.0] * len(items), Brick)
    made.set_items([Item(k, size) for k, size in enumerate(sizes)])
    return made


def test_only_blocks_in_sight_are_laid_out():
    tall = column([3] * 1000)
    sight = tall.in_sight(3300, 3600)
    assert len(sight) < 15
    built = [place for place in range(1000) if tall.built(place) is not None]
    assert built == list(sight)


def test_heights_become_true_bit_by_bit():
    made = column([1, 2, 3, 4, 5])
    assert made.height == 5 * 33
    while not made.settled:
        made.measure_some(0.0)
    assert made.height == 150
    assert [made.top(k) for k in range(5)] == [0, 10, 30, 60, 100]
    assert [made.at(y) for y in (-5, 0, 9, 10, 99, 100, 500)] == [0, 0, 0, 1, 3, 4, 4]
    assert column([]).at(3) == -1


def test_a_changed_block_keeps_its_height_until_it_is_laid_out():
    made = column([1, 2, 3])
    made.measure_some(0.01)
    one, _, three = made.items
    before, grown = made.block(1), Item(1, 9)
    made.replace([one, grown, three])
    assert made.height == 60 and made.earlier(grown) is before
    assert made.block(1).item is grown and made.height == 130
    made.replace([one, three])
    assert made.height == 40 and made.built(1) is not None
    made.replace([three, one])
    assert made.height == 40 and made.block(0).item is three


def test_blocks_that_come_back_are_estimated_together_each_by_what_it_holds():
    asked = []

    def estimate(items):
        asked.append([item.id for item in items])
        return [float(item.size) for item in items]

    made = Column(estimate, Brick)
    items = [Item(k, k + 1) for k in range(6)]
    made.set_items([items[0], items[5]])
    made.block(0)
    made.replace(items)
    assert asked == [[0, 5], [1, 2, 3, 4]]
    assert [made.top(k + 1) - made.top(k) for k in range(6)] == [10, 2, 3, 4, 5, 6]


# -- drawing ----------------------------------------------------------------------------


def test_a_trace_is_as_high_as_the_sound_is_loud():
    peaks = np.array([[0, 0], [-1, 1], [-0.5, 0.5], [np.nan, np.nan]], np.float32)
    image = trace_image(peaks, 21, QColor("#102030"))
    filled = [sum(image.pixelColor(x, y).alpha() > 0 for y in range(21)) for x in range(4)]
    assert filled[1] == 21 and filled[3] == 0
    assert 0 < filled[0] < filled[2] < filled[1]
    assert image.pixelColor(1, 10).name() == "#102030"
    assert trace_image(np.zeros((0, 2), np.float32), 5, QColor("red")).width() == 1


@pytest.mark.parametrize("text", ["plain", "naïve", "a😀b", "👩🏽‍🔧x", "שלום"])
def test_places_as_qt_counts_them(text):
    for place in range(len(text) + 1):
        assert utf16(text, place) == len(text[:place].encode("utf-16-le")) // 2
        assert from_utf16(text, utf16(text, place)) == place


def test_each_words_sound_is_drawn_to_the_width_of_the_word(window):
    window.session.open(captioned(), None, saved=True)
    noise = np.random.default_rng(1).integers(-23_000, 23_000, (20_000, 2)).astype(np.int16)
    window.session.peaks = Peaks(np.sort(noise, axis=1))
    window.session.sound_ready.emit()
    window.show_room("wording")
    window.sheet.grab()
    block = window.sheet.column.block(0)
    lines = block.peak_lines
    assert len(lines) == block.layout.lineCount()
    image = lines[0].image
    for place in range(3):
        rect = block.word_rects(place)[0][1]
        inside = image.pixelColor(round(rect.center().x()), image.height() // 2)
        assert inside.alpha() > 0
    gap = (block.word_rects(0)[0][1].right() + block.word_rects(1)[0][1].left()) / 2
    assert image.pixelColor(round(gap), image.height() // 2).alpha() == 0


# -- the strip ----------------------------------------------------------------------------


def test_the_strip_keeps_the_time_under_the_pointer_while_zooming(window):
    window.session.open(long_project(1200), None, saved=True)
    strip = window.strip
    strip.show_all()
    before = strip.ms_at(400)
    for _ in range(12):
        point = QPointF(400, 40)
        event = QWheelEvent(
            point,
            strip.mapToGlobal(point),
            QPoint(),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.ControlModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        strip.wheelEvent(event)
    assert strip.ms_at(400) == pytest.approx(before, abs=strip.scale * 2)
    window.commands.run("zoom_all")
    assert strip.start_ms == 0


def test_the_strip_turns_the_page_and_a_click_seeks(window):
    window.session.open(long_project(1200), None, saved=True)
    strip = window.strip
    strip.fit()
    window.player.seek(60_000)
    assert 0 <= strip.x_of(60_000) <= strip.width()
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(300, 40))
    assert window.player.position == pytest.approx(strip.ms_at(300), abs=strip.scale + 1)
    for scale in (0.8, 5.0, 300.0):
        strip.look_at(0, scale)
        assert not strip.grab().isNull()


# -- following --------------------------------------------------------------------------------


def test_the_word_that_is_said_or_was_said_last():
    project = captioned()
    turns = project.transcript.turns
    assert word_at(project, 0) is None
    for place, turn in enumerate(turns):
        for number, word in enumerate(turn.words):
            assert word_at(project, word.start_ms) == (place, number)
    assert word_at(project, 10_000_000) == (len(turns) - 1, len(turns[-1].words) - 1)
    assert word_at(Project(), 5) is None


def test_the_caption_of_now_is_marked_and_shown(window):
    window.session.open(captioned(), None, saved=True)
    window.show_room("captions")
    track = window.session.project.captions.captions
    for place, caption in enumerate(track):
        window.player.seek(caption.start_ms)
        assert window.stanzas.playing == place
        assert window.booth.picture.caption_now() is caption
        window.player.seek(caption.end_ms)
        assert window.booth.picture.caption_now() is not caption
    window.player.seek(track[0].start_ms - 10)
    assert window.stanzas.playing == -1


def test_captions_are_walked_through_by_keys(window):
    window.session.open(long_project(300), None, saved=True)
    window.show_room("captions")
    window.stanzas.setFocus()
    for _ in range(4):
        QTest.keyClick(window.stanzas, Qt.Key.Key_Down)
    assert window.stanzas.current == 4
    assert window.player.position == window.stanzas.captions[4].start_ms
    QTest.keyClick(window.stanzas, Qt.Key.Key_Up)
    assert window.stanzas.current == 3
    QTest.keyClick(window.stanzas, Qt.Key.Key_PageDown)
    assert window.stanzas.current == 9


def test_looping_a_turn(window):
    window.session.open(captioned(), None, saved=True)
    turn = window.session.project.transcript.turns[1]
    window.player.seek(turn.start_ms + 200)
    window.booth.loop.click()
    assert window.player.position == turn.start_ms
    assert window.player.loop == (turn.start_ms, turn.end_ms)
    window.booth.loop.click()
    assert window.player.loop is None


def test_speed_by_keys_stays_within_its_ends(window):
    for _ in range(30):
        window.commands.run("faster")
    assert window.player.speed == 2.0
    for _ in range(40):
        window.commands.run("slower")
    assert window.player.speed == 0.5
    assert window.booth.speed.currentText() == "0.50 ×"


# -- what the pages say ---------------------------------------------------------------------------


def test_every_empty_view_says_what_to_do_next(window):
    window.session.open(Project(), None, saved=True)
    window.show_room("wording")
    assert "open one in Intake" in window.sheet.empty_hint
    window.show_room("captions")
    assert "Transcribe the recording" in window.stanzas.empty_hint
    window.show_room("intake")
    assert window.intake.title.text() == "Bring in a recording"
    assert window.intake.transcribe.isVisibleTo(window.intake) is False
    for name in (
        "transcribe",
        "script",
        "audit",
        "set_again",
        "proofed",
        "accept",
        "play_word",
        "next_look",
        "rename",
        "speaker_1",
        "find_media",
        "undo",
        "redo",
        "play",
        "cancel",
    ):
        window.commands.run(name)
        assert window.isVisible()


def test_the_translation_pass_can_be_entered_with_nothing_open(window):
    window.show_room("wording")
    window.commands.run("go_translation")
    assert window.current.id == "translation" and window.rail.buttons[5].isChecked()
    assert window.rail.buttons[5].todo == ""
    assert window.current.page.overview.why.text().startswith("There are no captions to translate yet.")


def test_notes_stand_beside_their_turn(window):
    project = captioned()
    turn = project.transcript.turns[1]
    text = "Ask Tobiah about " + "the sternpost " * 8
    note = Note(project.next_id, turn.start_ms + 10, "Query", text, (turn.words[0].id,))
    window.session.open(replace(project, notes=(note,)), None, saved=True)
    window.show_room("wording")
    with_note = window.sheet.grab().toImage()
    window.session.apply(project, "Without", base=window.session.project)
    window.sheet.viewport().update()
    assert with_note != window.sheet.grab().toImage()


def test_proofing_goes_down_the_page(window):
    window.session.open(captioned(), None, saved=True)
    window.show_room("wording")
    count = len(window.sheet.turns)
    for _ in range(count):
        window.commands.run("proofed")
    assert all(turn.proofed for turn in window.sheet.turns)
    window.show_counts()
    assert window.rail.buttons[2].todo == "100% proofed"
    window.commands.run("proofed")
    assert not window.sheet.turns[-1].proofed


def test_a_long_project_lays_out_only_what_is_seen_and_settles(window, qtbot):
    window.session.open(long_project(6000), None, saved=True)
    window.show_room("wording")
    window.sheet.grab()
    built = sum(window.sheet.column.built(k) is not None for k in range(len(window.sheet.turns)))
    assert built < len(window.sheet.turns) / 2
    qtbot.waitUntil(lambda: window.sheet.column.settled)
    bar = window.sheet.verticalScrollBar()
    bar.setValue(bar.maximum())
    window.sheet.grab()
    last = len(window.sheet.turns) - 1
    bottom = window.sheet.block_top(last) + window.sheet.column.block(last).text_height
    assert 0 < bottom <= window.sheet.viewport().height()


def test_a_step_made_from_what_is_no_longer_present_is_refused_and_changes_nothing(window, boards):
    window.session.open(boards, None, saved=True)
    base = window.session.project
    first, second = (
        replace_text(base, base.transcript.turns[0].id, 0, 6, word) for word in ("Partly", "Hardly")
    )
    window.session.apply(first, "First", base=base)
    with pytest.raises(DubrelError, match="Second: the project has changed in the meantime"):
        window.session.apply(second, "Second", base=base)
    assert window.session.project is first
    assert window.session.history.undo_label == "First"
    window.commands.run("undo")
    assert window.session.project is base
