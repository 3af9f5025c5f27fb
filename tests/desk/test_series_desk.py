"""A series in the window: its page, search, terms in all episodes, beside an open project."""

import shutil

import pytest
from conftest import DEMO
from episodes import episode
from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from recordings import part_of

from dubrel.base.folders import cache_root
from dubrel.base.value import replace
from dubrel.desk.series.dialogs.machines import MachinesDialog
from dubrel.desk.series.dialogs.shared import SharedDialog
from dubrel.desk.series.dialogs.termplaces import TermPlacesDialog
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.words.wording import replace_text, set_proofed
from dubrel.model import Term
from dubrel.store.projectfile import open_project, save
from dubrel.store.seriesfile import Series, read_series, with_episodes, write_series
from dubrel.store.versions import version_names
from dubrel.user.machines import MACHINES, Chosen
from dubrel.user.voices import keep_voice


@pytest.fixture
def file(tmp_path):
    """The file of a series of three episodes."""
    paths = [episode(tmp_path / f"{nth + 1}.dubrel", nth) for nth in range(3)]
    series, _ = with_episodes(Series("Slow Water"), paths, tmp_path)
    write_series(series, tmp_path / "slow.dubrel-series")
    return tmp_path / "slow.dubrel-series"


@pytest.fixture
def shown(window, file, qtbot):
    """The window with the series on its page, read in."""
    window.filing.open_path(file)
    qtbot.waitUntil(lambda: len(window.series.rows()) == 3 and not window.series.following.busy)
    return window


def titles(window):
    page = window.series.page
    return [page.episodes.episode_at(row).title for row in range(page.episodes.count())]


def found(window):
    rows = window.series.page.found
    return [rows.item(row).data(Qt.ItemDataRole.UserRole).text for row in range(rows.count())]


def search(window, qtbot, text, how="written"):
    page = window.series.page
    page.field.setText(text)
    page.choose_way(how)
    qtbot.waitUntil(lambda: page.lists.currentIndex() == 1 and not window.series.searching.busy)
    qtbot.waitUntil(lambda: "so far" not in page.how_many.text())
    return found(window)


def test_the_page_shows_every_episode_and_opens_one_and_comes_back(shown, file, qtbot):
    page = shown.series.page
    assert titles(shown) == ["Part 1", "Part 2", "Part 3"]
    assert page.title.text() == "Slow Water"
    assert page.about.text().startswith("3 episodes, ")
    page.episodes.setCurrentRow(1)
    QTest.keyClick(page.episodes, Qt.Key.Key_Return)
    assert shown.session.path == file.parent / "2.dubrel"
    assert not page.isVisible()
    shown.commands.run("series_show")
    assert page.isVisible()
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert not page.isVisible()
    assert shown.session.path == file.parent / "2.dubrel", "the project stays open"
    assert shown.series.series is None


def test_with_nothing_open_closing_the_series_leads_to_the_start(shown):
    QTest.keyClick(shown.series.page, Qt.Key.Key_Escape)
    assert shown.whole.currentWidget() is shown.starting.page


def test_the_start_page_lists_the_series_and_opens_it(shown, file, qtbot):
    QTest.keyClick(shown.series.page, Qt.Key.Key_Escape)
    start = shown.starting.page
    qtbot.waitUntil(lambda: [one.text() for one in start.series] == ["slow"])
    start.series[0].click()
    assert shown.series.path == file
    assert shown.series.page.isVisible()


def test_the_open_episode_stands_as_it_is_in_the_window(shown, file, qtbot):
    shown.series.open_episode(file.parent / "3.dubrel")
    turn = shown.session.project.transcript.turns[0]
    shown.session.step(lambda project: replace(project, title="Money"), "Title")
    shown.commands.run("series_show")
    qtbot.waitUntil(lambda: titles(shown) == ["Part 1", "Part 2", "Money"])
    assert open_project(file.parent / "3.dubrel").title == "Part 3", "nothing was saved"
    assert turn.words


def test_what_another_program_saves_is_seen_and_found(shown, file, qtbot):
    path = file.parent / "1.dubrel"
    project = open_project(path)
    save(replace_text(project, project.transcript.turns[0].id, 0, 2, "Somebody"), path)
    shown.series.follow()
    qtbot.waitUntil(lambda: not shown.series.following.busy and not shown.series.stale)
    assert search(shown, qtbot, "somebody found") == ["Somebody found the stern post."]


def test_it_is_searched_as_written_by_sound_by_meaning_and_by_who(shown, qtbot):
    assert search(shown, qtbot, "stern post") == [
        "We found the stern post.",
        "Isolde knew the stern post from a photograph.",
    ]
    assert search(shown, qtbot, "sternpost") == []
    assert search(shown, qtbot, "sternpost", "sound") == [
        "We found the stern post.",
        "Isolde knew the stern post from a photograph.",
    ]
    assert search(shown, qtbot, "how much money did they pay", "meaning")[0] == "Nobody spoke of money then."
    page = shown.series.page
    page.by.setCurrentText("said by Tobiah")
    page.by.activated.emit(page.by.currentIndex())
    assert search(shown, qtbot, "stern", "written") == ["Isolde knew the stern post from a photograph."]
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert page.lists.currentIndex() == 0
    assert page.isVisible()


def test_a_place_is_opened_at_its_time_and_without_its_recording_that_is_said(shown, file, qtbot):
    search(shown, qtbot, "money")
    rows = shown.series.page.found
    QTest.keyClick(rows, Qt.Key.Key_Return)
    assert "not where it was" in shown.series.page.message.text()
    said = rows.item(0).data(Qt.ItemDataRole.UserRole)
    QTest.keyClick(rows, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert shown.session.path == file.parent / "3.dubrel"
    assert shown.player.position == said.start_ms
    assert shown.current.id == "wording"


def test_a_place_is_played_without_opening_its_episode(window, tmp_path, qtbot):
    shutil.copy(DEMO / "slow-water-7.opus", tmp_path)
    shutil.copy(DEMO / "slow-water-7.dubrel", tmp_path)
    series, _ = with_episodes(Series("One"), [tmp_path / "slow-water-7.dubrel"], tmp_path)
    write_series(series, tmp_path / "one.dubrel-series")
    window.filing.open_path(tmp_path / "one.dubrel-series")
    qtbot.waitUntil(lambda: len(window.series.rows()) == 1)
    search(window, qtbot, "board shows")
    page = window.series.page
    QTest.keyClick(page.found, Qt.Key.Key_Return)
    said = page.found.item(0).data(Qt.ItemDataRole.UserRole)
    qtbot.waitUntil(lambda: window.series.searching.player.position > said.start_ms)
    assert page.found.delegate.playing == 0
    assert window.session.path is None
    QTest.keyClick(page.found, Qt.Key.Key_Return)
    assert not window.series.searching.player.playing


def test_episodes_are_dropped_moved_and_taken_out_and_the_file_says_so(shown, file, tmp_path, qtbot):
    more = tmp_path / "later"
    more.mkdir()
    episode(more / "4.dubrel", 0)
    (more / "notes.txt").write_text("no episode")
    page = shown.series.page
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(more)), QUrl.fromLocalFile(str(more / "notes.txt"))])
    drop = QDropEvent(
        QPoint(30, 30),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    page.dropEvent(drop)
    assert read_series(file)[0].episodes == ("1.dubrel", "2.dubrel", "3.dubrel", "later/4.dubrel")
    assert page.message.text() == "1 episode added. “notes.txt” is neither a project nor a recording."
    page.episodes.setCurrentRow(3)
    QTest.keyClick(page.episodes, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert read_series(file)[0].episodes == ("1.dubrel", "2.dubrel", "later/4.dubrel", "3.dubrel")
    assert page.episodes.chosen() == more / "4.dubrel"
    QTest.keyClick(page.episodes, Qt.Key.Key_Delete)
    assert read_series(file)[0].episodes == ("1.dubrel", "2.dubrel", "3.dubrel")
    assert (more / "4.dubrel").is_file()


def test_two_windows_on_one_series_keep_what_each_adds(shown, file, tmp_path, qtbot):
    """The file is read again before each change."""
    other, _ = with_episodes(read_series(file)[0], [episode(tmp_path / "5.dubrel", 0)], tmp_path)
    write_series(other, file)
    shown.series.take_in([episode(tmp_path / "6.dubrel", 1)])
    assert read_series(file)[0].episodes[3:] == ("5.dubrel", "6.dubrel")


def test_what_arrives_in_the_watched_folder_becomes_an_episode(shown, file, tmp_path, qtbot):
    (tmp_path / "incoming").mkdir()
    shown.series.change(lambda series, home: replace(series, watched="incoming"))
    episode(tmp_path / "incoming" / "new.dubrel", 2)
    qtbot.waitUntil(lambda: len(read_series(file)[0].episodes) == 4)
    assert read_series(file)[0].episodes[3] == "incoming/new.dubrel"


def test_an_episode_that_is_gone_or_damaged_is_said_and_the_others_work(shown, file, qtbot):
    (file.parent / "1.dubrel").unlink()
    (file.parent / "2.dubrel").write_bytes(b"no project")
    shown.series.follow()
    qtbot.waitUntil(lambda: [one.wrong for one in shown.series.episodes] == [True, True, False])
    shown.series.open_episode(file.parent / "1.dubrel")
    assert "is not there" in shown.series.page.message.text()
    assert shown.session.path is None
    assert search(shown, qtbot, "money") == ["Nobody spoke of money then."]


def test_a_term_of_one_episode_changes_the_others_in_one_step_each(shown, file, qtbot):
    """The open one by undo, the others by their versions."""
    shown.series.open_episode(file.parent / "1.dubrel")
    term = Term("sternpost", ("stern post",))
    shown.session.step(lambda project: replace(project, terms=(term,)), "Term")
    shown.filing.save()
    shown.commands.run("series_show")
    qtbot.waitUntil(lambda: any(row.standing.terms for row in shown.series.rows()))
    asked = []
    shown.dialogs.term_places = lambda changes, about: (
        asked.append((about, [one.title for one in changes]))
        or TermPlacesDialog(changes, about, shown).chosen()
    )
    shown.commands.run("series_terms")
    other = file.parent / "2.dubrel"
    qtbot.waitUntil(lambda: "sternpost" in open_project(other).transcript.turns[0].text)
    assert asked == [("New in the series: sternpost.", ["Part 1", "Part 2"])]
    assert shown.session.project.transcript.turns[0].text == "We found the sternpost. It was dry oak."
    assert shown.session.history.undo_label == "Accept 1 term"
    assert open_project(other).terms == (term,)
    assert len(version_names(other)) == 1
    assert open_project(file.parent / "3.dubrel").terms == ()
    assert read_series(file)[0].terms == (term,)
    shown.session.undo()
    assert "stern post" in shown.session.project.transcript.turns[0].text


def test_what_the_series_knows_is_known_in_its_episodes_alone(shown, file, tmp_path):
    terms, voices = (Term("Morwenna"),), (("Isolde", (1.0, *[0.0] * 255)),)
    shown.series.change(lambda series, home: replace(series, terms=terms, voices=voices))
    shown.series.open_episode(file.parent / "1.dubrel")
    assert [one.right for one in shown.desk.known_terms()] == ["Morwenna"]
    assert [one.name for one in shown.desk.known_voices()] == ["Isolde"]
    shown.filing.open_path(episode(tmp_path / "alone.dubrel", 0))
    assert shown.desk.known_terms() == ()
    assert shown.desk.known_voices() == []


def test_what_is_the_same_is_chosen_in_a_dialog(shown, file, qtbot):
    keep_voice("Tobiah", (0.0, 1.0, *[0.0] * 254))
    dialog = SharedDialog(shown.series.series, file.parent, shown)
    dialog.languages.setText("German, pt")
    dialog.kit.setCurrentText("Podcast episode")
    dialog.style_box.setCurrentText("Web")
    dialog.look.setCurrentIndex(1)
    dialog.voices.item(0).setCheckState(Qt.CheckState.Checked)
    dialog.pattern.setText("{series} {episode} {title}")
    shown.dialogs.shared = lambda series, home: dialog.changed
    shown.commands.run("series_shared")
    made = read_series(file)[0]
    assert (made.languages, made.kit, made.pattern) == (
        ("de", "pt"),
        "Podcast episode",
        "{series} {episode} {title}",
    )
    assert made.style_for("en").name == "Web"
    assert made.look[0] == dialog.look.currentText()
    assert made.voices[0][0] == "Tobiah"
    dialog.languages.setText("Elvish")
    dialog.accept()
    assert dialog.wrong.text().startswith("“Elvish” is not a known language")
    dialog.address.setText("ftp://example.org")
    dialog.accept()
    assert dialog.wrong.text().startswith("That is not an address") and not dialog.result()
    assert shown.series.page.things.value("Languages") == "German, Portuguese"


def test_a_series_file_that_is_damaged_or_gone_meanwhile_is_said_and_left_alone(shown, file, tmp_path):
    page = shown.series.page
    file.write_bytes(b"{")
    page.episodes.setCurrentRow(0)
    QTest.keyClick(page.episodes, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert "is damaged, or is not a series" in page.message.text()
    QTest.keyClick(page.episodes, Qt.Key.Key_Delete)
    page.dropped.emit([episode(tmp_path / "9.dubrel", 0)])
    assert file.read_bytes() == b"{"
    file.unlink()
    page.dropped.emit([tmp_path / "9.dubrel"])
    assert "does not exist" in page.message.text()
    assert not file.exists()


def test_an_index_that_is_damaged_while_it_is_open_is_made_again(shown, qtbot):
    for one in (cache_root() / "series").glob("*.sqlite*"):
        one.write_bytes(b"no database" * 40)
    search(shown, qtbot, "money")
    shown.series.follow()
    qtbot.waitUntil(lambda: found(shown) == ["Nobody spoke of money then."])
    assert search(shown, qtbot, "munny", "sound") == ["Nobody spoke of money then."]


# -- what runs over all episodes -------------------------------------------------------------------


@pytest.fixture
def run(window, tmp_path, qtbot):
    """The window with a series of two recordings of some seconds and a project without captions."""
    for nth in range(2):
        part_of(DEMO / "slow-water-7.opus", tmp_path / f"talk {nth}.wav", 6 + nth)
    paths = [tmp_path / "talk 0.wav", tmp_path / "talk 1.wav", episode(tmp_path / "words.dubrel", 0)]
    series, _ = with_episodes(Series("Run", kit="Captions for the web"), paths, tmp_path)
    write_series(series, tmp_path / "run.dubrel-series")
    window.filing.open_path(tmp_path / "run.dubrel-series")
    qtbot.waitUntil(lambda: len(window.series.rows()) == 3)
    return window


def message(window):
    return window.series.page.message.text()


def test_all_that_is_missing_is_done_while_another_project_is_worked_on(run, tmp_path, qtbot):
    page = run.series.page
    run.commands.run("series_run")
    assert run.series.running.busy
    assert page.progress.isVisible()
    assert not run.series.buttons["series_run"].isVisible()
    run.filing.open_path(tmp_path / "words.dubrel")
    turn = run.session.project.transcript.turns[0]
    run.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
    qtbot.waitUntil(lambda: not run.series.running.busy)
    assert run.session.project.transcript.turns[0].text.startswith("Somebody")
    assert run.session.history.undo_label == "Type"
    for nth in range(2):
        project = open_project(tmp_path / f"talk {nth}.dubrel")
        assert project.transcript.word_count > 5
        assert project.captions.captions
    said = run.message.text()
    assert "Done: 2 episodes. 1 episode failed. words: “words.dubrel” is open in a window" in said
    run.commands.run("series_show")
    qtbot.waitUntil(lambda: [one.transcribed for one in run.series.episodes] == [True] * 3)


def test_a_run_that_is_cancelled_keeps_what_was_finished_and_begins_again(run, tmp_path, qtbot):
    run.commands.run("series_run")
    qtbot.waitUntil(lambda: bool(run.series.running.doing))
    run.commands.run("series_cancel")
    assert not run.series.running.busy
    assert message(run) == "Cancelled. What was finished is kept."
    assert not list(tmp_path.glob("*.part*"))
    assert run.series.buttons["series_run"].isVisible()
    run.dialogs.yes = lambda question, go="": "being worked on" not in question
    run.commands.run("series_run")
    QTest.keyClick(run.series.page, Qt.Key.Key_Escape)
    assert run.series.series is not None, "asked before what runs is cancelled, and it was not wished"
    run.series.running.stop()


def test_what_is_ready_is_released_from_the_page_and_what_is_not_is_named(run, tmp_path, qtbot):
    run.commands.run("series_release")
    qtbot.waitUntil(lambda: not run.series.running.busy)
    assert "words: It is not ready: " in message(run)
    assert "talk 0: It has no words yet" in message(run)
    path = tmp_path / "words.dubrel"
    project = set_again(open_project(path), None)
    save(set_proofed(project, project.transcript.turns[0].id, True), path)
    run.commands.run("series_release")
    qtbot.waitUntil(lambda: not run.series.running.busy)
    assert (tmp_path / "run release" / "index.html").is_file()
    assert list((tmp_path / "run release" / "03 words").glob("*.vtt"))
    assert open_project(path).releases


def test_commands_of_the_hidden_project_wait_until_it_is_seen_again(shown, file):
    """Keys that belong to it would change what nobody sees."""
    shown.series.open_episode(file.parent / "1.dubrel")
    turn = shown.session.project.transcript.turns[0]
    shown.session.step(lambda p: replace_text(p, turn.id, 0, 2, "Somebody"), "Type")
    shown.commands.run("series_show")
    shown.commands.run("undo")
    assert shown.session.project.transcript.turns[0].text.startswith("Somebody")
    assert "Go back to it first" in message(shown)
    QTest.keyClick(shown, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert shown.session.project.transcript.turns[0].text.startswith("Somebody")
    shown.commands.run("go_wording")
    shown.commands.run("undo")
    assert shown.session.project.transcript.turns[0].text.startswith("We")


def test_machines_are_chosen_and_kept_and_one_that_everybody_could_read_is_refused(shown):
    dialog = MachinesDialog(Chosen(), shown)
    dialog.scheduler.setText("tcp://10.0.0.5:8786")
    dialog.accept()
    assert "anybody on the way can read" in dialog.wrong.text()
    dialog.scheduler.setText("tcp://127.0.0.1:1")
    shown.dialogs.machines = lambda now: dialog.chosen()
    shown.commands.run("series_machines")
    assert MACHINES.read() == Chosen("tcp://127.0.0.1:1")
