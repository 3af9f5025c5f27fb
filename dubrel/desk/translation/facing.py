"""The facing pages: the original at the left, the translation at the right, at the same measure."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
)
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.columnfont import SMALLEST, column_font, full_line
from dubrel.desk.sheet.page import TOP, Page
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.translation.facingpaint import paint_slot
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.desk.translation.layout import (
    GUTTER,
    MARGIN,
    STATE,
    TIMES,
    UNDER,
    Layout,
    line_height,
)
from dubrel.edits.translation.facing import Facing, Slot
from dubrel.edits.translation.track import translations_touched
from dubrel.model import CaptionTrack
from dubrel.project.captiontext import CaptionText, text_of
from dubrel.project.changes import Change
from dubrel.project.queries import caption_at

NARROW = 600  # pixels


@guarded
class FacingSheet(Page):
    """Slots, one below the other.

    Signals
    -------
    chosen()
        Another slot is the current one.
    text_wanted()
        The translation of the current slot is to be edited.
    """

    chosen = Signal()
    text_wanted = Signal()

    def __init__(self, desk: Desk, findings: TranslationFindings, parent: QWidget | None = None) -> None:
        super().__init__(desk.theme, parent)
        self.desk, self.session, self.findings = desk, desk.session, findings
        self._facing = Facing()
        self._full: tuple[tuple, float] | None = None
        self._current: int | None = None  # id of the slot
        self._was = 0  # its place, should it go
        self._playing: int | None = None
        self.setAccessibleName(tr("Sheet: translation"))
        self.session.changed.connect(self._on_changed)
        findings.counted.connect(self.viewport().update)
        desk.player.moved.connect(self._follow)

    @property
    def track(self) -> CaptionTrack | None:
        """The track that is worked on."""
        return self.findings.track

    @property
    def slots(self) -> list[Slot]:
        """What is shown."""
        return list(self.column.items)

    def show_track(self) -> None:
        """Show the track that is watched, from where the playhead is."""
        self._current = self._playing = None
        self._show(anew=True)
        if len(self.column.items):
            self.choose_at(self.desk.player.position)

    def _show(self, *, anew: bool) -> None:
        track = self.track
        self.show_items(self._facing.slots(self.session.project, track) if track else [], anew=anew)

    # -- laying out --------------------------------------------------------------------

    @property
    def room(self) -> float:
        """Pixels for a line of either side."""
        return max(60.0, self._texts if self.narrow else self._beside)

    @property
    def _texts(self) -> float:
        return self.viewport().width() - 2 * px(MARGIN) - px(TIMES) - px(STATE)

    @property
    def _beside(self) -> float:
        return (self._texts - px(GUTTER)) / 2

    @property
    def narrow(self) -> bool:
        """Whether there is no room for both texts beside each other."""
        return self.viewport().width() < px(NARROW) or self._beside < SMALLEST * self._full_line()

    def left_of(self, translated: bool) -> float:
        """Where a side begins."""
        return px(MARGIN) + px(TIMES) + (0 if self.narrow else (self.room + px(GUTTER)) * translated)

    def estimate(self, items: Sequence[Slot]) -> list[float]:
        """Heights by the number of lines."""
        narrow, line, around = self.narrow, line_height(), px(UNDER) + px(14)
        found = []
        for item in items:
            left = sum([1 + max(len(one.breaks), one.text.count("\n")) for one in item.sources])
            right = 1 + item.caption.text.count("\n") if item.caption else 1
            found.append((left + right if narrow else max(1, left, right)) * line + around)
        return found

    def build(self, item: Slot) -> Layout:
        """Lay a slot out."""
        project, track = self.session.project, self.track
        source = project.track(track.translates) if track and track.translates else None
        left = tuple(text_of(project, source, one) for one in item.sources) if source else ()
        nothing = CaptionText(())
        right = text_of(project, track, item.caption) if track and item.caption else nothing
        font = column_font(self.room, self._full_line())  # one size for all of the column
        return Layout(item, left, right, self.room, font, self.narrow)

    def _full_line(self) -> float:
        """What a full line of either style takes; measured anew where the track is another one."""
        project, track = self.session.project, self.track
        source = project.track(track.translates) if track and track.translates else None
        both = [one for one in (source, track) if one is not None]
        key = (scale(), *((one.id, one.rules, bool(one.captions)) for one in both))
        if self._full is None or self._full[0] != key:
            self._full = (key, full_line(project, both))
        return self._full[1]

    def _on_changed(self, change: Change) -> None:
        track = self.track
        if track is None:
            self.show_items([], anew=True)
            return
        if change.old.track(track.id) is None:
            self.show_track()
            return
        source = track.translates or 0
        if not (change.tracks or change.captions or change.turns or change.speakers):
            return
        place = self.current
        self.show_items(self._facing.renewed(change, track))
        if change.turns or change.captions.get(source):
            touched = translations_touched(change, track)
            sources = change.captions.get(source, frozenset())
            for at, slot in enumerate(self.column.items):
                if self.column.built(at) is not None and (
                    slot.id in touched
                    or slot.caption is None
                    or any(one.id in sources for one in slot.sources)
                ):
                    self.column.rebuild(at)
        if self._current is not None and self.current < 0 and len(self.column.items):
            self._current = self.column.items[min(max(place, self._was, 0), len(self.column.items) - 1)].id
        self.viewport().update()
        self.chosen.emit()

    # -- choosing ----------------------------------------------------------------------

    @property
    def current(self) -> int:
        """The place of the chosen slot; -1 for none."""
        return self.place_of(self._current)

    @property
    def playing(self) -> int:
        """The place of the slot at the playhead; -1 for none."""
        return self.place_of(self._playing)

    def place_of(self, slot_id: int | None) -> int:
        """Where a slot stands."""
        if slot_id is None:
            return -1
        return self._facing.place_of(slot_id) if len(self.column.items) else -1

    @property
    def slot(self) -> Slot | None:
        """The chosen slot."""
        place = self.current
        return self.column.items[place] if place >= 0 else None

    def choose(self, place: int, *, seek: bool = True) -> None:
        """Make a slot the current one and show it."""
        count = len(self.column.items)
        if not count:
            return
        place = max(0, min(place, count - 1))
        self._current, self._was = self.column.items[place].id, place
        self.column.block(place)
        self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
        self.viewport().update()
        self.chosen.emit()
        if seek:
            self.desk.player.seek(self.column.items[place].start_ms)

    def choose_caption(self, caption_id: int, *, seek: bool = True) -> None:
        """Make the slot of a caption the current one."""
        place = self.place_of(caption_id)
        if place >= 0:
            self.choose(place, seek=seek)

    def choose_at(self, ms: int) -> None:
        """Make the slot at a time, or the last one before it, the current one."""
        before = [nth for nth, one in enumerate(self.column.items) if one.start_ms <= ms]
        self.choose(before[-1] if before else 0, seek=False)

    def next_where(self, wanted: Callable[[Slot], bool], step: int = 1) -> bool:
        """Go to the next slot of which something is true; false if there is none."""
        items = self.column.items
        count, start = len(items), self.current
        start = start if start >= 0 else -1 if step > 0 else count
        order = ((start + step * k) % count for k in range(1, count + 1))
        found = next((place for place in order if wanted(items[place])), None)
        if found is not None:
            self.choose(found)
        return found is not None

    def _follow(self, ms: int) -> None:
        track = self.track
        if track is None or not self.isVisible():
            return
        found = caption_at(track, ms)
        now = found.id if found else None
        if now != self._playing:
            self._playing = now
            place = self.playing
            if place >= 0 and self.desk.player.playing:
                self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
            self.viewport().update()

    # -- painting, hands ---------------------------------------------------------------

    def paint_block(self, painter: QPainter, place: int, top: float) -> None:
        """Draw a slot."""
        height = self.column.top(place + 1) - self.column.top(place)
        paint_slot(painter, self, place, self.column.block(place), top, height)

    def right_rect(self, place: int) -> QRectF:
        """Where the lines of the translation of a slot stand in the viewport."""
        spread: Layout = self.column.block(place)
        lines = max(1 if self.narrow else 2, len(spread.right.lines))
        top = self.block_top(place) + spread.right_top
        return QRectF(self.left_of(True), top, self.room, lines * line_height() + px(4))

    def _at(self, y: float) -> int:
        return self.column.at(y + self.verticalScrollBar().value() - px(TOP))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the slot under the pointer; in the translation of the current one, edit it."""
        place = self._at(event.position().y())
        if place < 0:
            return
        again = place == self.current and self.right_rect(place).contains(event.position())
        self.choose(place)
        self.setFocus()
        if again and event.button() == Qt.MouseButton.LeftButton:
            self.text_wanted.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Edit the translation."""
        self.text_wanted.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show what can be done with a translation."""
        if event.reason() == QContextMenuEvent.Reason.Mouse and (place := self._at(event.y())) >= 0:
            self.choose(place, seek=False)
        self.desk.menu_on(["translation"], event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move between slots; Enter edits."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 6, Qt.Key.Key_PageUp: -6}
        steps |= {Qt.Key.Key_Home: -len(self.column.items), Qt.Key.Key_End: len(self.column.items)}
        key, bare = Qt.Key(event.key()), event.modifiers() == Qt.KeyboardModifier.NoModifier
        if key in steps and bare:
            self.choose(self.current + steps[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and bare:
            self.text_wanted.emit()
        else:
            super().keyPressEvent(event)
