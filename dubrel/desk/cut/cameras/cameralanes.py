"""A lane for each camera: where it runs, and where it is shown; switches can be dragged."""

from __future__ import annotations

from bisect import bisect_right

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Space, time_font, ui_font
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.model import Camera, Cameras, Cut, Switch

_LANE, _RULER, _LEFT, _GRIP = 26, 20, 132, 5
_USUAL_MS, _LEAST_MS = 90_000, 4000
_STEPS = (500, 1000, 2000, 5000, 10_000, 20_000, 30_000, 60_000, 120_000, 300_000, 600_000, 1_800_000)


@guarded
class CameraLanes(QWidget):
    """Cameras over time.

    Signals
    -------
    seek_wanted(int)
    camera_chosen(int)
        Its name was clicked.
    switch_moved(Switch, int)
        A switch is dragged to a time.
    switch_dropped()
        It stays there.
    """

    seek_wanted = Signal(int)
    camera_chosen = Signal(int)
    switch_moved = Signal(object, int)
    switch_dropped = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.cameras, self.length_ms = Cameras(), 0
        self.cut: Cut | None = None
        self.camera_id = 0
        self._shots: list[tuple[float, float, int]] = []
        self.start_ms, self.span_ms, self.position = 0.0, float(_USUAL_MS), 0
        self._grip: Switch | None = None
        self.setMouseTracking(True)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("Cameras over time"))

    def show_cameras(
        self,
        cameras: Cameras,
        shots: list[tuple[float, float, int]],
        length_ms: int,
        cut: Cut | None,
        chosen: int,
    ) -> None:
        """Show other lanes, and shots: from when to when, and of which camera."""
        self._shots = shots
        self.cameras, self.length_ms, self.cut, self.camera_id = cameras, length_ms, cut, chosen
        fixed(self.setFixedHeight, _RULER + _LANE * max(1, len(cameras.seen)) + Space.TIGHT)
        self.setAccessibleDescription(
            tr("{shots} shots from {seen} cameras").format(shots=len(shots), seen=len(cameras.seen))
        )
        self._look_at(self.start_ms, self.span_ms)

    def set_position(self, ms: int) -> None:
        """Move the playhead, and what is shown of the time along with it."""
        self.position = ms
        if not self.start_ms <= ms < self.start_ms + self.span_ms and self._grip is None:
            self._look_at(ms - self.span_ms * 0.1, self.span_ms)
        self.update()

    def _look_at(self, start_ms: float, span_ms: float) -> None:
        self.span_ms = min(max(span_ms, _LEAST_MS), max(_LEAST_MS, float(self.length_ms)))
        self.start_ms = min(max(0.0, start_ms), max(0.0, self.length_ms - self.span_ms))
        self.update()

    def x_of(self, ms: float) -> float:
        """Where a time is."""
        return px(_LEFT) + (ms - self.start_ms) / self.span_ms * (self.width() - px(_LEFT) - Space.NEAR)

    def ms_at(self, x: float) -> float:
        """Which time is at a place."""
        return self.start_ms + (x - px(_LEFT)) / max(1, self.width() - px(_LEFT) - Space.NEAR) * self.span_ms

    # -- painting ----------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        """Ruler, lanes, what is out of the cut, playhead."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_ruler(painter)
        for nth, camera in enumerate(self.cameras.seen):
            self._paint_lane(painter, nth, camera)
        painter.setClipRect(QRectF(px(_LEFT), 0, self.width() - px(_LEFT), self.height()))
        self._paint_shots(painter)
        self._paint_out(painter)
        x = self.x_of(self.position)
        painter.fillRect(QRectF(x - 0.75, 0, 1.5, self.height()), self.desk.theme.colour("live"))
        painter.end()

    def _paint_ruler(self, painter: QPainter) -> None:
        theme = self.desk.theme
        step = next((one for one in _STEPS if self.x_of(one) - self.x_of(0) > 84), _STEPS[-1])
        painter.setFont(time_font(11))
        first = int(self.start_ms // step) * step
        for ms in range(first, int(self.start_ms + self.span_ms) + 1, step):
            x = self.x_of(ms)
            if x < px(_LEFT):
                continue
            painter.setPen(QPen(theme.colour("hairline"), 1))
            painter.drawLine(QPointF(x, px(4)), QPointF(x, self.height()))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(QPointF(x + px(4), px(13)), format_clock(ms, digits=1 if step < 1000 else 0))

    def _top(self, nth: int) -> float:
        return px(_RULER) + nth * px(_LANE)

    def _paint_lane(self, painter: QPainter, nth: int, camera: Camera) -> None:
        theme, top = self.desk.theme, self._top(nth)
        if camera.id == self.camera_id:
            painter.fillRect(QRectF(0, top, px(_LEFT) - Space.NEAR, px(_LANE) - 2), theme.colour("selection"))
        painter.setPen(theme.colour("ink"))
        painter.setFont(ui_font(12, ui_font().Weight.DemiBold))
        box = QRectF(Space.NEAR, top, px(_LEFT) - 2 * Space.NEAR, px(_LANE) - 2)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, str(nth + 1))
        painter.setFont(ui_font(12))
        room = box.adjusted(Space.WIDE + Space.TIGHT, 0, 0, 0)
        name = QFontMetricsF(ui_font(12)).elidedText(camera.name, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
        starts, ends = camera.starts_ms, camera.ends_ms
        if camera.media is None:
            starts, ends = 0, self.length_ms
        x0, x1 = max(float(px(_LEFT)), self.x_of(starts)), min(float(self.width()), self.x_of(ends))
        if x1 > x0:
            painter.fillRect(QRectF(x0, top + px(_LANE) / 2 - 2, x1 - x0, 2), theme.colour("trace"))

    def _paint_shots(self, painter: QPainter) -> None:
        """A block on the lane of the camera that is shown, with its length where there is room."""
        theme, order = self.desk.theme, {one.id: nth for nth, one in enumerate(self.cameras.seen)}
        first = max(0, bisect_right(self._shots, self.start_ms, key=lambda one: one[0]) - 1)
        painter.setFont(ui_font(11))
        for start, end, camera in self._shots[first:]:
            if start > self.start_ms + self.span_ms:
                break
            if camera not in order:
                continue
            x0, x1 = self.x_of(start), self.x_of(end)
            box = QRectF(x0 + 0.5, self._top(order[camera]) + 3, max(1.0, x1 - x0 - 1), px(_LANE) - px(8))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("action"))
            painter.drawRoundedRect(box, 2, 2)
            left = max(float(px(_LEFT)), box.left()) + Space.CLOSE
            if box.right() - left > 36:
                painter.setPen(theme.colour("on_action"))
                room = QRectF(left, box.top(), box.right() - left, box.height())
                painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, f"{(end - start) / 1000:.1f} s")

    def _paint_out(self, painter: QPainter) -> None:
        """Pale over what the cut does not play."""
        if self.cut is None:
            return
        veil = self.desk.theme.colour("paper")
        veil.setAlpha(190)
        at = 0
        for start, end in [*sorted((p.start_ms, p.end_ms) for p in self.cut.passages), (self.length_ms,) * 2]:
            if start > at and self.x_of(start) > px(_LEFT) and self.x_of(at) < self.width():
                painter.fillRect(
                    QRectF(self.x_of(at), px(_RULER), self.x_of(start) - self.x_of(at), self.height()), veil
                )
            at = max(at, end)

    # -- by the pointer ------------------------------------------------------------------------

    def _switch_at(self, x: float) -> Switch | None:
        near = _GRIP * self.span_ms / max(1, self.width() - px(_LEFT))
        ms = self.ms_at(x)
        best = min(self.cameras.switches, key=lambda one: abs(one.ms - ms), default=None)
        return best if best is not None and abs(best.ms - ms) <= near and x > px(_LEFT) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a camera, take a switch, or move the playhead."""
        at = event.position()
        nth = int((at.y() - px(_RULER)) // px(_LANE))
        if at.x() < px(_LEFT):
            if 0 <= nth < len(self.cameras.seen):
                self.camera_chosen.emit(self.cameras.seen[nth].id)
            return
        self._grip = self._switch_at(at.x()) if at.y() >= px(_RULER) else None
        if self._grip is None:
            self.seek_wanted.emit(round(min(max(0.0, self.ms_at(at.x())), float(self.length_ms))))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the switch; else show that it could be."""
        x = event.position().x()
        if self._grip is None:
            there = self._switch_at(x) is not None and event.position().y() >= px(_RULER)
            self.setCursor(Qt.CursorShape.SizeHorCursor if there else Qt.CursorShape.ArrowCursor)
            return
        before = self._grip
        nth = self.cameras.switches.index(before) if before in self.cameras.switches else -1
        self.switch_moved.emit(before, round(self.ms_at(x)))
        rows = self.cameras.switches  # as they are now
        self._grip = rows[nth] if 0 <= nth < len(rows) and rows[nth].camera == before.camera else None

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The switch stays."""
        if self._grip is not None:
            self._grip = None
            self.switch_dropped.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Move in time; with Ctrl see more or less of it."""
        step = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            at = self.ms_at(event.position().x())
            span = self.span_ms * (0.8 if step > 0 else 1.25)
            share = (at - self.start_ms) / self.span_ms
            self._look_at(at - span * share, span)
        else:
            self._look_at(self.start_ms - step / 120 * self.span_ms * 0.1, self.span_ms)
        event.accept()
