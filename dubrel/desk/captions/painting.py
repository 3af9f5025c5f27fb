"""How stanzas are drawn: times, lines, meter, findings, and what their breaks cost."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPen

from dubrel.base.catalogue import told, tr
from dubrel.base.timecode import format_clock
from dubrel.captions.checks import reading_speed, words_a_minute
from dubrel.desk.captions.stanza import (
    EXPLAINED,
    FINDING,
    HEAD,
    MARGIN,
    METER,
    TEXT,
    Stanza,
    height_of,
    line_height,
)
from dubrel.desk.sheet.margins import paint_badge, speaker_look
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import text_font, time_font, ui_font

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from dubrel.desk.captions.findings import Findings
    from dubrel.desk.shell.core.session import Session
    from dubrel.desk.shell.kit.theme import Theme
    from dubrel.edits.captions.explanations import Explanation
    from dubrel.model import Caption, HouseStyle, Word

_BARS = 62.0
_WRAPPED = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop
_TICK = 14


class _CaptionSheet(Protocol):
    """What of the sheet is needed here."""

    theme: Theme
    session: Session
    findings: Findings

    @property
    def selected(self) -> frozenset[int]: ...
    @property
    def current(self) -> int: ...
    @property
    def playing(self) -> int: ...
    @property
    def word(self) -> Word | None: ...
    @property
    def rules(self) -> HouseStyle: ...
    def viewport(self) -> QWidget: ...
    def new_speaker(self, place: int) -> str | None: ...
    def explanation_of(self, caption: Caption) -> Explanation | None: ...


def left_of(stanza: Stanza) -> float:
    """Where the lines begin."""
    return (px(MARGIN) + px(12) if stanza.narrow else px(TEXT)) + px(28)


def top_of(stanza: Stanza, top: float) -> float:
    """Where the lines of a stanza at a height begin."""
    return top + (px(HEAD) if stanza.narrow else 0)


def paint_stanza(
    painter: QPainter, sheet: _CaptionSheet, place: int, stanza: Stanza, top: float, height: float
) -> None:
    """Draw one stanza."""
    theme, width = sheet.theme, sheet.viewport().width()
    if stanza.caption.id in sheet.selected or place == sheet.current:
        row = QRectF(px(MARGIN) - px(10), top - px(9), width - 2 * px(MARGIN) + px(20), height - 2)
        painter.fillRect(row, theme.colour("desk"))
    _paint_times(painter, sheet, stanza, top)
    _paint_lines(painter, sheet, place, stanza, top)
    _paint_meter(painter, sheet, stanza, top, width)
    if stanza.remarks:
        _paint_remarks(painter, sheet, stanza, top)
    if stanza.explained:
        explanation = sheet.explanation_of(stanza.caption)
        if explanation is not None:
            paint_explanation(painter, sheet, stanza, explanation, top + height - px(EXPLAINED) - px(6))
    painter.setPen(QPen(theme.colour("hairline"), 1))
    y = top + height - px(11)
    painter.drawLine(QPointF(px(MARGIN), y), QPointF(width - px(MARGIN), y))


def _paint_times(painter: QPainter, sheet: _CaptionSheet, stanza: Stanza, top: float) -> None:
    caption, theme = stanza.caption, sheet.theme
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("ink"))
    painter.drawText(QPointF(px(MARGIN), top + px(17)), format_clock(caption.start_ms))
    painter.setPen(theme.colour("quiet"))
    beside = (
        QPointF(px(MARGIN) + px(102), top + px(17)) if stanza.narrow else QPointF(px(MARGIN), top + px(35))
    )
    painter.drawText(beside, format_clock(caption.end_ms))
    if caption.done:
        at = QPointF(px(MARGIN) - px(8), top + px(12))
        painter.setPen(QPen(theme.colour("action"), 2))
        painter.drawPolyline([at + QPointF(-px(5), 0), at + QPointF(-2, px(4)), at + QPointF(px(4), -px(5))])


def _paint_lines(painter: QPainter, sheet: _CaptionSheet, place: int, stanza: Stanza, top: float) -> None:
    theme, project = sheet.theme, sheet.session.project
    left, top = left_of(stanza), top_of(stanza, top)
    line = line_height()
    if place == sheet.playing:
        bar = QRectF(left - px(40), top, 3, line * max(1, len(stanza.text.lines)))
        painter.fillRect(bar, theme.colour("live"))
    speaker = sheet.new_speaker(place)
    if speaker is not None:
        _, letter, colour = speaker_look(theme, project, speaker)
        paint_badge(painter, letter, colour, left - px(28), top + 3)
    painter.setPen(theme.colour("ink"))
    for number, layout in enumerate(stanza.layouts):
        metrics = QFontMetricsF(layout.font())
        layout.draw(painter, QPointF(left, top + number * line + (line - metrics.height()) / 2))
    if place == sheet.current and (word := sheet.word) is not None:
        rule = stanza.rule_under(word.id)
        if rule is not None:
            at = QRectF(left + rule.left(), top + rule.bottom() - px(4), rule.width(), 2)
            painter.fillRect(at, theme.colour("action"))


def _paint_meter(painter: QPainter, sheet: _CaptionSheet, stanza: Stanza, top: float, width: float) -> None:
    theme, style = sheet.theme, sheet.rules
    words = style.speed_in == "wpm"
    speed = reading_speed(stanza.caption, stanza.text.lines, style)
    limit, shown = style.max_cps, speed
    if words:
        shown = words_a_minute(stanza.caption, stanza.text.lines)
        limit = style.max_wpm or style.max_cps * 10
    figure = f"{shown:.0f} WPM" if words else f"{shown:4.1f} CPS"
    findings = sheet.findings.of(stanza.caption)
    over = any(one.rule == "speed" for one in findings)
    text = "; ".join(told(one.message) for one in findings)
    if stanza.narrow:
        _paint_narrow_meter(painter, sheet, stanza, top, figure, over, text)
        return
    x, y = width - px(MARGIN) - px(METER) - px(84), top + px(12)
    painter.fillRect(QRectF(x, y, px(METER), px(5)), theme.colour("hairline"))
    share = min(1.0, shown / (limit * 1.25))
    painter.fillRect(QRectF(x, y, px(METER) * share, px(5)), theme.colour("look" if over else "action"))
    painter.fillRect(QRectF(x + px(METER) / 1.25, y - 3, 2, px(11)), theme.colour("ink"))
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("look" if over else "quiet"))
    painter.drawText(QPointF(x + px(METER) + px(10), top + px(19)), figure)
    painter.setFont(ui_font(12))
    must = any(one.must for one in findings)
    painter.setPen(theme.colour("look" if must else "quiet"))
    room = QRectF(x, top + px(25), px(METER) + px(84), height_of(len(stanza.text.lines), False) - px(34))
    painter.drawText(room, _WRAPPED, _fitting(painter, room, [told(one.message) for one in findings]))


def _fitting(painter: QPainter, room: QRectF, messages: Sequence[str]) -> str:
    """As many messages as there is room for, and how many more there are."""

    def fits(text: str) -> bool:
        return painter.boundingRect(room, _WRAPPED, text).height() <= room.height()

    for many in range(len(messages), 0, -1):
        left = len(messages) - many
        more = tr("; {left} more").format(left=left) if left else ""
        if fits(text := "; ".join(messages[:many]) + more):
            return text
    words = messages[0].split(" ") if messages else []
    shown = (" ".join(words[:many]) + "…" + more for many in range(len(words), 0, -1))
    return next((text for text in shown if fits(text)), "")


def _paint_narrow_meter(
    painter: QPainter, sheet: _CaptionSheet, stanza: Stanza, top: float, speed: str, over: bool, text: str
) -> None:
    width, theme = sheet.viewport().width(), sheet.theme
    painter.setFont(time_font(12))
    painter.setPen(theme.colour("look" if over else "quiet"))
    place = QRectF(px(MARGIN), top, width - 2 * px(MARGIN), px(24))
    painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, speed)
    painter.setFont(ui_font(12))
    painter.setPen(theme.colour("look"))
    below = top + px(HEAD) + max(1, len(stanza.text.lines)) * line_height()
    room = width - 2 * px(MARGIN) - px(40)
    shown = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QPointF(px(MARGIN) + px(40), below + px(13)), shown)


def _paint_remarks(painter: QPainter, sheet: _CaptionSheet, stanza: Stanza, top: float) -> None:
    theme, left = sheet.theme, left_of(stanza)
    lines = max(1 if stanza.narrow else 2, len(stanza.text.lines))
    y = top_of(stanza, top) + lines * line_height() + px(12) + (px(FINDING) if stanza.narrow else 0)
    painter.setFont(ui_font(12))
    painter.setPen(theme.colour("action"))
    painter.drawRect(QRectF(left, y - px(9), px(9), px(9)))
    room = sheet.viewport().width() - left - px(MARGIN) - px(20)
    text = QFontMetricsF(painter.font()).elidedText(
        "; ".join(stanza.remarks), Qt.TextElideMode.ElideRight, room
    )
    painter.drawText(QPointF(left + px(16), y), text)


def paint_explanation(
    painter: QPainter, sheet: _CaptionSheet, stanza: Stanza, found: Explanation, top: float
) -> None:
    """Under a stanza: a bar for each place where the lines could break, as high as that costs."""
    theme, left = sheet.theme, left_of(stanza)
    painter.setFont(ui_font(12, QFont.Weight.DemiBold))
    painter.setPen(theme.colour("ink"))
    painter.drawText(QPointF(left, top + px(4)), tr("Where the lines could break, and what that costs"))
    painter.setFont(text_font(14))
    metrics = QFontMetricsF(painter.font())
    texts = [word.text for word in found.words]
    room = sheet.viewport().width() - left - px(MARGIN)
    natural = sum(metrics.horizontalAdvance(text) + px(_TICK) for text in texts)
    squeeze = min(1.0, room / max(1.0, natural))
    dear = max([cost for cost in found.places if cost < 1e8], default=1.0)
    chosen = {word for one in found.lines if one.chosen for word in one.words}
    x, base = left, top + px(20) + px(_BARS)
    for nth, word in enumerate(found.words):
        wide = metrics.horizontalAdvance(word.text) * squeeze
        if nth:
            cost = found.places[nth - 1]
            at = x - px(_TICK) * squeeze / 2
            if word.id in chosen:
                painter.setPen(QPen(theme.colour("action"), 2))
                painter.drawLine(QPointF(at, top + px(16)), QPointF(at, base - px(12)))
                painter.drawPolyline(
                    [
                        QPointF(at - px(5), base - px(18)),
                        QPointF(at, base - px(11)),
                        QPointF(at + px(5), base - px(18)),
                    ]
                )
                painter.fillRect(QRectF(at - px(4), base - px(7), px(8), px(7)), theme.colour("action"))
            elif cost >= 1e8:  # a line would be too long
                painter.setPen(QPen(theme.colour("hairline"), 1, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(at, top + px(20)), QPointF(at, base))
            else:
                high = max(3.0, px(_BARS) * max(0.0, cost) / max(1.0, dear))
                painter.fillRect(QRectF(at - 2.5, base - high, px(5), high), theme.colour("trace"))
        painter.setPen(theme.colour("ink"))
        shown = metrics.elidedText(word.text, Qt.TextElideMode.ElideRight, max(px(4.0), wide + 1))
        painter.drawText(QPointF(x, base + px(16)), shown)
        x += wide + px(_TICK) * squeeze
    painter.setFont(ui_font(12))
    painter.setPen(theme.colour("quiet"))
    painter.drawText(QRectF(left, base + px(26), room, px(36)), _WRAPPED, in_words(found))


def in_words(found: Explanation) -> str:
    """What was chosen and what would be next best, in a sentence."""
    chosen = next((one for one in found.lines if one.chosen), None)
    if chosen is None:
        return tr("Two people share this caption: each has a line.")
    parts = [tr("Now {why}: {cost:.0f}").format(why=chosen.why, cost=chosen.cost)]
    others = [one for one in found.lines if not one.chosen][:2]
    for nth, one in enumerate(others):
        where = tr(" and ").join(f"“{text}”" for text in one.texts)
        name = tr("before {where}").format(where=where) if where else tr("in one line")
        parts.append(f"{tr('next best ') if nth == 0 else ''}{name}, {one.why}: {one.cost:.0f}")
    return "; ".join(parts) + "."
