"""Wording in the real window: by key, in the drawer, with the clipboard and the mouse."""

import json

import pytest
from conftest import DEMO, spoken, words
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from songs import STANZAS, lyrics, sung

from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.desk.sheet.spots import Spot
from dubrel.edits.captions.resetting import set_again
from dubrel.edits.intake import set_turns
from dubrel.edits.notes import CHAPTER, CLIP, PICTURE, QUERY
from dubrel.edits.words.striking import struck
from dubrel.jobs.encoding import index_path
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.machinery.fold import arrival
from dubrel.model import Project, RecognisedTurn, RecognisedWord, Speaker, Term, Timing
from dubrel.project.captiontext import shown_captions
from dubrel.user.terms import TERMS

PEOPLE = [Speaker("s1", "Isolde"), Speaker("s2", "Tobiah")]
TEXT = (
    "The hair in came out of the canal.",
    "Um, is it it oak? I want to know.",
    "It is mostly oak, and the boat yard is old.",
)


@pytest.fixture
def open_talk(window):
    """A window with three turns of two people on the sheet, captioned."""
    at, made = 1000, []
    for nth, text in enumerate(TEXT):
        heard = spoken(text, start=at)
        at = heard[-1].end_ms + 900
        made.append(RecognisedTurn(tuple(heard), PEOPLE[nth % 2].id))
    project = set_again(set_turns(Project(title="Talk"), made, PEOPLE, "en"), DEFAULT_STYLE)
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    TERMS.write(())
    return window


def texts(window):
    return [turn.text for turn in window.sheet.turns]


def press(window, keys):
    window.commands.run(keys)


def page(window, name):
    return window.rooms["wording"].pull_out.page(name)


def select(window, turn, first, stop):
    window.sheet.select_words(turn, first, stop)


def labels(window):
    return window.session.history.labels()[0]


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
    steps._go(steps.steps.item(1))
    assert window.session.project is values[1] and labels(window) == ["Strike 1 word"]
    steps._go(steps.steps.item(3))
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


# -- the drawer ------------------------------------------------------------------------


def test_find_lists_shows_and_replaces_what_is_ticked(open_talk):
    window = open_talk
    press(window, "find_words")
    find = page(window, "find")
    assert window.drawers.isVisible() and find.field.hasFocus()
    find.field.setText("it")
    find.whole.setChecked(True)
    find.becomes.setText("that")
    find.refresh()
    assert [row.text for row in find.list.rows] == ["it", "it", "It"]
    find.list.setCurrentIndex(find.list.model().index(1, 0))
    assert window.sheet.selected_text() == "it"
    QTest.keyClick(find.list, Qt.Key.Key_Space)
    assert find.summary.text() == "2 of 3 places"
    find.all.click()
    assert texts(window)[1:] == ["Um, is that it oak? I want to know.", TEXT[2].replace("It", "That")]
    assert labels(window) == ["Replace 2 places"]
    QTest.keyClick(find, Qt.Key.Key_Escape)
    assert not window.drawers.isVisible() and window.sheet.hasFocus()


def test_one_speaker_s_words_alone_are_listed_and_copied(open_talk):
    window = open_talk
    press(window, "find_words")
    find = page(window, "find")
    find.field.setText("")
    find.who.setCurrentIndex(find.who.findData("s2"))
    find._changed()
    assert [row.text for row in find.list.rows] == [TEXT[1]]
    find.copy_list()
    assert QGuiApplication.clipboard().text().endswith(f"Tobiah\t{TEXT[1]}")


def test_a_bad_pattern_is_one_sentence_in_the_list(open_talk):
    window = open_talk
    press(window, "find_words")
    find = page(window, "find")
    find.pattern.setChecked(True)
    find.field.setText("(oak")
    find.refresh()
    assert not find.list.rows and "is not a pattern" in find.empty.text()


def test_what_sounds_like_a_name_and_what_means_the_same(open_talk, qtbot):
    window = open_talk
    press(window, "sounds_like")
    find = page(window, "find")
    find.field.setText("Heron")
    find.refresh()
    assert find.list.rows[0].text == "hair in"
    press(window, "meaning")
    find.field.setText("What wood is the ship made of?")
    qtbot.waitUntil(lambda: bool(find.list.rows) and not find.meanings.busy)
    find.refresh()
    assert "oak" in find.list.rows[0].text


def test_the_index_by_meaning_is_made_while_the_hands_rest_and_kept(window, tmp_path, qtbot):
    path = tmp_path / "podcast.dubrel"
    path.write_bytes((DEMO / "slow-water-7.dubrel").read_bytes())
    window.filing.open_path(path)
    meanings = window.rooms["wording"].meanings
    assert meanings._rest.isActive() and not meanings.busy
    meanings._rest.setInterval(0)
    meanings._rest.start()
    qtbot.waitUntil(lambda: len(meanings.index) > 30 and not meanings.busy)
    kept = index_path(str(path))
    qtbot.waitUntil(kept.exists)
    window.session.open(Project(), None, saved=True)
    window.filing.open_path(path)
    assert not meanings.index.missing(meanings.sentences())


def test_a_correction_made_twice_is_offered_and_its_other_places_listed(open_talk):
    window = open_talk
    corrections = window.rooms["wording"].keeping.corrections
    press(window, "learn")
    assert "No correction was made twice" in window.message.text()
    for turn, place in ((1, 4), (2, 3)):
        select(window, turn, place, place + 1)
        QTest.keyClicks(window.sheet, "elm")
        corrections.count()
    assert "became “elm” twice" in window.message.text()
    press(window, "learn")
    assert window.session.project.terms == (Term("elm", ("oak",)),)
    assert page(window, "terms").isVisible()


def test_terms_are_accepted_ticked_skipped_and_undone(open_talk):
    window = open_talk
    press(window, "terms")
    terms = page(window, "terms")
    for text in ("Heron", "boatyard = boat yard"):
        terms.field.setText(text)
        terms.add()
    assert [(row.text, row.becomes) for row in terms.list.rows] == [
        ("boat yard", "boatyard"),
        ("hair in", "Heron"),
    ]
    terms.list.setCurrentIndex(terms.list.model().index(0, 0))
    terms.skip_row()
    terms.accept_ticked()
    assert texts(window)[0] == "The Heron came out of the canal." and "boat yard" in texts(window)[2]
    assert terms.list.rows == []
    press(window, "undo")
    assert texts(window)[0] == TEXT[0]


def typed_wrong(window, qtbot, text):
    """Something is typed at the beginning, once there is a dictionary; the marks."""
    marks = window.rooms["wording"].marks
    qtbot.waitUntil(lambda: marks.there)
    window.sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(window.sheet, text)
    return marks


def test_spelling_is_marked_suggested_and_learned(open_talk, qtbot):
    window = open_talk
    marks = typed_wrong(window, qtbot, "Thuoghts ")
    assert 0 in marks.marked(window.sheet.turns[0])
    window.sheet.move_caret(Spot(0, 2))
    window.dialogs.suggestion = lambda word, offers, at: offers[0]
    press(window, "spell")
    assert texts(window)[0].startswith("Thoughts ")
    assert marks.marked(window.sheet.turns[0]) == frozenset()
    QTest.keyClicks(window.sheet, "z")
    window.dialogs.suggestion = lambda word, offers, at: ""
    press(window, "spell")
    qtbot.waitUntil(lambda: not marks.marked(window.sheet.turns[0]))
    assert len(window.session.project.terms) == 1


def test_a_spelling_is_chosen_while_words_arrive_or_another_project_is_opened(open_talk, qtbot):
    window = open_talk
    typed_wrong(window, qtbot, "Thuoghts ")
    window.sheet.move_caret(Spot(0, 2))

    def chosen(meanwhile):
        def answer(word, offers, at):
            meanwhile()
            return offers[0]

        window.dialogs.suggestion = answer
        press(window, "spell")

    more = Recognised(tuple(spoken("And more.", start=90_000)))
    chosen(lambda: window.session.amend(arrival(more, window.session.project.next_id)))
    assert texts(window)[0].startswith("Thoughts ") and texts(window)[-1].endswith("And more.")
    press(window, "undo")
    window.sheet.move_caret(Spot(0, 2))
    chosen(lambda: QTest.keyClicks(window.sheet, "x"))
    assert "is another word now" in window.message.text()
    assert texts(window)[0].startswith("Thxuoghts ")
    other = Project(title="Other", media=None)
    chosen(lambda: window.session.open(other, None, saved=True))
    assert "another project was opened" in window.message.text() and window.session.project is other


def offered(spelling):
    return [spelling.offers.itemText(nth) for nth in range(spelling.offers.count())]


def test_the_drawer_offers_spellings_of_the_row_one_is_at(open_talk, qtbot):
    window = open_talk
    typed_wrong(window, qtbot, "thuoghts sternposst thuoghts ")
    before = texts(window)[0]
    press(window, "spelling")
    spelling = page(window, "spelling")
    assert [row.of for row in spelling.list.rows] == ["thuoghts", "sternposst", "thuoghts"]
    assert offered(spelling) == [] and not spelling.correct.isEnabled()
    assert spelling.offers.placeholderText() == "Looking…"
    spelling.correct_row()
    assert texts(window)[0] == before
    QTest.keyClick(spelling.list, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: bool(offered(spelling)))
    assert offered(spelling)[0] == spelling.offers.currentText() == "sternmost"
    assert spelling.correct.isEnabled()
    QTest.keyClick(spelling.list, Qt.Key.Key_Up)
    QTest.keyClick(spelling.list, Qt.Key.Key_Down)
    QTest.keyClick(spelling.list, Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: offered(spelling)[:1] == ["thoughts"])
    spelling.correct_all.click()
    assert texts(window)[0] == before.replace("thuoghts", "thoughts")
    qtbot.waitUntil(lambda: offered(spelling)[:1] == ["sternmost"])
    press(window, "undo")
    assert texts(window)[0] == before


def test_another_project_while_spellings_are_looked_for_is_offered_none_of_them(open_talk, qtbot):
    window = open_talk
    marks = typed_wrong(window, qtbot, "thuoghts ")
    press(window, "spelling")
    window.session._saved = window.session.project
    window.session.open(Project(title="Nothing"), None, saved=True)
    spelling = page(window, "spelling")
    qtbot.waitUntil(lambda: not spelling.list.rows and not offered(spelling))
    told = []
    marks.suggest("bilgge", told.append)  # which stands behind what was looked for before
    qtbot.waitUntil(lambda: bool(told))
    assert offered(spelling) == [] and not spelling.correct.isEnabled()


def test_cleaning_up_is_shown_first_and_verbatim_brings_it_back(open_talk):
    window = open_talk
    press(window, "verbatim")
    assert "No fillers are struck yet" in window.message.text()
    press(window, "clean_up")
    clean = page(window, "cleanup")
    assert [row.text for row in clean.list.rows] == ["Um,"]
    clean.clean()
    clean.kind.setCurrentIndex(1)
    clean._changed()
    clean.clean()
    assert [w.text for w in words(window.session.project) if w.struck] == ["Um,", "it"]
    press(window, "verbatim")
    assert not any(w.struck for w in words(window.session.project))
    assert labels(window) == ["Strike fillers", "Strike repeats and false starts", "Read verbatim"]


def test_notes_are_added_answered_listed_and_deleted(open_talk):
    window = open_talk
    select(window, 1, 4, 5)
    press(window, "note_query")
    notes = page(window, "notes")
    assert notes.text.hasFocus()
    QTest.keyClicks(notes.text, "Oak or elm?")
    QTest.keyClick(notes.text, Qt.Key.Key_Return)
    assert window.sheet.hasFocus()
    note = window.session.project.notes[0]
    assert (note.kind, note.text, note.words) == (QUERY, "Oak or elm?", (window.sheet.turns[1].words[4].id,))
    assert "1 open query" in notes.summary.text()
    notes.answer.setText("Oak")
    notes.toggle_done()
    assert window.session.project.notes[0].done and window.session.project.notes[0].answer == "Oak"
    select(window, 2, 0, 3)
    press(window, "note_clip")
    press(window, "note_chapter")
    kinds = [one.kind for one in window.session.project.notes]
    assert sorted(kinds) == [CHAPTER, CLIP, QUERY]
    notes.kind.setCurrentIndex(notes.kind.findData(CLIP))
    notes.refresh()
    QTest.keyClick(notes.list, Qt.Key.Key_Delete)
    assert sorted(one.kind for one in window.session.project.notes) == [CHAPTER, QUERY]


def test_chapters_are_proposed_and_accepted_as_notes(open_talk, qtbot):
    window = open_talk
    press(window, "chapters")
    topics = page(window, "topics")
    topics.count.setValue(2)
    qtbot.waitUntil(lambda: not topics.meanings.busy)
    topics.refresh()
    assert topics.list.rows[0].start_ms == 1000
    topics.accept_ticked()
    assert [one.kind for one in window.session.project.notes] == [CHAPTER] * len(topics.list.rows)
    said = " ".join(TEXT).casefold()
    assert all(
        w in said
        for one in window.session.project.notes
        for w in one.text.casefold().replace(",", "").split()
    )


def test_pictures_that_could_be_shown_are_proposed_and_accepted(open_talk):
    window = open_talk
    press(window, "chapters")
    topics = page(window, "topics")
    topics.start("pictures")
    rows = topics.list.rows
    assert [row.note for row in rows] == [""] * len(rows)
    topics.accept_ticked()
    made = window.session.project.notes
    assert {one.kind for one in made} == {PICTURE}
    assert [one.text for one in made] == [row.text for row in rows]
    assert all(one.end_ms > one.start_ms for one in made)
    topics.refresh()
    assert {row.note for row in topics.list.rows} == {"there already"}
    press(window, "undo")
    assert window.session.project.notes == ()


def test_how_sure_and_what_is_left(open_talk):
    window = open_talk
    press(window, "how_sure")
    sure = page(window, "sure")
    assert sure.bars.lines[0][1].words == 27 and [name for name, _ in sure.bars.lines[1:]] == [
        "Isolde",
        "Tobiah",
    ]
    window.sheet.move_caret(Spot(0, 0))
    press(window, "proofed")
    press(window, "not_proofed")
    assert [row.text for row in sure.list.rows] == list(TEXT[1:])
    window.sheet.move_caret(Spot(0, 0))
    QTest.keyClicks(window.sheet, "So ")
    sure.start("changed")
    assert len(sure.list.rows) == 1 and window.sheet.turns[0].reworded
    window.sheet.move_caret(Spot(0, 0))
    press(window, "proofed")
    assert window.sheet.turns[0].proofed and not window.sheet.turns[0].reworded


def test_the_drawer_follows_another_project_and_the_pass(open_talk):
    window = open_talk
    press(window, "find_words")
    find = page(window, "find")
    find.field.setText("oak")
    find.refresh()
    assert len(find.list.rows) == 2
    window.show_room("captions")
    assert not window.drawers.isVisible()
    window.session.open(Project(title="Other"), None, saved=True)
    window.show_room("wording")
    assert window.drawers.isVisible()
    find.refresh()
    assert not find.list.rows and "no words yet" in find.empty.text()


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


# -- songs -----------------------------------------------------------------------------


@pytest.fixture
def open_song(window):
    project = lyrics(sung(), a_turn=13)
    window.session.open(project, None, saved=True)
    window.show_room("wording")
    window.sheet.select_all()
    press(window, "song")
    return window


def stanza(window, place):
    return window.sheet.turns[place].lined


def test_lines_and_stanzas_of_the_selection_are_one_step(open_song):
    assert [turn.lined for turn in open_song.sheet.turns] == ["\n".join(one) for one in STANZAS]
    assert labels(open_song) == ["Find lines and stanzas"]
    press(open_song, "undo")
    assert len(open_song.sheet.turns) == 5 and not open_song.session.dirty


def test_keys_begin_and_join_lines(open_song):
    window, sheet = open_song, open_song.sheet
    first = stanza(window, 0)
    sheet.move_caret(Spot(0, first.index("under")))
    QTest.keyClick(sheet, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert stanza(window, 0) == first.replace("water under", "water\nunder")
    QTest.keyClick(sheet, Qt.Key.Key_Backspace)
    assert stanza(window, 0) == first and sheet.caret == Spot(0, len("Slow water"))
    QTest.keyClick(sheet, Qt.Key.Key_End)
    assert sheet.caret.place == len(STANZAS[0][0])
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    QTest.keyClicks(sheet, "and ")
    assert stanza(window, 0) == first.replace("goes", "and goes")
    for _ in range(8):
        press(window, "undo")
    assert len(sheet.turns) == 5


def test_a_copied_song_has_its_lines_wherever_it_goes(open_song):
    window, sheet = open_song, open_song.sheet
    sheet.select_all()
    press(window, "copy")
    copied = QGuiApplication.clipboard().mimeData()
    assert copied.text() == "\n\n".join("\n".join(one) for one in STANZAS)
    assert "<br>".join(STANZAS[2]) in copied.html()
    press(window, "copy_quote")
    assert "Slow water under Alder Bridge / goes easy past the mill / the lock" in (
        QGuiApplication.clipboard().text()
    )
    sheet.move_caret(Spot(1, 0))
    sheet.move_caret(Spot(1, len(stanza(window, 1))), keep=True)
    press(window, "strike")
    press(window, "copy")
    assert "stone</s><br><s>and" in QGuiApplication.clipboard().mimeData().html()
    sheet.move_caret(Spot(0, 0))
    sheet.move_caret(Spot(0, len(stanza(window, 0))), keep=True)
    QGuiApplication.clipboard().setText("\n".join(STANZAS[0]).replace("easy", "slowly"))
    press(window, "paste")
    assert stanza(window, 0) == "\n".join(STANZAS[0]).replace("easy", "slowly")


def test_lines_are_taken_out_of_the_turns_that_have_some(open_song):
    window = open_song
    window.sheet.move_caret(Spot(1, 3))
    press(window, "song_plain")
    assert stanza(window, 1) == " ".join(STANZAS[1]) and stanza(window, 2) == "\n".join(STANZAS[2])
    assert window.commands.why_not("song_plain") == "There are no lines of a song here."


def test_left_and_right_go_where_they_point_in_hebrew(window):
    heard = spoken("סירת העץ יצאה")
    window.session.open(
        set_turns(Project(), [RecognisedTurn(tuple(heard), None)], [], "he"), None, saved=True
    )
    window.show_room("wording")
    sheet = window.sheet
    sheet.move_caret(Spot(0, 0))
    QTest.keyClick(sheet, Qt.Key.Key_Left)
    assert sheet.caret == Spot(0, 1)
    QTest.keyClick(sheet, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    assert sheet.caret == Spot(0, 5)
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    QTest.keyClick(sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert (sheet.anchor, sheet.caret) == (Spot(0, 4), Spot(0, 3))
    QTest.keyClick(sheet, Qt.Key.Key_Delete)
    QTest.keyClick(sheet, Qt.Key.Key_Home)
    assert sheet.caret == Spot(0, 0) and texts(window) == ["סיר העץ יצאה"]
