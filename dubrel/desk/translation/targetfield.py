"""Edit a translation where it stands."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QFontMetrics

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.text import is_rtl
from dubrel.desk.sheet.linesfield import LinesField
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.translation.facing import FacingSheet
from dubrel.edits.translation.track import write_first, write_translation
from dubrel.project.index import caption_with


@guarded
class TargetField(LinesField):
    """A field over the lines of the translation of the current slot."""

    def __init__(self, sheet: FacingSheet) -> None:
        super().__init__(sheet, sheet.session, tr("Translation"))
        self.sheet = sheet
        self._track = self._caption = 0
        self._sources: tuple[int, ...] = ()
        sheet.chosen.connect(self._follow)

    def edit(self) -> None:
        """Edit the current slot."""
        track, slot = self.sheet.track, self.sheet.slot
        if track is None or slot is None:
            return
        self._track = track.id
        self._caption = slot.caption.id if slot.caption else 0
        self._sources = tuple(one.id for one in slot.sources)
        right = is_rtl(track.language)
        option = self.document().defaultTextOption()
        option.setTextDirection(Qt.LayoutDirection.RightToLeft if right else Qt.LayoutDirection.LeftToRight)
        option.setAlignment(
            (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft)
            | Qt.AlignmentFlag.AlignAbsolute
        )
        self.document().setDefaultTextOption(option)
        text = slot.caption.text if slot.caption else ""
        self.begin(text, self.sheet.column.block(self.sheet.current).font)

    def _follow(self) -> None:
        """Leave where another slot was chosen meanwhile."""
        slot = self.sheet.slot
        mine = self._caption or -next(iter(self._sources), 0)
        if self.isVisible() and not self._writing and (slot is None or slot.id != mine):
            self.close_field()

    def text_now(self) -> str | None:
        """The translation as it is now; what was begun in an empty slot is nowhere yet."""
        if not self._caption:
            return self.plain(self.toPlainText())
        caption = caption_with(self.session.project, self._track, self._caption)
        return caption.text if caption is not None else None

    def place_now(self) -> QRect | None:
        """Over the lines of the slot."""
        place = self.sheet.current
        if place < 0 or not self.sheet.slots:
            return None
        rect = self.sheet.right_rect(place).toRect()
        font = self.sheet.column.block(place).font
        high = max(2, self.blockCount()) * QFontMetrics(font).lineSpacing() + 10
        rect.setHeight(max(rect.height(), high))
        return rect

    def take(self, text: str) -> None:
        """Take what was typed into the track."""
        project, track = self.session.project, self._track
        if not track:
            return
        try:
            if self._caption:
                made = write_translation(project, track, self._caption, text)
                key = f"translation-{self._caption}"
                self.session.apply(made, tr("Edit a translation"), base=project, key=key)
            elif text.strip():
                made, new = write_first(project, track, self._sources, text)
                self._caption = new
                self.session.apply(made, tr("Write a translation"), base=project, key=f"translation-{new}")
                self.sheet.choose_caption(new, seek=False)
        except DubrelError as error:
            self.sheet.desk.say(str(error))

    def forget(self) -> None:
        """Nothing is edited any more."""
        self._track = self._caption = 0

    def go_on(self, step: int) -> None:
        """Edit the next slot."""
        self.sheet.choose(self.sheet.current + step)
        self.edit()
