"""Two windows at once: one file, one queue; who is told what is done."""

import signal  # noqa: F401  scripts of these tests use it
import subprocess
import sys
import time

import pytest
from conftest import ROOT, words
from crashes import corrected
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from dubrel.model.choices import Choices
from dubrel.store import versions
from dubrel.store.locks import claim
from dubrel.store.projectfile import open_project, read_version, save

pytestmark = pytest.mark.usefixtures("own_state")


@pytest.fixture
def second(window, qtbot):
    """Another window."""
    from conftest import equipped

    from dubrel.desk.shell.kit.theme import DAY

    made = equipped(DAY)
    made.show_room("intake")
    made.dialogs.unsaved = lambda title: "discard"
    qtbot.addWidget(made)
    made.show()
    yield made
    made.desk.stop()


def test_a_project_that_is_open_elsewhere_can_only_be_read(window, second, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    second.filing.open_path(path)
    assert "open in another window" in second.message.toolTip() and second.header.saved.text() == "Read-only"
    before = second.session.project
    QTest.keyClicks(second.sheet, "x")
    QTest.keyClick(second.sheet, Qt.Key.Key_Backspace)
    second.commands.run("set_again")
    second.commands.run("proofed")
    assert second.session.project is before and second.session.history.depth == 0
    assert "read-only here" in second.message.toolTip()
    QTest.keyClicks(window.sheet, "x")
    assert window.filing.save() is True
    copy = tmp_path / "copy.dubrel"
    second.ask.file_to_save = lambda proposed: path
    assert second.filing.save() is False and "another window" in second.message.toolTip()
    second.ask.file_to_save = lambda proposed: copy
    assert second.filing.save() is True
    QTest.keyClicks(second.sheet, "y")
    assert second.session.project is not before and second.filing.save() is True
    assert open_project(copy) != open_project(path)


def test_closing_lets_the_next_one_write(window, second, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    window.commands.run("close")
    second.filing.open_path(path)
    assert not second.session.read_only
    assert claim(path) is None


def test_a_file_that_was_changed_by_another_is_noticed_and_neither_state_is_lost(window, tmp_path, boards):
    path = tmp_path / "boards.dubrel"
    save(boards, path)
    window.filing.open_path(path)
    QTest.keyClicks(window.sheet, "Ours ")
    save(corrected(boards, 0, "Theirs"), path)
    asked = []
    window.ask.changed_outside = lambda name: asked.append(name) or "cancel"
    assert window.filing.save() is False and asked == ["boards.dubrel"]
    assert words(open_project(path))[0].text == "Theirs" and window.session.dirty
    window.ask.changed_outside = lambda name: "save"
    assert window.filing.save() is True
    assert words(open_project(path))[0].text == "Ours"
    kept = [words(read_version(path, name).project)[0].text for name in versions.version_names(path)]
    assert "Theirs" in kept
    assert window.filing.save() is True  # it is not asked twice


def test_one_window_works_on_the_queue(window, second, tmp_path, film):
    assert window.queue.claim is not None and second.queue.claim is None
    second.queue.add([film], Choices())
    assert "Another window of Dubrel works on the queue" in second.message.toolTip()
    window.queue.add([film], Choices())
    window.queue.pause_or_go_on(1)
    second.show_room("wording")
    second.show_room("intake")
    assert [one.path for one in second.queue.queue.items] == [str(film)]
    assert second.queue.queue.items[0].state == "paused" and not second.queue.running
    window.desk.stop()
    second.queue.remove(1)
    assert second.queue.queue.items == () and second.queue.claim is not None


def test_a_notification_is_sent_only_while_another_window_is_in_front(window, monkeypatch, qtbot):
    sent = []
    monkeypatch.setattr("dubrel.desk.shell.core.notify.send", sent.append)
    monkeypatch.setattr(window, "isActiveWindow", lambda: False)
    window.jobs.done.emit("“Boards”: transcribing is done.", time.monotonic() - 3)
    window.jobs.done.emit("“Boards”: aligning is done.", time.monotonic() - 60)
    qtbot.waitUntil(lambda: len(sent) == 1)
    monkeypatch.setattr(window, "isActiveWindow", lambda: True)
    window.jobs.done.emit("The queue is done.", time.monotonic() - 60)
    assert sent == ["“Boards”: aligning is done."]


def test_a_notification_reaches_the_desktop():
    """A bus of our own, with a service on it that takes notifications as a desktop does."""
    service = """
import threading
from jeepney import HeaderFields, MessageType, new_method_return
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection
from dubrel.desk.shell.core.notify import send
bus = open_dbus_connection(bus="SESSION")
bus.send_and_get_reply(message_bus.RequestName("org.freedesktop.Notifications"))
sent = []
sending = threading.Thread(target=lambda: sent.append(send("Slow Water: transcribing is done.")))
sending.start()
while True:
    message = bus.receive()
    if message.header.message_type is MessageType.method_call:
        print(message.header.fields[HeaderFields.member], message.body[4])
        bus.send(new_method_return(message, "u", (1,)))
        break
sending.join()
print(sent)
"""
    ran = subprocess.run(
        ["dbus-run-session", "--", sys.executable, "-c", service],
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert ran.stdout.splitlines() == ["Notify Slow Water: transcribing is done.", "[True]"]
