"""Captions drawn into pictures: one renderer for the booth and for the film."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.places import Place
from dubrel.film.fontfiles import font_file
from dubrel.model import Look

_WIDEST = 0.94  # of the picture's width: longer lines are set smaller
_SLANT = 0.2
_SEMIBOLD = 600

Pieces = tuple[tuple[str, str], ...]


class Drawn(Value):
    """A caption as a picture of its own.

    Attributes
    ----------
    pixels : ndarray of uint8, shape (height, width, 4)
        Red, green, blue and opacity, not multiplied.
    x, y : int
        Where its upper left corner stands on the picture.
    missing : str
        The family of a font that is not there, for which another one stands in.
    """

    pixels: np.ndarray
    x: int
    y: int
    missing: str = ""

    @property
    def box(self) -> tuple[int, int, int, int]:
        """Left, top, right, bottom on the picture."""
        height, width = self.pixels.shape[:2]
        return self.x, self.y, self.x + width, self.y + height


def draw_caption(
    lines: Sequence[str],
    look: Look,
    place: Place,
    width: int,
    height: int,
    *,
    rtl: bool = False,
    pieces: Sequence[Pieces] = (),
) -> Drawn:
    """Draw a caption for a picture of a size, as it stands where nothing moves.

    Parameters
    ----------
    lines : sequence of str
    look : Look
    place : Place
    width, height : int
        Of the picture, in pixels.
    rtl : bool
        Whether it is set from the right.
    pieces : sequence of tuple of (str, str)
        For each line its words, with what stands before them, and their styles.
    """
    known = tuple(tuple((text, style) for text, style in line) for line in pieces)
    return _draw(tuple(lines), look, place, width, height, rtl, known)


class Layout(Value):
    """Where the lines of a caption stand.

    Attributes
    ----------
    pen : Pen
    widths : tuple of int
        Of the lines, in pixels.
    spots : tuple of (int, int)
        Left upper corner of each line's box in the caption's own picture.
    room, tall, step : int
        Width and height of that picture; from line to line.
    x, y : int
        Where it stands on the picture.
    """

    pen: Pen
    widths: tuple[int, ...]
    spots: tuple[tuple[int, int], ...]
    room: int
    tall: int
    step: int
    x: int
    y: int


def laid_out(lines: Sequence[str], look: Look, place: Place, width: int, height: int, rtl: bool) -> Layout:
    """Where the lines of a caption stand on a picture of a size; set smaller where one is too long."""
    pen = Pen(look, max(6, round(height * look.size / 100)), rtl)
    widths = [pen.width(line) for line in lines]
    if max(widths) > width * _WIDEST:
        pen = Pen(look, max(6, int(pen.size * width * _WIDEST / max(widths))), rtl)
        widths = [pen.width(line) for line in lines]
    pad, step = pen.pad, round(pen.size * look.spacing)
    room = max(widths) + 2 * pad
    tall = step * len(lines) + 2 * (pad // 2)
    sides = {"left": lambda wide: 0, "right": lambda wide: room - wide - 2 * pad}
    side = sides.get(place.side, lambda wide: (room - wide) // 2 - pad)
    spots = tuple((side(wide), pad // 2 + nth * step) for nth, wide in enumerate(widths))
    left = {"left": 0.0, "centre": room / 2, "right": float(room)}[place.side]
    top = {"top": 0.0, "middle": tall / 2, "bottom": float(tall)}[place.level]
    x = round(min(max(place.x / 100 * width - left, 0), max(0, width - room)))
    y = round(min(max(place.y / 100 * height - top, 0), max(0, height - tall)))
    return Layout(pen, tuple(widths), spots, room, tall, step, x, y)


@lru_cache(maxsize=64)
def _draw(
    lines: tuple[str, ...],
    look: Look,
    place: Place,
    width: int,
    height: int,
    rtl: bool,
    pieces: tuple[Pieces, ...],
) -> Drawn:
    from PIL import Image

    if not lines:
        return Drawn(np.zeros((1, 1, 4), np.uint8), 0, 0)
    found = laid_out(lines, look, place, width, height, rtl)
    pen = found.pen
    image = Image.new("RGBA", (found.room, found.tall), (0, 0, 0, 0))
    pen.boxes(image, found.spots, found.widths, found.step)
    for nth, (line, (x, y)) in enumerate(zip(lines, found.spots)):
        pen.line(image, line, (x + pen.pad, y + found.step // 2), pieces[nth] if nth < len(pieces) else ())
    return Drawn(np.asarray(image), found.x, found.y, "" if pen.there else look.font)


class Pen:
    """Draws lines in one look at one size."""

    def __init__(self, look: Look, size: int, rtl: bool) -> None:
        self.look, self.size, self.rtl = look, size, rtl
        self.pad = round(size * look.padding / 100) + round(size * look.outline / 100)
        self.there = True

    def _font(self, text: str, bold: bool = False) -> Any:
        path, there = font_file(self.look.font, max(self.look.weight, _SEMIBOLD if bold else 0), text)
        self.there = self.there and there
        return _loaded(str(path), self.size)

    def _direction(self) -> dict[str, str]:
        from PIL import features

        return {"direction": "rtl" if self.rtl else "ltr"} if features.check("raqm") else {}

    def width(self, line: str) -> int:
        """How wide a line is."""
        return round(self._font(line).getlength(line, **self._direction()))

    def boxes(self, image: Any, spots: Sequence[tuple[int, int]], widths: Sequence[int], step: int) -> None:
        """The ground behind the letters; none behind a line of no width."""
        from PIL import ImageDraw

        if self.look.box == "none" or self.look.opacity <= 0:
            return
        colour = (*rgb(self.look.ground), round(255 * self.look.opacity))
        draw = ImageDraw.Draw(image)
        if self.look.box == "whole":
            draw.rectangle((0, 0, image.width - 1, image.height - 1), fill=colour)
            return
        for (x, y), width in zip(spots, widths):
            if width <= 0:
                continue
            draw.rectangle((x, y, x + width + 2 * self.pad - 1, y + step - 1), fill=colour)

    def line(self, image: Any, line: str, at: tuple[int, int], pieces: Pieces) -> None:
        """One line; ``at`` is its left end, at the middle of its height."""
        if self.rtl or not pieces:
            self.write(image, line, at)
            return
        x = float(at[0])
        for text, style in pieces:
            self.write(image, text, (round(x), at[1]), style)
            x += self.advance(text, style)

    def advance(self, text: str, style: str = "") -> float:
        """How far the next word stands from the beginning of this one."""
        return float(self._font(text, "b" in style).getlength(text, **self._direction()))

    def write(
        self,
        image: Any,
        text: str,
        at: tuple[int, int],
        style: str = "",
        colour: str = "",
        anchor: str = "lm",
    ) -> None:
        """A text in the look, in some of bold, italics and underlined, in another colour if wished."""
        from PIL import Image, ImageDraw

        colour, slanted = colour or self.look.colour, self.look.slanted or "i" in style
        layer = Image.new("RGBA", image.size, (0, 0, 0, 0)) if slanted else image
        draw, font = ImageDraw.Draw(layer), self._font(text, "b" in style)
        around = round(self.size * self.look.outline / 100)
        how: dict[str, Any] = {"font": font, "anchor": anchor, **self._direction()}
        if fall := round(self.size * self.look.shadow / 100):
            draw.text((at[0] + fall, at[1] + fall), text, fill=(0, 0, 0, 160), stroke_width=around, **how)
        stroke: dict[str, Any] = (
            {"stroke_width": around, "stroke_fill": self.look.outline_colour} if around else {}
        )
        draw.text(at, text, fill=colour, **how, **stroke)
        if "u" in style:
            y = at[1] + round(self.size * 0.45)
            left = at[0] - (font.getlength(text) / 2 if anchor == "mm" else 0)
            draw.line((left, y, left + font.getlength(text), y), fill=colour, width=max(1, self.size // 14))
        if slanted:
            shear = (1, _SLANT, -_SLANT * at[1], 0, 1, 0)
            image.alpha_composite(
                layer.transform(layer.size, Image.Transform.AFFINE, shear, Image.Resampling.BICUBIC)
            )


@lru_cache(maxsize=64)
def _loaded(path: str, size: int) -> Any:
    from PIL import ImageFont

    return ImageFont.truetype(path, size)


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of ``#RRGGBB``."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


# -- contrast ------------------------------------------------------------------------------


def contrast(drawn: Drawn, look: Look, frame: np.ndarray) -> float:
    """How the letters stand out from the picture under them.

    Parameters
    ----------
    drawn : Drawn
    look : Look
    frame : ndarray of uint8, shape (height, width, 3)
        The picture without the caption.

    Returns
    -------
    float
        Contrast ratio of WCAG 2 where it is the worst but for a tenth of the
        ground; 1 is none, 21 black on white.
    """
    left, top, right, bottom = drawn.box
    under = frame[max(0, top) : bottom, max(0, left) : right].astype(np.float64)
    if not under.size:
        return 21.0
    ground = np.array(rgb(look.outline_colour if look.outline >= 6 else look.ground), np.float64)
    opacity = 1.0 if look.outline >= 6 else look.opacity if look.box != "none" else 0.0
    seen = under * (1 - opacity) + ground * opacity
    letters = _luminance(np.array(rgb(look.colour), np.float64))
    grounds = _luminance(seen)
    high, low = np.maximum(letters, grounds), np.minimum(letters, grounds)
    return float(np.quantile((high + 0.05) / (low + 0.05), 0.1))


def _luminance(rgb: np.ndarray) -> np.ndarray:
    value = rgb / 255
    linear = np.where(value <= 0.03928, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    return linear @ np.array([0.2126, 0.7152, 0.0722])
