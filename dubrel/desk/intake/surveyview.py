"""What a look over the recording found: kinds of sound over time, and levels."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme, time_font, ui_font
from dubrel.desk.shell.kit.widgets import ACCESS, Facts
from dubrel.model import Kind, Survey

_LEFT, _RIGHT, _ROW, _BAR, _RULER = 84, 52, 24, 12, 22
_ROWS = ((Kind.SPEECH, tr("Speech")), (Kind.MUSIC, tr("Music")), (Kind.OTHER, tr("Other sound")))
_MARKS_S = (5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600)
_LEAST_MARK = 70  # pixels
_GOOD_SPEECH_DB, _GOOD_APART_DB = -35.0, 20.0


@guarded
class SoundOverTime(QWidget):
    """A row for each kind of sound, dark where it is heard; a click plays from there.

    Signals
    -------
    seek_wanted(int)
    """

    seek_wanted = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._survey: Survey | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("Speech, music and other sound over time"))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        """Three rows and the clock."""
        return QSize(px(400), px(_ROW) * len(_ROWS) + px(_RULER))

    def show_survey(self, found: Survey | None) -> None:
        """Show what was found, or nothing."""
        self._survey = found
        self.setVisible(found is not None and bool(found.kinds))
        shares = [(name, float(self.columns(kind, 1).sum())) for kind, name in _ROWS]
        self.setAccessibleDescription(", ".join(f"{name} {share:.0%}" for name, share in shares))
        self.update()

    @property
    def _duration_ms(self) -> int:
        return len(self._survey.kinds) * self._survey.step_ms if self._survey else 0

    def columns(self, kind: Kind, width: int) -> np.ndarray:
        """How much of each pixel's time is of a kind, 0 to 1, shape (width,)."""
        if self._survey is None or not self._survey.kinds or width < 1:
            return np.zeros(max(0, width))
        is_kind = np.frombuffer(self._survey.kinds, np.uint8) == kind
        summed = np.concatenate([[0.0], np.cumsum(is_kind)])
        edges = np.linspace(0, len(is_kind), width + 1)
        return np.diff(np.interp(edges, np.arange(len(summed)), summed)) / (len(is_kind) / width)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the rows and the clock."""
        if self._survey is None:
            return
        painter, theme = QPainter(self), self.theme
        width = self.width() - px(_LEFT) - px(_RIGHT)
        inks = {Kind.SPEECH: theme.action, Kind.MUSIC: theme.look, Kind.OTHER: theme.quiet}
        for row, (kind, name) in enumerate(_ROWS):
            top = row * px(_ROW)
            painter.setFont(ui_font(12))
            painter.setPen(QColor(theme.quiet))
            painter.drawText(QRectF(0, top, px(_LEFT) - px(8), px(_ROW)), Qt.AlignmentFlag.AlignVCenter, name)
            share = f"{self._survey.share(kind):.0%}"
            place = QRectF(px(_LEFT) + width, top, px(_RIGHT), px(_ROW))
            right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.setPen(QColor(theme.ink))
            painter.drawText(place, right, share)
            bar = QRectF(px(_LEFT), top + (px(_ROW) - px(_BAR)) / 2, width, px(_BAR))
            ground = QColor(theme.hairline)
            ground.setAlphaF(0.5)
            painter.fillRect(bar, ground)
            ink = QColor(inks[kind])
            for column, filled in enumerate(self.columns(kind, width)):
                if filled > 0.01:
                    ink.setAlphaF(min(1.0, 0.25 + 0.75 * filled))
                    painter.fillRect(QRectF(px(_LEFT) + column, bar.top(), 1, px(_BAR)), ink)
        self._paint_clock(painter, width)

    def _paint_clock(self, painter: QPainter, width: int) -> None:
        seconds = self._duration_ms / 1000
        step = next((one for one in _MARKS_S if one / seconds * width >= px(_LEAST_MARK)), _MARKS_S[-1])
        painter.setFont(time_font(11))
        painter.setPen(QColor(self.theme.quiet))
        top = px(_ROW) * len(_ROWS)
        for mark in range(0, int(seconds) + 1, step):
            x = px(_LEFT) + mark / seconds * width
            painter.drawLine(int(x), top, int(x), top + px(4))
            if x + px(40) < px(_LEFT) + width:
                painter.drawText(int(x) + px(4), top + px(14), format_length(mark * 1000))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the time under the pointer."""
        width = max(1, self.width() - px(_LEFT) - px(_RIGHT))
        share = (event.position().x() - px(_LEFT)) / width
        if 0 <= share <= 1:
            self.seek_wanted.emit(int(share * self._duration_ms))


class SoundFacts(Facts):
    """Levels, clipping, channels, and how long transcribing will take.

    Attributes
    ----------
    shown : Survey or None
    """

    def __init__(self) -> None:
        super().__init__(
            tr("Sound"),
            [tr("Speech level"), tr("Noise floor"), tr("Clipping"), tr("Channels"), tr("Transcribing takes")],
        )
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch(1)
        self.show_survey(None)

    def show_survey(self, found: Survey | None) -> None:
        """Show what was found, or nothing."""
        self.shown = found
        for one in self.findChildren(QWidget, options=Qt.FindChildOption.FindDirectChildrenOnly):
            one.setVisible(found is not None)
        if found is None:
            return
        level = tr("no speech") if found.speech_db is None else f"{_db(found.speech_db)}{_verdict(found)}"
        self.set(tr("Speech level"), level, tr("Loud parts of the speech, below full scale"))
        self.set(tr("Noise floor"), _db(found.floor_db), tr("The quietest tenth of the recording"))
        clipped = (
            tr("none")
            if not found.clipped_s
            else tr("in {clipped_s} s of sound").format(clipped_s=found.clipped_s)
        )
        self.set(tr("Clipping"), clipped, tr("Where the sound is cut off at full scale"))
        self.set_visible(tr("Channels"), found.channels_apart is not None)
        self.set(tr("Channels"), tr("one person each") if found.channels_apart else tr("the same in all"))
        self.set(
            tr("Transcribing takes"),
            tr("about {length}").format(length=format_length(round(found.transcribing_s) * 1000)),
        )


def _db(level: float) -> str:
    return f"{level:.0f} dBFS".replace("-", "−")


def _verdict(found: Survey) -> str:
    assert found.speech_db is not None
    if found.speech_db < _GOOD_SPEECH_DB:
        return tr(", quiet")
    return tr(", noisy") if found.speech_db - found.floor_db < _GOOD_APART_DB else ""
