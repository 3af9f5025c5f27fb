"""Two readings side by side: what differs, how much, and taking one or the other."""

import shutil

import pytest
from conftest import spoken, truth, words
from PySide6.QtCore import Qt

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.wording.dialogs.compare import CompareDialog, counted
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import add_heard
from dubrel.edits.words.readings import take_reading
from dubrel.jobs.transcribing.secondreading import compare_with_text, compare_with_words
from dubrel.model import Project, RecognisedWord, Timing
from dubrel.speech.recognise.builtin import builtin_folder
from dubrel.user.settings import SETTINGS, Settings

SAID = "We steam the oak for an hour. Then we bend it, quickly and gently, before it goes stiff."


@pytest.fixture
def project():
    return set_again(add_heard(Project(), spoken(SAID)), DEFAULT_STYLE)


def text_of(project):
    return " ".join(word.text for word in words(project))


def caption_text(project):
    by_id = project.transcript.words_by_id
    return " ".join(by_id[k].text for one in project.captions.captions for k in one.words)


def test_the_error_rate_counts_each_kind_of_edit(project):
    found = compare_with_text(
        project, "We steam the new oak for an hour. Then we bend it quick and gently before it goes."
    )
    assert (found.substitutions, found.insertions, found.deletions) == (1, 1, 1)
    assert found.words == 18 and found.word_error_rate == pytest.approx(3 / 18)
    assert [(len(one.ours), one.text) for one in found.differences] == [(0, "new"), (1, "quick"), (1, "")]
    assert "16.7%" in counted(found, True)


def test_punctuation_case_and_figures_are_no_differences(project):
    assert compare_with_text(project, SAID.lower().replace(",", "")).differences == []
    year = add_heard(Project(), spoken("She is 70 feet long."))
    assert compare_with_text(year, "she is seventy feet long").differences == []


def test_taking_everything_gives_the_other_text_and_keeps_captions_with_it(project):
    other = (
        "So we steam the new oak for one hour. Then we bend quickly, and gently, before it all goes stiff"
        " now."
    )
    found = compare_with_text(project, other)
    taken = project
    for one in reversed(found.differences):
        taken = take_reading(taken, one)
    assert compare_with_text(taken, other).word_error_rate == 0
    assert caption_text(taken) == text_of(taken)
    times = [word.start_ms for word in words(taken)]
    assert times == sorted(times)
    kept = {word.id: word for word in words(project)}
    assert sum(kept.get(word.id) is word for word in words(taken)) >= 12


def test_words_of_another_engine_bring_their_times(project):
    ours = words(project)
    theirs = [RecognisedWord(w.text, w.start_ms, w.end_ms) for w in ours]
    oak = ours[3]
    theirs[3:4] = [
        RecognisedWord("old", oak.start_ms, oak.start_ms + 60),
        RecognisedWord("oak", oak.start_ms + 70, oak.end_ms),
    ]
    found = compare_with_words(project, theirs, 0, 1 << 40)
    [one] = found.differences
    taken = words(take_reading(project, one))
    assert [w.text for w in taken[2:5]] == ["the", "old", "oak"]
    assert taken[3].timing is Timing.ALIGNED and taken[4] == oak


def test_only_the_chosen_stretch_is_compared(project):
    ours = words(project)
    stretch = [
        RecognisedWord("Now" if w.text == "Then" else w.text, w.start_ms, w.end_ms) for w in ours[7:12]
    ]
    found = compare_with_words(project, stretch, ours[7].start_ms, ours[11].end_ms)
    assert [(one.text, len(one.ours)) for one in found.differences] == [("Now", 1)]
    assert found.words == 5


def test_a_difference_whose_words_are_gone_changes_nothing(project):
    [one] = compare_with_text(project, SAID.replace("oak", "elm")).differences
    changed = take_reading(project, one)
    gone = compare_with_text(changed, SAID.replace("elm", "")).differences
    empty = add_heard(Project(next_id=5000), spoken("other words"))
    assert take_reading(empty, one) is empty
    assert len(gone) == 1


def dialog_of(window, project, other, qtbot):
    window.session.open(project, None, saved=True)
    comparing = window.rooms["wording"].second
    found = compare_with_text(project, other)
    dialog = CompareDialog(found, ("On the sheet", "reference"), True, comparing.texts, window)
    dialog.play_wanted.connect(comparing.play)
    dialog.accept_wanted.connect(comparing.accept)
    qtbot.addWidget(dialog)
    dialog.show()
    return dialog


def test_differences_are_taken_by_key_heard_and_undone(window, qtbot, project):
    other = SAID.replace("oak", "elm").replace("gently", "slowly").replace("stiff", "hard")
    dialog = dialog_of(window, project, other, qtbot)
    assert dialog.table.item(0, 1).text() == "We steam the [oak] for an hour."
    assert dialog.table.item(0, 2).text() == "We steam the [elm] for an hour."
    qtbot.keyClick(dialog, Qt.Key.Key_Return)
    assert window.player.position == max(0, words(project)[3].start_ms - 700)
    qtbot.keyClick(dialog, Qt.Key.Key_Space)
    assert "elm" in text_of(window.session.project) and dialog.table.currentRow() == 1
    dialog.accept_rest()
    assert "slowly" in text_of(window.session.project) and "hard" in text_of(window.session.project)
    assert not dialog.accept_one.isEnabled()
    window.commands.run("undo")
    window.commands.run("undo")
    assert window.session.project == project


def test_a_reference_file_is_compared_from_the_command(window, project, tmp_path, monkeypatch):
    seen = []
    monkeypatch.setattr(window.dialogs, "compare", lambda found, names, *rest: seen.append((found, names)))
    window.session.open(project, None, saved=True)
    (tmp_path / "said.txt").write_text("ANNA: " + SAID.replace("hour", "minute"))
    window.dialogs.reference = lambda: tmp_path / "said.txt"
    window.commands.run("compare_text")
    [(found, names)] = seen
    assert found.substitutions == 1 and names == ("On the sheet", "said.txt")
    (tmp_path / "said.txt").write_bytes(b"")
    window.commands.run("compare_text")
    assert len(seen) == 1 and "holds no text" in window.message.text()


def test_another_engine_reads_the_selection(window, qtbot, film, tmp_path, monkeypatch):
    model = tmp_path / "other-en"
    shutil.copytree(builtin_folder(), model)
    SETTINGS.write(Settings((f"folder:{model}",)))
    seen = []
    monkeypatch.setattr(window.dialogs, "compare", lambda found, names, *rest: seen.append((found, names)))
    window.filing.open_path(film)
    said = [RecognisedWord(text, start, end) for text, start, end in truth("heron-film")]
    window.session.apply(add_heard(window.session.project, said), "Words", base=window.session.project)
    window.show_room("wording")
    turn = window.sheet.turns[0]
    window.sheet.move_caret(Spot(0, 0))
    window.sheet.move_caret(Spot(0, len(turn.text)), keep=True)
    window.dialogs.engine = lambda: f"folder:{model}"
    window.commands.run("compare")
    qtbot.waitUntil(lambda: bool(seen))
    [(found, names)] = seen
    assert names[1] == "Model folder other-en"
    assert 0 < found.words <= len(turn.words) + 2 and found.agreed > 0.7 * len(turn.words)
    SETTINGS.write(Settings())
