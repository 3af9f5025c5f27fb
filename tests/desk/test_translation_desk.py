"""Translation on the real window: begun, written, approved, undone, beside jobs and other projects."""

import threading

import pytest
from conftest import DEMO
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from samples import boat_project
from translating import (
    idle,
    texts,
    translated,
)

from dubrel.base.catalogue import told
from dubrel.base.errors import DubrelError
from dubrel.edits.translation.track import source_changes, translated_tracks
from dubrel.edits.words.wording import replace_text
from dubrel.formats.words.tmx import read_tmx
from dubrel.standins.translator import StandIn
from dubrel.store.projectfile import save
from dubrel.translation.memory import Memory, memory_path
from dubrel.user.settings import SETTINGS, Settings


def test_a_project_without_a_translation_offers_one_in_a_sentence(room, window):
    page = room.page
    assert page.currentWidget() is page.overview and not page.overview.table.isVisible()
    shown = {name: field.text() for name, field in page.overview.sentence.fields.items()}
    assert shown == {"language": "Portuguese", "engine": "the built-in translator", "style": "Web"}
    assert room.todo().text == "not begun" and page.overview.begin.isEnabled()


def test_translating_fills_the_facing_pages_and_undo_takes_all_of_it_back(room, window, qtbot):
    track = translated(room, window, qtbot, real=True)
    sheet = room.page.sheet
    assert room.page.currentWidget() is room.page.facing
    assert all(slot.caption is not None and slot.caption.text for slot in sheet.slots)
    assert track.language == "pt" and window.session.project.active != track.id
    assert {one.id for one in window.session.project.captions.captions} == {
        source for one in track.captions for source in one.sources
    }
    assert window.session.undo() == "Translate into Portuguese"
    assert translated_tracks(window.session.project) == [] and room.findings.track is None
    assert room.page.currentWidget() is room.page.overview
    assert window.session.redo() and len(translated_tracks(window.session.project)) == 1
    [again] = translated_tracks(window.session.project)
    assert [one.text for one in again.captions] == [one.text for one in track.captions]


def test_a_translation_that_is_cancelled_keeps_what_there_is_and_goes_on_later(room, window, qtbot):
    room.begin("pt", "builtin", None)
    window.desk.jobs.cancel("translate")
    assert room.findings.track is not None
    assert [slot.caption for slot in room.page.sheet.slots if slot.caption] == []
    window.desk.commands.run("translate_rest")
    idle(window, qtbot)
    assert all(slot.caption for slot in room.page.sheet.slots)
    window.desk.commands.run("translate_rest")
    assert not window.desk.jobs.runs("translate")


def test_another_project_that_is_opened_meanwhile_gets_nothing(room, window, qtbot):
    room.begin("pt", "builtin", None)
    window.filing.open_path(DEMO / "heron-film.dubrel")
    idle(window, qtbot)
    assert not any(
        one.language == "pt" and one.id == room.findings.track_id for one in window.session.project.tracks
    )
    assert room.findings.track is None


def test_typing_in_a_translation_is_one_step_and_approving_goes_to_the_next(room, window, qtbot):
    translated(room, window, qtbot)
    sheet = room.page.sheet
    sheet.choose(0)
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    field = room.field
    assert field.isVisible() and field.toPlainText() == sheet.slot.caption.text
    field.selectAll()
    QTest.keyClicks(field, "Bem-vindos!")
    caption = room.findings.track.captions[0]
    assert caption.text == "Bem-vindos!" and "text" in caption.held and not caption.done
    window.desk.commands.run("approve_next")
    assert room.findings.track.captions[0].done and sheet.current == 1
    assert window.session.undo() == "Approve a translation"
    assert window.session.undo() == "Edit a translation"
    assert room.findings.track.captions[0].text != "Bem-vindos!"


def test_approving_while_the_field_is_open_leaves_it_and_undo_is_that_of_the_window(room, window, qtbot):
    translated(room, window, qtbot)
    room.page.sheet.choose(0)
    room.edit()
    before = texts(room)[0]
    room.field.selectAll()
    QTest.keyClicks(room.field, "Outra coisa")
    QTest.keyClick(room.field, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert texts(room)[0] == before and room.field.toPlainText() == before
    window.desk.commands.run("approve_next")
    assert not room.field.isVisible() and room.page.sheet.current == 1
    assert texts(room)[1] != before and room.findings.track.captions[0].done


def test_undo_while_the_field_is_open_shows_in_the_field(room, window, qtbot):
    translated(room, window, qtbot)
    room.page.sheet.choose(0)
    room.edit()
    before = room.field.toPlainText()
    QTest.keyClicks(room.field, " X")
    window.session.undo()
    assert room.field.toPlainText() == before
    window.session.undo()  # the track itself
    assert not room.field.isVisible()


def test_what_is_approved_is_remembered_and_filled_in_where_it_comes_again(room, window, qtbot, tmp_path):
    path = tmp_path / "twice.dubrel"
    save(
        boat_project(
            "It is dry now. We wait for the tide here. It is dry now. Then we go home. It is dry now."
        ),
        path,
    )
    window.filing.open_path(path)
    room.enter()
    translated(room, window, qtbot, real=True)
    sheet = room.page.sheet
    places = [k for k, slot in enumerate(sheet.slots) if slot.caption.said == "It is dry now."]
    assert len(places) == 3
    last = sheet.slots[places[2]].caption
    sheet.choose(places[2])
    room.approving.take("Já está tudo seco.")
    assert "held" and sheet.slots[places[2]].caption.text == "Já está tudo seco."
    sheet.choose(places[0])
    room.approving.take("Agora secou.")
    window.desk.commands.run("approve")
    room.findings.settle()
    assert [slot.caption.text for slot in room.page.sheet.slots if slot.caption.said == last.said] == [
        "Agora secou."
    ] * 3
    assert room.remembering.memory().exact("It is dry now.", "en", "pt") == "Agora secou."
    window.session.undo()
    assert texts(room).count("Agora secou.") == 1


def test_a_sentence_of_the_memory_is_offered_and_taken(room, window, qtbot):
    memory = Memory(memory_path())
    memory.add(
        [("Welcome back to Slow Rivers.", "Bem-vindos de volta a Rios Lentos.")], "en", "pt", "Another"
    )
    memory.close()
    translated(room, window, qtbot)
    room.page.sheet.choose(0)
    qtbot.waitUntil(lambda: bool(room.remembering.offered))
    assert 70 <= room.remembering.offered[0].percent < 100
    assert room.panel.offers.texts == ["Bem-vindos de volta a Rios Lentos."]
    window.desk.commands.run("take_offer")
    assert texts(room)[0] == "Bem-vindos de volta a Rios Lentos."


def test_a_correction_in_wording_marks_its_translation_and_it_can_hold_or_be_made_again(room, window, qtbot):
    translated(room, window, qtbot)
    project = window.session.project
    turn = next(one for one in project.transcript.turns if "twelve" in one.text)
    at = turn.text.index("twelve")
    window.session.apply(
        replace_text(project, turn.id, at, at + 6, "eleven"), "Correct", base=window.session.project
    )
    room.findings.settle()
    [caption] = [
        one
        for one in room.findings.track.captions
        if source_changes(window.session.project, room.findings.track, one)
    ]
    assert room.findings.doubts_of(caption)[0].message == "“twelve” is “eleven” now"
    assert room.findings.to_look_at[0].id == caption.id
    room.look(1)
    assert room.page.sheet.slot.caption.id == caption.id
    window.desk.commands.run("translate_changed")
    idle(window, qtbot)
    room.findings.settle()
    assert any("onze" in text for text in texts(room)) and not any("doze" in text for text in texts(room))
    assert room.findings.counts["changed"] == 0
    window.session.undo()
    window.session.undo()
    room.findings.settle()
    assert any("doze" in text for text in texts(room)) and room.findings.counts["changed"] == 0


def test_a_track_by_hand_is_written_from_the_keyboard_alone(room, window, qtbot):
    room.begin("fi", "", None)
    sheet = room.page.sheet
    sheet.setFocus()
    QTest.keyClick(sheet, Qt.Key.Key_Home)
    QTest.keyClick(sheet, Qt.Key.Key_Return)
    QTest.keyClicks(room.field, "Tervetuloa")
    QTest.keyClick(room.field, Qt.Key.Key_Tab)
    QTest.keyClicks(room.field, "takaisin")
    QTest.keyClick(room.field, Qt.Key.Key_Escape)
    assert texts(room)[:2] == ["Tervetuloa", "takaisin"]
    qtbot.waitUntil(lambda: "to translate" in room.todo().text)


def test_several_languages_stand_in_a_table_and_one_can_be_removed(room, window, qtbot):
    room.begin("fi", "", None)
    window.desk.commands.run("languages")
    room.begin("he", "", None)
    window.desk.commands.run("languages")
    overview = room.page.overview
    qtbot.waitUntil(lambda: overview.table.item(0, 1).text() != "…")
    rows = [[overview.table.item(row, k).text() for k in range(4)] for row in range(2)]
    whole = len(window.session.project.captions.captions)
    assert rows == [["Finnish", f"0 of {whole}", "0 of 0", "–"], ["Hebrew", f"0 of {whole}", "0 of 0", "–"]]
    assert "fi" not in overview.languages()
    overview.table.selectRow(0)
    window.desk.commands.run("remove_translation")
    assert [one.language for one in translated_tracks(window.session.project)] == ["he"]
    window.session.undo()
    assert len(translated_tracks(window.session.project)) == 2


def test_a_right_to_left_translation_is_edited_from_the_right(room, window, qtbot):
    room.begin("he", "", None)
    room.page.sheet.choose(0)
    room.edit()
    option = room.field.document().defaultTextOption()
    assert option.textDirection() == Qt.LayoutDirection.RightToLeft
    room.field.insertPlainText("שלום")  # as an input method gives it
    assert room.page.sheet.column.block(0).right.rtl


def test_the_picture_shows_the_translation_the_original_or_both(room, window, qtbot):
    track = translated(room, window, qtbot)
    picture = window.desk.picture()
    assert picture.track.id == track.id
    window.desk.commands.run("show_on_picture")
    assert picture.tracks == (track.id, window.session.project.active)
    window.desk.commands.run("show_on_picture")
    assert picture.track.id == window.session.project.active
    window.show_room("captions")
    assert picture.track.id == window.session.project.active and picture.tracks == (0, 0)


def test_a_service_gets_nothing_before_its_price_is_agreed_to(room, window, qtbot):
    server = StandIn()
    threading.Thread(target=server.serve_forever, daemon=True).start()
    asked = []
    try:
        SETTINGS.write(Settings(translators=(f"remote:{server.address}",)))
        window.dialogs.yes = lambda question, go="": asked.append(question) or False
        room.begin("pt", f"remote:{server.address}", None)
        assert "would leave this machine" in asked[0] and "EUR" in asked[0]
        assert server.received == [] and translated_tracks(window.session.project) == []
        window.dialogs.yes = lambda question, go="": True
        room.begin("pt", f"remote:{server.address}", None)
        idle(window, qtbot)
        assert server.received and all(slot.caption for slot in room.page.sheet.slots)
    finally:
        SETTINGS.write(Settings())
        server.shutdown()
        server.server_close()


def test_a_translation_that_exists_is_taken_from_a_file(room, window, qtbot, tmp_path):
    source = window.session.project.captions.captions
    cues = [
        f"{k}\n{stamp(one.start_ms)} --> {stamp(one.end_ms)}\nTeksti {k}\n" for k, one in enumerate(source, 1)
    ]
    path = tmp_path / "fi.srt"
    path.write_text("\n".join(cues))
    window.dialogs.translation_file = lambda: path
    room.begin_from_file("fi", None)
    assert texts(room) == [f"Teksti {k}" for k in range(1, len(source) + 1)]
    assert [one.sources for one in room.findings.track.captions] == [(one.id,) for one in source]
    path.write_text("no captions")
    with pytest.raises(DubrelError, match="has no captions"):
        room.translating.file()


def stamp(ms):
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02},{ms % 1000:03}"


def test_the_memory_goes_out_and_comes_in_as_tmx(room, window, qtbot, tmp_path):
    translated(room, window, qtbot)
    room.page.sheet.choose(0)
    window.desk.commands.run("approve")
    path = tmp_path / "out.tmx"
    window.dialogs.memory_file = lambda saving="": path
    window.desk.commands.run("export_memory")
    units, _ = read_tmx(path)
    assert units[0]["en"] == "Welcome back to Slow Water."
    room.remembering.memory().forget(units[0]["en"], "en", "pt")
    window.desk.commands.run("import_memory")
    assert room.remembering.memory().exact(units[0]["en"], "en", "pt") == units[0]["pt"]


def test_terms_are_changed_in_the_glossary_and_the_translation_is_checked_by_them(room, window, qtbot):
    from dubrel.desk.translation.dialogs.glossary import GlossaryDialog

    translated(room, window, qtbot)
    dialog = GlossaryDialog(window.desk, "pt", window)
    dialog.field.setText("oak")
    dialog.add.click()
    dialog.table.item(0, 1).setText("freixo")
    [term] = window.session.project.terms
    assert term.right == "oak" and term.translations == (("pt", "freixo"),)
    room.findings.settle()
    assert room.findings.counts["glossary"] > 0
    window.session.undo()
    window.session.undo()
    room.findings.settle()
    assert window.session.project.terms == () and room.findings.counts["glossary"] == 0
    dialog.close()


def test_replacing_goes_through_the_translation_the_original_or_both(room, window, qtbot):
    from dubrel.desk.translation.dialogs.replace import ReplaceDialog

    translated(room, window, qtbot)
    dialog = ReplaceDialog(window.desk, room.findings.track_id, window)
    dialog.where.setCurrentIndex(dialog.where.findData("both"))
    dialog.field.setText("Tobiah")
    dialog.becomes.setText("Jeremiah")
    assert dialog.table.rowCount() == 2
    dialog.replace_all()
    assert any("Jeremiah" in text for text in texts(room)) and not any(
        "Tobiah" in text for text in texts(room)
    )
    assert "Jeremiah" in " ".join(turn.text for turn in window.session.project.transcript.turns)
    dialog.close()


def test_a_click_chooses_and_a_second_one_edits(room, window, qtbot):
    translated(room, window, qtbot)
    sheet = room.page.sheet
    at = QPoint(round(sheet.left_of(True)) + 20, round(sheet.block_top(1)) + 8)
    QTest.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert sheet.current == 1
    QTest.mouseClick(sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert room.field.isVisible()


def test_what_a_translation_means_is_found_out_in_the_background(room, window, qtbot):
    translated(room, window, qtbot)
    sheet = room.page.sheet
    sheet.choose(0)
    room.edit()
    room.field.selectAll()
    QTest.keyClicks(room.field, "O gato dorme no telhado todas as tardes.")
    room.field.close_field()
    room.findings.settle()
    pair = room.approving.pair()
    qtbot.waitUntil(lambda: (pair.source, pair.target) in room.findings.known)
    room.findings.settle()
    assert room.findings.known[pair.source, pair.target].meaning < 0.06
    assert "meaning" in [one.rule for one in room.findings.doubts_of(sheet.slot.caption)]


def test_what_is_not_counted_yet_is_not_said(window, qtbot):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("translation")
    room = window.rooms["translation"]
    said = []
    window.desk.counted.connect(lambda: said.append((room.findings.counting, told(room.todo().text))))
    qtbot.waitUntil(lambda: (False, "2 to look at") in said)
    assert {text for counting, text in said if counting} == {"Portuguese"}
