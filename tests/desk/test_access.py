"""What a screen reader gets of the pages that draw themselves: names, texts, marks, acts, events."""

import pytest
from conftest import DEMO, spoken
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QGuiApplication, QInputMethodEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.access.factory import install
from dubrel.desk.access.turntexts import TurnTexts
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.shell.kit.sentence import BlankField
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.words.striking import struck
from dubrel.model import Project, RecognisedTurn, Speaker

PEOPLE = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]
TEXTS = ("The hare came out.", "Is it oak? I think so.", "It is old.")
NAME = QAccessible.Text.Name


@pytest.fixture
def told(window, monkeypatch):
    """A window with three turns of two people, captioned; what a screen reader was told last."""
    install()
    at, made = 1000, []
    for nth, text in enumerate(TEXTS):
        heard = spoken(text, start=at)
        at = heard[-1].end_ms + 900
        made.append(RecognisedTurn(tuple(heard), PEOPLE[nth % 2].id))
    window.session.open(
        set_again(set_turns(Project(title="Talk"), made, PEOPLE, "en"), DEFAULT_STYLE), None, saved=True
    )
    window.show_room("wording")
    window.activateWindow()
    window.sheet.setFocus()
    return window


def page_of(widget):
    """The interface of a page."""
    return QAccessible.queryAccessibleInterface(widget)


def text_of(child):
    """The whole text of a thing on a page."""
    face = child.textInterface()
    return face.text(0, face.characterCount())


@pytest.fixture
def events(monkeypatch):
    """What is told from now on: the kind, and what of."""
    from dubrel.desk.access import interfaces

    found = []

    class Listening:
        Role, Text, State, Event = QAccessible.Role, QAccessible.Text, QAccessible.State, QAccessible.Event
        InterfaceType = QAccessible.InterfaceType
        queryAccessibleInterface = staticmethod(QAccessible.queryAccessibleInterface)
        registerAccessibleInterface = staticmethod(QAccessible.registerAccessibleInterface)

        @staticmethod
        def updateAccessibility(event):
            said = [event.type()]
            for name in ("cursorPosition", "textRemoved", "textInserted"):
                if hasattr(event, name):
                    said.append(getattr(event, name)())
            found.append(tuple(said))

    monkeypatch.setattr(interfaces, "QAccessible", Listening)
    return found


def test_each_turn_is_a_text_with_who_when_and_how_it_stands(told):
    page = page_of(told.sheet)
    assert page.text(NAME) == "Sheet: transcript" and page.role() == QAccessible.Role.List
    names = [page.child(nth).text(NAME) for nth in range(page.childCount())]
    assert names == [
        "Isolde, 00:00:01, not proofed",
        "Tobiah, 00:00:03, not proofed",
        "Isolde, 00:00:06, not proofed",
    ]
    second = page.child(1)
    assert text_of(second) == TEXTS[1] and page.indexOfChild(second) == 1
    assert second.parent() is page and second.state().editable and second.isValid()


def test_caret_and_selection_are_those_of_the_sheet_both_ways(told):
    page = page_of(told.sheet)
    told.sheet.move_caret(Spot(1, 3))
    told.sheet.move_caret(Spot(1, 9), keep=True)
    text = page.child(1).textInterface()
    assert (text.cursorPosition(), text.selectionCount()) == (9, 1)
    assert page.focusChild() is page.child(1)
    page.child(2).textInterface().setCursorPosition(6)
    assert told.sheet.caret == told.sheet.anchor == Spot(2, 6)
    page.child(0).textInterface().setSelection(0, 4, 8)
    assert (told.sheet.anchor, told.sheet.caret) == (Spot(0, 4), Spot(0, 8))


def test_what_is_written_through_it_is_one_step_that_keeps_times(told):
    page, before = page_of(told.sheet), told.session.project.transcript.turns[0].words
    page.child(0).editableTextInterface().replaceText(4, 8, "heron")
    assert text_of(page.child(0)) == "The heron came out."
    turn = told.session.project.transcript.turns[0]
    assert turn.words[2] is before[2]
    assert (turn.words[1].start_ms, turn.words[1].end_ms) == (before[1].start_ms, before[1].end_ms)
    told.commands.run("undo")
    assert text_of(page.child(0)) == TEXTS[0]


def test_read_only_words_are_not_written_through_it(told):
    told.session.read_only = True
    child = page_of(told.sheet).child(0)
    assert child.editableTextInterface() is None and child.state().readOnly


def test_doubts_struck_words_and_lines_are_in_the_text(told):
    project = told.session.project
    first = project.transcript.turns[0]
    words = (first.words[0], replace(first.words[1], doubt=0.9), *first.words[2:])
    turns = (replace(first, words=words), *project.transcript.turns[1:])
    project = replace(project, transcript=replace(project.transcript, turns=turns))
    told.session.apply(struck(project, {words[3].id}, True), "Strike", base=told.session.project)
    described = TurnTexts(told.sheet).described(0)
    assert [(one.start, one.end, one.kind) for one in described.marks] == [
        (4, 8, "doubt"),
        (14, 18, "struck"),
    ]


def test_what_can_be_done_with_a_turn_is_done_with_it(told):
    page = page_of(told.sheet)
    acts = page.child(2).actionInterface()
    assert acts.actionNames()[1:] == ["Play", "Mark as proofed, or not", "Accept the word"]
    acts.doAction("Mark as proofed, or not")
    assert told.session.project.transcript.turns[2].proofed
    assert page.child(2).text(NAME) == "Isolde, 00:00:06, proofed"


def test_moving_and_typing_are_told(told, events):
    page_of(told.sheet)
    told.sheet.move_caret(Spot(1, 0))
    assert (QAccessible.Event.Focus,) in events
    events.clear()
    told.sheet.move_caret(Spot(1, 2))
    assert events == [(QAccessible.Event.TextCaretMoved, 2)]
    events.clear()
    told.sheet.write("s")
    kinds = [one[0] for one in events]
    assert (QAccessible.Event.TextUpdated, 3, "", "s") in events
    assert kinds.count(QAccessible.Event.TextUpdated) == 1


def test_a_turn_that_is_gone_is_no_longer_valid_and_another_project_has_its_own(told):
    page = page_of(told.sheet)
    last = page.child(2)
    told.sheet.move_caret(Spot(2, 0))
    told.commands.run("join_turn")
    assert page.childCount() == 2 and not last.isValid() and last.textInterface() is None
    told.commands.run("undo")
    assert page.childCount() == 3 and last.isValid() and text_of(last) == TEXTS[2]
    told.session.open(Project(), None, saved=True)
    assert page.childCount() == 0
    assert page.text(QAccessible.Text.Description).startswith("Nothing on the sheet yet")


def test_captions_say_their_times_and_what_is_to_fix(told, qtbot):
    told.show_room("captions")
    page = page_of(told.stanzas)
    count = len(told.session.project.captions.captions)
    assert page.childCount() == count
    first = page.child(0)
    assert first.text(NAME).startswith("Isolde, 00:00:01.000 to 00:00:0")
    assert text_of(first) == TEXTS[0]
    page.child(1).actionInterface().doAction("Edit the text")
    assert told.stanzas.current == 1
    assert page.text(QAccessible.Text.Description) == ""


def test_the_caret_in_a_caption_is_at_the_chosen_word_even_where_it_is_said_twice(told):
    said = set_turns(Project(), [RecognisedTurn(tuple(spoken("An oar and an oar.")), None)], [], "en")
    told.session.open(set_again(said, DEFAULT_STYLE), None, saved=True)
    told.show_room("captions")
    sheet = told.stanzas
    first = page_of(sheet).child(0)
    words = sheet.words_of(sheet.captions[0])
    sheet.choose(0, word=words[4].id)
    assert first.textInterface().cursorPosition() == 14
    first.textInterface().setCursorPosition(5)
    assert sheet.word is words[1]


def test_pairs_say_how_they_stand(window, qtbot):
    install()
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("translation")
    room = window.rooms["translation"]
    qtbot.waitUntil(lambda: room.findings.track is not None)
    page = page_of(room.page.sheet)
    assert page.childCount() == len(room.page.sheet.slots)
    pair = page.child(0)
    done = room.page.sheet.slots[0].caption.done
    pair.actionInterface().doAction("Approve, or withdraw that")
    assert room.page.sheet.slots[0].caption.done is not done
    assert pair.text(NAME).split(", ")[1] == ("not approved" if done else "approved")
    said = text_of(pair)
    assert said.startswith("Welcome back to Slow Water.") and "Bem-vindos" in said


# -- the rest of the window ----------------------------------------------------------------------


def test_passes_are_tabs_of_a_list_and_are_gone_to(told):
    rail = page_of(told.rail)
    assert (rail.role(), rail.text(NAME)) == (QAccessible.Role.PageTabList, "Passes")
    tab = page_of(told.rail.buttons[4])
    assert (tab.role(), tab.text(NAME)) == (QAccessible.Role.PageTab, "Captions")
    assert not tab.state().selected
    tab.actionInterface().doAction("Press")
    assert told.current.id == "captions" and tab.state().selected


def test_every_choice_is_named_by_a_label(told):
    for room in told.rooms:
        told.show_room(room)
        for combo in told.findChildren(QComboBox):
            if combo.isVisible():
                page_of(combo)
                labels = [one for one in combo.parentWidget().findChildren(QLabel) if one.buddy() is combo]
                assert labels and labels[0].text(), (room, combo.currentText())


def test_a_blank_says_its_number_its_bounds_and_the_whole_sentence(told):
    told.commands.run("style")
    field = next(one for one in told.findChildren(BlankField) if one.isVisible() and not one.blank.words)
    face = page_of(field)
    assert face.role() == QAccessible.Role.SpinBox and face.text(NAME) == field.blank.label
    value = face.valueInterface()
    assert value.minimumValue() <= value.currentValue() <= value.maximumValue()
    said = face.text(QAccessible.Text.Description)
    assert field.text() in said and len(said.split()) > 5
    value.setCurrentValue(value.currentValue() + value.minimumStepSize())
    assert page_of(field).text(QAccessible.Text.Value) == field.text()


def test_nonsense_in_a_number_is_said_and_the_number_stays(told):
    told.commands.run("style")
    field = next(one for one in told.findChildren(BlankField) if one.isVisible() and not one.blank.words)
    before, shown = field.value, field.text()
    for nonsense in ("abc", "1.2.3", "12abc", "--4"):
        field.setText(nonsense)
        field.editingFinished.emit()
        assert (field.value, field.text()) == (before, shown)
        assert told.message.text().startswith(f"“{nonsense}” is not a number. {field.blank.label} stays at")


def test_the_strip_is_a_place_in_time_and_the_picture_says_its_caption(told, qtbot):
    told.player.seek(1500)
    strip = page_of(told.strip)
    assert strip.role() == QAccessible.Role.Slider and strip.valueInterface().currentValue() == 1.5
    assert strip.text(QAccessible.Text.Value).startswith("00:00:01.5 of 00:00:0")
    strip.valueInterface().setCurrentValue(0.5)
    assert told.player.position == 500
    told.player.seek(1500)
    picture = page_of(told.booth.picture)
    assert picture.text(QAccessible.Text.Description) == f"caption: {TEXTS[0]}"


def test_messages_can_be_read_again(told):
    told.say("One thing happened.")
    told.say("Another thing happened.")
    assert [text for _, text in told.footer.last][-2:] == ["One thing happened.", "Another thing happened."]
    told.commands.run("messages")
    menu = QApplication.activePopupWidget()
    assert menu.actions()[0].text().endswith("Another thing happened.")
    menu.actions()[1].trigger()
    assert QGuiApplication.clipboard().text() == "One thing happened."
    menu.close()


def test_a_key_goes_round_the_panes_and_tab_into_the_rail_lands_on_the_present_pass(told):
    told.sheet.setFocus()
    told.commands.run("previous_pane")
    assert QApplication.focusWidget() is told.rail.present()
    assert told.rail.present().text() == "Wording"
    told.commands.run("next_pane")
    assert QApplication.focusWidget() is told.sheet
    told.commands.run("next_pane")
    assert told.booth.isAncestorOf(QApplication.focusWidget())
    told.commands.run("next_pane")
    assert QApplication.focusWidget() is told.strip
    told.commands.run("next_pane")
    assert QApplication.focusWidget() is told.rail.present()


def test_an_input_method_replaces_letters_beside_the_caret(told):
    told.sheet.move_caret(Spot(0, 8))
    event = QInputMethodEvent()
    event.setCommitString("heron", -4, 4)
    QApplication.sendEvent(told.sheet, event)
    assert told.session.project.transcript.turns[0].text == "The heron came out."
    assert told.sheet.caret == Spot(0, 9)


def test_entering_a_pass_gives_the_keys_to_something_with_a_name(window):
    install()
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.activateWindow()
    without = []
    for room in window.rooms:
        window.show_room(room)
        window.show_focus()
        now = QApplication.focusWidget()
        if now is None or not page_of(now).text(NAME) or now.focusPolicy() == Qt.FocusPolicy.NoFocus:
            without.append((room, type(now).__name__))
    assert without == []


def test_a_page_that_nothing_holds_yet_is_not_held_by_itself(told):
    page = CaptionSheet(told.desk, told.findings)
    above = page_of(page).parent()
    assert above.role() == QAccessible.Role.Application
    page.deleteLater()


def test_rows_that_are_ticked_say_so_and_are_switched(told, qtbot):
    said = RecognisedTurn(tuple(spoken("Um the hare um came out.")), None)
    told.session.open(set_turns(Project(), [said], [], "en"), None, saved=True)
    told.commands.run("clean_up")
    rows = told.rooms["wording"].drawer.page("cleanup").list
    qtbot.waitUntil(lambda: rows.model().rowCount() == 2)
    face = page_of(rows).child(0)
    assert face.state().checkable and face.state().checked
    rows.setCurrentIndex(rows.model().index(0, 0))
    QTest.keyClick(rows, Qt.Key.Key_Space)
    assert face.state().checkable and not face.state().checked


def test_charts_are_pictures_with_a_sentence_of_what_they_show(told, qtbot):
    from dubrel.desk.captions.styles.stylepictures import SpeedPlot

    told.show_room("captions")
    told.commands.run("style")
    plot = page_of(told.findChild(SpeedPlot))
    assert plot.role() == QAccessible.Role.Graphic
    assert not plot.state().focusable
    said = lambda: plot.text(QAccessible.Text.Description)  # noqa: E731
    qtbot.waitUntil(lambda: said() != "")
    assert said() == "0 of 4 captions are over 20"
