"""The sheet of captions: each a stanza with its lines, times, meter and findings."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from dubrel.captions.checks import caption_lines, reading_speed
from dubrel.desk.findings import Findings
from dubrel.desk.session import Change, Session
from dubrel.desk.sheet.margins import paint_badge, speaker_look
from dubrel.desk.sheet.page import TOP, Page
from dubrel.desk.theme import Theme, direction, text_font, time_font, ui_font
from dubrel.edits.follow import captions_near
from dubrel.model import Caption
from dubrel.text import is_rtl
from dubrel.timecode import format_clock

LINE, MARGIN, TEXT = 26.0, 22, 134
METER = 110


@dataclass
class Stanza:
    """A caption with its height."""

    caption: Caption
    lines: list[str]
    findings: int

    def measure(self) -> float:
        """Room for the lines, the times and the findings."""
        return max(2, len(self.lines), 1 + 2 * self.findings if self.findings else 1) * LINE + 22


class CaptionSheet(Page):
    """Captions under each other.

    Signals
    -------
    seek_wanted(int)
        The user chose a caption.
    chosen(int)
        Its place in the track.
    """

    seek_wanted = Signal(int)
    chosen = Signal(int)

    def __init__(
        self, session: Session, findings: Findings, theme: Theme, parent: QWidget | None = None
    ) -> None:
        super().__init__(theme, parent)
        self.session, self.findings = session, findings
        self.current = -1
        self.playing = -1
        self.setAccessibleName("Sheet: captions")
        self.say_when_empty(
            "No captions yet", "Transcribe the recording in Intake; its captions are set here."
        )
        session.changed.connect(self._on_changed)
        findings.counted.connect(self.viewport().update)

    @property
    def captions(self) -> tuple[Caption, ...]:
        """The captions that are shown."""
        track = self.session.project.captions
        return track.captions if track else ()

    def estimate(self, item: Caption) -> float:
        """Height by the number of lines."""
        return max(2, 1 + len(item.breaks)) * LINE + 22

    def build(self, item: Caption) -> Stanza:
        """Put the lines of a caption together."""
        return Stanza(item, caption_lines(item, self.session.words, self.session.name_of), 0)

    def _on_changed(self, change: Change) -> None:
        if change.old.captions is None or change.new.captions is None:
            self.current = -1
            self.show_items(self.captions, None)
            return
        self.show_items(self.captions, change.captions)
        if change.old.transcript.speakers is not change.new.transcript.speakers:
            self.lay_out_again()  # names may stand in the lines
        for turn in change.new.transcript.turns[change.turns.start : change.turns.new_stop]:
            near = captions_near(change.new.captions, turn.start_ms, turn.end_ms)
            for place in near:
                if self.column.built(place) is not None:
                    block = self.column.block(place)
                    block.lines = caption_lines(block.caption, self.session.words, self.session.name_of)
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
        self._paint_meter(painter, caption, top, width)
        painter.setPen(QPen(theme.colour("hairline"), 1))
        y = top + height - 11
        painter.drawLine(QPointF(MARGIN, y), QPointF(width - MARGIN, y))

    def _paint_lines(self, painter: QPainter, place: int, stanza: Stanza, top: float, width: float) -> None:
        theme, project = self.theme, self.session.project
        if place == self.playing:
            painter.fillRect(
                QRectF(TEXT - 12, top, 3, LINE * max(1, len(stanza.lines))), theme.colour("live")
            )
        speaker = self._new_speaker(place)
        if speaker is not None:
            _, letter, colour = speaker_look(theme, project, speaker)
            paint_badge(painter, letter, colour, TEXT, top + 3)
        painter.setFont(text_font(20))
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetricsF(painter.font())
        room = width - TEXT - 44 - METER - 110
        rtl = is_rtl(project.transcript.language)
        side = Qt.AlignmentFlag.AlignAbsolute
        side |= Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        painter.setLayoutDirection(direction(project.transcript.language))
        for number, line in enumerate(stanza.lines):
            shown = metrics.elidedText(line, Qt.TextElideMode.ElideRight, room)
            box = QRectF(TEXT + 28, top + number * LINE, room, LINE)
            painter.drawText(box, side | Qt.AlignmentFlag.AlignVCenter, shown)
        painter.setLayoutDirection(Qt.LayoutDirection.LeftToRight)

    def _new_speaker(self, place: int) -> str | None:
        owners = self.session.speaker_of
        speaker = owners.get(self.captions[place].words[0])
        before = owners.get(self.captions[place - 1].words[-1]) if place else None
        return speaker if speaker != before else None

    def _paint_meter(self, painter: QPainter, caption: Caption, top: float, width: float) -> None:
        theme, limit = self.theme, self.findings.style.max_cps
        speed = reading_speed(caption, self.session.words, self.session.name_of)
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
        text = "; ".join(finding.message for finding in self.findings.of(caption))
        flags = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
        painter.drawText(QRectF(x, top + 25, METER + 84, 2 * LINE), flags, text)

    # -- choosing -------------------------------------------------------------

    def choose(self, place: int, *, seek: bool = True) -> None:
        """Make a caption the current one and show it."""
        if not self.captions:
            return
        self.current = max(0, min(place, len(self.captions) - 1))
        self.column.block(self.current)
        self.scroll_into_view(self.column.top(self.current), self.column.top(self.current + 1))
        self.viewport().update()
        if seek:
            self.seek_wanted.emit(self.captions[self.current].start_ms)
        self.chosen.emit(self.current)

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

    def show_playing(self, place: int, *, follow: bool) -> None:
        """Mark the caption that is heard now."""
        if place == self.playing:
            return
        self.playing = place
        if follow and place >= 0:
            self.scroll_into_view(self.column.top(place), self.column.top(place + 1))
        self.viewport().update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the caption under the pointer."""
        place = self.column.at(event.position().y() + self.verticalScrollBar().value() - TOP)
        if place >= 0:
            self.choose(place)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move between captions."""
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 6, Qt.Key.Key_PageUp: -6}
        if event.key() in steps and not event.modifiers():
            self.choose(self.current + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
