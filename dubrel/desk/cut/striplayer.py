"""On the strip: what is out stands pale, and the joins can be dragged; words and captions below."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPen

from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.frame.strip import BELOW, RULER, Layer, Strip
from dubrel.desk.shell.kit.scale import px
from dubrel.model import Cut

if TYPE_CHECKING:
    from dubrel.edits.cuts.removals import Removal

_GRIP = 5
_PALE = 190  # of 255: how much of the paper covers what is out
_NO_ROOM = 3  # pixels: a dashed box would be a blot


class CutLayer(Layer):
    """The cut over the sound.

    Parameters
    ----------
    speech : SpeechLayer
        Words and captions.
    cut : callable
        The cut that is shown, or nothing.
    offers : callable
        What is proposed and ticked, in order.
    moved : callable
        ``(place of a passage, "in" or "out", ms)``: an edge is dragged.
    let_go : callable
        The same place and edge: it stays there.
    """

    def __init__(
        self,
        speech: SpeechLayer,
        cut: Callable[[], Cut | None],
        offers: Callable[[], list[Removal]],
        moved: Callable[[int, str, int], object],
        let_go: Callable[[int, str], object],
    ) -> None:
        self.speech, self._cut, self._offers = speech, cut, offers
        self._moved, self._let_go = moved, let_go

    def left(self) -> int:
        """As the words have it."""
        return self.speech.left()

    def height(self) -> int:
        """As the words have it."""
        return self.speech.height()

    def marked(self, ms: int) -> list[tuple[int, int]]:
        """As the words have it."""
        return self.speech.marked(ms)

    def choose(self, strip: Strip, point: QPointF) -> list[str]:
        """As the words have it."""
        return self.speech.choose(strip, point)

    def paint(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        """Pale over what is out, an upright line at each join, a dashed one at what is proposed."""
        self.speech.paint(painter, strip, start_ms, end_ms)
        theme, cut = strip.theme, self._cut()
        high = px(BELOW) - px(RULER)
        if cut is not None:
            spans = sorted((one.start_ms, one.end_ms) for one in cut.passages if one.plays != "gap")
            starts = [span[0] for span in spans]
            low = max(0, bisect_right(starts, start_ms) - 1)
            at = spans[low - 1][1] if low else 0
            veil = theme.colour("paper")
            veil.setAlpha(_PALE)
            painter.setPen(QPen(theme.colour("action"), 1.4))
            shown = [*spans[low : bisect_left(starts, end_ms) + 1], (strip.duration, strip.duration)]
            for start, end in shown:
                if start > at:
                    x0, x1 = max(strip.left, strip.x_of(at)), min(strip.width(), strip.x_of(start))
                    if x1 > x0:
                        painter.fillRect(QRectF(x0, px(RULER), x1 - x0, high), veil)
                    for x in (strip.x_of(at), strip.x_of(start)):
                        if strip.left <= x <= strip.width() and at > 0:
                            painter.drawLine(QPointF(x, px(RULER)), QPointF(x, px(BELOW) - 2))
                at = max(at, end)
        pen = QPen(theme.colour("action"), 1.2)
        pen.setDashPattern([2, 2])
        painter.setPen(pen)
        for one in self._offers():
            if one.end_ms >= start_ms and one.start_ms <= end_ms:
                x0, x1 = strip.x_of(one.start_ms), strip.x_of(one.end_ms)
                box = QRectF(x0, px(RULER) + 2, max(1.0, x1 - x0), high - px(6))
                if box.width() > _NO_ROOM:
                    painter.drawRect(box)
                else:  # from far away
                    painter.drawLine(box.topLeft(), box.bottomLeft())

    def grip_at(self, strip: Strip, point: QPointF) -> object | None:
        """The edge of a passage under a point."""
        cut = self._cut()
        if not px(RULER) <= point.y() < px(BELOW):
            return self.speech.grip_at(strip, point)
        if cut is None:
            return None
        ms, near = strip.ms_at(point.x()), _GRIP * strip.scale
        best: tuple[float, int, str] | None = None
        whole = strip.duration
        for place, one in enumerate(cut.passages):
            for edge, at in (("in", one.start_ms), ("out", one.end_ms)):
                if 0 < at < whole and abs(at - ms) <= near:
                    found = (abs(at - ms), place, edge)
                    best = min(best, found) if best else found
        return ("join", best[1], best[2]) if best else None

    def drag(self, grip: object, ms: int) -> None:
        """Move an edge."""
        if isinstance(grip, tuple) and grip[0] == "join":
            self._moved(grip[1], grip[2], ms)
        else:
            self.speech.drag(grip, ms)

    def let_go(self, grip: object) -> None:
        """The edge stays."""
        if isinstance(grip, tuple) and grip[0] == "join":
            self._let_go(grip[1], grip[2])
        else:
            self.speech.let_go(grip)
