"""Lines and stanzas of a song, and writing from the right, on the sheet."""

import pytest
from conftest import spoken
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from songs import STANZAS, lyrics, sung
from talkdesk import labels, press, texts

from dubrel.desk.sheet.spots import Spot
from dubrel.edits.intake import set_turns
from dubrel.model import Project, RecognisedTurn


@pytest.fixture
def open_song(window):
    project = lyrics(sung(), a_turn=13)
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    window.sheet.select_all()
    press(window, "song")
    return window


def stanza(window, place):
    return window.sheet.turns[place].lined


def test_lines_and_stanzas_of_the_selection_are_one_step(open_song):
    assert [turn.lined for turn in open_song.sheet.turns] == ["\n".join(one) for one in STANZAS]
    assert labels(open_song) == ["Find lines and stanzas"]
    press(open_song, "undo")
    assert len(open_song.sheet.turns) == 5 and not open_song.session.dirty


def test_keys_begin_and_join_lines(open_song):
    window, sheet = open_song, open_song.sheet
    first = stanza(window, 0)
    sheet.move_caret(Spot(0, first.index("under")))
    QTest.keyClick(sheet, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert stanza(window, 0) == first.replace("water under", "water\nunder")
    QTest.keyClick(sheet, Qt.Key.Key_Backspace)
    assert stanza(window, 0) == first and sheet.caret == Spot(0, len("Slow water"))
    QTest.keyClick(sheet, Qt.Key.Key_End)
    assert sheet.caret.place == len(STANZAS[0][0])
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    QTest.keyClicks(sheet, "and ")
    assert stanza(window, 0) == first.replace("goes", "and goes")
    for _ in range(8):
        press(window, "undo")
    assert len(sheet.turns) == 5


def test_a_copied_song_has_its_lines_wherever_it_goes(open_song):
    window, sheet = open_song, open_song.sheet
    sheet.select_all()
    press(window, "copy")
    copied = QGuiApplication.clipboard().mimeData()
    assert copied.text() == "\n\n".join("\n".join(one) for one in STANZAS)
    assert "<br>".join(STANZAS[2]) in copied.html()
    press(window, "copy_quote")
    assert "Slow water under Alder Bridge / goes easy past the mill / the lock" in (
        QGuiApplication.clipboard().text()
    )
    sheet.move_caret(Spot(1, 0))
    sheet.move_caret(Spot(1, len(stanza(window, 1))), keep=True)
    press(window, "strike")
    press(window, "copy")
    assert "stone</s><br><s>and" in QGuiApplication.clipboard().mimeData().html()
    sheet.move_caret(Spot(0, 0))
    sheet.move_caret(Spot(0, len(stanza(window, 0))), keep=True)
    QGuiApplication.clipboard().setText("\n".join(STANZAS[0]).replace("easy", "slowly"))
    press(window, "paste")
    assert stanza(window, 0) == "\n".join(STANZAS[0]).replace("easy", "slowly")


def test_lines_are_taken_out_of_the_turns_that_have_some(open_song):
    window = open_song
    window.sheet.move_caret(Spot(1, 3))
    press(window, "song_plain")
    assert stanza(window, 1) == " ".join(STANZAS[1]) and stanza(window, 2) == "\n".join(STANZAS[2])
    assert window.commands.why_not("song_plain") == "There are no lines of a song here."


def test_left_and_right_go_where_they_point_in_hebrew(window):
    heard = spoken("סירת העץ יצאה")
    window.session.open(
        set_turns(Project(), [RecognisedTurn(tuple(heard), None)], [], "he"), None, saved=True
    )
    window.show_room("wording")
    sheet = window.sheet
    sheet.move_caret(Spot(0, 0))
    QTest.keyClick(sheet, Qt.Key.Key_Left)
    assert sheet.caret == Spot(0, 1)
    QTest.keyClick(sheet, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert sheet.caret == Spot(0, 5)
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    QTest.keyClick(sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert (sheet.anchor, sheet.caret) == (Spot(0, 4), Spot(0, 3))
    QTest.keyClick(sheet, Qt.Key.Key_Delete)
    QTest.keyClick(sheet, Qt.Key.Key_Home)
    assert sheet.caret == Spot(0, 0) and texts(window) == ["סיר העץ יצאה"]
