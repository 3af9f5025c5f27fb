"""Keys that arrive: none that window managers take, each found on every layout, none twice."""

import re
from collections import Counter

import pytest
from conftest import DEMO
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication

from dubrel.desk.shell.frame.placekeys import ROWS, by_place, is_figure

TAKEN = (
    r"(Ctrl\+)?Alt\+Shift\+.*",  # switches layouts
    r"Ctrl\+Alt\+(Left|Right|Up|Down|Home|End|Tab|Esc|Del|Backspace|F\d+)",  # desktops, consoles
    r"Ctrl\+Alt\+[ADKLT]",  # windows, desktop, layouts, locking, terminal
    r"Alt\+(F\d+|Tab|Esc|Space|`)",  # menus, windows
    r"Meta\+.*",
    r"Ctrl\+Shift\+[UE]",  # characters by number and by name
    r"Ctrl\+Esc",
)
LAYOUTS = {  # what stands on the keys of the rows, in small, unshifted
    "German": ("1234567890ß´", "qwertzuiopü+", "asdfghjklöä", "#", "yxcvbnm,.-"),
    "French": ("&é\"'(-è_çà)=", "azertyuiop^$", "qsdfghjklmù", "*", "wxcvbn,;:!"),
    "Polish": ("1234567890-=", "qwertyuiop[]", "asdfghjkl;'", "\\", "zxcvbnm,./"),
    "Russian": ("1234567890-=", "йцукенгшщзхъ", "фывапролджэ", "\\", "ячсмитьбю."),
    "Japanese": ("1234567890-^", "qwertyuiop@[", "asdfghjkl;:", "]", "zxcvbnm,./"),
}
HELD = {
    "Ctrl": Qt.KeyboardModifier.ControlModifier,
    "Alt": Qt.KeyboardModifier.AltModifier,
    "Shift": Qt.KeyboardModifier.ShiftModifier,
}


def all_keys(window):
    """The keys of every command, as they are written."""
    written = {name: action.shortcut().toString() for name, action in window.commands.actions.items()}
    return {name: keys for name, keys in written.items() if keys}


def pressed(layout, code, sign, held):
    """The command that a key of a layout runs: by what is on it, else by its place."""
    modifiers = Qt.KeyboardModifier.NoModifier
    for one in held:
        modifiers |= HELD[one]
    key = ord(sign.upper()) if len(sign.upper()) == 1 else ord(sign)
    own = QKeySequence("+".join([*held, chr(key)])).toString()
    place = by_place(code, key, modifiers)
    return ("" if is_figure(code, key) else own), place


def test_no_key_is_one_that_something_else_takes(window):
    taken = {
        name: keys
        for name, keys in all_keys(window).items()
        if any(re.fullmatch(pattern, keys) for pattern in TAKEN)
    }
    assert taken == {}


def test_no_two_commands_have_the_same_keys(window):
    assert [keys for keys, count in Counter(all_keys(window).values()).items() if count > 1] == []


@pytest.mark.parametrize("layout", LAYOUTS)
def test_every_command_is_run_by_one_key_of_each_layout_and_no_key_runs_two(window, layout):
    """Every key with everything that can be held, as the window takes it."""
    keys = {QKeySequence(one).toString(): name for name, one in all_keys(window).items()}
    reached = Counter()
    for (first, row), signs in zip(ROWS.items(), LAYOUTS[layout]):
        assert len(row) == len(signs)
        for nth, sign in enumerate(signs):
            for held in (["Ctrl"], ["Alt"], ["Ctrl", "Shift"], ["Ctrl", "Alt"]):
                own, place = pressed(layout, first + nth, sign, held)
                name = keys.get(own) or keys.get(QKeySequence(place).toString() if place else "")
                if name:
                    reached[name] += 1
    lettered = {name for name, one in all_keys(window).items() if len(one.rsplit("+", 1)[-1] or "+") == 1}
    assert {name for name in lettered if not reached[name]} == set()


def test_a_key_without_a_meaning_is_taken_by_its_place(window):
    window.filing.open_path(DEMO / "slow-water-7.dubrel")
    window.show_room("wording")
    event = QKeyEvent(
        QEvent.Type.KeyPress, ord("&"), Qt.KeyboardModifier.ControlModifier, 10, 0, 0, "&", False, 1
    )
    QApplication.sendEvent(window.sheet, event)
    assert window.current.id == "intake"
    letter = QKeyEvent(
        QEvent.Type.KeyPress, 0x0429, Qt.KeyboardModifier.ControlModifier, 32, 0, 0, "щ", False, 1
    )
    opened = []
    window.dialogs.file_to_open = lambda: opened.append("asked")
    QApplication.sendEvent(window.sheet, letter)
    assert opened == ["asked"]


def test_a_letter_counts_wherever_it_stands():
    """On a French keyboard the key of the first row that says A is A, though Q stands there elsewhere."""
    assert by_place(24, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier) == ""
    assert by_place(24, ord("й".upper()), Qt.KeyboardModifier.ControlModifier) == "Ctrl+Q"
    assert by_place(24, ord("й".upper()), Qt.KeyboardModifier.NoModifier) == ""
