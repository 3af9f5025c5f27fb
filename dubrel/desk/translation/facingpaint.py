"""How facing pages are drawn: times, both texts, state, meter and what is to be looked at."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from dubrel.base.catalogue import told, tr
from dubrel.base.timecode import format_clock
from dubrel.captions.checks import reading_speed
from dubrel.desk.sheet.margins import paint_badge, speaker_look
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import time_font, ui_font
from dubrel.project.index import turn_of

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from dubrel.desk.sheet.column import Column
    from dubrel.desk.shell.core.session import Session
    from dubrel.desk.shell.kit.theme import Theme
    from dubrel.desk.translation.findings import TranslationFindings
    from dubrel.desk.translation.layout import Layout
    from dubrel.edits.translation.facing import Slot
    from dubrel.model import Caption, CaptionTrack


class _FacingSheet(Protocol):
    """What of the sheet is needed here."""

    theme: Theme
    session: Session
    findings: TranslationFindings
    column: Column

    @property
    def current(self) -> int: ...
    @property
    def playing(self) -> int: ...
    @property
    def track(self) -> CaptionTrack | None: ...
    def viewport(self) -> QWidget: ...
    def left_of(self, translated: bool) -> float: ...


_METER = 64


def paint_slot(
    painter: QPainter, sheet: _FacingSheet, place: int, spread: Layout, top: float, height: float
) -> None:
    """Draw one slot."""
    theme, width = sheet.theme, sheet.viewport().width()
    if place == sheet.current:
        painter.fillRect(QRectF(px(8), top - px(8), width - px(16), height - 2), theme.colour("desk"))
    slot = spread.slot
    _paint_times(painter, sheet, place, slot, top)
    if place == sheet.playing:
        lines = max(1, *(len(some) for some in spread.lines))
        bar = QRectF(sheet.left_of(False) - px(10), top + 2, 3, _line() * lines)
        painter.fillRect(bar, theme.colour("live"))
    _paint_side(painter, sheet, spread, False, top)
    _paint_side(painter, sheet, spread, True, top)
    if slot.caption is not None:
        _paint_state(painter, sheet, slot.caption, top, width)
        _paint_under(painter, sheet, slot.caption, spread, top + height - px(28), width)
    else:
        painter.setFont(ui_font(12))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(
            QPointF(sheet.left_of(True), top + spread.right_top + px(17)), tr("not translated yet")
        )
    painter.setPen(QPen(theme.colour("hairline"), 1))
    y = top + height - px(9)
    painter.drawLine(QPointF(px(20), y), QPointF(width - px(20), y))
    if not spread.narrow:
        middle = sheet.left_of(True) - px(13)
        painter.drawLine(QPointF(middle, top), QPointF(middle, y - px(6)))


def _line() -> float:
    return 25.0 * scale()


def _paint_times(painter: QPainter, sheet: _FacingSheet, place: int, slot: Slot, top: float) -> None:
    theme = sheet.theme
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("ink"))
    painter.drawText(QPointF(px(20), top + px(17)), _clock(slot.start_ms))
    painter.setPen(theme.colour("quiet"))
    painter.drawText(QPointF(px(20), top + px(17) + _line() * 0.72), _clock(slot.end_ms))
    speaker = _speaker(sheet, slot)
    if speaker is not None and (place == 0 or speaker != _speaker(sheet, sheet.column.items[place - 1])):
        _, letter, colour = speaker_look(theme, sheet.session.project, speaker)
        paint_badge(painter, letter, colour, sheet.left_of(False) - px(30), top + 3)


def _clock(ms: int) -> str:
    """The time without an hour that is nothing."""
    text = format_clock(ms, digits=2)
    return text[3:] if text.startswith("00:") else text


def _speaker(sheet: _FacingSheet, slot: Slot) -> str | None:
    words = next((one.words for one in slot.sources if one.words), ()) or (
        slot.caption.of if slot.caption else ()
    )
    turn = turn_of(sheet.session.project, words[0]) if words else None
    return turn.speaker if turn else None


def _paint_side(painter: QPainter, sheet: _FacingSheet, spread: Layout, translated: bool, top: float) -> None:
    painter.setPen(sheet.theme.colour("quiet" if spread.narrow and not translated else "ink"))
    left, line = sheet.left_of(translated), _line()
    top += spread.right_top * translated
    for number, layout in enumerate(spread.layouts(translated)):
        high = QFontMetricsF(layout.font()).height()
        layout.draw(painter, QPointF(left, top + number * line + (line - high) / 2))


def _paint_state(painter: QPainter, sheet: _FacingSheet, caption: Caption, top: float, width: float) -> None:
    """A tick for approved, half a disc for edited, a ring for the machine's.

    A wedge where one has to look.
    """
    theme, x, y = sheet.theme, width - px(33.0), top + px(12)
    painter.save()
    if sheet.findings.weight_of(caption):
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("look"))
        painter.drawPolygon(
            [QPointF(x - px(7), y + px(6)), QPointF(x + px(7), y + px(6)), QPointF(x, y - px(7))]
        )
        painter.fillRect(QRectF(x - 0.9, y - 2.5, 1.8, px(4.5)), theme.colour("paper"))
        painter.fillRect(QRectF(x - 0.9, y + 3, 1.8, 1.8), theme.colour("paper"))
    elif caption.done:
        painter.setPen(QPen(theme.colour("action"), 2.2))
        painter.drawPolyline(
            [QPointF(x - px(6), y), QPointF(x - 2, y + px(5)), QPointF(x + px(6), y - px(6))]
        )
    else:
        painter.setPen(QPen(theme.colour("quiet"), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(x, y), px(5), px(5))
        if "text" in caption.held:
            painter.setBrush(theme.colour("quiet"))
            painter.drawPie(QRectF(x - 5, y - 5, 10, 10), 90 * 16, 180 * 16)
    painter.restore()


def _paint_under(
    painter: QPainter, sheet: _FacingSheet, caption: Caption, spread: Layout, y: float, width: float
) -> None:
    """Reading speed, and the most pressing of what is to be looked at."""
    track = sheet.track
    if track is None or not spread.right.lines:
        return
    theme, x = sheet.theme, sheet.left_of(True)
    style = track.rules
    speed, limit = reading_speed(caption, spread.right.lines, style), style.max_cps
    rules, doubts = sheet.findings.rules_of(caption), sheet.findings.doubts_of(caption)
    over = any(one.rule == "speed" for one in rules)
    painter.fillRect(QRectF(x, y + px(5), px(_METER), px(4)), theme.colour("hairline"))
    painter.fillRect(
        QRectF(x, y + px(5), px(_METER) * min(1.0, speed / (limit * 1.25)), px(4)),
        theme.colour("look" if over else "action"),
    )
    painter.fillRect(QRectF(x + px(_METER) / 1.25, y + 2, 2, px(10)), theme.colour("ink"))
    painter.setFont(time_font(11))
    painter.setPen(theme.colour("look" if over else "quiet"))
    painter.drawText(QPointF(x + px(_METER) + px(8), y + px(11)), f"{speed:.1f}")
    said = [(one.must, told(one.message)) for one in doubts]
    said += [(one.must, told(one.message)) for one in rules]
    must = any(pressing for pressing, _ in said)
    shown = [text for pressing, text in said if pressing] or [text for _, text in said][:1]
    painter.setFont(ui_font(12))
    painter.setPen(theme.colour("look" if must and not caption.done else "quiet"))
    left = x + px(_METER) + px(46)
    text = QFontMetricsF(painter.font()).elidedText(
        "; ".join(shown), Qt.TextElideMode.ElideRight, width - left - px(46)
    )
    painter.drawText(QPointF(left, y + px(11)), text)
