"""Wording in the real window: by key, in the drawer, with the clipboard and the mouse."""

import json

import pytest
from conftest import DEMO, spoken, words
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from talkdesk import TEXT, labels, page, press, select, texts, with_talk

from dubrel.desk.sheet.spots import Spot
from dubrel.edits.intake import set_turns
from dubrel.edits.words.striking import struck
from dubrel.model import RecognisedTurn, RecognisedWord, Timing
from dubrel.project.captiontext import shown_captions


@pytest.fixture
def open_talk(window):
    return with_talk(window)


# -- by key ----------------------------------------------------------------------------


def test_every_edit_by_key_is_one_step_with_a_name(open_talk):
    window = open_talk
    first = window.session.project
    select(window, 2, 6, 8)
    press(window, "join_words")
    assert texts(window)[2].endswith("and the boatyard is old.")
    select(window, 0, 1, 3)
    press(window, "strike")
    assert [w.struck for w in window.sheet.turns[0].words[:4]] == [False, True, True, False]
    press(window, "case")
    window.sheet.move_caret(Spot(0, len("The Hair In came")))
    press(window, "mark_comma")
    press(window, "mark_on")
    assert texts(window)[0] == "The Hair In came out, of the canal."
    assert labels(window) == ["Join words", "Strike 2 words", "Change capitals", "Add a mark", "Move a mark"]
    press(window, "undo")
    assert window.message.text() == "Undone: Move a mark"
    for _ in range(4):
        press(window, "undo")
    assert window.session.project == first and not window.session.dirty


def test_striking_over_turns_and_again_takes_it_back(open_talk):
    window = open_talk
    window.sheet.move_caret(Spot(0, 4))
    window.sheet.move_caret(Spot(2, 5), keep=True)
    press(window, "strike")
    flags = [w.struck for w in words(window.session.project)]
    assert not flags[0] and all(flags[1:18]) and not flags[-1]
    press(window, "strike")
    assert not any(w.struck for w in words(window.session.project))


def test_a_word_s_edges_by_key_are_one_step_and_stop_at_the_neighbour(open_talk):
    window = open_talk
    window.sheet.move_caret(Spot(0, 4))
    word = window.sheet.turns[0].words[1]
    for _ in range(3):
        press(window, "in_back")
    moved = window.sheet.turns[0].words
    assert (moved[1].start_ms, moved[0].end_ms) == (word.start_ms - 30, word.start_ms - 30)
    assert labels(window) == ["Move the in time of a word"]
    press(window, "neighbour")
    press(window, "in_back")
    assert "cannot go further" in window.message.text()
    assert window.sheet.turns[0].words[1].start_ms == word.start_ms - 30


def test_the_list_of_steps_goes_to_any_point(open_talk):
    window = open_talk
    for name in ("strike", "case", "mark_stop"):
        press(window, name)
    values = window.session.history.earlier()
    press(window, "steps")
    steps = page(window, "steps")
    assert steps.steps.item(0).text() == "As it was opened"
    steps.steps.itemActivated.emit(steps.steps.item(1))
    assert window.session.project is values[1] and labels(window) == ["Strike 1 word"]
    steps.steps.itemActivated.emit(steps.steps.item(3))
    assert window.session.project is values[3]
    assert steps.steps.currentRow() == 3


# -- listening -------------------------------------------------------------------------


def test_caret_and_playhead_are_brought_together_either_way(open_talk):
    window = open_talk
    window.player.seek(window.sheet.turns[1].words[3].start_ms)
    assert window.sheet.caret == Spot(0, 0)
    press(window, "caret_there")
    assert window.sheet.word_at_caret()[1] == 3 and window.sheet.caret.turn == 1
    window.sheet.move_caret(Spot(2, 3))
    press(window, "playhead_here")
    assert window.player.position == window.sheet.turns[2].words[1].start_ms


def test_loops_sentences_pauses_and_doubts(window, film, qtbot):
    window.filing.open_path(film)
    qtbot.waitUntil(lambda: not window.jobs.busy)
    said = [
        RecognisedWord(w.text, w.start_ms, w.end_ms, 0.9 if w.text == "canal." else 0.0)
        for w in spoken(" ".join(TEXT))
    ]
    project = set_turns(window.session.project, [RecognisedTurn(tuple(said), None)], [], "en")
    window.session.apply(project, "Words", base=window.session.project)
    window.show_room("wording")
    turn = window.sheet.turns[0]
    select(window, 0, 1, 3)
    press(window, "loop_selection")
    assert window.player.loop == (turn.words[1].start_ms, turn.words[2].end_ms)
    assert window.booth.loop.isChecked() and window.booth.loop.text() == "Loop selection"
    window.player.seek(turn.words[9].start_ms)  # elsewhere: it never snaps back
    assert window.player.loop is None and not window.booth.loop.isChecked()
    assert window.player.position == turn.words[9].start_ms
    window.player.pause()
    press(window, "doubts_only")
    canal = next(w for w in turn.words if w.text == "canal.")
    assert window.player.skips_to(0) == max(0, canal.start_ms - 1000)
    assert (
        window.player.skips_to(canal.start_ms) is None and window.player.skips_to(canal.end_ms + 1000) == -1
    )
    press(window, "doubts_only")
    assert window.player.skips_to(0) is None
    press(window, "pauses")
    assert window.player.skips_to(canal.end_ms + 250) is None  # pauses of 600 ms stay: 800 are skipped
    press(window, "pauses")
    again = next(w for w in turn.words if w.text == "Um,")
    window.player.seek(again.start_ms + 1200)
    press(window, "sentence")
    assert again.start_ms - 200 <= window.player.position < again.start_ms + 200
    window.player.pause()
    window.sheet.move_caret(Spot(0, 3))
    press(window, "play")
    QTest.keyClicks(window.sheet, "x")
    press(window, "play")
    assert not window.player.playing and window.sheet.caret == Spot(0, 4)
    assert texts(window)[0].startswith("Thex hair")


# -- clipboard and mouse ---------------------------------------------------------------


def test_a_long_paste_over_turns_keeps_speakers_and_times(open_talk):
    window = open_talk
    known = {w.id: (w.start_ms, w.end_ms) for w in words(window.session.project)}
    window.sheet.select_all()
    text = (
        "The Heron came out of the canal.\n\nIs it oak? I want to know.\n\nIt is mostly oak, and the boatyard"
        " is old."
    )
    QGuiApplication.clipboard().setText(text)
    press(window, "paste")
    assert "\n\n".join(texts(window)) == text
    assert [turn.speaker for turn in window.sheet.turns] == ["s1", "s2", "s1"]
    kept = [
        w for w in words(window.session.project) if w.text in ("came", "canal.", "know.", "mostly", "old.")
    ]
    assert len(kept) == 5 and all((w.start_ms, w.end_ms) == known[w.id] for w in kept)
    assert labels(window) == ["Paste"]
    window.commands.run("undo")
    assert texts(window) == list(TEXT)


def test_five_megabytes_on_the_clipboard_are_refused_in_one_sentence(open_talk):
    window = open_talk
    QGuiApplication.clipboard().setText("cell\tcell\x00\u200b\n" * 400_000)
    press(window, "paste")
    assert window.message.text().endswith("Paste it in parts.") and texts(window) == list(TEXT)
    QGuiApplication.clipboard().setText("a\tb\x07\u200bc\r\nd")
    window.sheet.move_caret(Spot(0, 0))
    press(window, "paste")
    assert texts(window)[0] == "a bc dThe hair in came out of the canal."


def test_copies_are_rich_and_plain_with_names_or_as_a_quote(open_talk):
    window = open_talk
    project = struck(window.session.project, {window.sheet.turns[1].words[0].id}, True)
    window.session.apply(project, "Strike", base=window.session.project)
    window.sheet.select_all()
    press(window, "copy")
    data = QGuiApplication.clipboard().mimeData()
    assert data.text() == "\n\n".join(TEXT)
    assert data.html().count("<p>") == 3 and "<s>Um,</s>" in data.html()
    press(window, "copy_named")
    lines = QGuiApplication.clipboard().text().split("\n\n")
    assert lines[0] == f"[00:00:01] Isolde: {TEXT[0]}" and lines[1].endswith(f"Tobiah: {TEXT[1]}")
    select(window, 2, 0, 4)
    press(window, "copy_quote")
    quote = QGuiApplication.clipboard().text()
    assert quote.startswith("“It is mostly oak” – Isolde, Talk, 00:00:")


def test_captions_are_copied_as_stanzas(open_talk):
    window = open_talk
    press(window, "copy_captions")
    data = QGuiApplication.clipboard().mimeData()
    stanzas = [
        list(text.lines)
        for _, text in shown_captions(window.session.project, window.session.project.captions)
    ]
    assert [one.split("\n") for one in data.text().split("\n\n")] == stanzas
    assert data.html().count("<p>") == len(stanzas)


def test_words_are_dragged_to_another_turn(open_talk):
    window = open_talk
    sheet = window.sheet
    select(window, 0, 3, 5)
    inside = sheet.block_at_spot(Spot(0, 14)).caret_rect(14).translated(sheet.origin(0)).center().toPoint()
    last = len(sheet.turns[1].text)
    goal = sheet.block_at_spot(Spot(1, last)).caret_rect(last).translated(sheet.origin(1)).center().toPoint()
    QTest.mousePress(sheet.viewport(), Qt.MouseButton.LeftButton, pos=inside)
    QTest.mouseMove(sheet.viewport(), inside + QPoint(30, 0))
    event_pos = goal + QPoint(4, 0)
    QTest.mouseMove(sheet.viewport(), event_pos)
    QTest.mouseRelease(sheet.viewport(), Qt.MouseButton.LeftButton, pos=event_pos)
    assert texts(window)[:2] == ["The hair in of the canal.", "Um, is it it oak? I want to know. came out"]
    assert labels(window) == ["Move the words"]


def test_ten_pages_pasted_over_other_words_get_their_times_from_the_sound(window, film, qtbot):
    """A wholly different text of a minute of speech, over several turns, aligned in the background."""
    rows = json.loads((DEMO / "heron-film.truth.json").read_text())["turns"]
    window.filing.open_path(film)
    qtbot.waitUntil(lambda: not window.jobs.busy)
    wrong = [
        RecognisedTurn(
            tuple(RecognisedWord(f"wrong{k}", a, b) for k, (_, a, b) in enumerate(row["words"][::2])), None
        )
        for row in rows
    ]
    window.session.apply(
        set_turns(window.session.project, wrong, [], "en"), "Words", base=window.session.project
    )
    window.show_room("wording")
    true = [tuple(word) for row in rows for word in row["words"]]
    window.sheet.select_all()
    QGuiApplication.clipboard().setText(" ".join(text for text, _, _ in true))
    press(window, "paste")
    assert [w.text for w in words(window.session.project)] == [text for text, _, _ in true]
    assert labels(window)[-1] == "Paste"
    aligned = lambda: [w for w in words(window.session.project) if w.timing is Timing.ALIGNED]  # noqa: E731
    qtbot.waitUntil(lambda: len(aligned()) > 0.95 * len(true))
    away = [abs(w.start_ms - t[1]) for w, t in zip(words(window.session.project), true)]
    assert sorted(away)[int(0.9 * len(away))] <= 80


def test_a_space_that_holds_is_typed_into_a_word(open_talk):
    sheet = open_talk.sheet
    sheet.move_caret(Spot(0, len("The hair")))

    def write(text):
        for sign in text:
            key, none = Qt.Key.Key_unknown, Qt.KeyboardModifier.NoModifier
            QTest.sendKeyEvent(QTest.KeyAction.Click, sheet, key, sign, none)

    write(" 10\u202f000\u00a0€")
    assert texts(open_talk)[0].startswith("The hair 10\u202f000\u00a0€ in came")
    assert [word.text for word in sheet.turns[0].words[:4]] == ["The", "hair", "10\u202f000\u00a0€", "in"]
    for _ in range(3):
        press(open_talk, "undo")
    write("\u00a0!")
    assert texts(open_talk)[0].startswith("The hair\u00a0! in came")
