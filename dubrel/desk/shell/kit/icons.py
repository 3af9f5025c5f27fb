"""Icons of one family, drawn as filled shapes on a grid of 16."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap, QPolygonF

_SHAPES: dict[str, list[list[tuple[float, float]]]] = {
    "play": [[(4, 2), (14, 8), (4, 14)]],
    "pause": [[(4, 2), (7, 2), (7, 14), (4, 14)], [(9, 2), (12, 2), (12, 14), (9, 14)]],
    "back": [[(8, 3), (8, 13), (1, 8)], [(15, 3), (15, 13), (8, 8)]],
    "forward": [[(8, 3), (8, 13), (15, 8)], [(1, 3), (1, 13), (8, 8)]],
}


def icon(name: str, colour: QColor, size: int = 16) -> QIcon:
    """An icon in a colour, sharp at twice the size too."""
    pixmap = QPixmap(QSize(size * 2, size * 2))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    scale = size * 2 / 16
    for shape in _SHAPES[name]:
        painter.drawPolygon(QPolygonF([QPointF(x * scale, y * scale) for x, y in shape]))
    painter.end()
    pixmap.setDevicePixelRatio(2)
    return QIcon(pixmap)
