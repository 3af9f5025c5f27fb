"""Another theme: what is in sight has its colours at once, what is not has them when it is seen."""

from collections import Counter

import pytest
from dressed import undressed
from PySide6.QtCore import QPoint, QTimer
from PySide6.QtGui import QColor, QFont
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog, QLabel, QMessageBox, QPushButton, QToolTip, QWidget
from recordings import DEMO

from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.kit.stack import Stack
from dubrel.desk.shell.kit.theme import DAY, DAY_SHARP, NIGHT, dress, wear
from dubrel.desk.voices.dialogs.voices import SpeakerDialog
from dubrel.model import Speaker
from dubrel.user.settings import Settings

ROOMS = ("intake", "voices", "wording", "cut", "captions", "translation", "release")


@pytest.fixture
def demo(window):
    """The demo, every page of which was shown."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    for room in ROOMS:
        window.show_room(room)
    return window


def colours(widget: QWidget) -> set[str]:
    """The colours that make up much of a picture of it."""
    QApplication.processEvents()  # the library tells of a palette a moment later
    image = widget.grab().toImage()
    across, down = range(0, image.width(), 3), range(0, image.height(), 3)
    seen = Counter(image.pixelColor(x, y).name() for x in across for y in down)
    return {name for name, many in seen.items() if many > len(across) * len(down) / 50}


@pytest.mark.parametrize("room", ROOMS)
def test_what_is_in_sight_changes_at_once(demo, room):
    demo.show_room(room)
    assert undressed(demo) == []
    demo.set_theme(NIGHT)
    assert undressed(demo) == []
    seen = colours(demo)
    assert {NIGHT.desk.lower(), NIGHT.paper.lower()} <= seen
    assert {DAY.desk.lower(), DAY.paper.lower()} & seen == set()


def test_a_page_that_was_not_shown_meanwhile_has_the_colours_when_it_is(demo):
    demo.show_room("wording")
    before = demo.rooms["release"].page.styleSheet()
    demo.set_theme(NIGHT)
    assert demo.rooms["release"].page.styleSheet() == before  # it would hold up the hand
    for room in ROOMS:
        demo.show_room(room)
        assert undressed(demo) == [], room
    demo.commands.run("settings")
    assert undressed(demo) == []
    demo.set_theme(DAY)
    demo.show_room("wording")
    demo.commands.run("settings")
    assert undressed(demo) == []


def test_pages_that_are_not_shown_are_dressed_when_nobody_works(demo, qtbot, monkeypatch):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    demo.prepare()
    demo.set_theme(NIGHT)
    demo.set_theme(DAY_SHARP)  # before the others had the last one
    sheet = QApplication.instance().property("sheet")
    stacks = (demo.pages, demo.booth.panels)
    pages = [stack.widget(place) for stack in stacks for place in range(stack.count())]
    qtbot.waitUntil(lambda: {page.styleSheet() for page in pages} == {sheet})
    qtbot.waitUntil(lambda: {bar.styleSheet() for bar in demo.desk.bars} == {sheet})


def test_a_larger_text_reaches_pages_that_were_not_shown(demo):
    demo.show_room("wording")
    field = demo.rooms["release"].page.findChild(QPushButton)
    before = field.sizeHint().height()
    demo.apply_settings(Settings(text_size=150))
    demo.show_room("release")
    assert field.sizeHint().height() > 1.3 * before


def test_drawers_and_bars_that_come_later_have_the_colours(demo):
    demo.show_room("wording")
    demo.commands.run("find_words")
    demo.set_theme(NIGHT)
    assert undressed(demo) == []
    demo.commands.run("find_words")
    demo.set_theme(DAY)
    demo.commands.run("find_words")
    for bar in demo.desk.bars:
        bar.setVisible(True)
    assert undressed(demo) == []


def test_dialogs_and_menus_have_the_colours_of_now(demo):
    demo.set_theme(NIGHT)
    seen = {}

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        seen["line"] = (type(dialog), colours(dialog))
        demo.set_theme(DAY)  # as the desktop may while it stands open
        seen["other"] = colours(dialog)
        dialog.reject()

    QTimer.singleShot(0, look)
    assert ask_line(demo.desk.host, "Name", "Name", "Set") is None
    kind, night = seen["line"]
    assert kind is QInputDialog and NIGHT.desk.lower() in night and DAY.desk.lower() not in night
    assert DAY.desk.lower() in seen["other"] and NIGHT.desk.lower() not in seen["other"]
    demo.show_menu()
    menu = QApplication.activePopupWidget()
    assert menu.palette().color(menu.backgroundRole()) == QColor(DAY.paper)
    assert colours(menu) & {DAY.paper.lower(), NIGHT.paper.lower()} == {DAY.paper.lower()}
    menu.close()


def test_every_dialog_opens_from_what_is_dressed(demo):
    """Those that the window asks itself, and those that rooms ask."""
    rooms = [room.ask for room in demo.rooms.values() if hasattr(room, "ask")]
    hosts = {
        vars(one)["host"] for one in (demo.ask, demo.series.ask, demo.together.ask, demo.ears.ask, *rooms)
    }
    assert hosts == {demo.desk.host}
    assert not demo.desk.host.isVisible()
    box = QMessageBox(demo.desk.host)
    button = box.addButton("Go on", QMessageBox.ButtonRole.AcceptRole)
    assert "min-height" in demo.desk.host.styleSheet() and button.sizeHint().height() >= 26


def test_a_tool_tip_has_the_colours_of_what_it_tells_of(demo, qtbot):
    demo.set_theme(NIGHT)
    QToolTip.showText(QPoint(40, 40), "What it is", demo.booth.play)
    tip = next(
        one
        for one in QApplication.topLevelWidgets()
        if isinstance(one, QLabel) and one.text() == "What it is"
    )
    assert NIGHT.paper.lower() in colours(tip) and DAY.paper.lower() not in colours(tip)
    QToolTip.hideText()


def test_a_window_that_is_made_has_the_font_of_the_controls(window):
    families = {one.font().family() for one in window.findChildren(QPushButton)}
    assert families == {"Inter"} and isinstance(window.font(), QFont)


def test_pages_stay_in_the_dress_they_wear_until_they_are_shown(qtbot):
    stack, first, second = Stack(), QWidget(), QWidget()
    qtbot.addWidget(stack)
    dress(DAY)
    stack.show_page(first)
    stack.add_page(second)
    stack.add_page(second)
    assert stack.count() == 2 and stack.currentWidget() is first
    day = first.styleSheet()
    dress(NIGHT)
    stack.dress()
    assert second.styleSheet() == day != first.styleSheet()
    for step in stack.dressing():
        step()
    assert second.styleSheet() == first.styleSheet()


def test_a_page_that_is_gone_is_not_dressed_any_more(qtbot):
    stack, page = Stack(), QWidget()
    qtbot.addWidget(stack)
    dress(DAY)
    stack.show_page(QWidget())
    stack.add_page(page)
    steps = list(stack.dressing())
    page.deleteLater()
    qtbot.waitUntil(lambda: stack.count() == 1)
    dress(NIGHT)
    for step in steps:
        step()
    assert stack.currentWidget().styleSheet() == QApplication.instance().property("sheet")


def test_what_dresses_itself_is_left_alone(qtbot):
    stack, plain = Stack(), QWidget()
    qtbot.addWidget(stack)
    stack.addWidget(plain)
    dress(NIGHT)
    stack.dress()
    for step in stack.dressing():
        step()
    assert plain.styleSheet() == ""
    wear(plain)
    assert plain.styleSheet() == QApplication.instance().property("sheet")


def test_names_that_are_offered_are_in_the_colours_of_the_dialog(demo, qtbot):
    demo.set_theme(NIGHT)
    dialog = SpeakerDialog(Speaker("s1"), ["Tobiah", "Tobin"], demo.desk.host)
    qtbot.addWidget(dialog)
    dialog.show()
    QTest.keyClicks(dialog.name, "Tob")
    offered = dialog.name.completer().popup()
    qtbot.waitUntil(offered.isVisible)
    assert undressed(demo) == []
    assert colours(offered) & {NIGHT.paper.lower(), DAY.paper.lower()} == {NIGHT.paper.lower()}
    offered.hide()


def test_what_stands_behind_the_large_picture_or_the_start_page_is_dressed_with_the_rest(demo):
    demo.show_room("wording")
    demo.prepare()
    for bar in demo.desk.bars:
        bar.setVisible(True)
    demo.enlarge_picture()
    demo.set_theme(NIGHT)
    demo.enlarge_picture()
    assert undressed(demo) == []
    demo.show_start()
    demo.set_theme(DAY)
    assert undressed(demo) == []
    demo.show_open()
    assert undressed(demo) == []


def test_a_dialog_that_was_answered_and_a_menu_that_was_closed_are_gone(demo, qtbot):
    """The list of commands is asked for a hundred times a day."""

    def close() -> None:
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            QTimer.singleShot(10, close)
        else:
            dialog.reject()

    for _ in range(3):
        QTimer.singleShot(0, close)
        demo.commands.run("find")
        QTimer.singleShot(0, close)
        assert ask_line(demo.desk.host, "Name", "Name", "Set") is None
        demo.show_menu()
        QApplication.activePopupWidget().close()
        demo.desk.menu_on([], QPoint(40, 40))  # where there is nothing to say
    qtbot.waitUntil(lambda: demo.desk.host.children() == [])


def test_of_many_themes_in_a_row_the_last_is_worn_and_none_after_the_window_was_closed(
    demo, qtbot, monkeypatch
):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    demo.prepare()
    for _ in range(40):
        demo.other_theme()
    page = demo.rooms["release"].page
    qtbot.waitUntil(lambda: page.styleSheet() == QApplication.instance().property("sheet"))
    demo.show_room("wording")
    demo.desk.stop()
    before = page.styleSheet()
    demo.other_theme()
    for _ in range(50):
        QApplication.processEvents()
    assert page.styleSheet() == before
