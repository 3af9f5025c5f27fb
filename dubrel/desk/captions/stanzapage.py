"""Captions laid out and painted, each a stanza with its lines, times, meter and findings."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtGui import QPainter, QResizeEvent
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.captions.findings import Findings
from dubrel.desk.captions.painting import paint_stanza
from dubrel.desk.captions.stanza import MARGIN, METER, TEXT, Stanza, height_of
from dubrel.desk.sheet.columnfont import column_font, full_line
from dubrel.desk.sheet.page import Page
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.widgets import button
from dubrel.edits.captions.explanations import Explanation
from dubrel.edits.captions.trackchecks import captions_touched
from dubrel.model import Caption, HouseStyle, Word
from dubrel.project.captiontext import rows_of, text_of
from dubrel.project.changes import Change
from dubrel.project.index import notes_on, place_in, turn_of
from dubrel.project.queries import caption_at

NARROW = 600  # pixels: below this width a stanza stands under its times
_CROWDED = 0.8  # so does it where there is room for less than this share of a full line beside them
_HELD = {
    "break": tr("end"),
    "lines": tr("lines"),
    "times": tr("times"),
    "place": tr("place"),
    "text": tr("text"),
}


@guarded
class CaptionPage(Page):
    """Captions, one below the other.

    Signals
    -------
    chosen()
        Another caption, or another word in it, is the current one.
    """

    chosen = Signal()

    def __init__(self, desk: Desk, findings: Findings, parent: QWidget | None = None) -> None:
        super().__init__(desk.theme, parent)
        self.desk, self.session, self.findings = desk, desk.session, findings
        self._current: Caption | None = None
        self._playing: Caption | None = None
        self._word: int | None = None
        self._anchor: int | None = None  # id of the caption at which the selection began
        self._selected: frozenset[int] = frozenset()
        self._full: tuple[tuple, float] | None = None
        self.explains = False
        self._explained: tuple[object, int, Explanation] | None = None
        self.setAccessibleName(tr("Sheet: captions"))
        self.offer = button(tr("Set captions"), primary=True)
        self.offer.setParent(self.viewport())
        self.offer.clicked.connect(lambda: desk.commands.run("set_again"))
        self._say_why_empty()
        self.session.changed.connect(self._on_changed)
        self.session.opened.connect(self._on_opened)
        findings.counted.connect(self.viewport().update)
        desk.player.moved.connect(self._follow)
        self.show_items(self.captions, anew=True)

    def _say_why_empty(self) -> None:
        """Say what there is to do where there are no captions: words have none yet, or there are no words."""
        words = bool(self.session.project.transcript.turns)
        if words:
            self.say_when_empty(tr("No captions yet"), tr("These words have not been set into captions."))
        else:
            self.say_when_empty(
                tr("No captions yet"), tr("Transcribe the recording in Intake; its captions are set here.")
            )
        self.offer.setVisible(words and not self.captions and not self.session.read_only)
        self._place_offer()

    def _place_offer(self) -> None:
        room, size = self.viewport().rect(), self.offer.sizeHint()
        self.offer.setGeometry(
            room.center().x() - size.width() // 2, room.center().y() + 4, size.width(), size.height()
        )

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What is offered stays in the middle."""
        super().resizeEvent(event)
        self._place_offer()

    @property
    def narrow(self) -> bool:
        """Whether there is no room for times, lines and meter beside each other."""
        return self.viewport().width() < px(NARROW) or self._room(narrow=False) < _CROWDED * self._full_line()

    def _room(self, *, narrow: bool) -> float:
        """Pixels for a line."""
        left = (px(MARGIN) + px(12) if narrow else px(TEXT)) + px(28)
        return self.viewport().width() - left - (px(MARGIN) if narrow else px(126) + px(METER))

    @property
    def captions(self) -> tuple[Caption, ...]:
        """The captions that are shown."""
        track = self.session.project.captions
        return track.captions if track else ()

    @property
    def rules(self) -> HouseStyle:
        """The rules of the track in its language."""
        track = self.session.project.captions
        return track.rules if track else self.findings.style

    @property
    def current(self) -> int:
        """The place of the chosen caption; -1 for none."""
        return self._place_of(self._current)

    @property
    def caption(self) -> Caption | None:
        """The chosen caption."""
        return self.captions[self.current] if self.current >= 0 else None

    @property
    def selected(self) -> frozenset[int]:
        """Ids of the captions that are selected together; none where only one is chosen."""
        return self._selected

    @property
    def concerned(self) -> list[int]:
        """Ids of the captions that a command is about, in order of time."""
        if self._selected:
            return [one.id for one in self.captions if one.id in self._selected]
        return [self.caption.id] if self.caption else []

    @property
    def playing(self) -> int:
        """The place of the caption that is on screen at the playhead; -1 for none."""
        return self._place_of(self._playing)

    @property
    def word(self) -> Word | None:
        """The word that is chosen in the current caption."""
        words = self.words_of(self.caption)
        return next((one for one in words if one.id == self._word), words[0] if words else None)

    def words_of(self, caption: Caption | None) -> list[Word]:
        """The words that a caption shows; none for a text of its own."""
        if caption is None or not caption.words:
            return []
        return [word for row in rows_of(self.session.project, caption) for word in row]

    def _place_of(self, caption: Caption | None) -> int:
        try:
            return place_in(self.captions, caption) if caption is not None else -1
        except StopIteration:
            return -1

    def estimate(self, items: Sequence[Caption]) -> list[float]:
        """Heights by the number of lines."""
        lines = [1 + max(len(one.breaks), one.text.count("\n")) for one in items]
        narrow = self.narrow
        heights = {many: height_of(many, narrow) for many in set(lines)}
        return [heights[many] for many in lines]

    def build(self, item: Caption) -> Stanza:
        """Put the lines of a caption together."""
        project, track = self.session.project, self.session.project.captions
        assert track is not None
        rows = rows_of(project, item) if item.words else []
        narrow = self.narrow
        room = self._room(narrow=narrow)
        explained = self.explains and self._current is not None and item.id == self._current.id and bool(rows)
        remarks = self._remarks(item)
        face = column_font(room, self._full_line())  # one size for all captions
        return Stanza(item, text_of(project, track, item), rows, narrow, room, remarks, explained, face)

    def _full_line(self) -> float:
        """What a full line takes, measured anew with the size of the text, or another style."""
        project, track = self.session.project, self.session.project.captions
        if track is None:
            return 0.0
        key = (scale(), track.id, track.rules, bool(track.captions))
        if self._full is None or self._full[0] != key:
            self._full = (key, full_line(project, [track]))
        return self._full[1]

    def _remarks(self, caption: Caption) -> tuple[str, ...]:
        found = []
        if caption.held:
            found.append(tr("set by hand: ") + ", ".join(_HELD[one] for one in caption.held))
        if caption.hidden:
            found.append(
                tr("shorter than what is said: {words} hidden").format(
                    words=counted(len(caption.hidden), "word")
                )
            )
        project = self.session.project
        notes = notes_on(project, caption.words) if project.notes else set()
        found += [f"{tr(one.kind)}: {one.text}" for one in project.notes if one.id in notes and not one.done]
        return tuple(found)

    def explanation_of(self, caption: Caption) -> Explanation | None:
        """What the breaks of a caption cost; computed once for each value of the project."""
        from dubrel.edits.captions.explanations import (
            explained,  # late: arrays, which opening a window does without
        )

        project = self.session.project
        known = self._explained
        if known is None or known[0] is not project or known[1] != caption.id:
            try:
                known = self._explained = (project, caption.id, explained(project, caption.id))
            except DubrelError:
                return None
        return known[2]

    def explain(self, on: bool) -> None:
        """Show under the current caption what its breaks cost, or no longer."""
        self.explains = on
        self._rebuild(self.current)

    def _rebuild(self, *places: int) -> None:
        for place in places:
            if place >= 0:
                self.column.rebuild(place)
                self.column.block(place)
        self._set_range()
        self.viewport().update()

    def _on_opened(self) -> None:
        self._current = self._playing = self._anchor = None
        self._selected = frozenset()

    def _on_changed(self, change: Change) -> None:
        track = change.new.captions
        if track is None or not track.captions or self.offer.isVisible():
            self._say_why_empty()
        if change.tracks or track is None:
            self._current = self._playing = None
            self._selected = frozenset()
            self.show_items(self.captions, anew=True)
            self.chosen.emit()
            return
        place = self.current
        self.show_items(self.captions)
        by_id = captions_touched(change, track)
        noted = bool(change.notes)
        for caption in self.captions if noted else by_id.values():  # their words may be others
            at = place_in(self.captions, caption)
            if self.column.built(at) is not None:
                self.column.rebuild(at)
        self._current = self._renewed(self._current, by_id)
        self._playing = self._renewed(self._playing, by_id)
        if self._selected:
            there = {one.id for one in self.captions}
            self._selected = frozenset(one for one in self._selected if one in there)
        if self._current is not None and self.current < 0 and self.captions:  # it is gone: its neighbour
            self._current = self.captions[min(max(place, 0), len(self.captions) - 1)]
            self._rebuild(self.current)
        elif self.explains:
            self._rebuild(self.current)
        self.viewport().update()
        self.chosen.emit()

    def _renewed(self, caption: Caption | None, touched: dict[int, Caption]) -> Caption | None:
        return touched.get(caption.id, caption) if caption is not None else None

    def _follow(self, ms: int) -> None:
        found = caption_at(self.session.project.captions, ms)
        if found is not self._playing:
            self._playing = found
            place = self.playing
            if place >= 0 and self.desk.player.playing and self.isVisible():
                self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
            self.viewport().update()

    def paint_block(self, painter: QPainter, place: int, top: float) -> None:
        """Draw a stanza."""
        stanza: Stanza = self.column.block(place)
        height = self.column.top(place + 1) - self.column.top(place)
        paint_stanza(painter, self, place, stanza, top, height)

    def new_speaker(self, place: int) -> str | None:
        """Who begins to speak with a caption."""
        speaker = self._speaker(self.captions[place].words[:1])
        before = self._speaker(self.captions[place - 1].words[-1:]) if place else None
        return speaker if speaker != before else None

    def _speaker(self, words: tuple[int, ...]) -> str | None:
        turn = turn_of(self.session.project, words[0]) if words else None
        return turn.speaker if turn else None
