"""What a job brings while a person is at work: in a dialog, in a long replacement, in a translation.

Nothing is lost.
"""

import sqlite3
import subprocess
import sys
from contextlib import closing

import pytest
from conftest import spoken, words
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from recordings import hold
from translating import translated

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.shell.core import session as session_module
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.captions.shape import set_done
from dubrel.edits.intake import set_turns
from dubrel.edits.translation.track import begin_track, mirrored, write_translation
from dubrel.jobs.machinery.events import CaptionsSet, Recognised, SentencesTranslated, SpeakersFound
from dubrel.jobs.machinery.fold import arrival, fold
from dubrel.model import Project, RecognisedTurn, Speaker
from dubrel.project.history import Mark
from dubrel.project.tracks import with_captions
from dubrel.translation.choosing import agreed_over, missing_tasks, tasks_of
from dubrel.translation.memory import Memory, memory_path
from dubrel.translation.pairs import pairs_of

PEOPLE = [Speaker("s1", "Anna"), Speaker("s2", "Ben")]


@pytest.fixture
def talking(window):
    """A window with three turns of two people."""
    said = spoken("One two three. Four five six. Seven eight nine.")
    turns = [RecognisedTurn(tuple(said[k : k + 3]), f"s{1 + k // 3 % 2}") for k in (0, 3, 6)]
    window.session.open(set_again(set_turns(Project(), turns, PEOPLE, "en"), DEFAULT_STYLE), None, saved=True)
    window.show_room("voices")
    return window


def arrive(window, text="And more."):
    """Words of a job that runs."""
    project = window.session.project
    event = Recognised(tuple(spoken(text, start=max(w.end_ms for w in words(project)) + 3000)))
    window.session.amend(arrival(event, project.next_id), Mark(0))


def texts(window):
    return [word.text for word in words(window.session.project)]


# -- one place --------------------------------------------------------------------------------


def test_what_was_made_of_an_earlier_value_is_refused_in_one_sentence(talking):
    session = talking.session
    base = session.project
    made = set_done(base, [base.captions.captions[0].id], True)
    arrive(talking)
    with pytest.raises(DubrelError, match=r"^Tick captions: the project has changed in the meantime"):
        session.apply(made, "Tick captions", base=base)
    assert texts(talking)[-1] == "more." and session.history.depth == 0


def test_a_step_is_made_anew_where_something_arrives_while_it_is_made(talking):
    seen = []

    def verb(project):
        seen.append(project)
        if len(seen) == 1:
            arrive(talking)
        return replace(project, title=f"{len(words(project))} words")

    talking.session.step(verb, "Title")
    assert len(seen) == 2 and talking.session.project.title == "11 words"
    assert texts(talking)[-1] == "more."


def test_a_verb_that_never_catches_up_gives_way(talking):
    def verb(project):
        arrive(talking)
        return replace(project, title="never")

    with pytest.raises(DubrelError, match="changed in the meantime"):
        talking.session.step(verb, "Title")
    assert talking.session.project.title != "never"


# -- dialogs run the event loop ------------------------------------------------------------------


def test_words_that_arrive_while_a_speaker_is_named_stay(talking):
    def facts(speaker, names):
        arrive(talking)
        return "Clara", "Guest"

    talking.dialogs.speaker_facts = facts
    talking.commands.run("rename")
    assert texts(talking)[-1] == "more."
    assert talking.session.project.transcript.speakers[0].name == "Clara"


def test_words_that_arrive_while_a_new_speaker_is_assigned_stay(talking):
    def facts(speaker, names):
        arrive(talking)
        return "Clara", ""

    talking.dialogs.speaker_facts = facts
    talking.rooms["voices"].owners.give(3)
    project = talking.session.project
    assert texts(talking)[-1] == "more."
    assert project.transcript.speaker(project.transcript.turns[0].speaker).name == "Clara"


@pytest.mark.parametrize("command", ["assign", "merge", "swap"])
def test_words_that_arrive_while_a_speaker_is_chosen_stay(talking, command):
    def choose(question, choices):
        arrive(talking)
        return next(one for one in choices if one.name == "Ben")

    talking.dialogs.speaker = choose
    voices = talking.rooms["voices"]
    people = voices.people
    {
        "assign": voices.owners.give_other,
        "merge": people.merge,
        "swap": lambda: people.swap(here=False),
    }[command]()
    assert texts(talking)[-1] == "more."
    assert talking.session.project.transcript.turns[0].speaker == "s2"


def test_an_answer_for_another_project_changes_nothing(talking):
    other = Project(title="Other", transcript=talking.session.project.transcript)

    def facts(speaker, names):
        talking.session.open(other, None, saved=True)
        return "Clara", "Guest"

    talking.dialogs.speaker_facts = facts
    talking.commands.run("rename")
    assert talking.session.project == other
    assert "another project was opened" in talking.message.toolTip()


def test_what_arrives_while_proposals_of_speakers_are_looked_at_stays(talking, qtbot):
    ids = tuple(word.id for word in words(talking.session.project))
    labels = (0, 0, 0, 0, 0, 0, 1, 1, 1)
    event = SpeakersFound(ids, labels, tuple(0.9 for _ in ids), tuple(-1 for _ in ids))

    def look(present, proposed, changes, play):
        arrive(talking)
        return changes

    talking.dialogs.proposals = look
    held = hold(talking, "speakers")
    running = talking.jobs.running("speakers")
    talking.rooms["voices"].diarising.take_found(event, running)
    held.cancel()
    project = talking.session.project
    assert texts(talking)[-1] == "more."
    assert [turn.speaker for turn in project.transcript.turns][:2] == ["s1", "s1"]


# -- what is computed aside ------------------------------------------------------------------------


def test_words_that_arrive_during_replace_all_stay(talking, monkeypatch):
    page = talking.rooms["wording"].pull_out.open("find")
    page.field.setText("two")
    page.becomes.setText("several")
    page.refresh()
    from dubrel.desk.wording.drawers import find as module

    calls = []

    def beside(work):
        if not calls:
            arrive(talking)  # as the event loop would let in, while the thread computes
        calls.append(work)
        return work()

    monkeypatch.setattr(module, "beside", beside)
    page.replace_all()
    assert texts(talking)[:3] == ["One", "several", "three."] and texts(talking)[-1] == "more."
    assert len(calls) == 2


def test_setting_captions_for_the_first_time_leaves_a_translation_alone(talking):
    """A job changes what it made, nothing else."""
    base = replace(talking.session.project, tracks=(), active=0)
    made = CaptionsSet(set_again(base, DEFAULT_STYLE))
    meanwhile = set_again(base, DEFAULT_STYLE)
    meanwhile, track_id = begin_track(meanwhile, "pt")
    meanwhile = mirrored(meanwhile, track_id)
    one = meanwhile.track(track_id).captions[0]
    meanwhile = write_translation(meanwhile, track_id, one.id, "Um dois três.")
    after = fold(meanwhile, made)
    assert after.track(track_id).captions[0].text == "Um dois três."
    ids = [one.id for track in after.tracks for one in (track, *track.captions)]
    assert len(set(ids)) == len(ids) and max(ids) < after.next_id


# -- translations -----------------------------------------------------------------------------------


def test_a_translation_approved_while_it_is_made_again_stays(window, qtbot, room):
    track = translated(room, window, qtbot)
    session = window.session
    pair = pairs_of(session.project, track)[1]
    over = agreed_over([pair])
    [task, *_] = tasks_of(session.project, track, [pair])
    room.page.sheet.choose_caption(pair.captions[0].id, seek=False)
    window.commands.run("approve")
    event = SentencesTranslated(track.id, (task.made("Outra coisa."),), over)
    session.amend(arrival(event, session.project.next_id), Mark(0))
    kept = [one for one in session.project.track(track.id).captions if one.id == pair.captions[0].id]
    assert [(one.text, one.done) for one in kept] == [(pair.captions[0].text, True)]


def test_translating_ends_with_its_track(window, qtbot, room):
    track = translated(room, window, qtbot)
    work = room.translating
    work.track_id = track.id
    hold(window, "translate")
    window.commands.run("remove_translation")
    assert session_module and window.session.project.track(track.id) is None
    assert not window.jobs.runs("translate")


def test_translations_that_arrive_while_one_is_approved_stay(window, qtbot, room):
    track = translated(room, window, qtbot)
    session, hands = window.session, room.approving
    last = pairs_of(session.project, track)[-1]
    gone = dict.fromkeys(one.id for one in last.captions)
    session.step(lambda p: with_captions(p, track.id, gone), "Take out")
    [*_, task] = missing_tasks(session.project, session.project.track(track.id))
    room.page.sheet.choose(0)
    inner, first = hands.pair_in, []

    def slow(project, caption):
        if not first:
            first.append(1)
            event = SentencesTranslated(track.id, (task.made("Chegou agora mesmo."),), ())
            session.amend(arrival(event, session.project.next_id), Mark(0))
        return inner(project, caption)

    hands.pair_in = slow
    window.commands.run("approve")
    now = session.project.track(track.id)
    assert any("Chegou" in one.text for one in now.captions) and now.captions[0].done


def test_an_approval_that_is_undone_is_not_offered_by_the_memory(window, qtbot, room):
    track = translated(room, window, qtbot)
    room.page.sheet.choose(0)
    pair = room.approving.pair()
    for one in pair.captions:
        room.page.sheet.choose_caption(one.id, seek=False)
        window.commands.run("approve")
    remembered = lambda: room.remembering.memory().exact(pair.source, "en", "pt")  # noqa: E731
    assert remembered() == pair.target
    window.commands.run("undo")
    assert remembered() == ""
    window.commands.run("redo")
    assert remembered() == pair.target
    window.commands.run("approve")  # taken back
    assert remembered() == "" and track.id
    for _ in range(5):  # faster than a disk writes
        window.commands.run("undo")
        window.commands.run("redo")
    assert remembered() == ""
    window.commands.run("undo")
    assert remembered() == pair.target


def test_what_is_approved_right_before_the_window_closes_is_remembered(window, qtbot, room):
    track = translated(room, window, qtbot)
    room.page.sheet.choose(0)
    for _ in track.captions:
        window.commands.run("approve_next")
    project = window.session.project
    pairs = {(one.source, one.target) for one in pairs_of(project, project.track(track.id))}
    window.desk.stop()
    with closing(Memory(memory_path())) as memory:
        assert {(one, other) for one, other, _ in memory.rows("en", "pt")} == pairs


def test_a_memory_that_cannot_be_written_is_said_and_the_approval_stays(window, qtbot, room):
    track = translated(room, window, qtbot)
    assert len(room.remembering.memory()) == 0
    with closing(sqlite3.connect(memory_path())) as other, other:
        other.execute("drop table sentences")
    room.page.sheet.choose(0)
    for _ in track.captions:
        window.commands.run("approve_next")
    qtbot.waitUntil(lambda: "translation memory" in window.message.text())
    assert all(one.done for one in window.session.project.track(track.id).captions)


# -- steps and the caret ------------------------------------------------------------------------------


def test_a_save_and_another_place_end_a_step(talking, tmp_path):
    talking.show_room("wording")
    sheet, session = talking.sheet, talking.session
    QTest.keyClicks(sheet, "ab")
    session.save(tmp_path / "a.dubrel")
    QTest.keyClicks(sheet, "cd")
    assert session.history.depth == 2
    talking.commands.run("undo")
    assert sheet.turns[0].text.startswith("abOne")
    QTest.keyClicks(sheet, "ef")
    place = sheet.caret
    sheet.mousePressEvent(_press(sheet))
    sheet.move_caret(place)
    QTest.keyClicks(sheet, "g")
    assert session.history.depth == 3


def _press(sheet):
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent

    at, left = QPointF(200, 60), Qt.MouseButton.LeftButton
    return QMouseEvent(QEvent.Type.MouseButtonPress, at, at, left, left, Qt.KeyboardModifier.NoModifier)


def test_a_pause_ends_a_step(talking, monkeypatch):
    talking.show_room("wording")
    now = [100.0]
    monkeypatch.setattr(session_module.time, "monotonic", lambda: now[0])
    QTest.keyClicks(talking.sheet, "ab")
    now[0] += 60
    QTest.keyClicks(talking.sheet, "c")
    assert talking.session.history.depth == 2


def test_undo_and_redo_put_the_caret_where_it_was(talking):
    from dubrel.desk.sheet.spots import Spot

    talking.show_room("wording")
    sheet = talking.sheet
    sheet.move_caret(Spot(0, 8))
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    assert sheet.caret == Spot(1, 0)
    sheet.move_caret(Spot(2, 3))
    talking.commands.run("undo")
    assert sheet.caret == Spot(0, 8)
    talking.commands.run("redo")
    assert sheet.caret == Spot(1, 0)
    talking.commands.run("undo")
    QTest.keyClick(sheet, Qt.Key.Key_Backspace)
    gone = sheet.caret
    talking.commands.run("undo")
    assert (gone, sheet.caret) == (Spot(0, 7), Spot(0, 8))


CLOSED_WHILE_READ = """
import sys, threading
from pathlib import Path
from dubrel.translation.memory import Memory
path = Path(sys.argv[1])
first = Memory(path)
first.add([(f"Sentence number {k} of many.", f"Frase {k}.") for k in range(30_000)], "en", "pt")
first.close()
for _ in range(12):
    memory, begun, ends = Memory(path), threading.Event(), []
    def read():
        begun.set()
        try:
            ends.append(len(memory.rows("en", "pt")))
        except Exception as error:
            ends.append(type(error).__name__)
    threads = [threading.Thread(target=read) for _ in range(4)]
    for one in threads:
        one.start()
    begun.wait()
    memory.close()
    for one in threads:
        one.join()
    assert len(ends) == 4 and set(ends) <= {30_000, "ProgrammingError"}, ends
print("closed")
"""


def test_a_memory_that_is_closed_while_it_is_read_takes_nothing_down(tmp_path):
    ran = subprocess.run(
        [sys.executable, "-c", CLOSED_WHILE_READ, tmp_path / "memory.db"], capture_output=True, text=True
    )
    assert (ran.returncode, ran.stdout.strip()) == (0, "closed"), ran.stderr
