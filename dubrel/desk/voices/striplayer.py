"""On the strip: a lane for each speaker."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from dubrel.desk.sheet.speechlayer import turns_between
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.frame.strip import BELOW, HEIGHT, Layer, Strip
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.voices.speakerlanes import LABEL, LANE, lane_count, paint_lanes
from dubrel.project.queries import word_at

_USUAL_MS = 120_000


class LaneLayer(Layer):
    """Lanes; ``on_word`` chooses a word where it is worked on."""

    usual_ms = _USUAL_MS

    def __init__(self, desk: Desk, on_word: Callable[[int, int], object]) -> None:
        self.session, self._on_word = desk.session, on_word

    def left(self) -> int:
        """Room for the names."""
        return px(LABEL) if lane_count(self.session.project) else 0

    def height(self) -> int:
        """Room for the lanes."""
        return max(px(HEIGHT), px(BELOW) + px(8) + lane_count(self.session.project) * px(LANE))

    def paint(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        """Draw the turns between two times."""
        project = self.session.project
        turns = turns_between(project.transcript.turns, strip.start_ms, end_ms)
        turns = tuple(one for one in turns if one.end_ms >= start_ms)
        talk = self.session.talk()
        paint_lanes(painter, strip.theme, project, turns, talk, px(BELOW) + px(4), strip.width(), strip.x_of)

    def choose(self, strip: Strip, point: QPointF) -> list[str]:
        """Choose the word said at a point, and with it its turn."""
        found = word_at(self.session.project, round(strip.ms_at(point.x())))
        if found is None or point.y() < px(BELOW):
            return []
        self._on_word(*found)
        return ["turn", "speaker"]
