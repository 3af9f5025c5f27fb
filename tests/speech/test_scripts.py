"""Scripts that exist: understood, lined up, and refused when they are of another recording."""

import json
import random

import numpy as np
import pytest
from conftest import DEMO, SCENE_S, truth
from PySide6.QtCore import Qt

from dubrel.base.errors import FormatError
from dubrel.base.textpairs import pair_words, word_error_rate
from dubrel.cli import main
from dubrel.formats.scripts.script import Kind, Piece, read_script, understand
from dubrel.media.probe import probe
from dubrel.media.sound import samples_of
from dubrel.model import RecognisedWord, Timing
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.scriptalign import line_up


def test_a_script_is_taken_apart():
    text = (
        "# The Heron\n\nINT. YARD\n\n[Music]\n\n**Isolde:** Welcome *back*.\nThis week (pause) we go on.\n\n"
        "And another thing.\n\nDr. Tobiah Fenn: It is 10:30 now: late.\n(He laughs)\n"
    )
    assert understand(text) == [
        Piece(Kind.HEADING, "The Heron"),
        Piece(Kind.HEADING, "INT. YARD"),
        Piece(Kind.DIRECTION, "Music"),
        Piece(Kind.SPEECH, "Welcome back. This week we go on.", "Isolde"),
        Piece(Kind.SPEECH, "And another thing.", "Isolde"),
        Piece(Kind.SPEECH, "It is 10:30 now: late.", "Dr. Tobiah Fenn"),
        Piece(Kind.DIRECTION, "He laughs"),
    ]


def test_scripts_from_every_form(tmp_path):
    import docx

    document = docx.Document()
    document.add_heading("Part one")
    document.add_paragraph("Isolde: Welcome back.")
    document.save(str(tmp_path / "a.docx"))
    assert read_script(tmp_path / "a.docx") == [
        Piece(Kind.HEADING, "Part one"),
        Piece(Kind.SPEECH, "Welcome back.", "Isolde"),
    ]
    (tmp_path / "a.vtt").write_text("WEBVTT\n\n00:01.000 --> 00:02.000\n<v Ann>Hello there\n")
    assert read_script(tmp_path / "a.vtt") == [Piece(Kind.SPEECH, "Hello there", "Ann")]
    (tmp_path / "a.md").write_bytes("Plain text\r\nin two lines.\r\n".encode("utf-16"))
    assert read_script(tmp_path / "a.md") == [Piece(Kind.SPEECH, "Plain text in two lines.")]


@pytest.mark.parametrize(("name", "data"), [("a.txt", b""), ("b.txt", b"[Music]\n"), ("c.docx", b"no zip")])
def test_bad_scripts_get_one_sentence(tmp_path, name, data):
    (tmp_path / name).write_bytes(data)
    with pytest.raises(FormatError, match=name):
        read_script(tmp_path / name)


def test_pairing_is_the_fewest_edits():
    chance = random.Random(4)
    for _ in range(60):
        one = [chance.choice("abcd") for _ in range(chance.randrange(9))]
        two = [chance.choice("abcd") for _ in range(chance.randrange(9))]
        found = pair_words(one, two)
        assert found.errors == plain_distance(one, two)
        assert [r for r, _ in found.pairs if r is not None] == list(range(len(one)))
        assert [h for _, h in found.pairs if h is not None] == list(range(len(two)))


def plain_distance(one, two):
    row = list(range(len(two) + 1))
    for i, a in enumerate(one, 1):
        row, old = [i, *row[1:]], row
        for j, b in enumerate(two, 1):
            row[j] = min(old[j - 1] + (a != b), old[j] + 1, row[j - 1] + 1)
    return row[-1]


def test_long_texts_pair_in_pieces():
    chance = np.random.default_rng(6)
    one = [f"w{k}" for k in chance.integers(0, 3000, 20_000)]
    two = [w for w in one if chance.random() > 0.05]
    assert word_error_rate(one, one) == 0
    assert word_error_rate(one, two) == pytest.approx(0.05, abs=0.01)


@pytest.fixture(scope="module")
def hearing(film, film_words):
    return film_words, samples_of(probe(film))


def errors(found, true):
    pairs = pair_words([text.lower() for text, _, _ in true], [word.text.lower() for word in found])
    return [
        abs(true[r][1] - found[h].start_ms)
        for r, h in pairs.pairs
        if r is not None
        and h is not None
        and true[r][0].lower() == found[h].text.lower()
        and found[h].timing is not Timing.UNHEARD
    ]


def test_the_true_script_gets_true_times(hearing):
    heard, samples = hearing
    true = truth("heron-film")
    found = line_up([text for text, _, _ in true], heard, samples, EnglishAligner())
    assert [word.text for word in found.words] == [text for text, _, _ in true]
    off = errors(found.words, true)
    assert len(off) > 0.95 * len(true)
    assert np.median(off) <= 12 and np.percentile(off, 95) <= 60
    assert all(a.end_ms <= b.start_ms for a, b in zip(found.words, found.words[1:]))


def test_a_script_with_fifteen_percent_errors(hearing):
    heard, samples = hearing
    true, chance, script = truth("heron-film"), random.Random(7), []
    for text, _, _ in true:
        luck = chance.random()
        if luck < 0.05:
            script.append(chance.choice(["river", "seven", "morning", "paper"]))
        elif luck > 0.10:
            script.append(text)
        if luck > 0.95:
            script.append(chance.choice(["table", "green", "under", "window"]))
    found = line_up(script, heard, samples, EnglishAligner())
    assert [word.text for word in found.words] == script
    assert np.percentile(errors(found.words, true), 95) <= 60


def test_what_was_not_said_gets_no_time(hearing):
    heard, samples = hearing
    true = [text for text, _, _ in truth("heron-film")]
    script = [
        *true[:40],
        *"and here is a long sentence that nobody ever said in the film".split(),
        *true[40:],
    ]
    found = line_up(script, heard, samples, EnglishAligner())
    invented = found.words[40:53]
    assert sum(word.timing is Timing.UNHEARD for word in invented) >= 12
    assert all(word.start_ms == word.end_ms for word in invented if word.timing is Timing.UNHEARD)


def test_what_is_not_in_the_script_is_given_back(hearing):
    heard, samples = hearing
    true = [text for text, _, _ in truth("heron-film")]
    found = line_up([*true[:30], *true[55:]], heard, samples, EnglishAligner())
    assert len(found.extra) >= 18
    assert all(isinstance(word, RecognisedWord) for word in found.extra)


def test_a_script_of_another_recording_is_refused(hearing, heard_once, film, tmp_path, capsys):
    heard, samples = hearing
    other = [text for text, _, _ in truth("slow-water-7")]
    assert line_up(other, heard, samples, EnglishAligner()).another_recording
    path = tmp_path / "other.txt"
    path.write_text("Quarterly figures improved across several departments despite weaker exports abroad.")
    assert main(["align", str(film), str(path), "-o", str(tmp_path / "x.srt"), "--quiet"]) == 2
    assert "does not seem to be of" in capsys.readouterr().err
    assert not (tmp_path / "x.srt").exists()


def test_line_up_in_the_window(window, scene, tmp_path, qtbot, monkeypatch):
    from dubrel.desk.intake.dialogs.script import ScriptDialog

    rows = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"]
    rows = [row for row in rows if row["words"][-1][2] < 1000 * SCENE_S]
    path = tmp_path / "film.txt"
    text = "\n\n".join(f"{row['speaker']}: {' '.join(word[0] for word in row['words'])}" for row in rows)
    path.write_text("THE HERON\n\n" + text)

    def answer(name, pieces):
        dialog = ScriptDialog(name, pieces, window)
        qtbot.addWidget(dialog)
        assert [piece.kind for piece in dialog.pieces()][:2] == [Kind.HEADING, Kind.SPEECH]
        dialog.table.item(1, 1).setText("Isolde Marr")
        qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
        return dialog.pieces(), dialog.language()

    window.filing.open_path(scene)
    monkeypatch.setattr(window.dialogs, "script", lambda: path)
    monkeypatch.setattr(window.dialogs, "understood", answer)
    window.commands.run("script")
    qtbot.waitUntil(lambda: window.jobs.runs("align"))
    qtbot.waitUntil(lambda: not window.jobs.busy)
    project = window.session.project
    assert project.transcript.speakers[0].name == "Isolde Marr"
    assert [len(turn.words) for turn in project.transcript.turns] == [len(row["words"]) for row in rows]
    assert project.captions is not None


def test_a_pasted_text_is_lined_up(window, film, monkeypatch):
    from PySide6.QtGui import QGuiApplication

    seen = []
    monkeypatch.setattr(window.dialogs, "understood", lambda name, pieces: seen.append((name, pieces)))
    QGuiApplication.clipboard().setText("ISOLDE: Early on Monday.\n\nTOBIAH: Not early enough.")
    window.commands.run("script_paste")
    assert not seen and "Bring in a recording" in window.message.text()
    window.filing.open_path(film)
    window.commands.run("script_paste")
    [(name, pieces)] = seen
    assert "clipboard" in name and [piece.text for piece in pieces] == [
        "Early on Monday.",
        "Not early enough.",
    ]
    QGuiApplication.clipboard().clear()
    window.commands.run("script_paste")
    assert "no text on the clipboard" in window.message.text()


def table_of_edits(one, other):
    """The fewest edits by the plain table, to compare with."""
    row = list(range(len(other) + 1))
    for nth, word in enumerate(one, 1):
        before, row[0] = row[0], nth
        for place, there in enumerate(other, 1):
            before, row[place] = row[place], min(row[place] + 1, row[place - 1] + 1, before + (word != there))
    return row[-1]


@pytest.mark.parametrize("seed", range(12))
def test_any_two_texts_are_paired_in_order_with_the_fewest_edits(seed):
    chance = random.Random(seed)
    one = [chance.choice("abcdefgh") for _ in range(chance.randrange(400))]
    other = [
        chance.choice("abcxyz") if chance.random() < 0.2 else sign for sign in one if chance.random() > 0.1
    ]
    found = pair_words(one, other)
    assert found.errors == table_of_edits(one, other)
    assert [r for r, _ in found.pairs if r is not None] == list(range(len(one)))
    assert [h for _, h in found.pairs if h is not None] == list(range(len(other)))


def test_of_two_ways_that_are_as_good_words_put_in_come_early():
    assert pair_words(["so"], ["so", "so"]).pairs == [(None, 0), (0, 1)]
    assert pair_words(["so", "so"], ["so"]).pairs == [(0, None), (1, 0)]


def test_a_script_in_a_language_that_is_in_no_list_can_be_aligned_in_it(window, qtbot):
    from languages import STORIES

    from dubrel.desk.intake.dialogs.script import ScriptDialog
    from dubrel.formats.scripts.script import Piece

    dialog = ScriptDialog("a.txt", [Piece(Kind.SPEECH, STORIES["lt"])], window)
    qtbot.addWidget(dialog)
    assert dialog.language() == "lt" and dialog.tongue.currentText() == "Lithuanian"
