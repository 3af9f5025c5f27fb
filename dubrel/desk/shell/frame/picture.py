"""The picture in the booth: video or a large trace, with the caption on it."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import tr
from dubrel.captions.places import SAFE, Place, placed
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import px
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.shell.kit.trace import trace_image
from dubrel.desk.shell.kit.widgets import ACCESS
from dubrel.model import Caption, CaptionTrack, Look
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, text_of, word_times
from dubrel.project.queries import caption_at

if TYPE_CHECKING:
    from PySide6.QtMultimedia import QVideoFrame

    from dubrel.captions.motion import WordTimes
    from dubrel.film.drawing import Drawn
    from dubrel.film.moving import MovingCaption

_AROUND_MS = 2500
_LEAST, _OTHERS = 96, 400  # pixels: what is always left of the picture, and what the rest of the booth needs


@guarded
class Picture(QWidget):
    """Shows what a viewer would see at the playhead.

    Signals
    -------
    caption_moved(int, float, float)
        A caption was dragged: its id, and where its middle is now in percent of the picture.
    framed(float, float)
        The part that is shown of the picture was dragged: where its middle is now, in percent.
    """

    caption_moved = Signal(int, float, float)
    framed = Signal(float, float)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.position = 0
        self.safe_areas = False
        self.large = False
        self.shape: Fraction | None = None  # width to height of the film that is made, where that is another
        self._pulled: tuple[QPointF, tuple[float, float]] | None = None  # from where, and where it lay
        self._framed: tuple[float, float] | None = None
        self._frame: QImage | None = None
        self.camera: QImage | None = None  # of another camera, in place of the recording's picture
        self._shown: tuple[object, ...] | None = None
        self._trace: tuple[object, QImage] | None = None  # what it was drawn from, and the picture
        self._grip: tuple[int, QPointF] | None = None  # the caption, and where in it the pointer is
        self._dragged: tuple[float, float] | None = None
        self.caption_box = QRectF()
        self._moves: tuple[object, MovingCaption, WordTimes] | None = None  # of what, how it moves, when
        self.tracks = (
            0,
            0,
        )  # the one that is shown, and the one at the top; 0 for the active one, and for none
        self.setAccessibleName(tr("Picture with captions"))
        self.setProperty(ACCESS, "drawn")

    def described(self) -> str:
        """The caption on the picture, in words."""
        track = self.track
        caption = caption_at(track, self.position) if track else None
        if track is None or caption is None:
            return tr("no caption here")
        return tr("caption: ") + " / ".join(text_of(self.session.project, track, caption).lines)

    def show_tracks(self, shown: int, above: int) -> None:
        """Show the captions of a track (with 0 the active one), and of another one at the top."""
        self.tracks = (shown, above)
        self.update()

    @property
    def track(self) -> CaptionTrack | None:
        """The track whose captions are shown."""
        project = self.session.project
        return project.track(self.tracks[0]) or project.captions

    def fit(self, booth: QSize) -> None:
        """Sixteen to nine, but no more of the booth's height than leaves room for the rest."""
        if not self.large:
            self.setFixedHeight(min(booth.width() * 9 // 16, max(px(_LEAST), booth.height() - px(_OTHERS))))

    def set_frame(self, frame: QVideoFrame) -> None:
        """Take a video frame from the player."""
        image = frame.toImage()
        if not image.isNull():
            self._frame = image
            self.update()

    def show_camera(self, image: QImage | None) -> None:
        """Show what another camera shows, or with nothing the recording's own picture again."""
        if image is not None or self.camera is not None:
            self.camera = image
            self.update()

    def clear(self) -> None:
        """Forget the last frame."""
        self._frame = self.camera = None
        self.update()

    def refresh(self) -> None:
        """Draw again if the caption at the playhead says or looks otherwise now."""
        if self._seen() != self._shown:
            self.update()

    def _seen(self) -> tuple[object, ...] | None:
        """All that the caption at the playhead is drawn from."""
        track, caption = self.track, self.caption_now()
        if track is None or caption is None:
            return None
        text = text_of(self.session.project, track, caption)
        return caption, text, look_of(self.session.project, track, caption), placed(caption, track.rules)

    def set_position(self, ms: int) -> None:
        """Show the caption of another time."""
        self.position = ms
        self.update()

    def caption_now(self) -> Caption | None:
        """The caption at the playhead."""
        return caption_at(self.track, self.position)

    @property
    def area(self) -> QRectF:
        """Where the picture itself is, without what is left free beside it."""
        media, whole = self.session.project.media, QRectF(self.rect())
        if media is not None and media.has_video:
            return _middle_of(whole, QSizeF(media.width, media.height))
        return _middle_of(whole, QSizeF(self.camera.size())) if self.camera is not None else whole

    @property
    def part(self) -> QRectF:
        """What is shown of the picture: all of it, or where the crop lies."""
        area, media = self.area, self.session.project.media
        if self.shape is None or media is None or not (media.has_video or self.camera is not None):
            return area
        wide = min(area.width(), area.height() * float(self.shape))
        high = min(area.height(), area.width() / float(self.shape))
        x, y = self._framed or self.session.project.framing.at(self.position)
        left = min(max(area.width() * x / 100 - wide / 2, 0), area.width() - wide)
        top = min(max(area.height() * y / 100 - high / 2, 0), area.height() - high)
        return QRectF(area.left() + left, area.top() + top, wide, high)

    @property
    def frame(self) -> QImage | None:
        """The last video frame."""
        return self._frame

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw picture or trace, then the caption."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        media = self.session.project.media
        if self.camera is not None:
            painter.fillRect(self.rect(), QColor("#0C0C0B"))
            painter.drawImage(_middle_of(self.area, QSizeF(self.camera.size())), self.camera)
        elif media is not None and media.has_video:
            painter.fillRect(self.rect(), QColor("#0C0C0B"))
            if self._frame is not None:
                painter.drawImage(self.area, self._frame)
        else:
            self._paint_trace(painter)
        if self.part != self.area:
            self._paint_part(painter)
        if self.safe_areas:
            self._paint_safe_areas(painter)
        self._shown = self._seen()
        self.caption_box = QRectF()
        if self._shown is not None:
            self._paint_caption(painter)
        if self.tracks[1]:
            self._paint_above(painter)
        painter.end()

    def _paint_trace(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), self.theme.colour("paper"))
        painter.setPen(QPen(self.theme.colour("hairline"), 1))
        painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))
        if self.session.trace is None:
            return
        ratio = self.devicePixelRatioF()
        drawn_from = (self.session.trace, self.position, self.size(), self.theme.name, ratio)
        if self._trace is None or self._trace[0] != drawn_from:
            count, height = round((self.width() - 2) * ratio), round(self.height() * 0.5 * ratio)
            start, end = self.position - _AROUND_MS, self.position + _AROUND_MS
            columns = self.session.trace.evened(start, end, count)
            self._trace = (drawn_from, trace_image(columns, height, self.theme.colour("trace"), ratio))
        painter.drawImage(QPointF(1, self.height() * 0.1), self._trace[1])
        middle = self.width() / 2
        painter.fillRect(QRectF(middle - 0.75, 6, 1.5, self.height() * 0.6), self.theme.colour("live"))

    def _paint_part(self, painter: QPainter) -> None:
        """Dark over what is not shown, a line around what is."""
        path = QPainterPath()
        path.addRect(self.area)
        path.addRect(self.part)  # what is in both is left free
        painter.fillPath(path, QColor(12, 12, 11, 165))
        painter.setPen(QPen(QColor(255, 255, 255, 210), 1))
        painter.drawRect(self.part)

    def _paint_safe_areas(self, painter: QPainter) -> None:
        """The edge that stays free, thirds and the middle."""
        area = self.part
        painter.setPen(QPen(QColor(255, 255, 255, 190), 1, Qt.PenStyle.DashLine))
        edge = QPointF(area.width() * SAFE / 100, area.height() * SAFE / 100)
        painter.drawRect(area.adjusted(edge.x(), edge.y(), -edge.x(), -edge.y()))
        painter.setPen(QPen(QColor(255, 255, 255, 90), 1, Qt.PenStyle.DotLine))
        for share in (1 / 3, 1 / 2, 2 / 3):
            x, y = area.left() + area.width() * share, area.top() + area.height() * share
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))

    def drawn(self) -> Drawn | None:
        """The caption at the playhead by the renderer of the film, for the picture as large as it is here."""
        from dubrel.film.drawing import draw_caption  # late: arrays, which opening a window does without

        if self._shown is None:
            return None
        caption, text, look, place = self._shown
        assert isinstance(caption, Caption) and isinstance(text, CaptionText)
        assert isinstance(look, Look) and isinstance(place, Place)
        if self._dragged is not None and self._grip is not None and self._grip[0] == caption.id:
            place = Place(*self._dragged, "centre", "middle")
        ratio, area = self.devicePixelRatioF(), self.part
        width, height = max(16, round(area.width() * ratio)), max(9, round(area.height() * ratio))
        if look.motion.moves:
            return self._moving(caption, text, look, place, (width, height))
        return draw_caption(text.lines, look, place, width, height, rtl=text.rtl, pieces=text.pieces)

    def _moving(
        self, caption: Caption, text: CaptionText, look: Look, place: Place, size: tuple[int, int]
    ) -> Drawn:
        """A caption that moves, as it is at the playhead."""
        from dubrel.captions.motion import presence, state_at  # late: as above
        from dubrel.film.moving import MovingCaption

        project = self.session.project
        key = (caption, text, look, place, size)
        if self._moves is None or self._moves[0] != key:
            pieces = pieces_of(project, caption, text)
            made = MovingCaption(text.lines, look, place, *size, rtl=text.rtl, pieces=pieces)
            times = word_times(project, caption, text) if look.motion.by_words else ()
            self._moves = (key, made, times)
        _, made, times = self._moves
        frame_ms = float(1000 / (project.frame_rate or 25))
        state = state_at(times, look.motion, self.position + 0.5)
        seen, below = presence(look.motion, caption.start_ms, caption.end_ms, self.position, frame_ms)
        return made.drawn(state, seen, below)

    def _paint_caption(self, painter: QPainter) -> None:
        made = self.drawn()
        if made is None:
            return
        ratio, area = self.devicePixelRatioF(), self.part
        height, width = made.pixels.shape[:2]
        image = QImage(made.pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_RGBA8888)
        self.caption_box = QRectF(
            area.left() + made.x / ratio, area.top() + made.y / ratio, width / ratio, height / ratio
        )
        painter.drawImage(self.caption_box, image)
        if self._grip is not None:
            painter.setPen(QPen(self.theme.colour("live"), 1))
            painter.drawRect(self.caption_box)

    def _paint_above(self, painter: QPainter) -> None:
        """The caption of the other track, at the top of the picture."""
        from dubrel.film.drawing import draw_caption  # late: as above

        project = self.session.project
        track = project.track(self.tracks[1])
        caption = caption_at(track, self.position) if track else None
        if track is None or caption is None:
            return
        text, ratio, area = text_of(project, track, caption), self.devicePixelRatioF(), self.area
        width, height = max(16, round(area.width() * ratio)), max(9, round(area.height() * ratio))
        place = Place(50.0, float(SAFE), "centre", "top")
        made = draw_caption(text.lines, look_of(project, track, caption), place, width, height, rtl=text.rtl)
        if made is None:
            return
        high, wide = made.pixels.shape[:2]
        image = QImage(made.pixels.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGBA8888)
        at = QRectF(area.left() + made.x / ratio, area.top() + made.y / ratio, wide / ratio, high / ratio)
        painter.drawImage(at, image)

    # -- hands ----------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the caption."""
        caption = self.caption_now()
        if caption is not None and self.caption_box.contains(event.position()):
            self._grip = (caption.id, event.position() - self.caption_box.center())
        elif self.part != self.area and self.part.contains(event.position()):
            self._pulled = (event.position(), self.session.project.framing.at(self.position))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the caption, within the safe areas; or the part of the picture that is shown."""
        if self._pulled is not None:
            self._pull(event.position())
            return
        if self._grip is None:
            return
        at, area = event.position() - self._grip[1], self.part
        half = QPointF(
            50 * self.caption_box.width() / area.width(), 50 * self.caption_box.height() / area.height()
        )
        x = 100 * (at.x() - area.left()) / max(1.0, area.width())
        y = 100 * (at.y() - area.top()) / max(1.0, area.height())
        self._dragged = (_within(x, SAFE + half.x()), _within(y, SAFE + half.y()))
        self.update()

    def _pull(self, to: QPointF) -> None:
        """Move the part that is shown with the pointer."""
        assert self._pulled is not None
        (start, (x, y)), area, part = self._pulled, self.area, self.part
        half = 50 * part.width() / area.width(), 50 * part.height() / area.height()
        x += 100 * (to.x() - start.x()) / max(1.0, area.width())
        y += 100 * (to.y() - start.y()) / max(1.0, area.height())
        self._framed = (_between(x, half[0]), _between(y, half[1]))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let the caption, or the part that is shown, stay where it is."""
        framed, self._framed, self._pulled = self._framed, None, None
        if framed is not None:
            self.framed.emit(*framed)
        grip, dragged, self._grip, self._dragged = self._grip, self._dragged, None, None
        if grip is not None and dragged is not None:
            self.caption_moved.emit(grip[0], *dragged)
        self.update()


def _middle_of(area: QRectF, size: QSizeF) -> QRectF:
    """Where something of a shape stands in the middle of an area, as large as it can."""
    size.scale(area.size(), Qt.AspectRatioMode.KeepAspectRatio)
    left, top = (
        area.left() + (area.width() - size.width()) / 2,
        area.top() + (area.height() - size.height()) / 2,
    )
    return QRectF(QPointF(left, top), size)


def _within(value: float, edge: float) -> float:
    """A share of the picture that is not nearer to its edges."""
    return 50.0 if edge > 50 else round(min(max(value, edge), 100 - edge), 1)


def _between(value: float, half: float) -> float:
    """Where the middle of a part is that stays within the picture; the middle where it is as large."""
    return 50.0 if half >= 50 else round(min(max(value, half), 100 - half), 1)
