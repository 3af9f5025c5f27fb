"""Edit the text of a caption where it stands."""

from __future__ import annotations

from PySide6.QtCore import QRect
from PySide6.QtGui import QFontMetrics

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.captions.painting import left_of, top_of
from dubrel.desk.captions.stanzas import CaptionSheet
from dubrel.desk.sheet.linesfield import LinesField
from dubrel.desk.shell.kit.guard import guarded
from dubrel.edits.captions.rewriting import rewritten, written_text
from dubrel.model import Caption
from dubrel.project.index import caption_with


@guarded
class TextField(LinesField):
    """A field over the lines of the current caption."""

    def __init__(self, sheet: CaptionSheet) -> None:
        super().__init__(sheet, sheet.session, tr("Text of the caption"))
        self.sheet = sheet
        self._caption = 0

    def edit(self, caption: Caption) -> None:
        """Edit a caption."""
        track = self.session.project.captions
        if track is not None:
            self._caption = caption.id
            font = self.sheet.column.block(self.sheet.current).font
            self.begin(written_text(self.session.project, track, caption), font)

    def text_now(self) -> str | None:
        """What the caption says now, without names and dashes."""
        project = self.session.project
        track = project.captions
        caption = caption_with(project, track.id, self._caption) if track else None
        return written_text(project, track, caption) if track and caption else None

    def place_now(self) -> QRect | None:
        """Over the lines of the stanza."""
        if self.sheet.current < 0:
            return None
        stanza = self.sheet.column.block(self.sheet.current)
        top = top_of(stanza, self.sheet.block_top(self.sheet.current))
        high = max(2, self.blockCount()) * QFontMetrics(stanza.font).lineSpacing() + 6
        return QRect(round(left_of(stanza)), round(top), round(stanza.room), high)

    def take(self, text: str) -> None:
        """Take what was typed into the transcript, if it can be."""
        project = self.session.project
        try:
            made = rewritten(project, self._caption, text)
        except DubrelError:
            return  # an empty field, until there is a word again
        self.session.apply(made, tr("Edit a caption"), base=project, key=f"caption-text-{self._caption}")

    def forget(self) -> None:
        """No caption is edited any more."""
        self._caption = 0

    def go_on(self, step: int) -> None:
        """Edit the next caption."""
        self.sheet.choose(self.sheet.current + step)
        if (caption := self.sheet.caption) is not None:
            self.edit(caption)
