"""The facing pages as a screen reader gets them: each pair a text, the original and the translation."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import told, tr
from dubrel.base.timecode import format_clock
from dubrel.desk.access.described import Described, Describing
from dubrel.desk.translation.facing import FacingSheet
from dubrel.desk.translation.layout import Layout
from dubrel.edits.translation.facing import Slot
from dubrel.model import Caption

_EDIT = "edit"


class PairTexts(Describing):
    """Says what the facing pages show; translations are written in a field of its own.

    Parameters
    ----------
    sheet : FacingSheet
    """

    page: FacingSheet
    acts = (
        (tr("Play"), "play_translated"),
        (tr("Approve, or withdraw that"), "approve"),
        (tr("Edit the translation"), _EDIT),
    )

    def __init__(self, sheet: FacingSheet) -> None:
        super().__init__(sheet, sheet.chosen, sheet.findings.counted)

    def things(self) -> Sequence[Slot]:
        """The pairs."""
        return self.page.column.items

    def described(self, place: int) -> Described:
        """A pair: when, how it stands, what to look at; original and translation on lines of their own."""
        sheet = self.page
        slot, pair = sheet.column.items[place], sheet.column.block(place)
        assert isinstance(pair, Layout)
        parts = [format_clock(slot.start_ms)]
        if slot.caption is None:
            parts.append(tr("not translated yet"))
        else:
            parts.append(standing(slot.caption))
            parts += [
                tr("to look at: {message}").format(message=told(one.message))
                for one in sheet.findings.doubts_of(slot.caption)
            ]
            parts += [
                tr("to fix: {message}").format(message=told(one.message))
                for one in sheet.findings.rules_of(slot.caption)
                if one.must
            ]
        left = " ".join(line for text in pair.left for line in text.lines)
        right = " ".join(pair.right.lines)
        return Described(", ".join(filter(None, parts)), "\n".join(filter(None, (left, right))))

    def run(self, command: str) -> None:
        """Run a command of the desk; the text is edited on the page."""
        if command == _EDIT:
            self.page.text_wanted.emit()
        else:
            super().run(command)


def standing(caption: Caption) -> str:
    """How a translation stands, in words."""
    return "approved" if caption.done else "edited" if "text" in caption.held else tr("not approved")
