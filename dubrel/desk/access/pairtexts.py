"""The facing pages as a screen reader gets them: each pair a text, the original and the translation."""

from __future__ import annotations

from PySide6.QtCore import QRect

from dubrel.base.timecode import format_clock
from dubrel.desk.access.described import Described
from dubrel.desk.translation.facing import FacingSheet
from dubrel.desk.translation.layout import Layout
from dubrel.model import Caption

_EDIT = "edit"


class PairTexts:
    """Says what the facing pages show; translations are written in a field of its own.

    Parameters
    ----------
    sheet : FacingSheet
    """

    acts = (
        ("Play", "play_translated"),
        ("Approve, or withdraw that", "approve"),
        ("Edit the translation", _EDIT),
    )

    def __init__(self, sheet: FacingSheet) -> None:
        self.page = sheet
        self.moved, self.changed = sheet.chosen, sheet.findings.counted
        self._ids: tuple[object, list[int]] = ((), [])

    def empty(self) -> str:
        """What the page says where nothing stands on it."""
        return self.page.accessible_text()

    def ids(self) -> list[int]:
        """Ids of the pairs."""
        items = self.page.column.items
        if self._ids[0] is not items:
            self._ids = items, [one.id for one in items]
        return self._ids[1]

    def chosen(self) -> int:
        """The chosen pair."""
        return self.page.current

    def caret(self) -> tuple[int, int]:
        """There is no caret on the page: the text is read from its beginning."""
        return 0, 0

    def described(self, place: int) -> Described:
        """A pair: when, how it stands, what to look at; original and translation on lines of their own."""
        sheet = self.page
        slot, pair = sheet.column.items[place], sheet.column.block(place)
        assert isinstance(pair, Layout)
        parts = [format_clock(slot.start_ms)]
        if slot.caption is None:
            parts.append("not translated yet")
        else:
            parts.append(standing(slot.caption))
            parts += [f"to look at: {one.message}" for one in sheet.findings.doubts_of(slot.caption)]
            parts += [f"to fix: {one.message}" for one in sheet.findings.rules_of(slot.caption) if one.must]
        left = " ".join(line for text in pair.left for line in text.lines)
        right = " ".join(pair.right.lines)
        return Described(", ".join(filter(None, parts)), "\n".join(filter(None, (left, right))))

    def rect(self, place: int) -> QRect:
        """Where a pair stands."""
        column = self.page.column
        top, high = self.page.block_top(place), column.top(place + 1) - column.top(place)
        return QRect(0, round(top), self.page.viewport().width(), round(high))

    def choose(self, place: int) -> None:
        """Make a pair the chosen one."""
        self.page.choose(place)

    def put_caret(self, place: int, anchor: int, caret: int) -> None:
        """Choose the pair."""
        self.page.choose(place)

    def run(self, command: str) -> None:
        """Run a command of the desk; the text is edited on the page."""
        if command == _EDIT:
            self.page.text_wanted.emit()
        else:
            self.page.desk.commands.run(command)

    def writer(self) -> None:
        """Nothing is written on the page itself."""
        return None


def standing(caption: Caption) -> str:
    """How a translation stands, in words."""
    return "approved" if caption.done else "edited" if "text" in caption.held else "not approved"
