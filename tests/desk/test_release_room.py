"""Release: what is seen is what is written, and what has changed since is said."""

import zipfile

import pytest
from conftest import DEMO, spoken
from PySide6.QtGui import QGuiApplication, QTextDocument
from PySide6.QtWidgets import QApplication

from dubrel.base.value import replace
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.edits.speakers.voices import rename_speaker
from dubrel.edits.translation.placing import with_translations
from dubrel.edits.translation.track import begin_track
from dubrel.edits.words.wording import replace_text
from dubrel.jobs.machinery.apart import LONG
from dubrel.media.probe import probe
from dubrel.model import Project, Speaker
from dubrel.release.kits import KITS, Item, Kit
from dubrel.release.onefile import written
from dubrel.release.preview import preview_of
from dubrel.store.projectfile import open_project, save
from dubrel.translation.choosing import missing_tasks


@pytest.fixture
def release(window, tmp_path, qtbot):
    """The demo podcast in Release, to be written into a folder of the test."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("release")
    window.release.folder.setText(str(tmp_path / "out"))
    window.write = lambda: (
        window.commands.run("release"),
        qtbot.waitUntil(lambda: not window.jobs.busy),
    )
    return window


def settled(window, qtbot):
    """Once the preview of the chosen deliverable is there."""
    page = window.release
    qtbot.waitUntil(lambda: not page.busy)


def test_every_deliverable_is_shown_as_it_will_be(release, qtbot):
    page = release.release
    page.show_kit(KITS["Everything"])
    for row, item in enumerate(page.kit.items):
        page.docket.setCurrentRow(row)
        settled(release, qtbot)
        if page.planned() is None:  # the form has nothing to write of this project, and says why
            assert item.form in NOT_OF_THE_PODCAST and page.preview.toPlainText().endswith(".")
            continue
        assert page.shown.text() == page.planned().name and page.planned().form.id == item.form
        begin = page.preview.toPlainText()
        assert "Welcome" in begin or item.form in (
            "rttm",
            "chapters-vtt",
            "chapters-json",
            "chapters-txt",
            "queries",
            "film-inside-mkv",
            "film-sound",
            *NOTES,
        )


NOTES = ("notes-md", "notes-html", "notes-docx")
NOT_OF_THE_PODCAST = ("film", "film-inside-mp4", "media-chapters")


def test_of_a_long_project_the_same_is_shown_from_a_process_of_its_own(window, qtbot):
    said = spoken(" ".join(f"Board number {nth} of the old boat is oak." for nth in range(400)))
    project = set_again(add_heard(Project(title="Long"), said), None)
    project, track = begin_track(project, "pt")
    made = [one.made("A tábua é de carvalho.") for one in missing_tasks(project, project.track(track))[:9]]
    project = with_translations(project, track, made)
    assert project.transcript.word_count > LONG
    window.session.open(project, None, saved=True)
    window.show_room("release")
    page = window.release
    kit = [Item("srt", {"track": "pt"}), Item("webvtt", {}), Item("docx", {}), Item("chapters-json", {})]
    page.show_kit(Kit("Some", items=tuple(kit)))
    shown = []
    for row in range(len(kit)):
        page.docket.setCurrentRow(row)
        settled(window, qtbot)
        if (planned := page.planned()) is not None:
            wanted = preview_of(planned)
            plain = QTextDocument()
            plain.setHtml(wanted.text) if wanted.rich else plain.setPlainText(wanted.text)
            assert page.preview.toPlainText() == plain.toPlainText()
            assert page.lost.text() == wanted.lost
            shown.append(planned.form.id)
    assert shown[:3] == ["srt", "webvtt", "docx"]
    page.docket.setCurrentRow(1)
    window.session.open(Project(title="Nothing"), None, saved=True)  # while the process computes
    settled(window, qtbot)
    assert "Board" not in page.preview.toPlainText()


def test_what_the_kit_holds_is_written_read_back_and_recorded(release, tmp_path):
    release.write()
    names = sorted(one.name for one in (tmp_path / "out").iterdir())
    assert names == [f"Slow Water 7 {tag}.{suffix}" for tag in ("en", "pt") for suffix in ("srt", "vtt")]
    report = release.release.report.text()
    assert report.count("written, read back, the same") == 4
    text = (tmp_path / "out" / "Slow Water 7 en.srt").read_text()
    assert text == written(release.session.project, ".srt")
    [record] = release.session.project.releases
    assert record.kit == "Captions for the web" and sorted(record.files) == names
    assert release.rooms["release"].todo().text == "written"


def test_a_change_since_is_said_and_gone_again_after_undo_and_after_writing(release):
    release.write()
    state, room = release.release.state, release.rooms["release"]
    assert state.text() == ""
    first = release.session.project.transcript.turns[0]
    release.session.apply(
        replace_text(release.session.project, first.id, 0, 7, "Hello"), "Type", base=release.session.project
    )
    assert room.todo().text == "changed since"
    release.show_room("wording")
    release.show_room("release")
    assert state.text() == "The project has changed since these files were written."
    release.commands.run("undo")
    release.show_room("release")
    assert (state.text(), room.todo().text) == ("", "written")
    release.commands.run("redo")
    release.write()
    assert (state.text(), room.todo().text) == ("", "written")


def test_a_project_that_was_released_says_so_when_it_is_opened_again(release, tmp_path, qtbot):
    release.write()
    path = tmp_path / "again.dubrel"
    release.session.save(path)
    release.filing.open_path(DEMO / "heron-film.dubrel")
    release.filing.open_path(path)
    room = release.rooms["release"]
    qtbot.waitUntil(lambda: room.todo().text == "written")
    first = release.session.project.transcript.turns[0]
    release.session.apply(
        replace_text(release.session.project, first.id, 0, 7, "Hello"), "Type", base=release.session.project
    )
    assert room.todo().text == "changed since"
    release.session.save(path)
    release.filing.open_path(DEMO / "heron-film.dubrel")
    release.filing.open_path(path)
    qtbot.waitUntil(lambda: room.todo().text == "changed since")


def test_a_film_is_made_in_the_background_and_can_be_cancelled(release, tmp_path, qtbot):
    release.filing.open_path(DEMO / "heron-film.dubrel")
    release.show_room("release")
    page = release.release
    page.folder.setText(str(tmp_path / "films"))
    page.show_kit(Kit("Film", "{title}", (Item("text"), Item("film", {"stretch": "0-3000"}))))
    release.commands.run("release")
    qtbot.waitUntil(lambda: "The Heron.mp4: written" in page.report.text())
    assert (tmp_path / "films" / "The Heron.mp4").stat().st_size > 10_000
    assert len(release.session.project.releases) == 1
    page.show_kit(Kit("Film", "long {title}", (Item("film"),)))
    release.commands.run("release")
    qtbot.waitUntil(lambda: release.jobs.runs("film"))
    begun = lambda: any(one.name.startswith(".") for one in (tmp_path / "films").iterdir())  # noqa: E731
    qtbot.waitUntil(begun)
    release.jobs.cancel("film")
    qtbot.waitUntil(lambda: not begun())
    assert sorted(one.name for one in (tmp_path / "films").iterdir()) == ["The Heron.mp4", "The Heron.txt"]


def test_the_chosen_deliverable_is_copied_as_plain_and_rich_text(release):
    page = release.release
    page.show_kit(
        Kit("Text", "{title}", (Item("docx", {"names": "always"}), Item("srt"), Item("facing-html")))
    )
    release.commands.run("copy_deliverable")
    data = QGuiApplication.clipboard().mimeData()
    assert "Isolde: Welcome back" in data.text() and "<span class=who>Isolde" in data.html()
    page.docket.setCurrentRow(1)
    release.commands.run("copy_deliverable")
    assert QGuiApplication.clipboard().text().startswith("1\n00:00:03,427 --> ")
    page.docket.setCurrentRow(2)
    release.commands.run("copy_deliverable")
    assert "Bem-vindos" in QGuiApplication.clipboard().text()


def test_a_release_that_runs_is_not_begun_twice_and_given_up_only_with_consent(release, tmp_path, qtbot):
    release.filing.open_path(DEMO / "heron-film.dubrel")
    release.show_room("release")
    page = release.release
    page.folder.setText(str(tmp_path / "films"))
    page.show_kit(Kit("Films", "{title}", (Item("film", {"quality": "high"}), Item("text"))))
    release.commands.run("release")
    qtbot.waitUntil(lambda: release.jobs.runs("film"))
    release.commands.run("release")
    assert "being written already" in release.message.toolTip()
    first = release.session.project.transcript.turns[0]
    release.session.apply(
        replace_text(release.session.project, first.id, 0, 5, "Very early"),
        "Type",
        base=release.session.project,
    )
    release.commands.run("undo")
    release.commands.run("undo")
    assert release.jobs.runs("film")
    asked = []
    release.dialogs.yes = lambda question, go="": asked.append(question)
    assert not release.filing.open_path(DEMO / "slow-water-7.dubrel")
    assert asked == ["A film is being made. Leaving the project cancels it."]
    release.dialogs.yes = lambda question, go="": True
    assert release.filing.open_path(DEMO / "slow-water-7.dubrel")
    release.show_room("release")
    qtbot.waitUntil(lambda: not release.jobs.busy)
    assert [one.name for one in (tmp_path / "films").iterdir()] == ["The Heron.txt"]
    assert page.report.text() == "" and release.session.project.title == "Slow Water 7"


def test_another_project_has_not_been_written(release):
    release.write()
    release.filing.open_path(DEMO / "heron-film.dubrel")
    release.show_room("release")
    assert release.rooms["release"].todo().text == "not written yet"
    assert release.release.report.text() == ""


def test_a_folder_that_cannot_be_made_is_one_sentence_and_writes_nothing(release, tmp_path):
    (tmp_path / "file").write_text("here")
    release.release.folder.setText(str(tmp_path / "file" / "out"))
    release.write()
    report = release.release.report.text()
    assert len(report.splitlines()) == 1
    assert "cannot be written" in report
    assert report.endswith("Choose another folder.")
    assert release.rooms["release"].todo().text == "not written yet"


def test_an_empty_kit_says_what_to_do(release):
    release.release.show_kit(Kit("Empty"))
    release.commands.run("release")
    assert release.release.report.text() == "The kit has nothing to write. Add a deliverable."


def test_a_struck_word_is_in_no_preview(release, qtbot):
    project = release.session.project
    turn = project.transcript.turns[0]
    struck = replace(turn, words=(replace(turn.words[0], struck=True), *turn.words[1:]))
    turns = (struck, *project.transcript.turns[1:])
    release.session.apply(
        replace(project, transcript=replace(project.transcript, turns=turns)),
        "Strike",
        base=release.session.project,
    )
    page = release.release
    page.show_kit(Kit("Some", items=tuple(map(Item, ("text", "srt", "webvtt", "ctm", "docx", "page")))))
    for row in range(len(page.kit.items)):
        page.docket.setCurrentRow(row)
        settled(release, qtbot)
        assert page.preview.toPlainText() and "Welcome" not in page.preview.toPlainText()


def test_speakers_without_a_name_are_numbered_in_plain_text(three):
    assert written(three, ".txt").startswith("Anna: ")
    unnamed = rename_speaker(rename_speaker(three, "s1", ""), "s2", "")
    lines = written(unnamed, ".txt").split("\n\n")
    assert [line.partition(":")[0] for line in lines][:2] == ["Speaker 1", "Speaker 2"]
    assert "Speaker" not in written(unnamed, ".txt", {"names": "never"})


def test_a_single_speaker_without_a_name_is_not_numbered(boards):
    alone = replace(boards, transcript=replace(boards.transcript, speakers=(Speaker("s1", ""),)))
    turns = tuple(replace(turn, speaker="s1") for turn in alone.transcript.turns)
    alone = replace(alone, transcript=replace(alone.transcript, turns=turns))
    assert "Speaker" not in written(alone, ".txt")
    named = rename_speaker(alone, "s1", "Isolde")
    assert written(named, ".txt").startswith("Isolde: Mostly oak")


def test_names_always_and_at_a_change(three):
    always = written(three, ".txt", {"names": "always"})
    change = written(three, ".txt", {"names": "change"})
    assert always.count(": ") == len(three.transcript.turns)
    assert change.count(": ") <= always.count(": ")


def test_fillers_and_masks_are_chosen_for_all_forms_and_the_words_stay(window, tmp_path, qtbot):
    from conftest import spoken, words

    from dubrel.edits.intake import add_heard
    from dubrel.edits.words.cleaning import cleaned_up, fillers
    from dubrel.model import Project
    from dubrel.user.settings import SETTINGS, Settings

    said = add_heard(Project(title="Loud"), spoken("Um, the damned boat, damn! And “Blast” it."))
    project = cleaned_up(said, fillers(said))
    window.session.open(project, None, saved=True)
    SETTINGS.write(Settings(masked_words=("damn*", "blast")))
    window.show_room("release")
    page = window.rooms["release"].page
    page.folder.setText(str(tmp_path))
    page.show_kit(Kit("Two", "{title}", (Item("text", {"title": "no"}), Item("srt"))))
    for reading, mask, text in (
        ("", "no", "the damned boat, damn!\n\nAnd “Blast” it.\n"),
        ("verbatim", "first letter", "Um, the d***** boat, d***!\n\nAnd “B****” it.\n"),
        ("clean", "bleep", "the [bleep] boat, [bleep]!\n\nAnd “[bleep]” it.\n"),
    ):
        for row in (0, 1):
            page.docket.setCurrentRow(row)
            page.set_option("masks", mask)
        page.docket.setCurrentRow(0)
        page.set_option("reading", reading)
        window.commands.run("release")
        qtbot.waitUntil(lambda: not window.jobs.busy)
        assert (tmp_path / "Loud.txt").read_text() == text
        assert ("****" in (tmp_path / "Loud.srt").read_text()) is (mask == "first letter")
    assert "damned" in [word.text for word in words(window.session.project)]


def test_an_archive_holds_the_page_and_the_recording_that_it_plays(release, tmp_path, qtbot):
    page = release.release
    page.show_kit(Kit("Page", "{title}", (Item("page"), Item("text"))))
    page.zip.setChecked(True)
    release.commands.run("release")
    archive = tmp_path / "out.zip"
    qtbot.waitUntil(lambda: archive.exists() and not release.jobs.busy)
    with zipfile.ZipFile(archive) as packed:
        names = sorted(packed.namelist())
        assert names == [
            "SHA256SUMS",
            "Slow Water 7.html",
            "Slow Water 7.txt",
            "files.json",
            "slow-water-7.opus",
        ]
        assert packed.read("slow-water-7.opus") == (DEMO / "slow-water-7.opus").read_bytes()
    assert not (tmp_path / "out").exists()
    assert "out.zip: written, read back, the same" in page.report.text()
    [record] = release.session.project.releases
    assert record.files == ("out.zip",)


def test_a_film_is_looked_at_when_release_is_opened_and_once(window, scene, tmp_path, qtbot):
    path = tmp_path / "scene.dubrel"
    save(replace(open_project(DEMO / "heron-film.dubrel"), media=probe(scene)), path)
    window.filing.open_path(path)
    window.show_room("release")
    assert window.session.project.media.shots is None
    qtbot.waitUntil(lambda: window.session.project.media.shots is not None)
    assert window.session.project.media.shots == (10_320,)
    assert len(window.session.project.media.banners) == 1
    window.commands.run("undo")
    window.show_room("wording")
    window.show_room("release")
    QApplication.processEvents()
    assert not window.jobs.runs("shots")
