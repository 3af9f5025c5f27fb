"""The sheet of captions: choose them and their words by hand and by key."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QWidget

from dubrel.desk.captions.findings import Findings
from dubrel.desk.captions.painting import left_of, top_of
from dubrel.desk.captions.stanza import Stanza
from dubrel.desk.captions.stanzapage import CaptionPage
from dubrel.desk.sheet.page import TOP
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.model import Caption, Word


@guarded
class CaptionSheet(CaptionPage):
    """Captions to choose and to work on.

    Signals
    -------
    seek_wanted(int)
        The user chose a caption.
    text_wanted()
        The text of the current caption is to be edited.
    """

    seek_wanted = Signal(int)
    text_wanted = Signal()

    def __init__(self, desk: Desk, findings: Findings, parent: QWidget | None = None) -> None:
        super().__init__(desk, findings, parent)
        self.seek_wanted.connect(desk.player.seek)

    def choose(self, place: int, *, seek: bool = True, word: int | None = None, extend: bool = False) -> None:
        """Make a caption the current one and show it.

        Parameters
        ----------
        word : int, optional
            Id of the word in it; its first unless given.
        extend : bool
            The captions from where the selection began are selected.
        """
        if not self.captions:
            return
        before, place = self.current, max(0, min(place, len(self.captions) - 1))
        self._select(before, place, extend)
        self._current, self._word = self.captions[place], word
        if self.explains and before != place:
            self._rebuild(before, place)
        self.column.block(place)
        self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
        self.viewport().update()
        self.chosen.emit()
        if seek:
            self.seek_wanted.emit(self._current.start_ms)

    def _select(self, before: int, place: int, extend: bool) -> None:
        if not extend:
            self._anchor, self._selected = None, frozenset()
            return
        ids = [one.id for one in self.captions]
        if self._anchor not in ids:
            self._anchor = ids[max(0, before)]
        start = ids.index(self._anchor)
        self._selected = frozenset(ids[min(start, place) : max(start, place) + 1])

    def select_all(self) -> None:
        """Select every caption."""
        self._selected = frozenset(one.id for one in self.captions)
        self.viewport().update()
        self.chosen.emit()

    def choose_word(self, step: int) -> None:
        """Go to the next word (1) or the one before (-1), over the edges of captions too."""
        words, now = self.words_of(self.caption), self.word
        at = words.index(now) + step if now in words else 0
        if 0 <= at < len(words):
            self._word = words[at].id
            self.viewport().update()
            self.chosen.emit()
        elif 0 <= self.current + step < len(self.captions):
            there = self.words_of(self.captions[self.current + step])
            word = (there[0] if step > 0 else there[-1]).id if there else None
            self.choose(self.current + step, seek=False, word=word)

    def choose_at(self, ms: int) -> None:
        """Make the caption at a time, or the last one before it, the current one."""
        self.choose(max(0, bisect_right(self.captions, ms, key=lambda one: one.start_ms) - 1), seek=False)

    def next_finding(self, step: int = 1) -> bool:
        """Go to the next caption that breaks a rule; false if there is none."""
        self.findings.settle()
        return self.next_where(lambda one: one.id in self.findings.broken, step)

    def next_where(self, wanted: Callable[[Caption], bool], step: int = 1) -> bool:
        """Go to the next caption of which something is true; false if there is none."""
        count = len(self.captions)
        start = self.current if self.current >= 0 else -1 if step > 0 else count
        order = [(start + step * k) % count for k in range(1, count + 1)] if count else []
        found = next((place for place in order if wanted(self.captions[place])), None)
        if found is not None:
            self.choose(found)
        return found is not None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the caption, and the word, under the pointer."""
        place = self.column.at(event.position().y() + self.verticalScrollBar().value() - px(TOP))
        if place >= 0:
            extend = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            word = self._word_under(place, event.position())
            self.choose(place, word=word.id if word else None, extend=extend)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Edit the text."""
        self.text_wanted.emit()

    def _word_under(self, place: int, point: QPointF) -> Word | None:
        stanza: Stanza = self.column.block(place)
        top = top_of(stanza, self.block_top(place))
        return stanza.word_at(point.x() - left_of(stanza), point.y() - top)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show what can be done with a caption."""
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            place = self.column.at(event.y() + self.verticalScrollBar().value() - px(TOP))
            if place >= 0 and self.captions[place].id not in self._selected:
                self.choose(place, seek=False)
        self.desk.menu_on(["caption"], event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move between captions and words."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 6, Qt.Key.Key_PageUp: -6}
        steps |= {Qt.Key.Key_Home: -len(self.captions), Qt.Key.Key_End: len(self.captions)}
        key, held = Qt.Key(event.key()), event.modifiers()
        shift = Qt.KeyboardModifier.ShiftModifier
        if key in steps and held in (Qt.KeyboardModifier.NoModifier, shift):
            self.choose(self.current + steps[key], extend=held == shift)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and not held:
            self.choose_word(1 if key == Qt.Key.Key_Right else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not held:
            self.text_wanted.emit()
        else:
            super().keyPressEvent(event)
