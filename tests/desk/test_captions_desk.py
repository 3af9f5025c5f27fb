"""Captions in the real window: hands, text, styles, previews, place, with jobs, undo and other projects."""

import pytest
from conftest import DEMO
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.captions.styles import DEFAULT_STYLE, STYLES
from dubrel.desk.captions.dialogs.preview import PreviewDialog
from dubrel.desk.captions.dialogs.sounds import SoundsDialog
from dubrel.desk.sheet.captionbars import CAPTIONS
from dubrel.desk.shell.kit.scale import set_scale
from dubrel.edits.captions.soundcaptions import proposals
from dubrel.edits.captions.styleeffect import effect_of, effect_with
from dubrel.model import Banner, SoundSpot
from dubrel.project.tracks import with_track
from dubrel.store.projectfile import open_project
from dubrel.user.styles import own_styles

SHOTS = (10_320, 19_000, 25_680)


@pytest.fixture
def desk(window):
    """The film's captions, with shot changes known."""
    project = open_project(DEMO / "heron-film.dubrel")
    media = replace(
        project.media,
        path=str(DEMO / "heron-film.mp4"),
        shots=SHOTS,
        banners=(Banner(12_200, 16_800, 3, 75.8, 42, 90.9),),
    )
    window.session.open(replace(project, media=media), None, saved=True)
    window.show_room("captions")
    window.room = window.rooms["captions"]
    window.sheet_ = window.room.stanzas
    window.sheet_.choose(1)
    return window


def captions(desk):
    return desk.session.project.captions.captions


def shown(desk, place):
    return list(desk.sheet_.build(captions(desk)[place]).text.lines)


def test_hands_by_key_are_one_step_each_and_all_are_undone(desk):
    start = desk.session.project
    sheet = desk.sheet_
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    QTest.keyClick(sheet, Qt.Key.Key_Right)
    for name in (
        "break_here",
        "split_caption",
        "last_to_next",
        "tick_caption",
        "hide_word",
        "place_top",
        "join_next",
    ):
        before = desk.session.history.depth
        sheet.choose(1, word=captions(desk)[1].words[:4][-1])
        desk.commands.run(name)
        assert desk.session.history.depth == before + 1, name
    for _ in range(7):
        desk.commands.run("undo")
    assert desk.session.project == start


def test_a_run_of_nudges_is_one_step(desk):
    one = captions(desk)[1]
    depth = desk.session.history.depth
    for _ in range(5):
        desk.commands.run("caption_out_earlier")
    assert captions(desk)[1].end_ms == one.end_ms - 200 and desk.session.history.depth == depth + 1
    assert captions(desk)[1].held == ("times",)
    assert "set by hand: times" in desk.sheet_.build(captions(desk)[1]).remarks


def test_text_is_edited_where_it_stands_and_the_transcript_follows(desk, qtbot):
    QTest.keyClick(desk.sheet_, Qt.Key.Key_Return)
    field = desk.room.field
    assert field.isVisible() and field.toPlainText().startswith("The mist lies")
    QTest.keyClicks(field, " Now")
    assert desk.session.project.transcript.turns[0].text.endswith("trestles. Now")
    assert shown(desk, 1)[-1].endswith("trestles. Now")
    depth = desk.session.history.depth
    QTest.keyClicks(field, " then")
    assert desk.session.history.depth == depth
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert not field.isVisible()
    desk.commands.run("undo")
    assert desk.session.project.transcript.turns[0].text.endswith("her trestles.")


def test_tab_goes_to_the_text_of_the_next_caption(desk):
    desk.commands.run("edit_caption")
    QTest.keyClick(desk.room.field, Qt.Key.Key_Tab)
    assert desk.sheet_.current == 2 and desk.room.field.toPlainText().startswith("You look")
    QTest.keyClick(desk.room.field, Qt.Key.Key_Escape)


def test_another_project_closes_the_field(desk):
    desk.commands.run("edit_caption")
    other = open_project(DEMO / "slow-water-7.dubrel")
    desk.session.open(other, None, saved=True)
    assert not desk.room.field.isVisible() and desk.session.project is other


def test_several_captions_are_selected_joined_and_set_alone(desk):
    QTest.keyClick(desk.sheet_, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert len(desk.sheet_.concerned) == 2
    count = len(captions(desk))
    desk.commands.run("join_next")
    assert len(captions(desk)) == count - 1


def test_the_explanation_shows_and_the_next_best_is_taken(desk):
    high = desk.sheet_.column.block(1).measure()
    desk.commands.run("explain")
    assert desk.sheet_.column.block(1).measure() > high + 100
    before = shown(desk, 1)
    desk.commands.run("next_best")
    assert shown(desk, 1) != before
    desk.commands.run("better")
    assert shown(desk, 1) == before
    desk.sheet_.grab()


def test_setting_again_is_shown_before_it_is_done(desk):
    asked = []

    def ask(title, go, scopes, make):
        dialog = PreviewDialog(desk.session.project, desk.theme, title, go, scopes, make, desk)
        asked.append((dialog.says.text(), dialog.list.count(), [key for key, _ in scopes]))
        return dialog.made

    desk.room.ask.preview = ask
    desk.room.setting.set_by(replace(DEFAULT_STYLE, max_cpl=30))
    ((text, count, scopes),) = asked
    assert "would change" in text and count > 3 and scopes == ["all", "selection", "broken"]
    assert desk.session.project.captions.style.max_cpl == 30
    desk.commands.run("undo")
    assert desk.session.project.captions.style.max_cpl == 42


def test_a_preview_of_a_project_that_changed_meanwhile_is_not_taken(desk):
    def ask(title, go, scopes, make):
        made = make("all", True)
        desk.commands.run("tick_caption")
        return made

    desk.room.ask.preview = ask
    with pytest.raises(DubrelError, match="changed in the meantime"):
        desk.room.setting.set_by(replace(DEFAULT_STYLE, max_cpl=30))
    assert desk.session.project.captions.style.max_cpl == 42


def test_fix_all_moves_captions_off_the_lettering(desk):
    desk.room.ask.preview = lambda title, go, scopes, make: make("", True)
    desk.room.findings.settle()
    assert desk.room.findings.rules["lettering"] == 2
    desk.commands.run("fix_all")
    desk.room.findings.settle()
    assert desk.room.findings.count == 0
    assert desk.room.todo().text == f"{len(captions(desk))} in order"


def test_the_page_of_a_style_shows_its_effect_and_says_what_cannot_be(desk, qtbot):
    desk.commands.run("style")
    page = desk.room.styling.page
    field = page.main.fields["max_cpl"]
    QTest.keyClick(field, Qt.Key.Key_Down)
    assert page.style_.max_cpl == 41
    then = effect_with(desk.session.project, page.style_)
    qtbot.waitUntil(lambda: page.set.text() == f"Set {then.captions} captions")
    assert page.says[0].text() == f"Captions: {len(captions(desk))} → {then.captions}"
    assert page.says[1].text() == f"To fix: {effect_of(desk.session.project).broken} → {then.broken}"
    page.take("min_ms", 9000)
    assert "Shortest time" in page.problem.text() and not page.set.isEnabled()
    page.take("min_ms", 1000)
    page.keep.click()
    assert desk.session.project.captions.style.max_cpl == 41 and not desk.room.styling.on


def test_styles_are_copied_kept_compared_and_deleted(desk, tmp_path):
    desk.commands.run("style")
    styling, ask = desk.room.styling, desk.room.ask
    ask.line = lambda title, question, now="": "River television"
    styling.do("copy")
    styling.page.take("max_cps", 14.0)
    styling.do("keep")
    assert own_styles()["River television"].max_cps == 14.0
    ask.style_file = lambda saving="": tmp_path / "river.json"
    styling.do("export")
    styling.do("import")
    assert styling.page.style_.name == "River television"
    seen = []
    desk.ask.one_of = lambda title, question, names, go="": "Children"
    ask.compared = lambda one, other, first, second: seen.append(
        (len(one.captions.captions), len(other.captions.captions))
    )
    styling.do("compare")
    assert seen[0][0] == effect_with(desk.session.project, STYLES["Children"]).captions
    styling.do("forget")
    assert own_styles() == {}
    desk.commands.run("style")
    assert desk.pages.currentWidget() is desk.sheet_


def test_an_edge_is_dragged_on_the_strip_and_snaps_to_a_shot_change(desk):
    strip, one = desk.strip, captions(desk)[1]
    desk.show()
    layer = strip.layer
    y = CAPTIONS + 12
    grip = layer.grip_at(strip, QPointF(strip.x_of(one.end_ms) - 1, y))
    assert grip[:2] == ("out", one.id)
    layer.drag(grip, SHOTS[0] - 30)
    assert captions(desk)[1].end_ms == SHOTS[0]
    layer.let_go(grip)
    whole = layer.grip_at(strip, QPointF(strip.x_of((one.start_ms + one.end_ms) // 2), y))
    assert whole[0] == "whole"
    layer.drag(whole, whole[2] + 900)
    moved = captions(desk)[1]
    assert moved.start_ms > one.start_ms and moved.end_ms - moved.start_ms == SHOTS[0] - one.start_ms
    strip.grab()
    layer.let_go(whole)


def test_a_click_on_a_caption_of_the_strip_moves_the_playhead(desk):
    strip, one = desk.strip, captions(desk)[0]
    desk.show()
    at = QPoint(round(strip.x_of(one.start_ms + 900)), CAPTIONS + 12)
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=at)
    assert abs(desk.player.position - one.start_ms - 900) < 60 and captions(desk)[0] == one


def test_a_caption_is_dragged_on_the_picture_and_put_back(desk):
    picture, one = desk.booth.picture, captions(desk)[1]
    desk.show()
    picture.set_position(one.start_ms + 100)
    picture.grab()
    middle = picture.caption_box.center().toPoint()
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(picture, QPoint(middle.x(), 5))
    picture.grab()
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=QPoint(middle.x(), 5))
    assert captions(desk)[1].held == ("place",) and "middle" not in captions(desk)[1].place
    assert desk.room.editing.place_now().endswith("down")
    desk.commands.run("place_usual")
    assert captions(desk)[1].place == "" and captions(desk)[1].held == ()


def test_the_picture_is_enlarged_and_goes_back_to_the_booth(desk):
    desk.show()
    desk.commands.run("enlarge")
    assert desk.whole.currentWidget() is desk.booth.picture
    desk.booth.picture.grab()
    desk.commands.run("safe_areas")
    desk.booth.picture.grab()
    desk.show_room("wording")
    assert (
        desk.booth.head.layout().indexOf(desk.booth.picture) == 0 and desk.whole.currentWidget() is desk.body
    )


def test_a_look_is_changed_for_all_and_for_one_speaker(desk):
    panel = desk.room.panel
    look = panel.look
    look.take("size", 8.0)
    assert desk.session.project.captions.look.size == 8.0
    look.whose.setCurrentIndex(1)
    look.take("colour", "#F6E27A")
    track = desk.session.project.captions
    assert track.look.colour == "#FFFFFF" and dict(track.looks)["s1"].colour == "#F6E27A"
    desk.commands.run("undo")
    assert desk.session.project.captions.looks == ()


def test_shot_changes_are_added_and_removed_by_hand(desk):
    desk.player.seek(5000)
    desk.commands.run("shot_here")
    assert desk.session.project.media.shots == (5000, *SHOTS)
    desk.player.seek(19_080)
    desk.commands.run("shot_here")
    assert desk.session.project.media.shots == (5000, 10_320, 25_680)
    desk.commands.run("undo")
    assert desk.session.project.media.shots == (5000, *SHOTS)


def test_shot_changes_are_found_in_the_background_while_captions_are_edited(desk, qtbot, scene):
    bare = replace(desk.session.project, media=replace(desk.session.project.media, shots=None, banners=()))
    desk.session.open(bare, None, saved=True)
    desk.room.pictures.looked_at.clear()
    desk.session.media_path = scene
    desk.room.pictures.find()
    desk.sheet_.choose(1)
    desk.commands.run("tick_caption")
    qtbot.waitUntil(lambda: not desk.jobs.busy)
    assert desk.session.project.media.shots == (10_320,) and captions(desk)[1].done
    desk.commands.run("undo")
    assert desk.session.project.media.shots == (10_320,) and not captions(desk)[1].done


def test_proposed_sounds_are_ticked_and_added(desk):
    found = proposals(
        desk.session.project, [SoundSpot(0, 2500, "music", 0.9), SoundSpot(9000, 11_000, "water", 0.4)]
    )
    dialog = SoundsDialog(desk.desk, found)
    assert dialog.list.count() == 2
    dialog.list.item(1).setCheckState(Qt.CheckState.Unchecked)
    assert [one.text for one in dialog.chosen] == ["[music]"]
    dialog.close()


def test_captions_are_ticked_one_after_the_other_until_all_are_done(desk):
    desk.sheet_.choose(0)
    for _ in captions(desk):
        desk.commands.run("tick_caption")
    assert all(one.done for one in captions(desk))
    desk.commands.run("next_not_done")
    assert desk.message.text() == "Every caption is done."


def test_a_query_stands_beside_its_caption(desk):
    desk.room.ask.line = lambda title, question, now="": "Which canal?"
    desk.commands.run("caption_query")
    assert "Query: Which canal?" in desk.sheet_.column.block(1).remarks


def test_nothing_open_says_why_of_every_command(window):
    for command in window.rooms["captions"].commands():
        if command.name != "style":
            assert command.why_not(), command.name


def test_a_track_of_a_right_to_left_language_is_laid_out_from_the_right(desk):
    track = desk.session.project.captions
    own = tuple(
        replace(one, words=(), breaks=(), named=(), text="שלום לכולם, ברוכים הבאים") for one in track.captions
    )
    desk.session.apply(
        with_track(desk.session.project, replace(track, language="he", captions=own)),
        "x",
        base=desk.session.project,
    )
    stanza = desk.sheet_.build(captions(desk)[1])
    line = stanza.layouts[0].lineAt(0)
    assert line.naturalTextRect().left() > 10
    desk.sheet_.grab()


def test_captions_of_a_column_have_one_size_however_large_the_text(window):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("captions")
    window.resize(1280, 700)
    count, sizes = len(window.stanzas.captions), []
    try:
        for scale in (1.0, 1.5):
            set_scale(scale)
            window.stanzas.lay_out_again()
            stanzas = [window.stanzas.column.block(nth) for nth in range(count)]
            sizes.append({one.font.pixelSize() for one in stanzas})
    finally:
        set_scale(1.0)
    assert [len(some) for some in sizes] == [1, 1]
    assert min(sizes[1]) > max(sizes[0])
