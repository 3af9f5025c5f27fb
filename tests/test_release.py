"""Release: what is seen is what is written, and what has changed since is said."""

from dataclasses import replace

import pytest
from conftest import DEMO

from dubrel.edits.voices import rename_speaker
from dubrel.edits.wording import replace_text
from dubrel.formats.register import FORMS, written
from dubrel.model import Speaker


@pytest.fixture
def release(window, tmp_path, qtbot):
    """The demo podcast in Release, to be written into a folder of the test."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("release")
    window.release.folder.setText(str(tmp_path / "out"))
    window.write = lambda: (
        window.commands.run("release"),
        qtbot.waitUntil(lambda: not window.lanes.busy, timeout=20_000),
    )
    return window


def test_every_form_that_is_written_is_offered_and_shown_as_it_will_be(release):
    page = release.release
    assert set(page.boxes) == {suffix for suffix, form in FORMS.items() if form.write}
    for place in range(page.shown.count()):
        page.shown.setCurrentIndex(place)
        text = written(release.session.project, page.shown.currentData())
        begin = page.preview.toPlainText().removesuffix("\n…")
        assert begin and text.startswith(begin)


def test_what_is_ticked_is_written_and_read_back(release, tmp_path):
    release.write()
    names = sorted(one.name for one in (tmp_path / "out").iterdir())
    assert names == ["Slow Water 7.srt", "Slow Water 7.txt", "Slow Water 7.vtt"]
    report = release.release.report.text()
    assert report.count("written, read back, the same") == 3
    assert (tmp_path / "out" / "Slow Water 7.txt").read_text() == written(release.session.project, ".txt")
    assert release.rooms["release"].todo().text == "written"


def test_a_change_since_is_said_and_gone_again_after_undo_and_after_writing(release):
    release.write()
    state, room = release.release.state, release.rooms["release"]
    assert state.text() == ""
    first = release.session.project.transcript.turns[0]
    release.session.apply(replace_text(release.session.project, first.id, 0, 7, "Hello"), "Type")
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
    assert "cannot be made" in report
    assert report.endswith("Choose another folder.")
    assert release.rooms["release"].todo().text == "not written yet"


def test_nothing_ticked_and_nothing_transcribed_are_said(release, window):
    for box in release.release.boxes.values():
        box.setChecked(False)
    release.commands.run("release")
    assert release.release.report.text() == "No deliverable is ticked."


def test_a_struck_word_is_in_no_preview(release):
    project = release.session.project
    turn = project.transcript.turns[0]
    struck = replace(turn, words=(replace(turn.words[0], struck=True), *turn.words[1:]))
    turns = (struck, *project.transcript.turns[1:])
    release.session.apply(replace(project, transcript=replace(project.transcript, turns=turns)), "Strike")
    release.show_room("wording")
    release.show_room("release")
    for suffix in (".txt", ".srt", ".vtt", ".ctm"):
        release.release.shown.setCurrentIndex(release.release.shown.findData(suffix))
        assert "Welcome" not in release.release.preview.toPlainText()


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

    from dubrel.edits.cleaning import cleaned_up, fillers
    from dubrel.edits.intake import add_heard
    from dubrel.model import Project
    from dubrel.settings import Settings, save_settings

    said = add_heard(Project(title="Loud"), spoken("Um, the damned boat, damn! And “Blast” it."))
    project = cleaned_up(said, fillers(said))
    window.session.open(project, None, saved=True)
    save_settings(Settings(masked_words=("damn*", "blast")))
    window.show_room("release")
    page = window.rooms["release"].page
    page.folder.setText(str(tmp_path))
    for reading, mask, text in (
        (0, 0, "the damned boat, damn!\n\nAnd “Blast” it.\n"),
        (2, 1, "Um, the d***** boat, d***!\n\nAnd “B****” it.\n"),
        (1, 3, "the [bleep] boat, [bleep]!\n\nAnd “[bleep]” it.\n"),
    ):
        page.reading.setCurrentIndex(reading)
        page.masks.setCurrentIndex(mask)
        window.commands.run("release")
        qtbot.waitUntil(lambda: not window.lanes.busy, timeout=10_000)
        assert (tmp_path / "Loud.txt").read_text() == text
        assert ("****" in (tmp_path / "Loud.srt").read_text()) is (mask == 1)
    assert window.session.project is project and "damned" in [word.text for word in words(project)]
