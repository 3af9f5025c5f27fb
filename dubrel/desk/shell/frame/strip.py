"""The strip along the bottom: the sound over time, and under it what a room's layer draws."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.project.changes import Change
from dubrel.project.index import caption_with, captions_of, turn_with

HEIGHT = 130
RULER, WAVE, BELOW = 18, 46, 64
USUAL_MS = 15_000
_MANY = 100  # turns: something of so many is in view
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
_REACH = 80  # pixels: no text of the ruler reaches further from its place
_EMPTY = tr("Bring in a recording to see its sound here.")
_RECORDING = tr("The sound is drawn here when the recording has ended.")


class Layer:
    """What a room draws under the sound.

    Attributes
    ----------
    usual_ms : int
        How much time is in view until the user zooms.
    """

    usual_ms = USUAL_MS

    def left(self) -> int:
        """Pixels that are taken at the left end for names."""
        return 0

    def height(self) -> int:
        """Of the whole strip, in pixels."""
        return px(HEIGHT)

    def paint(self, painter: QPainter, strip: Strip, start_ms: float, end_ms: float) -> None:
        """Draw what lies between two times, from ``BELOW`` down."""

    def marked(self, ms: int) -> list[tuple[int, int]]:
        """From when to when what is drawn otherwise stands while the playhead is at a time."""
        return []

    def grip_at(self, strip: Strip, point: QPointF) -> object | None:
        """Something under a point that can be dragged."""
        return None

    def drag(self, grip: object, ms: int) -> None:
        """Move what was taken."""

    def let_go(self, grip: object) -> None:
        """What was taken stays where it is now."""

    def choose(self, strip: Strip, point: QPointF) -> list[str]:
        """Choose what is under a point; what it is, for its menu."""
        return []


@guarded
class Strip(QWidget):
    """Sound over time with a playhead.

    Signals
    -------
    seek_wanted(int)
        The user clicked a time.
    """

    seek_wanted = Signal(int)

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.session, self.theme = desk, desk.session, desk.theme
        self.start_ms, self.scale = 0.0, 11.0
        self.position = 0
        self._image: QImage | None = None
        self._zoomed = False
        self._grip: object | None = None
        self._seeking = False
        self.recording = False
        self.layer = Layer()
        self.setFixedHeight(px(HEIGHT))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName(tr("Strip: sound over time"))
        self.setProperty(ACCESS, "time")
        session = self.session
        session.changed.connect(self._on_changed)
        session.traced.connect(self._fit_unless_zoomed)
        session.opened.connect(self._on_opened)
        desk.recording.connect(self._on_recording)

    @property
    def duration(self) -> int:
        """Length of the recording, or of what there is."""
        media = self.session.project.media
        turns = self.session.project.transcript.turns
        return max(media.duration_ms if media else 0, turns[-1].end_ms if turns else 0, 1000)

    def described(self) -> str:
        """Where the playhead is, and what is in sight, in words."""
        now, last = (format_clock(ms, digits=1) for ms in (self.position, self.duration))
        sight = self.start_ms, self.ms_at(self.width())
        begin, end = (format_clock(max(0, round(ms)), digits=0) for ms in sight)
        return tr("{now} of {last}; {begin} to {end} in sight").format(
            now=now, last=last, begin=begin, end=end
        )

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.theme = theme
        self.setFixedHeight(self.layer.height() if self.layer is not None else px(HEIGHT))
        self._redraw()

    def x_of(self, ms: float) -> float:
        """Where a time is."""
        return self.left + (ms - self.start_ms) / self.scale

    def ms_at(self, x: float) -> float:
        """The time at a place."""
        return self.start_ms + (x - self.left) * self.scale

    @property
    def left(self) -> int:
        """Where the time begins: after names at the left, if there are any."""
        return self.layer.left()

    @property
    def room(self) -> int:
        """How wide the time is drawn."""
        return max(1, self.width() - self.left)

    def set_layer(self, layer: Layer) -> None:
        """Draw another layer under the sound."""
        if layer is self.layer:
            return
        whole = self._zoomed and self.scale * self.room >= self.duration - 1
        self.layer = layer
        self.setFixedHeight(layer.height())
        if whole:
            self.show_all()
        else:
            self.look_at(self.start_ms, self.scale if self._zoomed else self._usual_scale())
            self._turn_to_playhead()

    # -- view -----------------------------------------------------------------

    def fit(self) -> None:
        """Begin with as much in view as the layer likes, at any width, until the user zooms."""
        self._zoomed = False
        self.scale = self._usual_scale()
        self._redraw()

    def _usual_scale(self) -> float:
        return min(self.duration, self.layer.usual_ms) / self.room

    def show_all(self) -> None:
        """Show the whole recording."""
        self._zoomed = True
        self.look_at(0, self.duration / self.room)

    def zoom(self, factor: float, at_x: float | None = None) -> None:
        """Show more (factor above 1) or less, around a place or the playhead."""
        self._zoomed = True
        if at_x is None:
            at_x = self.x_of(self.position)
            at_x = at_x if self.left <= at_x <= self.width() else self.left + self.room / 2
        fixed = self.ms_at(at_x)
        widest = max(_CLOSEST, self.duration / self.room)
        scale = min(max(self.scale * factor, _CLOSEST), widest)
        self.look_at(fixed - (at_x - self.left) * scale, scale)

    def look_at(self, start: float, scale: float) -> None:
        """Show what begins at a time, with so many milliseconds a pixel."""
        span = scale * self.room
        self.scale = scale
        self.start_ms = min(max(start, 0.0), max(0.0, self.duration - span))
        self._redraw()

    def set_position(self, ms: int, *, follow: bool = True) -> None:
        """Move the playhead; the strip turns a page when it leaves the view."""
        before, old = self.position, self.x_of(self.position)
        self.position = ms
        x = self.x_of(ms)
        if follow and self._grip is None:
            self._turn_to_playhead()
        if not self.isVisible():
            return
        for at in (old, x):
            self.update(round(at) - 30, 0, 60, self.height())
        were, are = set(self.layer.marked(before)), set(self.layer.marked(ms))
        for start, end in were ^ are:  # all of what gains or loses its frame, not only near the playhead
            left, right = (max(-30.0, min(self.x_of(one), self.width() + 30.0)) for one in (start, end))
            self.update(round(left) - 3, 0, round(right - left) + 6, self.height())

    def _turn_to_playhead(self) -> None:
        """Turn a page if the playhead is not in view."""
        if not self.left <= self.x_of(self.position) <= self.width() - 24:
            self.look_at(self.position - 0.12 * self.room * self.scale, self.scale)

    def _redraw(self) -> None:
        self._image = None
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Draw at the new width."""
        scale = self.scale if self._zoomed else self._usual_scale()
        self.look_at(self.start_ms, scale)

    def _fit_unless_zoomed(self) -> None:
        if self._zoomed:
            self._redraw()
        else:
            self.fit()
            self._turn_to_playhead()

    def _on_recording(self, on: bool) -> None:
        self.recording = on
        self.update()

    def _on_opened(self) -> None:
        self.start_ms, self.position = 0.0, 0
        self.fit()

    def _on_changed(self, change: Change) -> None:
        if change.speakers and self.layer.height() != self.height():
            self.setFixedHeight(self.layer.height())
            self._fit_unless_zoomed()
        if self._touches_view(change):
            self.update()

    def _touches_view(self, change: Change) -> bool:
        """Whether something that differs is, or was, in view."""
        if change.speakers or change.tracks or change.old.media is not change.new.media:
            return True
        start, end, track = self.start_ms, self.ms_at(self.width()), change.new.active
        if len(change.turns) > _MANY:
            return True
        for project in (change.old, change.new):
            turns = [turn for one in change.turns if (turn := turn_with(project, one))]
            if any(one.end_ms >= start and one.start_ms <= end for one in turns):
                return True
            words = (word.id for turn in turns for word in turn.words)
            captions = [*captions_of(project, track, words).values()]
            captions += [
                c for one in change.captions.get(track, ()) if (c := caption_with(project, track, one))
            ]
            spans = [(one.start_ms, one.end_ms) for one in turns] + [(c.start_ms, c.end_ms) for c in captions]
            if any(b >= start and a <= end for a, b in spans):
                return True
        return False

    # -- painting -------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw what is to be seen anew: all of it, or a little around the playhead while it plays."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = event.rect()
        start_ms = max(self.start_ms, self.ms_at(area.left() - px(_REACH)))
        end_ms = self.ms_at(min(self.width(), area.right() + 1 + px(_REACH)))
        painter.fillRect(area, self.theme.colour("paper"))
        self._paint_span(painter)
        self._paint_ruler(painter, start_ms, end_ms)
        self._paint_wave(painter)
        self.layer.paint(painter, self, start_ms, end_ms)
        x = self.x_of(self.position)
        if x >= self.left:
            painter.fillRect(QRectF(x - 0.75, 0, 1.5, self.height()), self.theme.colour("live"))
        painter.end()

    def _paint_span(self, painter: QPainter) -> None:
        """What is outside of the in and out points stands back; each point has its bracket."""
        start, end = self.desk.span
        height = float(px(RULER) + px(WAVE))
        for ms, towards in ((start, 1), (end, -1)):
            if ms is None:
                continue
            x = self.x_of(ms)
            first, after = (self.left, x) if towards > 0 else (max(x, self.left), self.width())
            painter.fillRect(QRectF(first, 0, max(0.0, after - first), height), self.theme.colour("desk"))
            if x < self.left:
                continue
            painter.fillRect(QRectF(x - 1, 0, 2, height), self.theme.colour("look"))
            for y in (0.0, height - 2):
                painter.fillRect(
                    QRectF(x if towards > 0 else x - px(7), y, px(7), 2), self.theme.colour("look")
                )

    def _paint_ruler(self, painter: QPainter, start_ms: float, end_ms: float) -> None:
        step = next((one for one in _STEPS if one / self.scale >= 96), _STEPS[-1])
        painter.setFont(time_font(11))
        digits = 2 if step < 1000 else 0
        first = int(start_ms // step) * step
        for ms in range(first, int(end_ms) + step, step):
            x = self.x_of(ms)
            if x < self.left:
                continue
            painter.setPen(QPen(self.theme.colour("hairline"), 1))
            painter.drawLine(QPointF(x, 0), QPointF(x, px(7)))
            painter.setPen(self.theme.colour("quiet"))
            painter.drawText(
                QPointF(x + px(4), px(12)), format_clock(ms, digits=digits, hours=ms >= 3_600_000)
            )

    def _paint_wave(self, painter: QPainter) -> None:
        if self.session.trace is None:
            painter.setPen(self.theme.colour("quiet"))
            painter.setFont(ui_font(12))
            media = self.session.project.media
            text = _EMPTY if media is None else tr("The sound has not been read yet.")
            text = _RECORDING if self.recording else text
            painter.drawText(
                QRectF(0, px(RULER), self.width(), px(WAVE) - px(6)), Qt.AlignmentFlag.AlignCenter, text
            )
            return
        ratio = self.devicePixelRatioF()
        if self._image is None or self._image.width() != round(self.room * ratio):
            count = round(self.room * ratio)
            columns = self.session.trace.evened(self.start_ms, self.ms_at(self.width()), count)
            colour = self.theme.colour("trace")
            self._image = trace_image(columns, round((px(WAVE) - px(4)) * ratio), colour, ratio)
        painter.drawImage(QPointF(self.left, px(RULER)), self._image)

    # -- mouse ----------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take something, or move the playhead."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._grip = self.layer.grip_at(self, event.position())
        if self._grip is not None:
            self.session.history.seal()
            return
        self._seeking = True
        self.seek_wanted.emit(round(max(0.0, self.ms_at(event.position().x()))))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag what was taken, or the playhead."""
        ms = round(max(0.0, self.ms_at(event.position().x())))
        if self._seeking:
            self.seek_wanted.emit(ms)
        elif self._grip is not None:
            self.layer.drag(self._grip, ms)
        else:
            held = self.layer.grip_at(self, event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if held else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go; the next drag is a step of its own."""
        grip, self._grip, self._seeking = self._grip, None, False
        self.session.history.seal()
        if grip is not None:
            self.layer.let_go(grip)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Show the menu of what is selected."""
        things: Sequence[str] = self.layer.choose(self, QPointF(event.pos()))
        self.desk.menu_on([*things, "strip"], event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the playhead; I and O set the in and the out point."""
        name = {Qt.Key.Key_I: "mark_in", Qt.Key.Key_O: "mark_out"}.get(Qt.Key(event.key()))
        if name is not None and not event.modifiers():
            self.desk.commands.run(name)
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or event.modifiers():
            super().keyPressEvent(event)
        else:
            self.seek_wanted.emit(max(0, self.position + round(step * 10 * self.scale)))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Scroll through time; with Ctrl, zoom around the pointer."""
        delta = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(0.8 if delta > 0 else 1.25, event.position().x())
        else:
            self.look_at(self.start_ms - delta * self.scale, self.scale)
