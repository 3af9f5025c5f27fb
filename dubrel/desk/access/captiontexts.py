"""The stanzas as a screen reader gets them: each caption a text with its times and what is to fix."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from dubrel.base.catalogue import told, tr
from dubrel.base.timecode import format_clock
from dubrel.desk.access.described import Described, Describing
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Caption, Word
from dubrel.project.captiontext import text_of


class CaptionTexts(Describing):
    """Says what the sheet of captions shows; their text is written in a field of its own.

    Parameters
    ----------
    sheet : CaptionSheet
    """

    page: CaptionSheet
    acts = ((tr("Play"), "play_caption"), (tr("Fix"), "fix_caption"), (tr("Edit the text"), "edit_caption"))

    def __init__(self, sheet: CaptionSheet) -> None:
        super().__init__(sheet, sheet.chosen, sheet.findings.marked)

    def things(self) -> Sequence[Caption]:
        """The captions."""
        return self.page.captions

    def caret(self) -> tuple[int, int]:
        """The chosen word is marked, as it is on the page."""
        word = self.page.word
        spans = self._spans(self.page.current) if word is not None else ()
        at = next((start for start, _, one in spans if one is word), 0)
        return at, at

    def _spans(self, place: int) -> Iterator[tuple[int, int, Word]]:
        """From, to and word of what stands in the text of a caption; words that are written otherwise not."""
        text, end = self.described(place).text, 0
        for word in self.page.words_of(self.page.captions[place]):
            start = text.find(word.text, end)
            if start >= 0:
                end = start + len(word.text)
                yield start, end, word

    def described(self, place: int) -> Described:
        """A caption: who begins to speak, its times, what is to fix; its lines."""
        project, sheet = self.page.session.project, self.page
        caption, track = sheet.captions[place], project.captions
        assert track is not None
        who = sheet.new_speaker(place)
        findings = sheet.findings.of(caption)
        parts = [
            shown_name(project, who) if who else "",
            tr("{start} to {end}").format(
                start=format_clock(caption.start_ms), end=format_clock(caption.end_ms)
            ),
            *(
                tr("to fix: {message}").format(message=told(one.message))
                if one.must
                else tr("advice: {message}").format(message=told(one.message))
                for one in findings
            ),
            "done" if caption.done else "",
        ]
        lines = text_of(project, track, caption).lines
        return Described(", ".join(filter(None, parts)), "\n".join(lines))

    def put_caret(self, place: int, anchor: int, caret: int) -> None:
        """Choose the caption, and the word at the caret."""
        word = next((one for _, end, one in self._spans(place) if end >= caret), None)
        self.page.choose(place, word=None if word is None else word.id)
