"""A talk of three turns on the sheet of a real window, and what tests do with it."""

from conftest import spoken
from PySide6.QtTest import QTest

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.spots import Spot
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.user.terms import TERMS

PEOPLE = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]


TEXT = (
    "The hair in came out of the canal.",
    "Um, is it it oak? I want to know.",
    "It is mostly oak, and the boat yard is old.",
)


def with_talk(window):
    """A window with three turns of two people on the sheet, captioned."""
    at, made = 1000, []
    for nth, text in enumerate(TEXT):
        heard = spoken(text, start=at)
        at = heard[-1].end_ms + 900
        made.append(RecognisedTurn(tuple(heard), PEOPLE[nth % 2].id))
    project = set_again(set_turns(Project(title="Talk"), made, PEOPLE, "en"), DEFAULT_STYLE)
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    TERMS.write(())
    return window


def texts(window):
    return [turn.text for turn in window.sheet.turns]


def press(window, keys):
    window.commands.run(keys)


def page(window, name):
    return window.rooms["wording"].pull_out.page(name)


def select(window, turn, first, stop):
    window.sheet.select_words(turn, first, stop)


def labels(window):
    return window.session.history.labels()[0]


def typed_wrong(window, qtbot, text):
    """Something is typed at the beginning, once there is a dictionary; the marks."""
    marks = window.rooms["wording"].marks
    qtbot.waitUntil(lambda: marks.there)
    window.sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(window.sheet, text)
    return marks


def offered(spelling):
    return [spelling.offers.itemText(nth) for nth in range(spelling.offers.count())]
