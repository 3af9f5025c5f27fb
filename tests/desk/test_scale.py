"""Everything grows with the text size that was set and with that of the desktop, also while it runs."""

import json

import pytest
from conftest import DEMO
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QFont, QFontDatabase, QGuiApplication
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from dubrel.base.value import replace
from dubrel.desk.captions.stanza import line_height
from dubrel.desk.shell.kit import desktoplook
from dubrel.desk.shell.kit.desktoplook import other_theme, theme_of
from dubrel.desk.shell.kit.scale import desktop_scale, scale, set_scale
from dubrel.desk.shell.kit.sentence import BlankField
from dubrel.desk.shell.kit.theme import THEMES, ui_font
from dubrel.user.settings import SETTINGS, Settings


@pytest.fixture
def sized(window):
    """A window with the demo, as large as usual afterwards too."""
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    yield window
    window.apply_settings(Settings(theme="day"))


def set_size(window, percent):
    """Choose a text size as the settings do."""
    made = replace(SETTINGS.read(), text_size=percent)
    SETTINGS.write(made)
    window.apply_settings(made)


def test_the_whole_interface_grows_and_goes_back(sized):
    sized.show_room("captions")
    measured = lambda: (  # noqa: E731
        sized.rail.width(),
        sized.booth.width(),
        sized.strip.height(),
        ui_font(12).pixelSize(),
        sized.findChild(QPushButton).fontMetrics().height(),
        round(line_height()),
    )
    usual = measured()
    set_size(sized, 150)
    grown = measured()
    assert [round(b / a, 1) for a, b in zip(usual, grown)] == [1.5] * 6
    set_size(sized, 100)
    assert measured() == usual


def test_a_sentence_with_blanks_grows_while_it_is_looked_at(sized, qtbot):
    sized.show_room("captions")
    sized.commands.run("style")
    field = next(one for one in sized.findChildren(BlankField) if one.isVisible() and one.blank.words)
    before = field.sizeHint()
    set_size(sized, 150)
    assert field.sizeHint().width() > before.width() and field.sizeHint().height() > before.height() * 1.3
    word = next(one for one in field.parentWidget().findChildren(QLabel) if one.isVisible())
    assert word.sizeHint().width() <= word.width()


@pytest.mark.parametrize("percent", [80, 115, 150])
def test_no_button_and_no_label_is_cut_whatever_the_size(sized, qtbot, percent):
    sized.resize(1920, 1200)
    set_size(sized, percent)
    cut = []
    for room in sized.rooms:
        sized.show_room(room)
        QApplication.processEvents()
        for one in sized.findChildren(QPushButton):
            if one.isVisible() and one.width() < one.fontMetrics().horizontalAdvance(one.text()):
                cut.append((room, one.text()))
    assert cut == []


def test_the_text_of_the_desktop_is_followed_while_it_runs(sized, monkeypatch):
    usual = sized.rail.width()
    large = QFont("Sans Serif")
    large.setPointSizeF(18.0)
    monkeypatch.setattr(QFontDatabase, "systemFont", staticmethod(lambda _which: large))
    QApplication.sendEvent(sized, QEvent(QEvent.Type.ApplicationFontChange))
    assert scale() == 1.5 and sized.rail.width() == round(usual * 1.5)


def test_fonts_that_desktops_have_by_themselves_change_nothing(monkeypatch, qapp):
    for points in (9.0, 10.0, 11.0, 12.0):
        font = QFont("Sans Serif")
        font.setPointSizeF(points)
        monkeypatch.setattr(QFontDatabase, "systemFont", staticmethod(lambda _which, font=font: font))
        assert desktop_scale() == 1.0


def test_high_contrast_of_the_desktop_is_followed(sized, monkeypatch):
    class Hints:
        """What a desktop says that wants high contrast and darkness."""

        def colorScheme(self):
            return Qt.ColorScheme.Dark

        def accessibility(self):
            return self

        def contrastPreference(self):
            return Qt.ContrastPreference.HighContrast

    monkeypatch.setattr(desktoplook.QGuiApplication, "styleHints", staticmethod(Hints))
    assert theme_of(Settings()) is THEMES["night-sharp"]
    assert theme_of(Settings(theme="day")) is THEMES["day"]
    heard = []
    monkeypatch.undo()
    monkeypatch.setattr(sized, "set_theme", lambda theme: heard.append(theme.name))
    signal = QGuiApplication.styleHints().accessibility().contrastPreferenceChanged
    signal.emit(Qt.ContrastPreference.NoPreference)
    assert heard == []  # nothing else is asked for than before
    monkeypatch.setattr(desktoplook.QGuiApplication, "styleHints", staticmethod(Hints))
    signal.emit(Qt.ContrastPreference.HighContrast)
    assert heard == ["night-sharp"]


def test_night_for_day_stays_as_sharp_as_it_is():
    pairs = {"day": "night", "night": "day", "day-sharp": "night-sharp", "night-sharp": "day-sharp"}
    assert {name: other_theme(THEMES[name]).name for name in THEMES} == pairs


def test_a_size_in_the_settings_that_is_none_is_refused(tmp_path):
    SETTINGS.write(Settings(text_size=130))
    path = SETTINGS.path
    value = json.loads(path.read_text())
    value["text_size"] = 400
    path.write_text(json.dumps(value))
    assert SETTINGS.read().text_size == 100
    set_scale(1.0)
