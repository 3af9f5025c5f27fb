"""All cameras side by side as they are at the playhead; the one that is shown stands out."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from PySide6.QtCore import QPointF, QRect, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Space, ui_font

_CAPTION = 26  # pixels of the line below a picture
_DARK = "#0C0C0B"
_SHAPE = 16 / 9
_LEAST = 80


class Seen(Value):
    """A camera as its monitor shows it.

    Attributes
    ----------
    id, number : int
        The number is the key that shows it.
    name, people : str
        Whom it shows, in words.
    runs, shown : bool
        Whether it runs at the playhead, and is what is shown.
    """

    id: int
    number: int
    name: str
    people: str
    runs: bool
    shown: bool


@guarded
class CameraMonitor(QAbstractButton):
    """The picture of one camera."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk = desk
        self.image: QImage | None = None
        self.seen = Seen(0, 0, "", "", runs=False, shown=False)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # digits choose; the page has the keys
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_seen(self, seen: Seen) -> None:
        """Show another state."""
        if seen != self.seen:
            if seen.id != self.seen.id:
                self.image = None
            self.seen = seen
            state = tr("shown now") if seen.shown else "" if seen.runs else tr("does not run now")
            parts = (tr("Camera {number}").format(number=seen.number), seen.name, seen.people, state)
            self.setAccessibleName(", ".join(filter(None, parts)))
            self.setToolTip(
                tr("Show {name} from here on ({number})").format(name=seen.name, number=seen.number)
            )
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """The picture, a line below it, and a frame around both where it is shown."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        theme, seen = self.desk.theme, self.seen
        area = QRectF(0, 0, self.width(), self.height() - px(_CAPTION))
        painter.fillRect(area, QColor(_DARK))
        if self.image is not None and seen.runs:
            size = QSizeF(self.image.size())
            size.scale(area.size(), Qt.AspectRatioMode.KeepAspectRatio)
            corner = QPointF((area.width() - size.width()) / 2, (area.height() - size.height()) / 2)
            painter.drawImage(QRectF(corner, size), self.image)
        elif not seen.runs:
            painter.setPen(QColor("#A39B8B"))
            painter.setFont(ui_font(12))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, tr("Does not run here"))
        line = QRectF(0, area.bottom(), self.width(), px(_CAPTION))
        painter.fillRect(line, theme.colour("live" if seen.shown else "desk"))
        ink = theme.colour("on_action" if seen.shown else "ink")
        painter.setPen(ink)
        painter.setFont(ui_font(13, ui_font().Weight.DemiBold))
        number = str(seen.number)
        painter.drawText(line.adjusted(Space.NEAR, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, number)
        painter.setFont(ui_font(12))
        left = Space.NEAR + QFontMetricsF(ui_font(13)).horizontalAdvance(number) + Space.APART
        room, metrics = line.adjusted(left, 0, -Space.NEAR, 0), QFontMetricsF(painter.font())
        people = f" – {seen.people}" if seen.people else ""
        wide = max(room.width() / 3, room.width() - metrics.horizontalAdvance(people))
        name = metrics.elidedText(seen.name, Qt.TextElideMode.ElideRight, wide)  # whom it shows tells more
        text = metrics.elidedText(name + people, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)
        if seen.shown:
            painter.setPen(QPen(theme.colour("live"), 3))
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))
        painter.end()


@guarded
class CameraMonitors(QWidget):
    """The monitors, as large as there is room.

    Signals
    -------
    chosen(int)
        The id of a camera.
    more()
        There are more of them, or less: they have to be arranged.
    """

    chosen = Signal(int)
    more = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.monitors: list[CameraMonitor] = []

    def show_cameras(self, cameras: Sequence[Seen]) -> None:
        """Show the state of all cameras."""
        while len(self.monitors) < len(cameras):
            made = CameraMonitor(self.desk, self)
            made.clicked.connect(lambda _=False, one=made: self.chosen.emit(one.seen.id))
            self.monitors.append(made)
        many = sum(not one.isHidden() for one in self.monitors)
        for nth, monitor in enumerate(self.monitors):
            monitor.setVisible(nth < len(cameras))
            if nth < len(cameras):
                monitor.show_seen(cameras[nth])
        if many != len(cameras):
            self.more.emit()

    def take(self, camera: int, image: QImage) -> None:
        """The picture of a camera has come."""
        for one in self.monitors:
            if one.seen.id == camera and not one.isHidden():
                one.image = image
                one.update()

    def forget(self) -> None:
        """Forget the pictures: another project is open."""
        for one in self.monitors:
            one.image = None

    def fit(self, width: int, height: int) -> None:
        """Arrange them so that the pictures are as large as a width and a height allow, and be as high."""
        count = sum(not one.isHidden() for one in self.monitors)
        if not count or width <= 0:
            return
        gap, best = Space.APART, (0.0, 1)
        for columns in range(1, count + 1):
            rows = ceil(count / columns)
            wide = (width - (columns - 1) * gap) / columns
            high = (height - (rows - 1) * gap) / rows - px(_CAPTION)
            best = max(best, (min(wide, high * _SHAPE), columns))
        wide, columns = max(px(_LEAST), int(best[0])), best[1]
        high = int(wide / _SHAPE) + px(_CAPTION)
        for nth in range(count):
            row, column = divmod(nth, columns)
            here = min(columns, count - row * columns)
            left = max(0, (width - here * (wide + gap) + gap) // 2)
            place = QRect(left + column * (wide + gap), row * (high + gap), wide, high)
            self.monitors[nth].setGeometry(place)
        self.setFixedHeight(ceil(count / columns) * (high + gap) - gap)
