"""What a screen reader gets of the pages that draw themselves: names, texts, marks, acts, events."""

from dataclasses import replace

import pytest
from conftest import DEMO, spoken
from PySide6.QtGui import QAccessible

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.access.factory import install
from dubrel.desk.access.turntexts import TurnTexts
from dubrel.desk.sheet.spots import Spot
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
    assert page.childCount() == 3
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


def test_pairs_say_how_they_stand(window, qtbot):
    install()
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("translation")
    room = window.rooms["translation"]
    qtbot.waitUntil(lambda: room.findings.track is not None, timeout=30_000)
    page = page_of(room.page.sheet)
    assert page.childCount() == len(room.page.sheet.slots)
    pair = page.child(0)
    done = room.page.sheet.slots[0].caption.done
    pair.actionInterface().doAction("Approve, or withdraw that")
    assert room.page.sheet.slots[0].caption.done is not done
    assert pair.text(NAME).split(", ")[1] == ("not approved" if done else "approved")
    said = text_of(pair)
    assert said.startswith("Welcome back to Slow Water.") and "Bem-vindos" in said
