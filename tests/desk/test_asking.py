"""What the window says while work runs, and the questions about speakers."""

import pytest
from conftest import spoken
from PySide6.QtCore import Qt
from recordings import hold

from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.voices.dialogs.person import PersonDialog
from dubrel.desk.voices.dialogs.voices import CountDialog
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.speakers.assigning import assign_speakers
from dubrel.edits.speakers.voices import give_turn, rename_speaker
from dubrel.jobs.diarising import speaker_bounds
from dubrel.jobs.machinery.events import Progress
from dubrel.media.probe import probe
from dubrel.model import Project, RecognisedTurn, Speaker


@pytest.fixture
def forty():
    """Forty people, one turn each; the last ten have the same role."""
    people = [Speaker(f"s{k}", f"Guest {k:02}", "Caller" if k > 30 else "") for k in range(1, 41)]
    turns = [RecognisedTurn(tuple(spoken("Yes.", start=2000 * k)), one.id) for k, one in enumerate(people)]
    return set_turns(Project(title="Forty"), turns, people, "en")


# -- the footer -------------------------------------------------------------------------


def test_a_message_of_any_length_takes_the_place_of_the_keys_for_a_while(window):
    window.show_room("captions")
    keys, least = window.footer.keys.text(), window.minimumSizeHint().width()
    assert "F8" in keys and window.footer.keys.isVisible()
    long = "A file with a very long name cannot be read: " + "x" * 400
    window.say(long)
    assert window.message.text() == window.message.toolTip() == long
    assert window.message.isVisible() and not window.footer.keys.isVisible()
    assert window.minimumSizeHint().width() <= max(least, 900)
    window.footer.forgetting.timeout.emit()
    assert window.footer.keys.isVisible() and not window.message.isVisible()
    assert window.footer.keys.text() == keys


def test_running_work_is_seen_and_cancelled_from_every_pass(window, three, qtbot):
    window.session.open(three, None, saved=True)
    assert not window.footer.bar.isVisible()
    held = hold(window, "transcribe", Progress("Telling speakers apart", 0.25, 19))
    qtbot.waitUntil(lambda: window.jobs.shown.progress.fraction == 0.25)
    for room in window.rooms:
        window.show_room(room)
        assert window.footer.job.text() == "Telling speakers apart, 25%, about 0:19 left"
        assert window.footer.bar.isVisible() and window.footer.bar.value() == 250
    assert window.rail.buttons[0].todo == "working, 25%"
    hold(window, "audit")
    assert window.footer.job.text().endswith("(and 1 more)")
    qtbot.mouseClick(window.footer.cancel, Qt.MouseButton.LeftButton)
    assert not held.running and window.jobs.runs("audit")
    qtbot.mouseClick(window.footer.cancel, Qt.MouseButton.LeftButton)
    assert not window.footer.bar.isVisible() and window.rail.buttons[0].todo == "no recording"


def test_nothing_moves_when_a_job_begins_or_ends(window, three, qtbot):
    window.session.open(three, None, saved=True)
    window.show_room("wording")
    places = lambda: [one.geometry() for one in (window.pages, window.strip, window.footer)]  # noqa: E731
    qtbot.waitUntil(lambda: window.strip.y() > 400)
    before = places()
    held = hold(window, "transcribe", Progress("Telling speakers apart", 0.25, 19))
    qtbot.waitUntil(lambda: window.footer.cancel.isVisible())
    window.body.layout().activate()
    assert places() == before
    window.jobs.cancel("transcribe")
    assert not held.running
    window.body.layout().activate()
    assert places() == before


def test_nothing_but_the_user_ends_a_hearing(window, three, film, monkeypatch):
    window.show_room("wording")
    window.session.open(set_again(replace(three, media=probe(film)), DEFAULT_STYLE), None, saved=True)
    assert window.session.media_path == film
    monkeypatch.setattr(window.dialogs, "speaker_count", lambda: pytest.fail("asked for nothing"))
    held = hold(window, "transcribe")
    for name in ("speakers", "split", "audit"):
        window.say("")
        window.commands.run(name)
        assert held.running and [one.kind for one in window.jobs.all] == ["transcribe"], name
        assert "still being transcribed" in window.message.text(), name


def test_the_rail_counts_people_without_a_name_then_turns_then_doubts(window, three):
    def todo(project):
        window.session.open(project, None, saved=True)
        window.show_counts()
        return window.rail.buttons[1].todo

    assert todo(three) == "all named"
    assert todo(assign_speakers(three, [0] * 6 + [2] * 3, [1.0] * 9)) == "1 unnamed"
    assert todo(assign_speakers(three, [0] * 6 + [-1] * 3, [1.0] * 9)) == "1 unassigned"
    unsure = assign_speakers(three, [0] * 6 + [1] * 3, [1.0] * 7 + [0.5] * 2)
    assert todo(unsure) == "1 unsure"
    assert todo(rename_speaker(unsure, "s1", "")) == "1 unnamed"


def test_the_picture_gives_way_in_a_low_window(window, qtbot):
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: window.booth.picture.height() == window.booth.width() * 9 // 16)
    window.resize(900, 640)
    qtbot.waitUntil(lambda: window.booth.picture.height() < 120)
    assert window.booth.picture.geometry().bottom() < window.booth.play.geometry().top()


# -- how many people speak ------------------------------------------------------------------


def test_how_many_speak_is_found_known_or_between_two_numbers(window):
    dialog = CountDialog(0, window)
    assert dialog.wanted() == "auto" and dialog.auto.isChecked()
    dialog.count.setValue(3)
    assert dialog.exact.isChecked() and speaker_bounds(dialog.wanted()) == (3, 3)
    dialog.least.setValue(5)
    assert dialog.between.isChecked() and speaker_bounds(dialog.wanted()) == (5, 5)
    dialog.most.setValue(7)
    assert speaker_bounds(dialog.wanted()) == (5, 7)
    dialog.auto.click()
    assert speaker_bounds(dialog.wanted()) == (1, 40)


def test_when_every_turn_was_given_nothing_is_left_to_be_found(window, three, film):
    for turn in three.transcript.turns:
        three = give_turn(three, turn.id, turn.speaker)
    window.session.open(replace(three, media=probe(film)), None, saved=True)
    window.dialogs.speaker_count = lambda: pytest.fail("asked for nothing")
    window.commands.run("speakers")
    assert "assigned every turn yourself" in window.message.text()


# -- choosing a person ---------------------------------------------------------------------


def test_a_person_is_chosen_by_number_name_or_role(window, forty, qtbot):
    window.session.open(forty, None, saved=True)
    dialog = PersonDialog("Give to", list(forty.transcript.speakers), window.session, window.theme, window)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.list.count() == 40 and dialog.chosen().id == "s1"
    qtbot.keyClicks(dialog.field, "4")
    assert dialog.chosen().id == "s4" and dialog.list.count() == 5  # 4, 04, 14, 24, 34, 40 hold a four
    dialog.field.setText("caller")
    assert dialog.list.count() == 10
    qtbot.keyClick(dialog.field, Qt.Key.Key_Down)
    assert dialog.chosen().id == "s32"
    dialog.field.setText("caller 40")
    with qtbot.waitSignal(dialog.accepted):
        qtbot.keyClick(dialog.field, Qt.Key.Key_Return)
    assert dialog.chosen().id == "s40"
    dialog.field.setText("nobody of this name")
    assert dialog.chosen() is None and not dialog.go.isEnabled()
    assert not dialog.grab().isNull()
