"""The drawer under the words: finding, terms, spelling, cleaning up, notes, chapters, how sure."""

import pytest
from conftest import DEMO, spoken, words
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from talkdesk import TEXT, labels, offered, page, press, select, texts, typed_wrong, with_talk

from dubrel.desk.sheet.spots import Spot
from dubrel.edits.notes import CHAPTER, CLIP, PICTURE, QUERY
from dubrel.jobs.encoding import index_path
from dubrel.jobs.machinery.events import Recognised
from dubrel.jobs.machinery.fold import arrival
from dubrel.model import Project, Term


@pytest.fixture
def open_talk(window):
    return with_talk(window)


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
    find.who.activated.emit(find.who.currentIndex())
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
    assert meanings.rest.isActive() and not meanings.busy
    meanings.rest.setInterval(0)
    meanings.rest.start()
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
    clean.kind.activated.emit(1)
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
