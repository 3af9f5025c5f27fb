"""How large everything is: the text size that was set, times that of the desktop."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtGui import QFontDatabase, QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

_USUAL_DPI = 96.0
_USUAL_POINTS = (9.0, 12.0)  # what desktops have without anybody's doing
_LARGEST = 2.0
_SIZES = "_dubrel_sizes"
_scale = [1.0]


def set_scale(scale: float) -> None:
    """Show everything larger or smaller: what is drawn from now on, and what was given a size."""
    if scale == _scale[0]:
        return
    _scale[0] = scale
    for widget in QApplication.allWidgets():
        for name, numbers in getattr(widget, _SIZES, {}).items():
            getattr(widget, name.partition(":")[0])(*_sized(numbers))


def scale() -> float:
    """How large things are against their usual size."""
    return _scale[0]


def px(size: float) -> int:
    """A length in pixels, of one at the usual size."""
    return round(size * _scale[0])


def fixed(setter: Callable[..., Any], *sizes: int, of: int | None = None) -> None:
    """Give a widget a size that grows with the text.

    Parameters
    ----------
    setter : callable
        A method of the widget, like ``rail.setFixedWidth``.
    *sizes : int
        Pixels at the usual size.
    of : int, optional
        The column that is meant, which does not grow.
    """
    widget: QWidget = setter.__self__  # type: ignore[attr-defined]
    name = setter.__name__ if of is None else f"{setter.__name__}:{of}"
    kept = getattr(widget, _SIZES, None)
    if kept is None:
        kept = {}
        setattr(widget, _SIZES, kept)
    kept[name] = (of, sizes)
    setter(*_sized(kept[name]))


def _sized(numbers: tuple[int | None, tuple[int, ...]]) -> tuple[int, ...]:
    of, sizes = numbers
    return (() if of is None else (of,)) + tuple(px(size) for size in sizes)


def desktop_scale() -> float:
    """How much larger than usual the text of the desktop is: its own text scale, and its font.

    The scale of the screen itself is none of it: the toolkit applies that to everything.
    """
    screen = QGuiApplication.primaryScreen()
    dpi = screen.logicalDotsPerInch() / _USUAL_DPI if screen is not None else 1.0
    points = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()
    least, most = _USUAL_POINTS
    font = points / most if points > most else points / least if 0 < points < least else 1.0
    return max(0.75, min(_LARGEST, round(dpi * font, 2)))
