"""The sheet of captions: each a stanza with its lines, times, meter and findings."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from dubrel.captions.checks import reading_speed
from dubrel.desk.captions.findings import Findings
from dubrel.desk.sheet.margins import paint_badge, speaker_look
from dubrel.desk.sheet.page import TOP, Page
from dubrel.desk.shell.desk import Desk
from dubrel.desk.shell.guard import guarded
from dubrel.desk.shell.theme import sheet_font, text_scale, time_font, ui_font
from dubrel.edits.captiontext import CaptionText, text_of
from dubrel.edits.difference import Change
from dubrel.edits.index import place_in, turn_of
from dubrel.edits.queries import caption_at
from dubrel.edits.trackchecks import captions_touched
from dubrel.model import Caption
from dubrel.timecode import format_clock

MARGIN, TEXT = 22, 134
METER = 110


def line_height() -> float:
    """Height of one line of text."""
    return 26.0 * text_scale()


@dataclass
class Stanza:
    """A caption with its height."""

    caption: Caption
    text: CaptionText
    findings: int

    def measure(self) -> float:
        """Room for the lines, the times and the findings."""
        lines = max(2, len(self.text.lines), 1 + 2 * self.findings if self.findings else 1)
        return lines * line_height() + 22


@guarded
class CaptionSheet(Page):
    """Captions under each other.

    Signals
    -------
    seek_wanted(int)
        The user chose a caption.
    """

    seek_wanted = Signal(int)

    def __init__(self, desk: Desk, findings: Findings, parent: QWidget | None = None) -> None:
        super().__init__(desk.theme, parent)
        self.desk, self.session, self.findings = desk, desk.session, findings
        self._current: Caption | None = None
        self._playing: Caption | None = None
        self.setAccessibleName("Sheet: captions")
        self.say_when_empty(
            "No captions yet", "Transcribe the recording in Intake; its captions are set here."
        )
        self.session.changed.connect(self._on_changed)
        self.session.opened.connect(self._on_opened)
        findings.counted.connect(self.viewport().update)
        self.seek_wanted.connect(desk.player.seek)
        desk.player.moved.connect(self._follow)
        self.show_items(self.captions, anew=True)

    @property
    def captions(self) -> tuple[Caption, ...]:
        """The captions that are shown."""
        track = self.session.project.captions
        return track.captions if track else ()

    @property
    def current(self) -> int:
        """The place of the chosen caption; -1 for none."""
        return self._place_of(self._current)

    @property
    def playing(self) -> int:
        """The place of the caption that is on screen at the playhead; -1 for none."""
        return self._place_of(self._playing)

    def _place_of(self, caption: Caption | None) -> int:
        try:
            return place_in(self.captions, caption) if caption is not None else -1
        except StopIteration:
            return -1

    def estimate(self, item: Caption) -> float:
        """Height by the number of lines."""
        return max(2, 1 + len(item.breaks), 1 + item.text.count("\n")) * line_height() + 22

    def build(self, item: Caption) -> Stanza:
        """Put the lines of a caption together."""
        track = self.session.project.captions
        assert track is not None
        return Stanza(item, text_of(self.session.project, track, item), 0)

    def _on_opened(self) -> None:
        self._current = self._playing = None

    def _on_changed(self, change: Change) -> None:
        track = change.new.captions
        if change.tracks or track is None:
            self._current = self._playing = None
            self.show_items(self.captions, anew=True)
            return
        self.show_items(self.captions)
        by_id = {one.id: one for one in captions_touched(change, track)}
        for caption in by_id.values():  # their words may be others
            place = place_in(self.captions, caption)
            if self.column.built(place) is not None:
                self.column.rebuild(place)
        self._current = self._renewed(self._current, by_id)
        self._playing = self._renewed(self._playing, by_id)
        self.viewport().update()

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
        caption, theme = stanza.caption, self.theme
        height = self.column.top(place + 1) - self.column.top(place)
        width = self.viewport().width()
        if place == self.current:
            row = QRectF(MARGIN - 10, top - 9, width - 2 * MARGIN + 20, height - 2)
            painter.fillRect(row, theme.colour("desk"))
        painter.setFont(time_font(12))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(MARGIN, top + 17), format_clock(caption.start_ms))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(QPointF(MARGIN, top + 35), format_clock(caption.end_ms))
        self._paint_lines(painter, place, stanza, top, width)
        self._paint_meter(painter, stanza, top, width)
        painter.setPen(QPen(theme.colour("hairline"), 1))
        y = top + height - 11
        painter.drawLine(QPointF(MARGIN, y), QPointF(width - MARGIN, y))

    def _paint_lines(self, painter: QPainter, place: int, stanza: Stanza, top: float, width: float) -> None:
        theme, project = self.theme, self.session.project
        if place == self.playing:
            painter.fillRect(
                QRectF(TEXT - 12, top, 3, line_height() * max(1, len(stanza.text.lines))),
                theme.colour("live"),
            )
        speaker = self._new_speaker(place)
        if speaker is not None:
            _, letter, colour = speaker_look(theme, project, speaker)
            paint_badge(painter, letter, colour, TEXT, top + 3)
        painter.setFont(sheet_font())
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetricsF(painter.font())
        room = width - TEXT - 44 - METER - 110
        rtl, line = stanza.text.rtl, line_height()
        side = Qt.AlignmentFlag.AlignAbsolute
        side |= Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        painter.setLayoutDirection(Qt.LayoutDirection.RightToLeft if rtl else Qt.LayoutDirection.LeftToRight)
        for number, text in enumerate(stanza.text.lines):
            shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
            box = QRectF(TEXT + 28, top + number * line, room, line)
            painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setLayoutDirection(Qt.LayoutDirection.LeftToRight)

    def _new_speaker(self, place: int) -> str | None:
        speaker = self._speaker(self.captions[place].words[:1])
        before = self._speaker(self.captions[place - 1].words[-1:]) if place else None
        return speaker if speaker != before else None

    def _speaker(self, words: tuple[int, ...]) -> str | None:
        turn = turn_of(self.session.project, words[0]) if words else None
        return turn.speaker if turn else None

    def _paint_meter(self, painter: QPainter, stanza: Stanza, top: float, width: float) -> None:
        theme, limit = self.theme, self.findings.style.max_cps
        speed = reading_speed(stanza.caption, stanza.text.lines)
        over = speed > limit
        x, y = width - MARGIN - METER - 84, top + 12
        painter.fillRect(QRectF(x, y, METER, 5), theme.colour("hairline"))
        share = min(1.0, speed / (limit * 1.25))
        painter.fillRect(QRectF(x, y, METER * share, 5), theme.colour("look" if over else "action"))
        painter.fillRect(QRectF(x + METER / 1.25, y - 3, 2, 11), theme.colour("ink"))
        painter.setFont(time_font(12))
        painter.setPen(theme.colour("look" if over else "quiet"))
        painter.drawText(QPointF(x + METER + 10, top + 19), f"{speed:4.1f} CPS")
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("look"))
        text = "; ".join(finding.message for finding in self.findings.of(stanza.caption))
        flags = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(x, top + 25, METER + 84, 52), flags, text)

    # -- choosing -------------------------------------------------------------

    def choose(self, place: int, *, seek: bool = True) -> None:
        """Make a caption the current one and show it."""
        if not self.captions:
            return
        place = max(0, min(place, len(self.captions) - 1))
        self._current = self.captions[place]
        self.column.block(place)
        self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
        self.viewport().update()
        if seek:
            self.seek_wanted.emit(self._current.start_ms)

    def choose_at(self, ms: int) -> None:
        """Make the caption at a time, or the last one before it, the current one."""
        self.choose(max(0, bisect_right(self.captions, ms, key=lambda one: one.start_ms) - 1), seek=False)

    def next_finding(self, step: int = 1) -> bool:
        """Go to the next caption that breaks a rule; false if there is none."""
        self.findings.settle()
        count = len(self.captions)
        start = self.current if self.current >= 0 else -1 if step > 0 else count
        order = [(start + step * k) % count for k in range(1, count + 1)] if count else []
        found = next((place for place in order if self.findings.of(self.captions[place])), None)
        if found is not None:
            self.choose(found)
        return found is not None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the caption under the pointer."""
        place = self.column.at(event.position().y() + self.verticalScrollBar().value() - TOP)
        if place >= 0:
            self.choose(place)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show what can be done with a caption."""
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            place = self.column.at(event.y() + self.verticalScrollBar().value() - TOP)
            if place >= 0:
                self.choose(place, seek=False)
        self.desk.menu_on(["caption"], event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move between captions."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 6, Qt.Key.Key_PageUp: -6}
        if event.key() in steps and not event.modifiers():
            self.choose(self.current + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
