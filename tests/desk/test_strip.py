"""The strip and the traces: a quiet voice can be read, words that do not fit are left out."""

import random

import numpy as np
import pytest
from conftest import DEMO
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QImage, QPainter, QRegion
from PySide6.QtTest import QTest

from dubrel.base.value import replace
from dubrel.media.peaks import MOST_GAIN, PeakBuilder, Peaks, gain_for, level_of
from dubrel.media.sound import RATE


def peaks_of(samples):
    builder = PeakBuilder()
    builder.add(samples.astype(np.int16))
    return Peaks(builder.finish())


def tone(seconds, size):
    return np.sin(np.arange(int(seconds * RATE)) / 8) * size


def test_a_quiet_voice_is_drawn_nearly_as_high_as_a_loud_one():
    peaks = peaks_of(np.concatenate([tone(20, 20_000), tone(20, 2_500)]))
    plain, evened = peaks.columns(0, 40_000, 400), peaks.evened(0, 40_000, 400)
    loud, quiet = slice(20, 150), slice(260, 390)
    assert np.abs(plain[quiet]).max() < 0.2 * np.abs(plain[loud]).max()
    assert np.abs(evened[quiet]).max() > 0.7 * np.abs(evened[loud]).max()
    assert np.abs(evened).max() <= 1


def test_silence_stays_silent():
    hiss = np.random.default_rng(2).normal(0, 8, 20 * RATE)
    peaks = peaks_of(np.concatenate([tone(20, 20_000), hiss]))
    assert np.abs(peaks.evened(0, 40_000, 400)[260:390]).max() < 0.05


def test_a_click_in_a_quiet_passage_does_not_make_it_flat():
    quiet = tone(30, 2_500)
    quiet[15 * RATE : 15 * RATE + 200] = 30_000
    peaks = peaks_of(np.concatenate([tone(5, 25_000), quiet]))
    evened = peaks.evened(0, 35_000, 350)
    assert np.abs(evened[170:190]).max() > 0.4


@pytest.mark.parametrize(("level", "gain"), [(0.95, 1.0), (0.475, 2.0), (0.0, MOST_GAIN), (0.01, MOST_GAIN)])
def test_the_gain_of_a_turn_is_limited(level, gain):
    assert gain_for(level) == pytest.approx(gain)


def test_the_level_is_that_of_the_loud_parts():
    columns = np.zeros((100, 2), np.float32)
    columns[:10, 1] = 0.5
    assert level_of(columns) == pytest.approx(0.5)
    assert level_of(np.zeros((0, 2), np.float32)) == 0


class Recorded:
    """A painter that keeps which texts were drawn where."""

    def __init__(self, monkeypatch):
        self.texts = []
        whole = QPainter.drawText

        def draw(painter, *args):
            if len(args) == 2 and not isinstance(args[0], int):
                width = painter.fontMetrics().horizontalAdvance(args[1])
                self.texts.append((args[0].x(), args[0].y(), width, args[1]))
            return whole(painter, *args)

        monkeypatch.setattr(QPainter, "drawText", draw)


@pytest.fixture
def strip(window):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("wording")
    return window.strip


@pytest.mark.parametrize("steps", [0, 1, 2, 3])
def test_words_on_the_strip_never_run_into_each_other(strip, monkeypatch, steps):
    for _ in range(steps):
        strip.zoom(1 / 0.6)
    said = {word.text for turn in strip.session.project.transcript.turns for word in turn.words}
    drawn = Recorded(monkeypatch)
    strip.grab()
    rows = {}
    for x, y, width, text in drawn.texts:
        if text in said:
            rows.setdefault(round(y), []).append((x, x + width, text))
    assert rows
    for row in rows.values():
        row.sort()
        for (_, end, text), (start, _, following) in zip(row, row[1:]):
            assert end <= start, f"{text} runs into {following}"


def test_further_away_no_word_is_drawn(strip, monkeypatch):
    strip.show_all()
    drawn = Recorded(monkeypatch)
    strip.grab()
    assert "Welcome" not in [text for *_, text in drawn.texts]


def painted(strip, area):
    """What the strip draws where only an area of it is to be seen anew."""
    image = QImage(strip.size(), QImage.Format.Format_RGB32)
    image.fill(0)
    strip.render(image, area.topLeft(), QRegion(area))
    pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1, 4)
    return pixels[area.top() : area.bottom() + 1, area.left() : area.right() + 1, :3].copy()


@pytest.mark.parametrize("room", ["wording", "voices", "cut", "captions"])
@pytest.mark.parametrize("zoom", [0.2, 1.0, 3.0, 12.0])
def test_what_is_drawn_around_the_playhead_is_what_the_whole_would_show(window, strip, qtbot, room, zoom):
    project = window.session.project
    turns = project.transcript.turns
    late = replace(turns[2].words[0], end_ms=turns[4].start_ms + 900)  # says it on and on, into the others
    long = replace(turns[2], words=(late, *turns[2].words[1:]))
    window.session.apply(
        replace(
            project,
            transcript=replace(project.transcript, turns=(*turns[:2], long, *turns[3:])),
            media=replace(project.media, shots=(14_000, 21_300, 29_950, 41_000)),
        ),
        "As it can be",
        base=project,
    )
    window.show_room(room)
    qtbot.waitUntil(lambda: window.session.trace is not None)
    strip.zoom(zoom)
    ran = random.Random(f"{room}{zoom}")
    for _ in range(12):
        strip.set_position(ran.randrange(strip.duration))
        whole = painted(strip, strip.rect())
        colours = np.unique(whole.astype(np.uint32) @ np.array([1, 1 << 8, 1 << 16], np.uint32))
        assert len(colours) > 10, "nothing is drawn"
        for _ in range(4):
            area = QRect(ran.randrange(strip.width() - 60), 0, ran.randrange(20, 60), strip.height())
            part = whole[:, area.left() : area.right() + 1]
            off = np.abs(painted(strip, area).astype(int) - part.astype(int))
            assert off.max() <= 2, (strip.position, area)  # edges between two pixels may round otherwise


def test_dragging_an_edge_over_a_struck_word_and_undoing_it_gives_the_first_value(window, strip):
    window.show_room("captions")
    before = window.session.project
    caption = before.captions.captions[3]
    strip.start_ms = caption.start_ms - 2000
    y = strip.height() - 14
    at = QPoint(round(strip.x_of(caption.start_ms)) + 1, y)
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(strip, at + QPoint(20, 0))
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=at + QPoint(20, 0))
    moved = next(one for one in window.session.project.captions.captions if one.id == caption.id)
    others = [one for one in window.session.project.captions.captions if one.id != caption.id]
    assert moved.start_ms > caption.start_ms and moved.end_ms == caption.end_ms
    assert others == [one for one in before.captions.captions if one.id != caption.id]
    window.commands.run("undo")
    assert window.session.project is before
