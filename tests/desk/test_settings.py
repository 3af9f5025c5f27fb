"""The settings page: what is set there is kept, and is true at once."""

import json

import pytest
from conftest import DEMO
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox

from dubrel.base.folders import cache_root
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.shell.kit.theme import DAY, NIGHT
from dubrel.media.cache import cache_size, is_read
from dubrel.user.kept import DamageSaid
from dubrel.user.settings import SETTINGS, Settings


@pytest.fixture
def page(window):
    """The page, with settings as on a new machine before and after."""
    SETTINGS.path.unlink(missing_ok=True)
    window.apply_settings(Settings())
    window.commands.run("settings")
    yield window.pages.currentWidget()
    SETTINGS.path.unlink(missing_ok=True)
    window.apply_settings(Settings())


def choose(box: QComboBox, value):
    """Choose as a user does."""
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())


def test_the_page_shows_what_is_set(window, page):
    assert page.theme.currentData() == "system"
    assert page.text_size.currentData() == 100
    assert page.step_back.currentData() == 1000
    assert page.cache.text().endswith(" MB")
    assert not page.remove_engine.isEnabled()


def test_a_theme_is_worn_at_once_and_kept(window, page):
    choose(page.theme, "night")
    assert window.theme is NIGHT
    assert SETTINGS.read().theme == "night"
    choose(page.theme, "day")
    assert window.theme is DAY
    assert json.loads(SETTINGS.path.read_text())["theme"] == "day"


def test_the_text_of_the_sheets_grows_and_the_words_stay_where_they_were(window, page):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("wording")
    window.sheet.move_caret(Spot(3, 2))
    caret, before = window.sheet.caret, window.sheet.caret_rect().height()
    window.commands.run("settings")
    choose(window.pages.currentWidget().text_size, 150)
    window.show_room("wording")
    assert window.sheet.caret == caret
    assert window.sheet.caret_rect().height() > 1.3 * before
    assert SETTINGS.read().text_size == 150


def test_how_far_playing_steps_back(window, page, film):
    choose(page.step_back, 2000)
    window.filing.open_path(film)
    window.player.seek(9000)
    window.player.toggle()
    window.player.toggle()
    at = window.player.position
    window.player.toggle()
    assert window.player.position <= at - 1900
    window.player.pause()


def test_a_seek_after_pausing_is_not_stepped_back_from(window, page, film):
    choose(page.step_back, 2000)
    window.filing.open_path(film)
    window.player.seek(9000)
    window.player.toggle()
    window.player.toggle()
    window.player.seek(20_000)
    window.player.toggle()
    assert window.player.position >= 20_000
    window.player.pause()


def test_a_folder_for_deliverables_is_proposed_in_release(window, page, tmp_path):
    window.ask.folder = lambda name, now: tmp_path
    page.choose_folder("Deliverables", page.releases)
    assert SETTINGS.read().release_folder == str(tmp_path)
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("release")
    assert window.release.folder.text() == str(tmp_path / "Slow Water 7 release")


def test_a_recogniser_is_removed_with_its_consent(window, page):
    name = "remote:http://127.0.0.1:9"
    SETTINGS.write(Settings().with_engine(name).with_consent(name))
    page.refresh()
    assert page.engines.currentText() == "http://127.0.0.1:9"
    page.remove_engine.click()
    assert (SETTINGS.read().engines, SETTINGS.read().consented) == ((), ())
    assert not page.remove_engine.isEnabled()


def test_emptying_the_cache_spares_the_recording_that_is_open(window, page, film):
    window.filing.open_path(film)
    other = cache_root() / "0000"
    other.mkdir()
    (other / "sound-16k.i16").write_bytes(bytes(3_000_000))
    window.commands.run("settings")
    page = window.pages.currentWidget()
    before = cache_size()
    page.empty.click()
    assert not other.exists()
    assert cache_size() <= before - 3_000_000
    assert is_read(window.session.project.media)
    assert "The cache is empty" in window.message.text()


def test_escape_and_close_go_back_to_the_pass_one_came_from(window, page):
    window.show_room("captions")
    window.commands.run("settings")
    assert window.pages.currentWidget() is not window.rooms["captions"].page
    QTest.keyClick(window.pages.currentWidget(), Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.rooms["captions"].page
    window.commands.run("settings")
    window.pages.currentWidget().close_button.click()
    assert window.pages.currentWidget() is window.rooms["captions"].page


@pytest.mark.parametrize(
    "text",
    ["", "[]", "not json", '{"theme": "pink"}', '{"text_size": 7}', '{"step_back_ms": "x"}', "\ufffd"],
)
def test_a_damaged_settings_file_is_put_aside_and_said(text):
    SETTINGS.path.parent.mkdir(parents=True, exist_ok=True)
    for earlier in SETTINGS.path.parent.glob("settings damaged*"):
        earlier.unlink()
    said: list[str] = []
    damage = DamageSaid(said.append)
    SETTINGS.path.write_text(text)
    assert SETTINGS.read() == Settings()
    kept = SETTINGS.path.with_name("settings damaged.json")
    assert kept.read_text() == text
    assert len(said) == 1 and str(kept) in said[0]
    damage.close()
    assert not SETTINGS.path.exists()
    kept.unlink()


def test_a_step_back_out_of_range_is_the_nearest_one():
    SETTINGS.path.parent.mkdir(parents=True, exist_ok=True)
    SETTINGS.path.write_text('{"step_back_ms": 90000}')
    assert SETTINGS.read().step_back_ms == 5000
    SETTINGS.path.unlink()
