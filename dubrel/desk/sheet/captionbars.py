"""Captions on the strip: drawn, dragged by their edges or as a whole, with what their style allows."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Set

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from dubrel.base.catalogue import tr
from dubrel.base.text import tokens
from dubrel.captions.checks import reading_speed
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.frame.strip import BELOW, Strip
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import text_font, time_font, ui_font
from dubrel.edits.captions.times import move_edge, move_whole, snapped
from dubrel.model import Caption, CaptionTrack
from dubrel.project.captiontext import text_of
from dubrel.project.index import caption_with, track_index
from dubrel.project.queries import captions_between

CAPTIONS = BELOW + 36
_GRIP = 5
_SNAP = 7  # pixels
_HIGH = 22
_LEAST_WIDTH = 6  # pixels a caption: nearer to each other they are drawn from far away


class CaptionBars:
    """The captions of the active track on the strip, and the shot changes over them."""

    def __init__(self, desk: Desk, broken: Set[int]) -> None:
        self.desk, self.session = desk, desk.session
        self._broken = broken  # ids of captions that break a rule, as far as they are known
        self._dragged = 0  # id of the caption that is dragged
        self._moved = False

    # -- painting -----------------------------------------------------------------------

    def paint(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        """Draw what lies between two times."""
        self._paint_shots(painter, strip, start_ms, end_ms)
        track = self.session.project.captions
        if track is None:
            return
        in_view = [
            bisect_left(track.captions, ms, key=lambda one: one.start_ms)
            for ms in (strip.start_ms, strip.ms_at(strip.width()))
        ]
        if in_view[1] - in_view[0] > strip.width() / _LEAST_WIDTH:
            self._paint_far(painter, strip, track, start_ms, end_ms)
        else:
            painter.setFont(text_font(13))
            for caption in captions_between(track, start_ms, end_ms):
                self._paint_caption(painter, strip, track, caption)
        dragged = caption_with(self.session.project, track.id, self._dragged) if self._dragged else None
        if dragged is not None:
            self._paint_limits(painter, strip, track, dragged)

    def _paint_far(
        self, painter: QPainter, strip: Strip, track: CaptionTrack, start_ms: float, end_ms: float
    ) -> None:
        """From far away: where there are captions, and where one breaks a rule; a column of pixels each."""
        quiet, look = strip.theme.colour("quiet"), strip.theme.colour("look")
        top, foot = px(CAPTIONS) + 3, px(CAPTIONS) + 3 + px(_HIGH)
        first = int(strip.x_of(start_ms) - strip.left) // 2 * 2 + strip.left  # always the same columns
        captions = track.captions
        ahead = bisect_right(captions, strip.ms_at(first), key=lambda one: one.start_ms)
        for x in range(first, int(strip.x_of(end_ms)) + 1, 2):
            ms = strip.ms_at(x)
            while ahead < len(captions) and captions[ahead].start_ms <= ms:
                ahead += 1
            if ahead and captions[ahead - 1].end_ms > ms:
                painter.fillRect(x, top, 1, 2, quiet)
                painter.fillRect(x, foot - 1, 1, 1, quiet)
        held = track_index(self.session.project, track.id).captions
        columns = {round(strip.x_of(held[one].start_ms)) for one in self._broken if one in held}
        for x in columns:
            painter.fillRect(x, foot - 3, 1, 3, look)

    def _paint_shots(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        shots = self.session.project.shots
        in_view = [bisect_left(shots, ms) for ms in (strip.start_ms, strip.ms_at(strip.width()))]
        if in_view[1] - in_view[0] > strip.width() / 12:
            return
        low, high = bisect_left(shots, start_ms), bisect_left(shots, end_ms)
        painter.setFont(ui_font(11))
        painter.setPen(QPen(strip.theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
        for ms in shots[low:high]:
            x = strip.x_of(ms)
            painter.drawLine(QPointF(x, px(16)), QPointF(x, strip.height()))
            painter.drawText(QPointF(x + px(4), px(26)), tr("shot"))

    def _paint_caption(self, painter: QPainter, strip: Strip, track: CaptionTrack, caption: Caption) -> None:
        theme = strip.theme
        x0, x1 = strip.x_of(caption.start_ms), strip.x_of(caption.end_ms)
        box = QRectF(x0, px(CAPTIONS) + 3, max(2.0, x1 - x0), px(_HIGH))
        now = caption.start_ms <= strip.position < caption.end_ms
        broken = box.width() > 6 and caption.id in self._broken
        colour = "look" if broken else "ink" if now else "quiet"
        painter.setPen(QPen(theme.colour(colour), 1.6 if now or broken else 0.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)
        if broken:  # not by colour alone
            painter.fillRect(QRectF(box.left(), box.bottom() - 3, box.width(), 3), theme.colour("look"))
        if "times" in caption.held and box.width() > 14:
            painter.fillRect(QRectF(box.right() - px(8), box.top() + 3, px(5), px(5)), theme.colour("action"))
        if box.width() > 30:
            inner = box.adjusted(max(px(6.0), px(6.0) - x0), 0, -px(10), 0)
            text = text_of(self.session.project, track, caption)
            direction = Qt.LayoutDirection.RightToLeft if text.rtl else Qt.LayoutDirection.LeftToRight
            painter.setLayoutDirection(direction)
            joined = " / ".join(text.lines)
            shown = QFontMetricsF(painter.font()).elidedText(
                joined, Qt.TextElideMode.ElideRight, inner.width()
            )
            painter.setPen(theme.colour("ink"))
            painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, shown)
            painter.setLayoutDirection(Qt.LayoutDirection.LeftToRight)

    def _paint_limits(self, painter: QPainter, strip: Strip, track: CaptionTrack, caption: Caption) -> None:
        """While a caption is dragged: from when on it can be read in time, and how long it may stand."""
        text, rules = text_of(self.session.project, track, caption), track.rules
        least = max(rules.min_ms, rules.least_ms(text.length, len(tokens(" ".join(text.lines)))))
        x0 = strip.x_of(caption.start_ms)
        enough, most = strip.x_of(caption.start_ms + least), strip.x_of(caption.start_ms + rules.max_ms)
        y = px(CAPTIONS) + 0.5
        painter.setPen(QPen(strip.theme.colour("look"), 2))
        painter.drawLine(QPointF(x0, y), QPointF(enough, y))
        painter.setPen(QPen(strip.theme.colour("action"), 2))
        painter.drawLine(QPointF(enough, y), QPointF(most, y))
        for x in (enough, most):
            painter.drawLine(QPointF(x, y - px(4)), QPointF(x, y + px(4)))
        painter.setFont(time_font(11))
        painter.setPen(strip.theme.colour("ink"))
        speed = f"{reading_speed(caption, text.lines, rules):.1f} CPS"
        painter.drawText(QPointF(strip.x_of(caption.end_ms) + px(6), px(CAPTIONS) + px(18)), speed)

    # -- hands --------------------------------------------------------------------------

    def grip_at(self, strip: Strip, point: QPointF) -> tuple[str, int, int, int] | None:
        """An edge of a caption under a point, or the whole: what, its id, where it was taken, its in time."""
        track = self.session.project.captions
        ms = round(strip.ms_at(point.x()))
        inside = None
        for caption in captions_between(track, strip.start_ms, strip.ms_at(strip.width())):
            for edge, at in (("in", caption.start_ms), ("out", caption.end_ms)):
                side = 1 if edge == "in" else -1
                if -2 <= (point.x() - strip.x_of(at)) * side <= _GRIP:
                    return edge, caption.id, ms, caption.start_ms
            if caption.start_ms < ms < caption.end_ms:
                inside = ("whole", caption.id, ms, caption.start_ms)
        return inside

    def drag(self, grip: tuple[str, int, int, int], ms: int, scale: float) -> None:
        """Move an edge, or the whole caption."""
        what, caption_id, taken, start = grip
        project, near = self.session.project, round(_SNAP * scale)
        if what == "whole":
            if not self._moved and abs(ms - taken) < near:
                return
            wished = snapped(project, caption_id, start + ms - taken, self.desk.player.position, near)
            made, label = move_whole(project, caption_id, wished), tr("Move a caption")
        else:
            wished = snapped(project, caption_id, ms, self.desk.player.position, near)
            made, label = move_edge(project, caption_id, what, wished), tr("Move the edge of a caption")
        self._dragged, self._moved = caption_id, True
        self.session.apply(made, label, base=project, key=f"edge-{caption_id}-{what}")

    def let_go(self, grip: tuple[str, int, int, int]) -> None:
        """What was not moved was only clicked: the playhead goes there."""
        if not self._moved and grip[0] == "whole":
            self.desk.player.seek(grip[2])
        self._dragged, self._moved = 0, False
