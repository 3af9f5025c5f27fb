"""The line along the bottom: keys or a message, the running job, the numbers of the project."""

from __future__ import annotations

from collections import deque
from datetime import datetime
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.announce import announce
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Progress

_SHOWN_MS = 9000
_KEPT = 30  # messages that can be read again
_BAR = 96


def time_left(progress: Progress) -> str:
    """Stage, fraction and time left in words."""
    text = f"{progress.stage}, {progress.fraction:.0%}"
    if progress.left_s is None:
        return text
    return tr("{text}, about {left_s} left").format(
        text=text, left_s=format_length(round(progress.left_s) * 1000)
    )


@guarded
class ElidedLabel(QLabel):
    """A label that is cut with an ellipsis where there is no room; the whole text is in the tool tip."""

    def minimumSizeHint(self) -> QSize:
        """As good as nothing."""
        return QSize(24, super().minimumSizeHint().height())

    def setText(self, text: str) -> None:
        """Show a text."""
        super().setText(text)
        self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw what there is room for."""
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        shown = QFontMetrics(self.font()).elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, shown)


@guarded
class Footer(QWidget):
    """Keys of the pass, or for a while a message in their place; at the right the job and the numbers.

    Signals
    -------
    cancel_wanted()
        The running job is to stop.
    """

    cancel_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(Space.EDGE, 0, Space.WIDE, Space.NEAR)
        row.setSpacing(Space.APART)
        self.keys, self.message = ElidedLabel(), ElidedLabel()
        self.keys.setProperty("role", "quiet")
        self.message.setProperty("role", "look")
        self.message.hide()
        self.job = label("", "quiet")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        fixed(self.bar.setFixedWidth, _BAR)
        self.bar.setAccessibleName(tr("Progress of the running job"))
        self.cancel = button(tr("Cancel"))
        self.cancel.setProperty("role", "small")
        self.cancel.clicked.connect(self.cancel_wanted)
        self.numbers = label("", "quiet")
        row.addWidget(self.keys, 1)
        row.addWidget(self.message, 1)
        for one in (self.job, self.bar, self.cancel, self.numbers):
            row.addWidget(one)
        self.last: deque[tuple[datetime, str]] = deque(maxlen=_KEPT)
        self.forgetting = QTimer(self, singleShot=True)
        self.forgetting.timeout.connect(lambda: self.say(""))
        self.show_progress(None)

    def minimumSizeHint(self) -> QSize:
        """High enough for what belongs to a job, so that nothing moves when one begins or ends."""
        least = super().minimumSizeHint()
        return QSize(least.width(), max(least.height(), self.cancel.sizeHint().height() + Space.NEAR))

    def sizeHint(self) -> QSize:
        """As high."""
        return super().sizeHint().expandedTo(QSize(0, self.minimumSizeHint().height()))

    def say(self, text: str) -> None:
        """Say something for a while; it is kept among the last messages."""
        if text:
            self.last.append((datetime.now(), text))
            announce(self.message, text)
        self.message.setText(text)
        self.message.setVisible(bool(text))
        self.keys.setVisible(not text)
        self.forgetting.start(_SHOWN_MS)

    def show_progress(self, progress: Progress | None, count: int = 0) -> None:
        """Show a running job and how many others run beside it, or that there is none."""
        running = progress is not None
        for one in (self.job, self.bar, self.cancel):
            one.setVisible(running)
        if progress is not None:
            others = tr(" (and {count} more)").format(count=count - 1) if count > 1 else ""
            self.job.setText(time_left(progress) + others)
            self.bar.setValue(round(progress.fraction * 1000))
