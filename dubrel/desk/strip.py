"""The strip along the bottom: the sound over time, words, speakers and captions as bars."""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QImage, QMouseEvent, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from dubrel.captions.checks import caption_lines
from dubrel.desk.lanes import LABEL, LANE, lane_count, paint_lanes
from dubrel.desk.session import Change, Session
from dubrel.desk.sheet.margins import speaker_look
from dubrel.desk.sheet.trace import trace_image
from dubrel.desk.theme import Theme, direction, text_font, time_font, ui_font
from dubrel.edits.captions import move_edge
from dubrel.edits.follow import captions_near
from dubrel.model import Caption, Turn
from dubrel.timecode import format_clock

_HEIGHT = 130
_USUAL_MS, _LANES_MS = 15_000, 120_000
_RULER, _WAVE, _VOICE, _WORDS, _CAPTIONS = 18, 46, 64, 82, 100
_STEPS = (
    100,
    250,
    500,
    1000,
    2000,
    5000,
    10_000,
    15_000,
    30_000,
    60_000,
    120_000,
    300_000,
    600_000,
    1_800_000,
)
_CLOSEST = 0.8  # milliseconds a pixel
_GRIP = 5
_EMPTY = "Bring in a recording to see its sound here."
_RECORDING = "The sound is drawn here when the recording has ended."


class Strip(QWidget):
    """Sound over time with a playhead.

    Signals
    -------
    seek_wanted(int)
        The user clicked a time.
    """

    seek_wanted = Signal(int)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.start_ms, self.scale = 0.0, 11.0
        self.position = 0
        self._image: QImage | None = None
        self._zoomed = False
        self._drag: tuple[str, int, float] | None = None
        self.recording = False
        self._lanes = False
        self.setFixedHeight(_HEIGHT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("Strip: sound over time")
        session.changed.connect(self._on_changed)
        session.sound_ready.connect(self._fit_unless_zoomed)
        session.opened.connect(self._on_opened)

    @property
    def duration(self) -> int:
        """Length of the recording, or of what there is."""
        media = self.session.project.media
        turns = self.session.project.transcript.turns
        return max(media.duration_ms if media else 0, turns[-1].end_ms if turns else 0, 1000)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.theme = theme
        self._redraw()

    def x_of(self, ms: float) -> float:
        """Where a time is."""
        return self.left + (ms - self.start_ms) / self.scale

    def ms_at(self, x: float) -> float:
        """The time at a place."""
        return self.start_ms + (x - self.left) * self.scale

    @property
    def left(self) -> int:
        """Where the time begins: after the names of the lanes, if there are any."""
        return LABEL if self._lanes and lane_count(self.session.project) else 0

    @property
    def room(self) -> int:
        """How wide the time is drawn."""
        return max(1, self.width() - self.left)

    def show_lanes(self, on: bool) -> None:
        """Show a lane for each speaker instead of words and captions."""
        if on != self._lanes:
            whole = self._zoomed and self.scale * self.room >= self.duration - 1
            self._lanes = on
            self._fit_height()
            if whole:
                self.show_all()
            else:
                self._look_at(self.start_ms, self.scale if self._zoomed else self._usual_scale())
                self._turn_to_playhead()

    def _fit_height(self) -> None:
        lanes = lane_count(self.session.project) if self._lanes else 0
        self.setFixedHeight(max(_HEIGHT, _VOICE + 8 + lanes * LANE))

    # -- view -----------------------------------------------------------------

    def fit(self) -> None:
        """Begin with fifteen seconds in view, or two minutes of lanes, at any width, until the user zooms."""
        self._zoomed = False
        self.scale = self._usual_scale()
        self._redraw()

    def _usual_scale(self) -> float:
        return min(self.duration, _LANES_MS if self.left else _USUAL_MS) / self.room

    def show_all(self) -> None:
        """Show the whole recording."""
        self._zoomed = True
        self._look_at(0, self.duration / self.room)

    def zoom(self, factor: float, at_x: float | None = None) -> None:
        """Show more (factor above 1) or less, around a place or the playhead."""
        self._zoomed = True
        if at_x is None:
            at_x = self.x_of(self.position)
            at_x = at_x if self.left <= at_x <= self.width() else self.left + self.room / 2
        fixed = self.ms_at(at_x)
        widest = max(_CLOSEST, self.duration / self.room)
        scale = min(max(self.scale * factor, _CLOSEST), widest)
        self._look_at(fixed - (at_x - self.left) * scale, scale)

    def _look_at(self, start: float, scale: float) -> None:
        span = scale * self.room
        self.scale = scale
        self.start_ms = min(max(start, 0.0), max(0.0, self.duration - span))
        self._redraw()

    def set_position(self, ms: int, *, follow: bool = True) -> None:
        """Move the playhead; the strip turns a page when it leaves the view."""
        old = self.x_of(self.position)
        self.position = ms
        x = self.x_of(ms)
        if follow and self._drag is None:
            self._turn_to_playhead()
        if not self.isVisible():
            return
        for at in (old, x):
            self.update(round(at) - 30, 0, 60, self.height())

    def _turn_to_playhead(self) -> None:
        """Turn a page if the playhead is not in view."""
        if not self.left <= self.x_of(self.position) <= self.width() - 24:
            self._look_at(self.position - 0.12 * self.room * self.scale, self.scale)

    def _redraw(self) -> None:
        self._image = None
        self.update()

    def resizeEvent(self, event) -> None:
        """Draw at the new width."""
        scale = self.scale if self._zoomed else self._usual_scale()
        self._look_at(self.start_ms, scale)

    def _fit_unless_zoomed(self) -> None:
        if self._zoomed:
            self._redraw()
        else:
            self.fit()
            self._turn_to_playhead()

    def _on_opened(self) -> None:
        self.start_ms, self.position = 0.0, 0
        self.fit()

    def _on_changed(self, change: Change) -> None:
        if self._lanes and change.old.transcript.speakers is not change.new.transcript.speakers:
            self._fit_height()
            self._fit_unless_zoomed()
        self.update()

    # -- painting -------------------------------------------------------------

    def paintEvent(self, event) -> None:
        """Draw what is between the edges."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        self._paint_ruler(painter)
        self._paint_wave(painter)
        end = self.ms_at(self.width())
        turns, project = self._turns_between(self.start_ms, end), self.session.project
        if self._lanes and lane_count(project):
            paint_lanes(
                painter, self.theme, project, turns, self.session.talk(), _VOICE + 4, self.width(), self.x_of
            )
        else:
            for turn in turns:
                self._paint_turn(painter, turn)
            self._paint_captions(painter, end)
        x = self.x_of(self.position)
        if x >= self.left:
            painter.fillRect(QRectF(x - 0.75, 0, 1.5, self.height()), self.theme.colour("live"))
        painter.end()

    def _paint_ruler(self, painter: QPainter) -> None:
        step = next((one for one in _STEPS if one / self.scale >= 96), _STEPS[-1])
        painter.setFont(time_font(11))
        digits = 2 if step < 1000 else 0
        first = int(self.start_ms // step) * step
        for ms in range(first, int(self.ms_at(self.width())) + step, step):
            x = self.x_of(ms)
            if x < self.left:
                continue
            painter.setPen(QPen(self.theme.colour("hairline"), 1))
            painter.drawLine(QPointF(x, 0), QPointF(x, 7))
            painter.setPen(self.theme.colour("quiet"))
            painter.drawText(QPointF(x + 4, 12), format_clock(ms, digits=digits, hours=ms >= 3_600_000))

    def _paint_wave(self, painter: QPainter) -> None:
        if self.session.peaks is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(ui_font(12))
            media = self.session.project.media
            text = _EMPTY if media is None else "The sound is not read yet."
            text = _RECORDING if self.recording else text
            painter.drawText(QRectF(0, _RULER, self.width(), _WAVE - 6), Qt.AlignmentFlag.AlignCenter, text)
            return
        ratio = self.devicePixelRatioF()
        if self._image is None or self._image.width() != round(self.room * ratio):
            count = round(self.room * ratio)
            columns = self.session.peaks.columns(self.start_ms, self.ms_at(self.width()), count)
            colour = self.theme.colour("trace")
            self._image = trace_image(columns, round((_WAVE - 4) * ratio), colour, ratio)
        painter.drawImage(QPointF(self.left, _RULER), self._image)

    def _turns_between(self, start: float, end: float) -> tuple[Turn, ...]:
        turns = self.session.project.transcript.turns
        low = max(0, bisect_right(turns, start, key=lambda turn: turn.start_ms) - 3)
        high = bisect_left(turns, end, key=lambda turn: turn.start_ms)
        return turns[low:high]

    def _paint_turn(self, painter: QPainter, turn: Turn) -> None:
        name, letter, colour = speaker_look(self.theme, self.session.project, turn.speaker)
        x0, x1 = max(-4.0, self.x_of(turn.start_ms)), min(self.width() + 4.0, self.x_of(turn.end_ms))
        if x1 < 0:
            return
        painter.fillRect(QRectF(x0, _VOICE + 13, max(1.0, x1 - x0 - 1), 4), colour)
        if x1 - x0 > 14:
            painter.setFont(ui_font(11))
            painter.setPen(colour)
            metrics = QFontMetricsF(painter.font())
            label = metrics.elidedText(name, Qt.TextElideMode.ElideRight, x1 - x0 - 6)
            painter.drawText(QPointF(max(2.0, x0 + 2), _VOICE + 10), label if x1 - x0 > 30 else letter)
        if self.scale < 25:
            self._paint_words(painter, turn)

    def _paint_words(self, painter: QPainter, turn: Turn) -> None:
        painter.setFont(text_font(13))
        metrics = QFontMetricsF(painter.font())
        low = max(0, bisect_right(turn.words, self.start_ms, key=lambda word: word.start_ms) - 1)
        for word in turn.words[low:]:
            x0, x1 = self.x_of(word.start_ms), self.x_of(word.end_ms)
            if x0 > self.width():
                break
            heard = word.start_ms <= self.position < word.end_ms
            painter.fillRect(
                QRectF(x0, _WORDS + 1, max(1.0, x1 - x0 - 1), 2),
                self.theme.colour("live" if heard else "trace"),
            )
            text = metrics.elidedText(word.text, Qt.TextElideMode.ElideRight, x1 - x0 - 1)
            if len(text) > 2 or text == word.text:  # a lone ellipsis says nothing
                painter.setPen(self.theme.colour("ink"))
                painter.drawText(QPointF(x0 + 1, _WORDS + 14), text)

    def _captions_between(self, start: float, end: float) -> list[Caption]:
        track = self.session.project.captions
        if track is None:
            return []
        near = captions_near(track, round(start), round(end))
        found = track.captions[near.start : near.stop]
        return [one for one in found if one.end_ms >= start and one.start_ms <= end]

    def _paint_captions(self, painter: QPainter, end: float) -> None:
        painter.setFont(text_font(13))
        painter.setLayoutDirection(direction(self.session.project.transcript.language))
        metrics = QFontMetricsF(painter.font())
        for caption in self._captions_between(self.start_ms, end):
            x0, x1 = self.x_of(caption.start_ms), self.x_of(caption.end_ms)
            box = QRectF(x0, _CAPTIONS + 3, max(2.0, x1 - x0), 22)
            now = caption.start_ms <= self.position < caption.end_ms
            painter.setPen(QPen(self.theme.colour("ink" if now else "quiet"), 1.6 if now else 0.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
            if box.width() > 30:
                inner = box.adjusted(max(6.0, 6.0 - x0), 0, -4, 0)
                text = " / ".join(caption_lines(caption, self.session.words, self.session.name_of))
                shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, inner.width())
                painter.setPen(self.theme.colour("ink"))
                painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter, shown)

    # -- mouse ----------------------------------------------------------------

    def _edge_at(self, point: QPointF) -> tuple[str, int] | None:
        if point.y() < _CAPTIONS or self._lanes:
            return None
        for caption in self._captions_between(self.start_ms, self.ms_at(self.width())):
            for edge, ms in (("in", caption.start_ms), ("out", caption.end_ms)):
                inside = 1 if edge == "in" else -1
                if -2 <= (point.x() - self.x_of(ms)) * inside <= _GRIP:
                    return edge, caption.id
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take an edge, or move the playhead."""
        edge = self._edge_at(event.position())
        if edge is not None:
            self.session.history.seal()
            self._drag = (*edge, event.position().x())
        else:
            self._drag = ("seek", 0, 0.0)
            self.seek_wanted.emit(round(max(0.0, self.ms_at(event.position().x()))))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag an edge or the playhead."""
        if self._drag is None:
            edge = self._edge_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if edge else Qt.CursorShape.ArrowCursor)
            return
        what, caption_id, _ = self._drag
        ms = round(max(0.0, self.ms_at(event.position().x())))
        if what == "seek":
            self.seek_wanted.emit(ms)
            return
        media = self.session.project.media
        gap = 80 if media is None or media.frame_rate is None else round(2000 / media.frame_rate)
        project = move_edge(self.session.project, caption_id, what, ms, gap)
        self.session.apply(project, "Move a caption's edge", key=f"edge-{caption_id}-{what}")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go; the next drag is a step of its own."""
        self._drag = None
        self.session.history.seal()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll through time; with Ctrl, zoom around the pointer."""
        delta = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(0.8 if delta > 0 else 1.25, event.position().x())
        else:
            self._look_at(self.start_ms - delta * self.scale, self.scale)
