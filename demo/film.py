"""Draw the short film: eight shots of a boatyard, with a name banner."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soxr
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QImage, QPainter, QPen, QPolygonF
from sound import OUT_RATE, encode_sound
from voices import RATE

WIDTH, HEIGHT, FPS = 640, 360, 25


def _sky(p: QPainter, top: str, water: str, horizon: float) -> None:
    p.fillRect(QRectF(0, 0, WIDTH, horizon), QColor(top))
    p.fillRect(QRectF(0, horizon, WIDTH, HEIGHT - horizon), QColor(water))


def _hills(p: QPainter, colour: str, base: float, shift: float) -> None:
    points = [
        QPointF(x, base - 26 - 22 * np.sin((x + shift) / 83) - 9 * np.sin((x + shift) / 31))
        for x in range(0, 660, 20)
    ]
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(colour))
    p.drawPolygon(QPolygonF([QPointF(0, base), *points, QPointF(WIDTH, base)]))


def _boat(p: QPainter, x: float, y: float, size: float, hull: str = "#2b2622") -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(hull))
    shape = [(0, 0), (300, 0), (322, -18), (300, 40), (20, 40), (-18, -10)]
    p.drawPolygon(QPolygonF([QPointF(x + a * size, y + b * size) for a, b in shape]))
    p.setBrush(QColor("#8c3a2e"))
    p.drawRect(QRectF(x + 60 * size, y - 38 * size, 180 * size, 38 * size))
    p.setBrush(QColor("#f1e6cf"))
    for nth in range(4):
        p.drawRect(QRectF(x + (75 + 42 * nth) * size, y - 28 * size, 24 * size, 14 * size))


def _person(p: QPainter, x: float, y: float, size: float, coat: str) -> None:
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor("#d9b08c"))
    p.drawEllipse(QPointF(x, y), 17 * size, 20 * size)
    p.setBrush(QColor(coat))
    body = [(-34, 100), (-27, 34), (-10, 22), (10, 22), (27, 34), (34, 100)]
    p.drawPolygon(QPolygonF([QPointF(x + a * size, y + b * size) for a, b in body]))
    p.setBrush(QColor("#4b3f36"))
    p.drawRect(QRectF(x - 18 * size, y - 24 * size, 36 * size, 12 * size))


def _dawn(p: QPainter, t: float) -> None:
    _sky(p, "#c9d3cf", "#7f9a99", 190)
    _hills(p, "#8fa196", 190, 4 * t)
    _boat(p, 160, 220, 1.0)
    p.setBrush(QColor(240, 240, 236, 120))
    for nth in range(4):
        p.drawEllipse(QRectF(-120 + 190 * nth + 7 * t, 196 + 16 * (nth % 2), 260, 26))


def _bow(p: QPainter, t: float) -> None:
    _sky(p, "#b8c4c4", "#8b7d6a", 230)
    grow = 1 + 0.01 * t
    p.setBrush(QColor("#2b2622"))
    p.setPen(QPen(QColor("#50463c"), 2))
    for side in (-1, 1):
        p.drawPolygon(
            QPolygonF(
                [
                    QPointF(320, 70),
                    QPointF(320 + side * 150 * grow, 110),
                    QPointF(320 + side * 90, 290),
                    QPointF(320, 310),
                ]
            )
        )


def _yard(p: QPainter, t: float) -> None:
    _sky(p, "#d8cfbd", "#a08f74", 240)
    p.fillRect(QRectF(40, 90, 230, 150), QColor("#6d5a49"))
    p.fillRect(QRectF(110, 150, 70, 90), QColor("#3d332b"))
    _person(p, 420, 150, 1.25, "#3c5a6b")


def _steam(p: QPainter, t: float) -> None:
    _sky(p, "#4a453f", "#37332e", 260)
    p.fillRect(QRectF(60, 190, 520, 60), QColor("#93693f"))
    p.setPen(Qt.PenStyle.NoPen)
    for nth in range(9):
        rise = (t * 30 + nth * 37) % 170
        p.setBrush(QColor(230, 228, 220, int(max(0, 130 - rise * 0.75))))
        p.drawEllipse(QPointF(110 + nth * 52, 190 - rise), 24 + rise / 7, 16 + rise / 9)


def _bend(p: QPainter, t: float) -> None:
    _sky(p, "#cfc3ad", "#8a775f", 250)
    p.setPen(QPen(QColor("#b98a52"), 16, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawArc(QRectF(60, 150 - min(40, t * 9), 520, 150 + min(80, t * 18)), 20 * 16, 140 * 16)
    _person(p, 150, 160, 0.9, "#5c3d34")
    _person(p, 490, 160, 0.9, "#3c5a6b")


def _plank(p: QPainter, t: float) -> None:
    p.fillRect(QRectF(0, 0, WIDTH, HEIGHT), QColor("#26221f"))
    p.setPen(QPen(QColor("#3a342f"), 2))
    for y in range(20, HEIGHT, 48):
        p.drawLine(QPointF(0, y), QPointF(WIDTH, y + 10))
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor("#d7b17a"))
    p.drawPolygon(QPolygonF([QPointF(0, 164), QPointF(WIDTH, 174), QPointF(WIDTH, 220), QPointF(0, 210)]))


def _hands(p: QPainter, t: float) -> None:
    _sky(p, "#bfb49f", "#75634d", 210)
    _person(p, 250 + 6 * np.sin(t), 140, 1.5, "#3c5a6b")
    p.setBrush(QBrush(QColor("#4b3f36")))
    p.drawRect(QRectF(330, 190 + 14 * abs(np.sin(3 * t)), 90, 24))


def _lock(p: QPainter, t: float) -> None:
    _sky(p, "#c8d2d4", "#5f7c80", 170)
    _hills(p, "#8b9a83", 170, 0)
    gap = min(120, 14 * t)
    p.fillRect(QRectF(0, 120, 280 - gap, 180), QColor("#3d3a34"))
    p.fillRect(QRectF(360 + gap, 120, 280, 180), QColor("#3d3a34"))
    _boat(p, 250, 250, 0.4)


SHOTS = (_dawn, _bow, _yard, _steam, _bend, _plank, _hands, _lock)


def _banner(p: QPainter, fade: float) -> None:
    p.setOpacity(fade)
    p.fillRect(QRectF(36, 272, 250, 52), QColor("#0f3d3b"))
    p.setPen(QColor("#f6f0e2"))
    p.setFont(QFont("Inter", 15, QFont.Weight.DemiBold))
    p.drawText(QRectF(50, 276, 230, 26), Qt.AlignmentFlag.AlignVCenter, "Tobiah Fenn")
    p.setFont(QFont("Inter", 11))
    p.drawText(QRectF(50, 298, 230, 22), Qt.AlignmentFlag.AlignVCenter, "boatbuilder, the Heron yard")
    p.setOpacity(1.0)


def picture(seconds: float, cuts: list[float], banner: tuple[float, float]) -> np.ndarray:
    """One frame, shape (360, 640, 3), RGB."""
    image = QImage(WIDTH, HEIGHT, QImage.Format.Format_RGB888)
    shot = sum(seconds >= cut for cut in cuts)
    since = seconds - (cuts[shot - 1] if shot else 0.0)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    SHOTS[shot % len(SHOTS)](painter, since)
    if banner[0] <= seconds < banner[1]:
        _banner(painter, min(1.0, (seconds - banner[0]) * 3, (banner[1] - seconds) * 3))
    painter.end()
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(HEIGHT, image.bytesPerLine())
    return rows[:, : WIDTH * 3].reshape(HEIGHT, WIDTH, 3).copy()


def write_film(samples: np.ndarray, path: Path, cuts: list[float], banner: tuple[float, float]) -> None:
    """Write the film as H.264 and AAC in MP4 at exactly 25 frames a second."""
    frames = int(len(samples) / RATE * FPS)
    loud = soxr.resample(samples, RATE, OUT_RATE).astype(np.float32)
    with av.open(str(path), "w") as container:
        video = container.add_stream("libx264", rate=Fraction(FPS), options={"crf": "27", "preset": "slow"})
        video.width, video.height, video.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        video.gop_size = 50
        sound = container.add_stream("aac", rate=OUT_RATE, layout="mono")
        sound.bit_rate = 72_000
        for nth in range(frames):
            frame = av.VideoFrame.from_ndarray(picture(nth / FPS, cuts, banner), format="rgb24")
            frame.pts, frame.time_base = nth, Fraction(1, FPS)
            container.mux(video.encode(frame))
        container.mux(video.encode(None))
        encode_sound(container, sound, loud)
