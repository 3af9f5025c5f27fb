"""The stanzas as a screen reader gets them: each caption a text with its times and what is to fix."""

from __future__ import annotations

from PySide6.QtCore import QRect

from dubrel.base.timecode import format_clock
from dubrel.desk.access.described import Described
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.edits.speakers.voices import shown_name
from dubrel.project.captiontext import text_of


class CaptionTexts:
    """Says what the sheet of captions shows; their text is written in a field of its own.

    Parameters
    ----------
    sheet : CaptionSheet
    """

    acts = (("Play", "play_caption"), ("Fix", "fix_caption"), ("Edit the text", "edit_caption"))

    def __init__(self, sheet: CaptionSheet) -> None:
        self.page = sheet
        self.moved, self.changed = sheet.chosen, sheet.findings.marked
        self._ids: tuple[object, list[int]] = ((), [])

    def empty(self) -> str:
        """What the page says where nothing stands on it."""
        return self.page.accessible_text()

    def ids(self) -> list[int]:
        """Ids of the captions."""
        captions = self.page.captions
        if self._ids[0] is not captions:
            self._ids = captions, [one.id for one in captions]
        return self._ids[1]

    def chosen(self) -> int:
        """The chosen caption."""
        return self.page.current

    def caret(self) -> tuple[int, int]:
        """The chosen word is marked, as it is on the page."""
        caption, word = self.page.caption, self.page.word
        if caption is None or word is None or not caption.words:
            return 0, 0
        text = self.described(self.page.current).text
        at = text.find(word.text)
        return (max(0, at), max(0, at))

    def described(self, place: int) -> Described:
        """A caption: who begins to speak, its times, what is to fix; its lines."""
        project, sheet = self.page.session.project, self.page
        caption, track = sheet.captions[place], project.captions
        assert track is not None
        who = sheet.new_speaker(place)
        findings = sheet.findings.of(caption)
        parts = [
            shown_name(project, who) if who else "",
            f"{format_clock(caption.start_ms)} to {format_clock(caption.end_ms)}",
            *(f"to fix: {one.message}" if one.must else f"advice: {one.message}" for one in findings),
            "done" if caption.done else "",
        ]
        lines = text_of(project, track, caption).lines
        return Described(", ".join(filter(None, parts)), "\n".join(lines))

    def rect(self, place: int) -> QRect:
        """Where a stanza stands."""
        column = self.page.column
        top, high = self.page.block_top(place), column.top(place + 1) - column.top(place)
        return QRect(0, round(top), self.page.viewport().width(), round(high))

    def choose(self, place: int) -> None:
        """Make a caption the chosen one."""
        self.page.choose(place)

    def put_caret(self, place: int, anchor: int, caret: int) -> None:
        """Choose the caption, and the word at the caret."""
        words = self.page.words_of(self.page.captions[place])
        text, at = self.described(place).text, 0
        for word in words:
            at = text.find(word.text, at)
            if at < 0 or at + len(word.text) >= caret:
                self.page.choose(place, word=word.id)
                return
            at += len(word.text)
        self.page.choose(place)

    def run(self, command: str) -> None:
        """Run a command of the desk."""
        self.page.desk.commands.run(command)

    def writer(self) -> None:
        """Nothing is written on the page itself."""
        return None
