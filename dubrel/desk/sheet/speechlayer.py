"""Under the sound on the strip: who speaks, the words, and the captions, whose edges can be dragged."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Set

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.captionbars import CAPTIONS, CaptionBars
from dubrel.desk.sheet.margins import speaker_look
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.frame.strip import BELOW, Layer, Strip
from dubrel.desk.shell.kit.scale import px, scale
from dubrel.desk.shell.kit.theme import text_font, ui_font
from dubrel.edits.words.wordtimes import word_edge_moved
from dubrel.model import Caption, Turn, Word
from dubrel.project.index import word_with
from dubrel.project.queries import caption_at, captions_between, word_at

_WORDS = BELOW + 18
_GRIP = 5
_EDGES_FROM = 12  # milliseconds a pixel: further away no edge of a word can be taken
EDGE_SOUND_MS = 220
_APART = 4  # pixels between two words
_WORDS_FROM = 25  # milliseconds a pixel: further away no word is drawn


def turns_between(turns: tuple[Turn, ...], start: float, end: float) -> tuple[Turn, ...]:
    """Turns that can be in view between two times."""
    low = max(0, bisect_right(turns, start, key=lambda turn: turn.start_ms) - 3)
    return turns[low : bisect_left(turns, end, key=lambda turn: turn.start_ms)]


class SpeechLayer(Layer):
    """Turns, words and captions of the active track.

    Parameters
    ----------
    desk : Desk
    on_word, on_caption : callable
        Choose a word (place of its turn, place in it) or a caption where they are worked on.
    broken : set of int
        Ids of captions that break a rule, kept up by who checks them.
    """

    def __init__(
        self,
        desk: Desk,
        on_word: Callable[[int, int], object],
        on_caption: Callable[[Caption], object],
        broken: Set[int],
    ) -> None:
        self.desk, self.session = desk, desk.session
        self._on_word, self._on_caption = on_word, on_caption
        self.bars = CaptionBars(desk, broken)
        self._scale = 11.0
        self._words: tuple[tuple[Turn, ...], tuple[float, ...], list[tuple[Word, bool, float]]] | None = None

    def marked(self, ms: int) -> list[tuple[int, int]]:
        """The captions and the word at the playhead."""
        project = self.session.project
        track, found = project.captions, word_at(project, ms)
        spans = [(one.start_ms, one.end_ms) for one in captions_between(track, ms, ms + 1)] if track else []
        if found is not None:
            word = project.transcript.turns[found[0]].words[found[1]]
            spans.append((word.start_ms, word.end_ms))
        return spans

    def paint(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        """Draw what lies between two times."""
        project, looks = self.session.project, dict[str | None, tuple[str, str, QColor]]()
        for turn in turns_between(project.transcript.turns, strip.start_ms, end_ms):
            if turn.end_ms >= start_ms:
                look = looks.get(turn.speaker)
                if look is None:
                    look = looks[turn.speaker] = speaker_look(strip.theme, project, turn.speaker)
                self._paint_turn(painter, strip, turn, look)
        if strip.scale < _WORDS_FROM:
            self._paint_words(painter, strip, start_ms, end_ms)
        self._scale = strip.scale
        self.bars.paint(painter, strip, start_ms, end_ms)

    def _paint_turn(self, painter: QPainter, strip: Strip, turn: Turn, look: tuple[str, str, QColor]) -> None:
        name, letter, colour = look
        x0, x1 = max(-4.0, strip.x_of(turn.start_ms)), min(strip.width() + px(4.0), strip.x_of(turn.end_ms))
        if x1 < 0:
            return
        painter.fillRect(QRectF(x0, px(BELOW) + px(13), max(1.0, x1 - x0 - 1), px(4)), colour)
        if x1 - x0 > 14:
            painter.setFont(ui_font(11))
            painter.setPen(colour)
            metrics = QFontMetricsF(painter.font())
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideRight, x1 - x0 - px(6))
            painter.drawText(QPointF(max(2.0, x0 + 2), px(BELOW) + px(10)), shown if x1 - x0 > 30 else letter)

    def _paint_words(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        theme = strip.theme
        live, rule, ink, quiet = (theme.colour(role) for role in ("live", "trace", "ink", "quiet"))
        painter.setFont(text_font(13))
        for word, shown, until in self._placed(strip):
            if word.start_ms > end_ms or until < start_ms:
                continue
            x0, x1 = strip.x_of(word.start_ms), strip.x_of(word.end_ms)
            heard = word.start_ms <= strip.position < word.end_ms
            painter.fillRect(QRectF(x0, px(_WORDS) + 1, max(1.0, x1 - x0 - 1), 2), live if heard else rule)
            if shown:
                painter.setPen(quiet if word.struck else ink)
                painter.drawText(QPointF(x0 + 1, px(_WORDS) + px(14)), word.text)

    def _placed(self, strip: Strip) -> list[tuple[Word, bool, float]]:
        """The words in view: each, whether there is room for its text, and the time to which it reaches."""
        turns = self.session.project.transcript.turns
        view = (strip.start_ms, strip.scale, strip.width(), scale())
        if self._words is not None and self._words[0] is turns and self._words[1] == view:
            return self._words[2]
        metrics, free, end_ms = QFontMetricsF(text_font(13)), -1e9, strip.ms_at(strip.width())
        placed: list[tuple[Word, bool, float]] = []
        for turn in turns_between(turns, strip.start_ms, end_ms):
            low = max(0, bisect_right(turn.words, strip.start_ms, key=lambda word: word.start_ms) - 1)
            for word in turn.words[low : bisect_right(turn.words, end_ms, key=lambda word: word.start_ms)]:
                x, until = strip.x_of(word.start_ms), float(word.end_ms)
                shown = x >= free
                if shown:
                    free = x + metrics.horizontalAdvance(word.text) + _APART
                    until = max(until, strip.ms_at(free))
                placed.append((word, shown, until))
        self._words = (turns, view, placed)
        return placed

    # -- hands ----------------------------------------------------------------

    def grip_at(self, strip: Strip, point: QPointF) -> tuple | None:
        """The edge of a caption or of a word under a point, or a whole caption."""
        if point.y() < px(CAPTIONS):
            return self._word_edge(strip, point) if point.y() >= px(_WORDS) - 2 else None
        return self.bars.grip_at(strip, point)

    def _word_edge(self, strip: Strip, point: QPointF) -> tuple[str, int] | None:
        """The nearest edge of a word under a point; where two words touch, the in time of the second."""
        if strip.scale > _EDGES_FROM:
            return None
        ms = strip.ms_at(point.x())
        near = [
            (abs(point.x() - strip.x_of(at)), nth, f"word {edge}", word.id)
            for turn in turns_between(self.session.project.transcript.turns, ms - 2000, ms + 2000)
            for word in turn.words
            if abs(word.start_ms - ms) < 2000
            for nth, (edge, at) in enumerate((("in", word.start_ms), ("out", word.end_ms)))
        ]
        best = min(near, default=None)
        return (best[2], best[3]) if best is not None and best[0] <= _GRIP else None

    def let_go(self, grip: object) -> None:
        """Play the sound at the edge of a word."""
        assert isinstance(grip, tuple)
        if len(grip) == 4:
            self.bars.let_go(grip)
            return
        word = word_with(self.session.project, grip[1]) if grip[0].startswith("word") else None
        if word is not None and self.session.has_recording:
            start = word.start_ms if grip[0] == "word in" else max(0, word.end_ms - EDGE_SOUND_MS)
            self.desk.player.seek(start)
            self.desk.player.play(until=start + EDGE_SOUND_MS)

    def drag(self, grip: object, ms: int) -> None:
        """Move an edge."""
        assert isinstance(grip, tuple)
        if len(grip) == 4:
            self.bars.drag(grip, ms, self._scale)
            return
        edge, word_id = grip
        side = edge.split()[1]
        follow = self.desk.neighbours_follow
        self.session.step(
            lambda project: word_edge_moved(project, word_id, side, ms, neighbour=follow),
            tr("Move the {side} time of a word").format(side=side),
            key=f"edge-{word_id}-{side}",
        )

    def choose(self, strip: Strip, point: QPointF) -> list[str]:
        """Choose the caption, or the word and its turn, under a point."""
        ms, project = round(strip.ms_at(point.x())), self.session.project
        caption = caption_at(project.captions, ms) if point.y() >= px(CAPTIONS) else None
        if caption is not None:
            self._on_caption(caption)
            return ["caption"]
        found = word_at(project, ms) if point.y() >= px(BELOW) else None
        if found is None:
            return []
        self._on_word(*found)
        return ["word", "turn"]
