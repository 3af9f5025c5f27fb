"""Draw the sound: columns of minima and maxima as a picture."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QColor, QImage

if TYPE_CHECKING:
    import numpy as np


def trace_image(peaks: np.ndarray, height: int, colour: QColor, ratio: float = 1.0) -> QImage:
    """A picture of a waveform.

    Parameters
    ----------
    peaks : ndarray, shape (columns, 2), float32
        Minima and maxima between -1 and 1; a row of NaN leaves its column empty.
    height : int
        In device pixels.
    colour : QColor
    ratio : float
        Device pixels to a pixel of the page.
    """
    import numpy as np  # late: the first frame of the window shows no sound

    columns = len(peaks)
    image = np.zeros((max(1, height), max(1, columns)), np.uint32)
    if columns:
        middle = (height - 1) / 2
        rows = np.arange(height)[:, None]
        low = np.minimum(middle - peaks[:, 1] * middle, middle - 0.4)
        high = np.maximum(middle - peaks[:, 0] * middle, middle + 0.4)
        with np.errstate(invalid="ignore"):
            inside = (rows >= np.round(low)[None, :]) & (rows <= np.round(high)[None, :])
        inside &= ~np.isnan(peaks[:, 0])[None, :]
        image[inside] = np.uint32(colour.rgba())
    made = QImage(
        image.tobytes(), image.shape[1], image.shape[0], image.shape[1] * 4, QImage.Format.Format_ARGB32
    ).copy()
    made.setDevicePixelRatio(ratio)
    return made
