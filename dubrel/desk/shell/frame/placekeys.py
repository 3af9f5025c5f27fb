"""Keys by their place, where what is on them has no meaning: Cyrillic letters, French figures.

A shortcut is written with the letter, figure or mark of the keyboard that most
know. Where a key says another Latin letter, that letter counts; where it says
something that no shortcut has, its place does; and the keys of figures are those
of figures, whatever mark is on them.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from dubrel.desk.shell.core.commands import Commands
from dubrel.desk.shell.kit.guard import guarded

ROWS = {10: "1234567890-=", 24: "QWERTYUIOP[]", 38: "ASDFGHJKL;'", 51: "\\", 52: "ZXCVBNM,./"}
"""Codes of the first key of each row under X11 and Wayland, and what stands on its keys."""
_SIGNS = {first + nth: sign for first, row in ROWS.items() for nth, sign in enumerate(row)}
_FIGURES = range(10, 20)
_HELD = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
_NAMES = (
    (Qt.KeyboardModifier.ControlModifier, "Ctrl+"),
    (Qt.KeyboardModifier.AltModifier, "Alt+"),
    (Qt.KeyboardModifier.ShiftModifier, "Shift+"),
)


def by_place(code: int, key: int, modifiers: Qt.KeyboardModifier) -> str:
    """The keys that are meant by the place of one; empty where its letter counts, or nothing is held.

    Parameters
    ----------
    code : int
        Of the key, as the system gives it.
    key : int
        What is on it in this layout.
    modifiers : Qt.KeyboardModifier

    Examples
    --------
    >>> by_place(10, ord("&"), Qt.KeyboardModifier.ControlModifier)
    'Ctrl+1'
    >>> by_place(24, ord("A"), Qt.KeyboardModifier.ControlModifier)
    ''
    """
    sign = _SIGNS.get(code)
    latin = Qt.Key.Key_A <= key <= Qt.Key.Key_Z
    if sign is None or latin or not modifiers & _HELD:
        return ""
    return "".join(name for held, name in _NAMES if modifiers & held) + sign


def is_figure(code: int, key: int) -> bool:
    """Whether a key is one of the figures although it says a mark without Shift."""
    latin = Qt.Key.Key_A <= key <= Qt.Key.Key_Z
    return code in _FIGURES and not latin and not Qt.Key.Key_0 <= key <= Qt.Key.Key_9


@guarded
class PlaceKeys(QObject):
    """Runs commands by the places of keys, where nothing else took them.

    Parameters
    ----------
    window : QWidget
    commands : Commands
    """

    def __init__(self, window: QWidget, commands: Commands) -> None:
        super().__init__(window)
        self._window, self._commands = window, commands
        self._looked_at = [window]
        window.installEventFilter(self)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._follow)

    def _follow(self, _old: QWidget | None, new: QWidget | None) -> None:
        """Look at what has the keys, and at nothing else: events are many."""
        if new is None or new.window() is not self._window or new is self._window:
            return
        for one in self._looked_at[1:]:
            if isValid(one):
                one.removeEventFilter(self)
        self._looked_at[1:] = [new]
        new.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Look at keys that no shortcut took; those of figures are kept from the shortcuts of marks."""
        override = event.type() == QEvent.Type.ShortcutOverride
        if not (override or event.type() == QEvent.Type.KeyPress) or not isinstance(event, QKeyEvent):
            return False
        if not isinstance(watched, QWidget) or watched.window() is not self._window:
            return False
        code, key = event.nativeScanCode(), event.key()
        meant = by_place(code, key, event.modifiers())
        name = self._commands.named(QKeySequence(meant)) if meant else ""
        first = is_figure(code, key)
        if not name or not (first or not self._commands.named(QKeySequence(event.keyCombination()))):
            return False
        if override:
            event.setAccepted(first)
            return first
        self._commands.run(name)
        return True
