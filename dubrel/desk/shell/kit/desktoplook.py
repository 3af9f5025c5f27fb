"""The look that the desktop asks for: dark or light, high contrast, large text; followed while it runs."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QWidget

from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import desktop_scale, set_scale
from dubrel.desk.shell.kit.theme import THEMES, Theme
from dubrel.user.settings import SETTINGS, Settings


def theme_of(settings: Settings) -> Theme:
    """The theme that was set, or the one that the desktop asks for."""
    if settings.theme != "system":
        return THEMES[settings.theme]
    hints = QGuiApplication.styleHints()
    dark = hints.colorScheme() == Qt.ColorScheme.Dark
    sharp = hints.accessibility().contrastPreference() == Qt.ContrastPreference.HighContrast
    return THEMES[("night" if dark else "day") + ("-sharp" if sharp else "")]


def other_theme(theme: Theme) -> Theme:
    """Night for day, day for night, as sharp as it is."""
    way = ("day", "night") if theme.name.startswith("day") else ("night", "day")
    return THEMES[theme.name.replace(*way)]


def take_scale(settings: Settings) -> None:
    """Show everything as large as was set, on a desktop whose own text may be larger than usual."""
    set_scale(settings.text_size / 100 * desktop_scale())


@guarded
class DesktopLook(QObject):
    """Tells when the desktop asks for another look.

    Parameters
    ----------
    window : QWidget
    changed : callable
        Gets the settings.
    """

    def __init__(self, window: QWidget, changed: Callable[[Settings], None]) -> None:
        super().__init__(window)
        self._changed, self._known = changed, self._asked()
        hints = QGuiApplication.styleHints()
        hints.colorSchemeChanged.connect(self._tell)
        hints.accessibility().contrastPreferenceChanged.connect(self._tell)
        screen = QGuiApplication.primaryScreen()
        if screen is not None:
            screen.logicalDotsPerInchChanged.connect(self._tell)
        window.installEventFilter(self)

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        """The desktop has another font."""
        if event.type() == QEvent.Type.ApplicationFontChange:
            self._tell()
        return False

    def _asked(self) -> tuple[str, float]:
        """What the desktop asks for, as far as the settings follow it."""
        return theme_of(SETTINGS.read()).name, desktop_scale()

    def _tell(self, *_: object) -> None:
        asked = self._asked()
        if asked != self._known:  # a theme that was switched by hand stays
            self._known = asked
            self._changed(SETTINGS.read())
