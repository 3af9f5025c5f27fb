"""Pages that were not shown yet are made ahead, and nobody waits for that."""

from concurrent.futures import Future

import pytest
from conftest import BOARDS, DEMO, spoken
from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from dubrel.edits.intake import set_turns
from dubrel.model import Project, RecognisedTurn, Speaker


def test_no_page_is_made_while_somebody_types(window, qtbot, monkeypatch, boards):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    window.session.open(boards, None, saved=False)
    window.show_room("wording")
    QTest.keyClicks(window.sheet, "a")
    window.prepare()
    before = window.pages.count()
    for _ in range(40):
        QTest.keyClicks(window.sheet, "b")
        QApplication.processEvents()
    assert window.pages.count() == before
    qtbot.waitUntil(lambda: window.pages.count() > before + 2)  # at rest they are


def test_pages_and_panels_that_are_made_ahead_are_dressed(window, qtbot, monkeypatch):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    early = Future()
    window.prepare(early)
    for _ in range(40):
        QApplication.processEvents()
    assert window.pages.count() == 1  # what is loaded early comes first
    early.set_result(None)
    rooms, dressed = window.rooms.values(), Qt.WidgetAttribute.WA_WState_Polished
    panels = [room.panel for room in rooms if room.panel is not None]

    def bare():
        parts = [
            one for page in (*panels, *(room.page for room in rooms)) for one in page.findChildren(QWidget)
        ]
        return [one for one in parts if not one.testAttribute(dressed) and not one.isWindow()]

    def placed():
        in_pages = all(window.pages.indexOf(room.page) >= 0 for room in rooms)
        return in_pages and all(window.booth.isAncestorOf(one) for one in panels)

    qtbot.waitUntil(lambda: placed() and not bare())
    assert [one for one in panels if one.isVisible()] == [window.current.panel]
    for name, room in window.rooms.items():
        window.show_room(name)
        assert room.page.isVisible() and (room.panel is None or room.panel.isVisible())


def test_no_page_is_made_right_after_a_project_was_opened(window, qtbot, monkeypatch, boards):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    monkeypatch.setattr("dubrel.desk.shell.frame.window._REST_S", 3600.0)
    window.session.open(boards, None, saved=False)
    window.prepare()
    before = window.pages.count()
    for _ in range(40):
        QApplication.processEvents()
    assert window.pages.count() == before
    monkeypatch.setattr("dubrel.desk.shell.frame.window._REST_S", 0.0)
    qtbot.waitUntil(lambda: window.pages.count() > before + 2)  # at rest they are


def test_no_page_is_made_while_a_dialog_or_a_file_is_waited_for(window, qtbot, monkeypatch):
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    counts = []

    def wait():
        inner = QEventLoop()
        window.prepare()
        QTimer.singleShot(300, inner.quit)
        counts.append(window.pages.count())
        inner.exec()
        counts.append(window.pages.count())

    QTimer.singleShot(0, wait)
    qtbot.waitUntil(lambda: len(counts) == 2)
    assert counts[0] == counts[1]
    qtbot.waitUntil(lambda: window.pages.count() > counts[1] + 2)


def test_heights_that_nobody_has_seen_wait_while_somebody_types(window, monkeypatch):
    monkeypatch.setattr("dubrel.desk.sheet.page._REST_MS", 60_000)
    said = [RecognisedTurn(tuple(spoken(BOARDS, start=30_000 * nth)), f"s{nth % 2}") for nth in range(300)]
    project = set_turns(Project(title="Long"), said, [Speaker("s0", "Ada"), Speaker("s1", "Bo")], "en")
    window.show_room("wording")
    window.session.open(project, None, saved=False)
    column = window.sheet.column
    built = lambda: sum(column.built(place) is not None for place in range(300))  # noqa: E731
    QTest.keyClicks(window.sheet, "a")
    QApplication.processEvents()
    before = built()
    assert before < 300
    for _ in range(30):
        QTest.keyClicks(window.sheet, "b")
        QApplication.processEvents()
    assert built() == before


@pytest.mark.parametrize("room", ["wording", "captions"])
def test_pages_that_are_made_ahead_leave_the_one_in_sight(window, qtbot, monkeypatch, room):
    """Where somebody works right after the start, no other page comes into view."""
    for name in ("_FIRST_MS", "_LEAST_MS", "_TIMES"):
        monkeypatch.setattr(f"dubrel.desk.shell.frame.preparing.{name}", 0)
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room(room)
    page, seen = window.rooms[room].page, set()
    window.pages.currentChanged.connect(lambda _nth: seen.add(window.pages.currentWidget()))
    window.prepare()
    wanted = [one.page for one in window.rooms.values()]
    qtbot.waitUntil(lambda: all(window.pages.indexOf(one) >= 0 for one in wanted))
    assert window.pages.currentWidget() is page and page.isVisible()
    assert seen <= {page}
