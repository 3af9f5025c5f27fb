"""Menus: every command is where the hand looks for it, and says why it cannot be done."""

import pytest
from conftest import DEMO
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from dubrel.desk.sheet.spots import Spot
from dubrel.desk.shell.core.commands import OWN_KEYS
from dubrel.desk.shell.core.menus import context_menu, main_menu


def leaves(menu):
    """Every action of a menu and of its submenus that does something."""
    for action in menu.actions():
        if action.menu():
            yield from leaves(action.menu())
        elif not action.isSeparator():
            yield action


def names(menu):
    return [action.objectName() for action in leaves(menu)]


@pytest.fixture
def opened(window, qtbot):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("wording")
    return window


@pytest.fixture
def popped(opened, monkeypatch):
    """What the window would show as a menu, instead of waiting in it."""
    shown = []
    monkeypatch.setattr(QMenu, "popup", lambda menu, at: shown.append((menu, at)))
    return shown


def test_the_menu_has_every_command_once(opened):
    menu = main_menu(opened.commands, opened)
    assert sorted(names(menu)) == sorted(opened.commands.table)
    titles = [action.text() for action in menu.actions()]
    passes = ["Intake", "Voices", "Wording", "Captions", "Translation", "Release"]
    assert [one for one in titles if one in passes] == passes


def test_what_cannot_be_done_is_grey_and_says_why(window):
    menu = main_menu(window.commands, window)
    for action in leaves(menu):
        reason = window.commands.why_not(action.objectName())
        assert action.isEnabled() == (not reason)
        if reason:
            assert f"({reason.rstrip('.')})" in action.text()
            assert action.toolTip() == reason
    transcribe = next(one for one in leaves(menu) if one.objectName() == "transcribe")
    assert not transcribe.isEnabled()
    assert "Bring in a recording first" in transcribe.text()


def test_a_key_that_can_do_nothing_says_why_in_the_footer(window):
    for name in window.commands.table:
        reason = window.commands.why_not(name)
        if reason:
            window.say("")
            window.commands.run(name)
            assert window.message.text() == reason, name


def test_the_menu_shows_the_keys_that_the_user_has_chosen(opened):
    from PySide6.QtGui import QKeySequence

    assert opened.commands.change("merge", QKeySequence("Ctrl+Shift+F12")) is None
    action = next(one for one in leaves(main_menu(opened.commands, opened)) if one.objectName() == "merge")
    assert action.text().endswith("\tCtrl+Shift+F12")
    OWN_KEYS.path.unlink()


@pytest.mark.parametrize(
    ("things", "wanted", "unwanted"),
    [
        (
            ["word", "turn"],
            {"play_word", "accept", "proofed", "split_turn", "speaker_other"},
            {"play_caption", "zoom_in"},
        ),
        (["selection"], {"cut", "copy", "paste", "speaker_other"}, {"split_turn"}),
        (["speaker"], {"rename", "merge", "play_speaker"}, {"accept"}),
        (["caption"], {"play_caption", "set_again"}, {"accept", "merge"}),
        (["strip"], {"play", "zoom_in", "zoom_out", "zoom_all"}, {"accept"}),
        (["recording"], {"queue_pause", "queue_remove"}, {"accept", "zoom_in"}),
    ],
)
def test_each_thing_has_its_own_menu(opened, things, wanted, unwanted):
    found = names(context_menu(opened.commands, things, opened))
    assert len(found) == len(set(found))
    assert wanted <= set(found), wanted - set(found)
    assert not unwanted & set(found)


def test_a_right_click_on_a_word_puts_the_caret_there_and_shows_its_menu(opened, popped):
    sheet = opened.sheet
    before = sheet.caret
    block_turn = opened.session.project.transcript.turns[1]
    sheet.move_caret(Spot(1, 8))
    QApplication.processEvents()
    spot = sheet.caret_rect().center().toPoint()
    sheet.move_caret(Spot(0, 0))
    event = QContextMenuEvent(
        QContextMenuEvent.Reason.Mouse,
        spot,
        sheet.viewport().mapToGlobal(spot),
        Qt.KeyboardModifier.NoModifier,
    )
    sheet.contextMenuEvent(event)
    [(menu, _)] = popped
    assert sheet.caret != before
    assert sheet.caret.turn == 1
    assert block_turn.id == opened.session.project.transcript.turns[sheet.caret.turn].id
    assert {"accept", "proofed", "rename"} <= set(names(menu))


def test_the_menu_key_shows_the_menu_of_the_caret_and_of_the_caption(opened, popped):
    opened.sheet.setFocus()
    opened.sheet.contextMenuEvent(
        QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(), QPoint(5, 5))
    )
    opened.show_room("captions")
    opened.stanzas.contextMenuEvent(
        QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(), QPoint(5, 5))
    )
    (word, _), (caption, _) = popped
    assert "accept" in names(word)
    assert "play_caption" in names(caption)
    assert "accept" not in names(caption)


def test_the_strip_has_a_menu(opened, popped):
    spot = QPoint(opened.strip.width() // 2, 20)
    opened.strip.contextMenuEvent(
        QContextMenuEvent(QContextMenuEvent.Reason.Mouse, spot, opened.strip.mapToGlobal(spot))
    )
    [(menu, at)] = popped
    assert "zoom_in" in names(menu)
    assert at == opened.strip.mapToGlobal(spot)


def test_f10_shows_the_menu_and_a_choice_in_it_is_carried_out(opened, popped):
    opened.commands.run("menu")
    [(menu, _)] = popped
    action = next(one for one in leaves(menu) if one.objectName() == "go_release")
    action.trigger()
    assert opened.current.id == "release"
    opened.commands.run("undo")
    assert opened.message.text() == "Nothing to undo."


def test_a_choice_in_a_menu_is_a_step_that_can_be_undone(opened, popped):
    before = opened.session.project
    opened.sheet.move_caret(Spot(0, 1))
    opened.sheet.contextMenuEvent(
        QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, QPoint(), QPoint(5, 5))
    )
    [(menu, _)] = popped
    next(one for one in leaves(menu) if one.objectName() == "proofed").trigger()
    assert opened.session.project is not before
    opened.commands.run("undo")
    assert opened.session.project is before


def test_the_button_beside_the_command_list_opens_the_menu(opened, popped, qtbot):
    QTest.mouseClick(opened.header.menu_button, Qt.MouseButton.LeftButton)
    assert len(popped) == 1
