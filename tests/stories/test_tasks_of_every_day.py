"""The window, task by task: what a person meets every day and once went wrong."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from conftest import DEMO, spoken, words
from PySide6.QtCore import QSize, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QInputDialog
from test_beside_each_other import in_portuguese, talk

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.shell.core import asking
from dubrel.desk.shell.frame.finder import Finder
from dubrel.desk.shell.pages.startpage import RecentList, state_of
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.edits.words.paragraphs import goes_on
from dubrel.edits.words.terms import with_term
from dubrel.formats.captions.srt import write as write_srt
from dubrel.formats.words.transcriptjson import write as write_json
from dubrel.model import Project, Term
from dubrel.store.projectfile import save
from dubrel.user.recents import Recent, recents
from dubrel.user.settings import SETTINGS, Settings


@pytest.fixture
def words_only(tmp_path):
    """A transcript and captions in files, with the recording of that name elsewhere."""
    project = add_heard(Project(title="heron"), spoken("The old boat is dry. She carried coal."))
    (tmp_path / "heron.json").write_text(write_json(project))
    (tmp_path / "heron.srt").write_text(write_srt(set_again(project, DEFAULT_STYLE)))
    return tmp_path


# -- opening ------------------------------------------------------------------------------------


def test_a_recording_opened_over_words_without_one_becomes_theirs_if_it_is(window, words_only, film):
    window.filing.open_path(words_only / "heron.srt")
    before = window.session.project.transcript
    asked = []
    window.dialogs.recording_of_words = lambda name, title: asked.append((name, title)) or "attach"
    assert window.filing.open_path(film) is True
    assert asked == [("heron-film.mp4", "heron")]
    project = window.session.project
    assert project.transcript is before and project.media.name == "heron-film.mp4"
    window.commands.run("undo")
    assert window.session.project.media is None


def test_a_recording_is_opened_by_itself_or_not_at_all_as_the_user_says(window, words_only, film):
    window.filing.open_path(words_only / "heron.srt")
    before = window.session.project
    window.dialogs.recording_of_words = lambda name, title: "cancel"
    assert window.filing.open_path(film) is False and window.session.project is before
    window.dialogs.recording_of_words = lambda name, title: "open"
    window.filing.open_path(film)
    assert (
        window.session.project.transcript.turns == ()
        and window.session.project.media.name == "heron-film.mp4"
    )


def test_the_recording_that_lies_beside_a_transcript_is_offered(window, words_only, film):
    shutil.copy(film, words_only / "heron.mp4")
    asked = []
    window.dialogs.yes = lambda question, go="": asked.append(question) or True
    window.filing.open_path(words_only / "heron.json")
    assert asked == ["“heron.mp4” lies beside “heron.json”. Is it the recording of these words?"]
    assert window.session.media_path == words_only / "heron.mp4"


def test_the_recording_named_on_the_command_line_is_taken(window, words_only, film):
    window.filing.open_path(words_only / "heron.json", film)
    assert window.session.media_path == film and words(window.session.project)


def test_words_without_captions_offer_to_be_set(window, words_only, qtbot):
    window.filing.open_path(words_only / "heron.json")
    window.show_room("captions")
    sheet = window.stanzas
    assert sheet.offer.isVisible() and sheet.empty_hint == "These words have not been set into captions."
    sheet.offer.click()
    qtbot.waitUntil(lambda: len(sheet.captions) > 0)
    assert not sheet.offer.isVisible()
    window.session.open(Project(), None, saved=True)
    assert not sheet.offer.isVisible() and "Transcribe" in sheet.empty_hint


def test_terms_alone_are_asked_about_before_they_are_lost(window):
    asked = []
    window.dialogs.unsaved = lambda title: asked.append(title) or "cancel"
    window.session.open(Project(title="New"), None, saved=True)
    window.session.step(lambda p: with_term(p, Term("Morwenna")), "Add a term")
    assert window.filing.may_leave() is False and asked == ["New"]


def test_clock_and_playhead_begin_anew_with_another_project(window):
    window.filing.open_path(DEMO / "heron-film.dubrel")
    window.player.seek(9000)
    assert window.booth.clock.text() != "00:00:00.00"
    window.session.open(Project(title="Empty"), None, saved=True)
    assert window.booth.clock.text() == "00:00:00.00" and window.strip.position == 0


def test_a_turn_that_is_gone_goes_on_from_nothing():
    assert goes_on((), 3) is False and goes_on(talk().transcript.turns, 99) is False


# -- start page -----------------------------------------------------------------------------------


def test_the_start_page_says_what_was_released(window, qtbot, tmp_path):
    SETTINGS.write(Settings(release_folder=str(tmp_path / "out")))
    path = tmp_path / "boat.dubrel"
    save(talk(), path)
    window.filing.open_path(path)
    window.show_room("release")
    window.commands.run("release")
    qtbot.waitUntil(lambda: len(window.session.project.releases) == 1)
    qtbot.waitUntil(lambda: any("released today" in state_of(one) for one in recents()))
    assert window.filing.save()
    qtbot.waitUntil(lambda: not window.starting.settled.isActive())
    assert "released today" in state_of(recents()[0])
    SETTINGS.write(Settings())


def test_projects_of_one_name_are_told_apart(window):
    listed = RecentList(window.theme)
    paths = (
        "/a/first/boat.dubrel",
        "/b/first/boat.dubrel",
        "/b/second/boat.dubrel",
        "/b/second/other.dubrel",
    )
    listed.show_projects([Recent(path, "Boat") for path in paths])
    shown = [listed.item(k).data(Qt.ItemDataRole.UserRole).subtitle for k in range(4)]
    assert len(set(shown)) == 4 and shown[0] == "in a/first"
    assert shown[0] in listed.item(0).data(Qt.ItemDataRole.AccessibleTextRole)


# -- the window --------------------------------------------------------------------------------------


def test_the_window_is_never_larger_than_the_screen_and_keeps_its_size(window):
    room = window.screen().availableSize()
    window.panes.take_size()
    assert window.width() <= room.width() and window.height() <= room.height()
    window.setMinimumSize(QSize(200, 200))
    window.resize(500, 400)
    window.panes.keep_size()
    assert SETTINGS.read().window == "500x400"
    window.panes.take_size()
    assert window.size() == QSize(500, 400).expandedTo(window.minimumSize())
    SETTINGS.write(Settings())


def test_a_message_leaves_with_the_pass_in_which_it_was_said(window):
    window.session.open(talk(), None, saved=True)
    window.show_room("wording")
    window.desk.say("Something about the words.")
    window.commands.run("go_captions")
    assert window.message.text() == "" and window.footer.keys.isVisible()


def test_ctrl_k_finds_buttons_and_the_words_of_hints_and_dialogs(window):
    window.session.open(talk(), None, saved=True)
    window.show_room("wording")
    finder = Finder(window.commands, window.theme, window, window.acts(), window.hints())

    def found(text):
        finder.field.setText(text)
        return [finder.list.item(k).text() for k in range(finder.list.count())]

    assert "Strike ticked" in found("strike ticked")
    assert found("replace all")[0] == "Find and replace in original and translation"
    assert any("proofed" in one for one in found("proofed, next turn"))
    assert "Next item to check" in found("next doubt")
    finder.field.setText("strike ticked")
    finder.carry_out()
    assert window.rooms["wording"].pull_out.now == "cleanup"


def test_no_button_says_only_ok(window, monkeypatch):
    seen = []

    def show(dialog):
        seen.append((dialog.okButtonText(), dialog.cancelButtonText()))
        return 0

    monkeypatch.setattr(QInputDialog, "exec", show)
    for room in window.rooms.values():
        ask = getattr(room, "ask", None)
        for name in ("paragraph_length", "engine", "translator_address", "service_address", "microphone"):
            if ask is not None and hasattr(type(ask), name):
                getattr(type(ask), name)(ask)
    asking.ask_which(window, "t", "q", "Compare", ["a"])
    assert len(seen) == 6 and "OK" not in {go for go, _ in seen} and {one for _, one in seen} == {"Cancel"}


# -- find and replace -----------------------------------------------------------------------------------


def test_a_search_is_typed_places_left_out_and_replaced_by_keys_alone(window):
    window.session.open(talk("oak and oak and oak. It is dry."), None, saved=True)
    window.show_room("wording")
    page = window.rooms["wording"].pull_out.open("find")
    QTest.keyClicks(page.field, "oak")
    page.becomes.setFocus()
    QTest.keyClicks(page.becomes, "elm")
    page.refresh()
    QTest.keyClick(page.becomes, Qt.Key.Key_Down)
    QTest.keyClick(page.list, Qt.Key.Key_Down)
    QTest.keyClick(page.list, Qt.Key.Key_Space)
    QTest.keyClick(page.list, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert window.session.project.transcript.turns[0].text == "elm and oak and elm. It is dry."
    assert not window.session.project.transcript.turns[0].proofed


def test_what_a_replacement_does_to_translations_is_listed_unticked(window):
    project, track_id = in_portuguese(talk())
    from dubrel.edits.translation.track import write_translation

    one = project.track(track_id).captions[0]
    project = write_translation(project, track_id, one.id, "O boat velho secou.")
    window.session.open(project, None, saved=True)
    page = window.rooms["wording"].pull_out.open("find")
    page.field.setText("boat")
    page.becomes.setText("barge")
    page.refresh()
    assert [(row.ticked, row.note) for row in page.list.rows] == [(True, ""), (False, "in Portuguese")]
    page.replace_all()
    now = window.session.project
    assert "barge" in now.transcript.turns[0].text
    assert now.track(track_id).captions[0].text == "O boat velho secou."


def test_another_search_begins_with_its_first_place(window):
    window.session.open(talk("oak elm oak elm oak elm."), None, saved=True)
    page = window.rooms["wording"].pull_out.open("find")
    page.field.setText("oak")
    page.refresh()
    page.list.setCurrentIndex(page.list.model().index(2, 0))
    page.field.setText("elm")
    page.refresh()
    assert page.list.currentIndex().row() == 0


def test_enter_replaces_in_find_and_replace_of_translation(window):
    from dubrel.desk.translation.dialogs.replace import ReplaceDialog

    project, track_id = in_portuguese(talk())
    window.session.open(project, None, saved=True)
    dialog = ReplaceDialog(window.desk, track_id, window)
    dialog.show()
    QTest.keyClicks(dialog.field, "casa")
    QTest.keyClicks(dialog.becomes, "barca")
    QTest.keyClick(dialog.becomes, Qt.Key.Key_Return)
    assert dialog.isVisible()
    assert "barca" in window.session.project.track(track_id).captions[0].text
    dialog.close()


# -- notes and clean-up -------------------------------------------------------------------------------------


def test_a_note_left_empty_is_gone_and_undo_takes_back_one_just_made(window):
    window.session.open(talk(), None, saved=True)
    window.show_room("wording")
    page = window.rooms["wording"].pull_out.open("notes")
    page.add("Query", [words(window.session.project)[0].id])
    QTest.keyClick(page.text, Qt.Key.Key_Escape)
    assert window.session.project.notes == () and window.session.history.depth == 0
    page = window.rooms["wording"].pull_out.open("notes")
    page.add("Query", [words(window.session.project)[0].id])
    QTest.keyClick(page.text, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    QApplication.processEvents()
    assert window.session.project.notes == ()
    page.add("Query", [words(window.session.project)[0].id])
    QTest.keyClicks(page.text, "Who?")
    QTest.keyClick(page.text, Qt.Key.Key_Return)
    assert [one.text for one in window.session.project.notes] == ["Who?"]


def test_clean_up_with_nothing_to_do_says_so(window):
    window.session.open(talk("Oak."), None, saved=True)
    page = window.rooms["wording"].pull_out.open("cleanup")
    page.refresh()
    assert not page.strike.isEnabled()
    page.clean()
    assert window.message.text() == "Nothing of this kind is left."


# -- captions and translation ------------------------------------------------------------------------------


def test_undo_in_the_field_of_a_caption_is_that_of_the_window(window):
    window.session.open(talk(), None, saved=True)
    window.show_room("captions")
    window.stanzas.choose(0)
    window.commands.run("edit_caption")
    field = window.rooms["captions"].field
    field.insertPlainText(" more")
    assert "more" in window.session.project.transcript.turns[0].text
    QTest.keyClick(field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert "more" not in window.session.project.transcript.turns[0].text
    assert field.isVisible() and "more" not in field.toPlainText()


def test_all_rows_of_the_translation_have_one_size(window):
    project, track_id = in_portuguese(talk())
    from dubrel.edits.translation.track import write_translation

    one = project.track(track_id).captions[1]
    project = write_translation(
        project, track_id, one.id, "Uma linha que é muito mais comprida do que o estilo permite aqui."
    )
    window.session.open(project, None, saved=True)
    window.show_room("translation")
    room = window.rooms["translation"]
    room.show_track(track_id)
    sheet = room.page.sheet
    sizes = {sheet.column.block(k).font.pixelSize() for k in range(len(sheet.slots))}
    assert len(sizes) == 1


def test_the_strip_repaints_all_of_what_loses_its_frame(window):
    window.session.open(talk(), None, saved=True)
    window.show_room("captions")
    one, two = window.session.project.captions.captions[:2]
    layer = window.strip.layer
    assert (one.start_ms, one.end_ms) in layer.marked(one.start_ms + 10)
    regions = []
    window.strip.update = lambda *rect: regions.append(rect)
    window.strip.set_position(one.start_ms + 10, follow=False)
    window.strip.set_position(two.start_ms + 10, follow=False)
    left, right = window.strip.x_of(one.start_ms), window.strip.x_of(one.end_ms)
    assert any(rect and rect[0] <= left and rect[0] + rect[2] >= right for rect in regions)
    del window.strip.update


def test_a_film_that_fails_is_named_and_keeps_no_other_back(window, qtbot, tmp_path, film):
    from dubrel.base.value import replace
    from dubrel.media.probe import probe
    from dubrel.release.kits import Item, Kit
    from dubrel.store.projectfile import open_project

    project = open_project(DEMO / "heron-film.dubrel")
    window.session.open(replace(project, media=probe(film)), None, saved=False)
    window.show_room("release")
    page = window.rooms["release"].page
    page.folder.setText(str(tmp_path / "out"))
    items = (Item("film", {"stretch": "9-3"}), Item("film", {"stretch": "0-2000", "crop": "square"}))
    page.show_kit(Kit("Two films", "{title} {number}", items))
    window.commands.run("release")
    qtbot.waitUntil(lambda: "written, read back" in page.report.text())
    assert "is not a passage" in page.report.text() and len(list(Path(tmp_path / "out").glob("*.mp4"))) == 1


LOADED_FIRST = """
import sys
from PySide6.QtWidgets import QApplication, QWidget
from dubrel.desk.shell.core import background
from dubrel.desk.shell.core import job_slots
from dubrel.desk.shell.core import recordingcheck
app = QApplication([])
loaded = "PySide6.QtMultimedia" in sys.modules
def work():
    print(loaded, "PySide6.QtMultimedia" in sys.modules)
{way}
"""


WAYS = (
    "shown = QWidget(); shown.show(); background.beside(work)",
    "background.aside(work).result()",
    "asked = background.Background(); asked.ask(work, print); asked._pool.shutdown()",
)


@pytest.mark.parametrize("way", WAYS, ids=("beside", "aside", "ask"))
def test_the_last_module_of_qt_is_loaded_before_a_thread_may_load_libraries(way):
    """Loaded at the same time as an extension in a thread, both would wait for each other for good."""
    ran = subprocess.run([sys.executable, "-c", LOADED_FIRST.format(way=way)], capture_output=True, text=True)
    assert ran.stdout.split() == ["False", "True"], ran.stderr
