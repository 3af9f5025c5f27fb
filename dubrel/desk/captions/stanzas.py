"""The sheet of captions: each a stanza with its lines, times, meter and findings."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFont, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
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
_SMALLEST = 0.75
METER = 110
NARROW, HEAD, FINDING = 600, 26.0, 18.0  # pixels: below this width a stanza stands under its times


def line_height() -> float:
    """Height of one line of text."""
    return 26.0 * text_scale()


@dataclass
class Stanza:
    """A caption with its height."""

    caption: Caption
    text: CaptionText
    narrow: bool

    def measure(self) -> float:
        """Room for the lines, the times and the findings."""
        return height_of(len(self.text.lines), self.narrow)


def height_of(lines: int, narrow: bool) -> float:
    """Height of a stanza with some lines."""
    if narrow:
        return HEAD + max(1, lines) * line_height() + FINDING + 22
    return max(2, lines) * line_height() + 22


def _fitting(lines: tuple[str, ...], room: float) -> QFont:
    """The font of the sheet, somewhat smaller where that lets the lines fit."""
    font = sheet_font()
    widest = max((QFontMetricsF(font).horizontalAdvance(line) for line in lines), default=0.0)
    if widest > room > 0:
        font.setPixelSize(max(1, round(font.pixelSize() * max(_SMALLEST, room / widest))))
    return font


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
    def narrow(self) -> bool:
        """Whether there is no room for times, lines and meter beside each other."""
        return self.viewport().width() < NARROW

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
        return height_of(1 + max(len(item.breaks), item.text.count("\n")), self.narrow)

    def build(self, item: Caption) -> Stanza:
        """Put the lines of a caption together."""
        track = self.session.project.captions
        assert track is not None
        return Stanza(item, text_of(self.session.project, track, item), self.narrow)

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
        theme = self.theme
        height = self.column.top(place + 1) - self.column.top(place)
        width = self.viewport().width()
        if place == self.current:
            row = QRectF(MARGIN - 10, top - 9, width - 2 * MARGIN + 20, height - 2)
            painter.fillRect(row, theme.colour("desk"))
        self._paint_times(painter, stanza, top)
        self._paint_lines(painter, place, stanza, top, width)
        self._paint_meter(painter, stanza, top, width)
        painter.setPen(QPen(theme.colour("hairline"), 1))
        y = top + height - 11
        painter.drawLine(QPointF(MARGIN, y), QPointF(width - MARGIN, y))

    def _paint_times(self, painter: QPainter, stanza: Stanza, top: float) -> None:
        caption, theme = stanza.caption, self.theme
        painter.setFont(time_font(12))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QPointF(MARGIN, top + 17), format_clock(caption.start_ms))
        painter.setPen(theme.colour("quiet"))
        beside = QPointF(MARGIN + 102, top + 17) if stanza.narrow else QPointF(MARGIN, top + 35)
        painter.drawText(beside, format_clock(caption.end_ms))

    def _paint_lines(self, painter: QPainter, place: int, stanza: Stanza, top: float, width: float) -> None:
        theme, project = self.theme, self.session.project
        left = MARGIN + 12 if stanza.narrow else TEXT
        top += HEAD if stanza.narrow else 0
        if place == self.playing:
            painter.fillRect(
                QRectF(left - 12, top, 3, line_height() * max(1, len(stanza.text.lines))),
                theme.colour("live"),
            )
        speaker = self._new_speaker(place)
        if speaker is not None:
            _, letter, colour = speaker_look(theme, project, speaker)
            paint_badge(painter, letter, colour, left, top + 3)
        room = width - left - 28 - (MARGIN if stanza.narrow else 126 + METER)
        painter.setFont(_fitting(stanza.text.lines, room))
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetricsF(painter.font())
        rtl, line = stanza.text.rtl, line_height()
        side = Qt.AlignmentFlag.AlignAbsolute
        side |= Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        painter.setLayoutDirection(Qt.LayoutDirection.RightToLeft if rtl else Qt.LayoutDirection.LeftToRight)
        for number, text in enumerate(stanza.text.lines):
            shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
            box = QRectF(left + 28, top + number * line, room, line)
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
        text = "; ".join(finding.message for finding in self.findings.of(stanza.caption))
        if stanza.narrow:
            self._paint_narrow_meter(painter, stanza, top, f"{speed:.1f} CPS", over, text)
            return
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
        flags = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(x, top + 25, METER + 84, 52), flags, text)

    def _paint_narrow_meter(
        self, painter: QPainter, stanza: Stanza, top: float, speed: str, over: bool, text: str
    ) -> None:
        width, theme = self.viewport().width(), self.theme
        painter.setFont(time_font(12))
        painter.setPen(theme.colour("look" if over else "quiet"))
        place = QRectF(MARGIN, top, width - 2 * MARGIN, 24)
        painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, speed)
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("look"))
        below = top + HEAD + max(1, len(stanza.text.lines)) * line_height()
        room = width - 2 * MARGIN - 40
        shown = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(MARGIN + 40, below + 13), shown)

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
