"""The picture in the booth: video or a large trace, with the caption on it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QImage, QPainter, QPen
from PySide6.QtWidgets import QWidget

from dubrel.desk.shell.guard import guarded
from dubrel.desk.shell.session import Session
from dubrel.desk.shell.theme import Theme
from dubrel.desk.shell.trace import trace_image
from dubrel.edits.captiontext import CaptionText, text_of
from dubrel.edits.queries import caption_at
from dubrel.model import Caption, Look

_AROUND_MS = 2500
_LEAST, _OTHERS = 96, 400  # pixels: what is always left of the picture, and what the rest of the booth needs


@guarded
class Picture(QWidget):
    """Shows what a viewer would see at the playhead."""

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.position = 0
        self._frame: QImage | None = None
        self._shown: tuple[CaptionText, Look] | None = None
        self._trace: tuple[object, QImage] | None = None  # what it was drawn from, and the picture
        self.setAccessibleName("Picture with captions")

    def fit(self, room: int) -> None:
        """Sixteen to nine, but no more of the booth's height than leaves room for the rest."""
        self.setFixedHeight(min(self.width() * 9 // 16, max(_LEAST, room - _OTHERS)))

    def set_frame(self, frame) -> None:
        """Take a video frame from the player."""
        image = frame.toImage()
        if not image.isNull():
            self._frame = image
            self.update()

    def clear(self) -> None:
        """Forget the last frame."""
        self._frame = None
        self.update()

    def refresh(self) -> None:
        """Draw again if the caption at the playhead says something else now."""
        if self._caption_text() != self._shown:
            self.update()

    def _caption_text(self) -> tuple[CaptionText, Look] | None:
        track, caption = self.session.project.captions, self.caption_now()
        if track is None or caption is None:
            return None
        return text_of(self.session.project, track, caption), track.look

    def set_position(self, ms: int) -> None:
        """Show the caption of another time."""
        self.position = ms
        self.update()

    def caption_now(self) -> Caption | None:
        """The caption at the playhead."""
        return caption_at(self.session.project.captions, self.position)

    def paintEvent(self, event) -> None:
        """Draw picture or trace, then the caption."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        media = self.session.project.media
        if media is not None and media.has_video:
            painter.fillRect(self.rect(), QColor("#0C0C0B"))
            if self._frame is not None:
                size = self._frame.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
                x, y = (self.width() - size.width()) / 2, (self.height() - size.height()) / 2
                painter.drawImage(QRectF(x, y, size.width(), size.height()), self._frame)
        else:
            self._paint_trace(painter)
        self._shown = self._caption_text()
        if self._shown is not None:
            self._paint_caption(painter, *self._shown)
        painter.end()

    def _paint_trace(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        painter.setPen(QPen(self.theme.colour("hairline"), 1))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        if self.session.peaks is None:
            return
        ratio = self.devicePixelRatioF()
        drawn_from = (self.session.peaks, self.position, self.size(), self.theme.name, ratio)
        if self._trace is None or self._trace[0] != drawn_from:
            count, height = round((self.width() - 2) * ratio), round(self.height() * 0.5 * ratio)
            start, end = self.position - _AROUND_MS, self.position + _AROUND_MS
            columns = self.session.peaks.evened(start, end, count)
            self._trace = (drawn_from, trace_image(columns, height, self.theme.colour("trace"), ratio))
        painter.drawImage(QPointF(1, self.height() * 0.1), self._trace[1])
        middle = self.width() / 2
        painter.fillRect(QRectF(middle - 0.75, 6, 1.5, self.height() * 0.6), self.theme.colour("live"))

    def _paint_caption(self, painter: QPainter, text: CaptionText, look: Look) -> None:
        font = QFont(look.font)
        font.setPixelSize(max(9, round(self.height() * look.size / 100)))
        font.setWeight(QFont.Weight.Medium)
        painter.setFont(font)
        direction = Qt.LayoutDirection.RightToLeft if text.rtl else Qt.LayoutDirection.LeftToRight
        painter.setLayoutDirection(direction)
        metrics = QFontMetricsF(font)
        line_height = metrics.height() + 4
        y = self.height() - 8 - line_height * len(text.lines)
        ground = QColor(look.ground)
        ground.setAlphaF(look.opacity)
        for line in text.lines:
            width = min(self.width() - 6.0, metrics.horizontalAdvance(line) + 12)
            box = QRectF((self.width() - width) / 2, y, width, line_height)
            painter.fillRect(box, ground)
            painter.setPen(QColor(look.colour))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, line)
            y += line_height
