"""What an audit found: the offset over time, the captions that are not on time, the fixes."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed, px
from dubrel.desk.shell.kit.theme import Theme, time_font
from dubrel.desk.shell.kit.widgets import ACCESS, button, label, titled_box
from dubrel.model import Audit, AuditedCaption
from dubrel.model.audit import ON_TIME, TOLERANCE_MS
from dubrel.release.auditreport import course_in_words


@guarded
class OffsetPlot(QWidget):
    """Offsets of all captions over time; crosses are captions that are not spoken."""

    def __init__(self, report: Audit, theme: Theme) -> None:
        super().__init__()
        self.report, self.theme = report, theme
        fixed(self.setMinimumHeight, 190)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("Offset of each caption over time"))
        self.setAccessibleDescription(course_in_words(report))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the band in which captions are on time, the course, then the captions."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        captions = self.report.captions
        area = QRectF(px(64), px(14), self.width() - px(84), self.height() - px(44))
        offsets = [one.offset_ms for one in captions if one.offset_ms is not None] or [0]
        top = max(400, *(abs(one) for one in offsets)) * 1.1
        length = max(1, captions[-1].end_ms if captions else 1)

        def point(ms: float, offset: float) -> QPointF:
            y = area.center().y() - offset / top * area.height() / 2
            return QPointF(area.left() + ms / length * area.width(), y)

        band = QRectF(point(0, TOLERANCE_MS), point(length, -TOLERANCE_MS))
        painter.fillRect(band, self.theme.colour("selection"))
        painter.setPen(QPen(self.theme.colour("hairline"), 1))
        painter.drawLine(point(0, 0), point(length, 0))
        self._paint_scale(painter, area, top, length)
        painter.setPen(QPen(self.theme.colour("action"), 1.4))
        steps = [length * k / 200 for k in range(201)]
        course = [point(ms, self.report.course.corrected(round(ms)) - ms) for ms in steps]
        painter.drawPolyline(course)
        for one in captions:
            self._paint_caption(painter, one, point(one.start_ms, one.offset_ms or 0))
        painter.end()

    def _paint_caption(self, painter: QPainter, one: AuditedCaption, at: QPointF) -> None:
        if one.heard is None:
            painter.setPen(QPen(self.theme.colour("look"), 1.8))
            painter.drawLine(at + QPointF(-px(4), -px(4)), at + QPointF(px(4), px(4)))
            painter.drawLine(at + QPointF(-px(4), px(4)), at + QPointF(px(4), -px(4)))
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.colour("ink" if one.mark == ON_TIME else "look"))
        painter.drawEllipse(at, 3, 3)

    def _paint_scale(self, painter: QPainter, area: QRectF, top: float, length: int) -> None:
        painter.setFont(time_font(11))
        painter.setPen(self.theme.colour("quiet"))
        for share in (1.0, 0.0, -1.0):
            y = area.center().y() - share / 1.1 * area.height() / 2
            text = f"{share * top / 1.1 / 1000:+.2f} s" if share else "0"
            box = QRectF(2, y - px(8), area.left() - px(8), px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        for share in (0.0, 0.5, 1.0):
            clock = format_clock(round(length * share), digits=0)
            x = area.left() + share * area.width() - px(40)
            box = QRectF(min(x, self.width() - px(84.0)), area.bottom() + px(8), px(80), px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, clock)


class AuditDialog(QDialog):
    """An audit to be read, and fixed.

    Signals
    -------
    seek_wanted(int)
        The user chose a caption; the playhead goes there.
    """

    seek_wanted = Signal(int)

    def __init__(self, report: Audit, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Timing audit"))
        self.resize(860, 600)
        self.fix = ""
        box = titled_box(self, tr("Timing audit"))
        box.addWidget(label(course_in_words(report)))
        box.addWidget(OffsetPlot(report, theme))
        box.addWidget(
            label(
                tr(
                    "How much later each caption is spoken than it appears. Captions inside the band are on"
                    " time."
                ),
                "quiet",
            )
        )
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Captions that are not on time"))
        self._fill(report)
        box.addWidget(self.list, 1)
        row = QHBoxLayout()
        wrong = sum(one.mark != ON_TIME for one in report.captions)
        row.addWidget(
            label(
                tr("{wrong} of {captions} captions are not on time").format(
                    wrong=wrong, captions=len(report.captions)
                ),
                "quiet",
            )
        )
        row.addStretch(1)
        self.leave = button(tr("Close"))
        self.course = button(_COURSES.get(report.course.kind, tr("Fix")))
        self.course.setVisible(report.course.kind in _COURSES)
        self.retime = button(tr("Fix each caption"), primary=True)
        self.retime.setEnabled(wrong > 0)
        for one in (self.leave, self.course, self.retime):
            row.addWidget(one)
        box.addLayout(row)
        self.leave.clicked.connect(self.reject)
        self.course.clicked.connect(lambda: self._choose("course"))
        self.retime.clicked.connect(lambda: self._choose("retime"))
        self.list.currentItemChanged.connect(
            lambda item, _before: self.seek_wanted.emit(item.data(Qt.ItemDataRole.UserRole)) if item else None
        )

    def _fill(self, report: Audit) -> None:
        rows = []
        for one in report.captions:
            if one.mark != ON_TIME:
                much = f" {abs(one.offset_ms or 0) / 1000:.2f} s" if one.heard else ""
                rows.append((one.start_ms, f"{one.mark}{much}", one.text))
        rows += [(word.start_ms, "uncaptioned", word.text) for word in report.uncaptioned]
        for ms, mark, text in sorted(rows):
            item = QListWidgetItem(f"{format_clock(ms, digits=1)}    {mark}    {text}")
            item.setData(Qt.ItemDataRole.UserRole, ms)
            self.list.addItem(item)
        if not rows:
            self.list.addItem(tr("Every caption is on time, and all speech is captioned."))

    def _choose(self, fix: str) -> None:
        self.fix = fix
        self.accept()


_COURSES = {
    "shift": tr("Shift all captions"),
    "drift": tr("Stretch all captions"),
    "jump": tr("Shift those after the jump"),
}
