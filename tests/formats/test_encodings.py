"""Texts from before Unicode: forty languages in the encodings of their time, files with bad bytes."""

import unicodedata

import pytest
from languages import ENCODINGS_OF, STORIES, in_cues, in_encoding

from dubrel.base.errors import FormatError
from dubrel.cli import main
from dubrel.edits.translation.track import begin_track
from dubrel.formats.register import read_file
from dubrel.formats.shared.encodings import best_encoding

_SAME = str.maketrans("șțȘȚ", "şţŞŢ")  # one letter with either mark, as encodings have it
EVERY = [(language, encoding) for language, many in ENCODINGS_OF.items() for encoding in many]


def captions(text):
    """A SubRip text of a story in thirty captions."""
    rows = []
    for nth, line in enumerate(in_cues(text), 1):
        rows.append(f"{nth}\n00:00:{nth:02},000 --> 00:00:{nth:02},900\n{line}\n")
    return "\n".join(rows)


def said(project):
    """What captions say, without spaces."""
    return "".join(word.text for turn in project.transcript.turns for word in turn.words)


@pytest.mark.parametrize(("language", "encoding"), EVERY)
def test_thirty_captions_are_read_with_the_letters_they_were_written_in(tmp_path, language, encoding):
    text, _ = in_encoding(language, encoding)
    _, data = in_encoding(language, encoding)
    path = tmp_path / "old.srt"
    path.write_bytes(captions(data.decode(encoding)).encode(encoding))
    found = read_file(path)
    wanted = "".join(text.split()).translate(_SAME)
    assert unicodedata.normalize("NFC", said(found.project)).translate(_SAME) == wanted
    assert found.encoding and "is not Unicode; it was read as" in found.warnings[0]


@pytest.mark.parametrize("language", ["pl", "ru", "el", "ja", "th", "fr"])
def test_one_bad_byte_in_unicode_is_one_letter_and_said_with_its_line(tmp_path, language):
    path = tmp_path / "a.srt"
    data = captions(STORIES[language]).encode()
    at = data.index(b"00:00:03,900\n") + len(b"00:00:03,900\n")
    path.write_bytes(data[:at] + b"\xff" + data[at:])
    found = read_file(path)
    assert said(found.project).count("\ufffd") == 1 and found.encoding == ""
    assert said(found.project).replace("\ufffd", "") == "".join(STORIES[language].split())
    assert found.warnings[0] == "Line 11: bytes that are not text; each is shown as “\ufffd”."


def test_a_few_words_are_enough():
    assert best_encoding("Un café, déjà ?".encode("cp1252")).encoding == "cp1252"
    assert best_encoding("Łódź".encode("cp1250")).encoding == "cp1250"
    assert best_encoding("Лодка стоит".encode("koi8-r")).encoding == "koi8-r"


def test_what_the_user_says_is_taken_and_what_is_none_is_refused(tmp_path, capsys):
    path, out = tmp_path / "a.srt", tmp_path / "b.srt"
    path.write_bytes("1\n00:00:01,000 --> 00:00:02,000\nŻółw\n".encode("iso8859-2"))
    assert said(read_file(path, encoding="ISO-8859-2").project) == "Żółw"
    assert main(["convert", str(path), str(out), "--encoding", "cp1252"]) == 0
    assert "¯ó³w" in out.read_text(encoding="utf-8") and capsys.readouterr().err == ""
    with pytest.raises(FormatError, match="“runes” is not a known encoding"):
        read_file(path, encoding="runes")
    assert main(["convert", str(path), str(out), "--encoding", "runes"]) == 2


def test_an_encoding_that_was_said_for_one_file_is_not_that_of_the_next(tmp_path):
    path = tmp_path / "a.srt"
    path.write_bytes("1\n00:00:01,000 --> 00:00:02,000\nŻółw jest w wodzie\n".encode("cp1250"))
    read_file(path, encoding="koi8-r")
    assert said(read_file(path).project) == "Żółwjestwwodzie"


# -- in the window ---------------------------------------------------------------------------------


@pytest.fixture
def polish(window, tmp_path):
    """A window in which a text was opened that is not Unicode."""
    path = tmp_path / "old.srt"
    path.write_bytes(captions(STORIES["pl"]).encode("cp1250"))
    window.filing.open_path(path)
    return window


def test_the_window_says_what_was_assumed_and_shows_the_text_again(polish):
    bar = polish.read_as
    assert bar.isVisible() and "old.srt" in bar.text.text()
    assert bar.choice.currentText() == "Central European (Windows)"
    right = said(polish.session.project)
    assert right.startswith("Łódźstoi")
    bar.choice.setCurrentIndex(bar.choice.findText("Cyrillic (KOI8-R)"))
    bar.choice.activated.emit(bar.choice.currentIndex())
    assert said(polish.session.project) != right and bar.isVisible()
    bar.choice.setCurrentIndex(bar.choice.findText("Central European (Windows)"))
    bar.choice.activated.emit(bar.choice.currentIndex())
    assert said(polish.session.project) == right
    polish.commands.run("undo")
    polish.commands.run("undo")
    assert said(polish.session.project) == right and polish.session.history.depth == 0
    bar.keep.click()
    assert not bar.isVisible()


def test_the_choice_is_that_of_the_open_project_alone(polish, boards, tmp_path):
    (tmp_path / "new.srt").write_text(captions("Oak and elm and ash."), encoding="utf-8")
    polish.filing.open_path(tmp_path / "new.srt")
    before = polish.session.project
    assert not polish.read_as.isVisible()
    polish.read_as.read_again()
    polish.session.open(boards, None, saved=True)
    polish.read_as.read_again()
    assert polish.session.project is boards and before is not boards


def test_a_text_that_is_gone_meanwhile_is_said_and_nothing_changes(polish, tmp_path):
    before = polish.session.project
    (tmp_path / "old.srt").unlink()
    polish.read_as.read_again()
    assert polish.session.project is before and "cannot be read" in polish.message.text()


def test_translations_go_only_after_a_question_when_the_text_is_read_again(polish):
    polish.session.step(lambda project: begin_track(project, "cy")[0], "Welsh")
    before, asked = polish.session.project, []
    polish.dialogs.yes = lambda question, go="": bool(asked.append(question))
    polish.read_as.read_again()
    assert polish.session.project is before and "undo brings them back" in asked[0]
    polish.dialogs.yes = lambda question, go="": True
    polish.read_as.read_again()
    assert len(polish.session.project.tracks) == 1
    polish.commands.run("undo")
    assert polish.session.project == before
