"""The guide inside the application."""

from __future__ import annotations

import pytest
from conftest import DEMO, ROOT
from PySide6.QtCore import Qt, QUrl
from PySide6.QtTest import QTest

from dubrel.desk.shell.pages.help import pages, text_of


def test_every_page_of_the_guide_ships():
    assert set(pages()) == {path.stem for path in (ROOT / "docs" / "guide").glob("*.md")}


@pytest.mark.parametrize("room", ["intake", "voices", "wording", "captions", "translation", "release"])
def test_f1_shows_the_page_of_the_pass_and_escape_leads_back(window, qtbot, room):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room(room)
    here = window.pages.currentWidget()
    window.commands.run("help")
    page = window.side_pages.help
    assert window.pages.currentWidget() is page
    assert page.names[page.list.currentRow()] == room
    assert page.text.toPlainText().startswith(pages()[room])
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is here


def test_from_the_start_page_it_tells_what_holds_everywhere(window):
    window.show_start()
    window.commands.run("help")
    page = window.side_pages.help
    assert page.names[page.list.currentRow()] == "everywhere"
    assert window.whole.currentWidget() is window.body


def test_no_page_shows_pictures_or_how_it_was_made():
    for name in pages():
        assert "![" not in text_of(name)
        assert "Made from" not in text_of(name)


def test_links_lead_to_other_pages_and_nowhere_else(window):
    window.commands.run("help")
    page = window.side_pages.help
    page.text.anchorClicked.emit(QUrl("keys.md"))
    assert page.names[page.list.currentRow()] == "keys"
    for other in ("../architecture.md", "https://example.org/intake.md"):
        page.text.anchorClicked.emit(QUrl(other))
    assert page.names[page.list.currentRow()] == "keys"


def test_what_is_sought_is_selected_and_enter_goes_on(window, qtbot):
    window.commands.run("help")
    page = window.side_pages.help
    page.show_page("wording")
    QTest.keyClicks(page.sought, "sound")
    first = page.text.textCursor().selectionStart()
    QTest.keyClick(page.sought, Qt.Key.Key_Return)
    second = page.text.textCursor().selectionStart()
    assert page.text.textCursor().selectedText() == "sound"
    assert 0 < first < second


def test_it_goes_along_with_the_theme(window):
    window.commands.run("help")
    page = window.side_pages.help
    page.show_page("keys")
    window.commands.run("theme")
    frame = page.text.document().rootFrame().childFrames()[0]
    assert frame.format().borderBrush().color() == window.theme.colour("hairline")
