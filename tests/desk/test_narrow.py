"""The window at its smallest: everything can be read or scrolled to."""

import pytest
from conftest import DEMO
from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QTextLayout
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QScrollArea

from dubrel.edits.captions.times import move_edge
from dubrel.project.captiontext import text_of
from dubrel.user.settings import SETTINGS


@pytest.fixture
def small(window, qtbot):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.resize(900, 640)
    qtbot.waitUntil(lambda: window.width() == 900)
    return window


def drawn(widget, monkeypatch):
    """Every text that a widget paints."""
    texts, whole = [], QPainter.drawText

    def draw(painter, *args):
        texts.extend(one for one in args if isinstance(one, str))
        return whole(painter, *args)

    laid_out = QTextLayout.draw

    def draw_layout(layout, *args):
        texts.append(layout.text())
        return laid_out(layout, *args)

    with monkeypatch.context() as patched:
        patched.setattr(QPainter, "drawText", draw)
        patched.setattr(QTextLayout, "draw", draw_layout)
        widget.viewport().grab()
    return texts


@pytest.mark.parametrize("width", [900, 1280])
def test_captions_are_whole_at_any_width_with_their_times_and_what_is_to_fix(
    small, qtbot, monkeypatch, width
):
    small.resize(width, 800)
    qtbot.waitUntil(lambda: small.width() == width)
    small.show_room("captions")
    first = small.session.project.captions.captions[0]
    hurried = move_edge(small.session.project, first.id, "out", first.end_ms - 1200)
    small.session.apply(hurried, "Hurry", base=small.session.project)
    small.findings.settle()
    texts = drawn(small.stanzas, monkeypatch)
    project = small.session.project
    for caption in project.captions.captions[:4]:
        for line in text_of(project, project.captions, caption).lines:
            assert line in texts
    assert "00:00:06.077" in texts
    assert any("CPS over" in one for one in texts)


def test_stanzas_do_not_run_into_each_other_when_narrow(small):
    small.show_room("captions")
    stanzas = small.stanzas
    stanzas.column.block(0), stanzas.column.block(1)
    assert stanzas.narrow
    for place in range(6):
        stanza = stanzas.column.block(place)
        height = stanzas.column.top(place + 1) - stanzas.column.top(place)
        assert height >= stanza.measure() - 0.5


def test_growing_wide_again_lays_the_stanzas_out_beside_their_times(small, qtbot):
    small.show_room("captions")
    narrow = small.stanzas.column.block(0).measure()
    small.resize(1280, 800)
    qtbot.waitUntil(lambda: not small.stanzas.narrow)
    assert small.stanzas.column.block(0).measure() < narrow


@pytest.mark.parametrize("room", ["intake", "release", "settings"])
def test_pages_with_fields_are_scrolled_and_squeeze_nothing(small, qtbot, room):
    small.commands.run("settings" if room == "settings" else f"go_{room}")
    page = small.pages.currentWidget()
    assert isinstance(page, QScrollArea)
    qtbot.waitUntil(lambda: page.verticalScrollBar().maximum() > 0)
    sheet = page.widget()
    qtbot.waitUntil(lambda: sheet.width() <= page.viewport().width())
    QApplication.processEvents()  # layouts settle
    for kind in (QPushButton, QLabel):
        for one in page.findChildren(kind):
            if one.isVisible() and one.text():
                assert one.height() >= one.fontMetrics().height(), one.text()
    for one in page.findChildren(QPushButton):
        if one.isVisible():
            assert one.width() >= one.sizeHint().width(), one.text()
            assert QRectF(sheet.rect()).contains(
                QRectF(one.rect()).translated(one.mapTo(sheet, one.rect().topLeft()))
            )


@pytest.mark.parametrize("room", ["captions", "intake", "wording", "voices"])
def test_the_panel_in_the_booth_squeezes_no_row(small, room):
    small.show_room(room)
    for one in small.rooms[room].panel.findChildren(QLabel):
        if one.isVisible() and one.text():
            assert one.height() >= one.fontMetrics().height() - 1, one.text()


def test_panes_fold_and_that_is_remembered(window):
    window.resize(1280, 800)
    for name in ("rail", "booth", "strip"):
        window.commands.run(f"fold_{name}")
    assert not window.booth.isVisible() and not window.strip.isVisible() and window.rail.width() < 80
    assert SETTINGS.read().folded == ("booth", "rail", "strip")
    window.commands.run("fold_booth")
    assert window.booth.isVisible() and SETTINGS.read().folded == ("rail", "strip")


def test_a_small_screen_folds_the_rail_by_itself_and_a_large_one_shows_it(window):
    window.setMinimumSize(0, 0)
    window.resize(960, 540)
    assert window.rail.width() < 80 and window.booth.isVisible()
    assert window.rail.buttons[1].toolTip().startswith("Voices")
    window.resize(1100, 700)
    assert window.rail.width() > 100
    assert SETTINGS.read().folded == ()


@pytest.mark.parametrize("width", [900, 1100, 1200, 1280, 1500])
def test_no_line_of_two_languages_is_cut_at_any_width(small, qtbot, monkeypatch, width):
    small.resize(width, 800)
    qtbot.waitUntil(lambda: small.width() == width)
    small.show_room("translation")
    sheet, project = small.rooms["translation"].page.sheet, small.session.project
    texts = drawn(sheet, monkeypatch)
    assert "o que você encontrou quando a água escoou?" in texts
    track = sheet.track
    shown = [slot.caption for slot in sheet.slots[:3]]
    assert {line for one in shown for line in text_of(project, track, one).lines} <= set(texts)
    layouts = [sheet.build(slot).layouts(side) for slot in sheet.slots for side in (False, True)]
    assert [one.text() for some in layouts for one in some if "…" in one.text()] == []
