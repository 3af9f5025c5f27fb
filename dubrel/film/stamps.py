"""What is shown on a film for a while, drawn as planes that are blended into its frames.

The picture of a caption is drawn once and turned into the planes of the film; where
it moves, only what changes is made again.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.motion import WordTimes, presence, state_at
from dubrel.captions.places import Place
from dubrel.film.drawing import draw_caption
from dubrel.film.moving import MovingCaption, even
from dubrel.model import Look


class Shown(Value):
    """What is shown for a while.

    Attributes
    ----------
    start_ms, end_ms : int
    lines : tuple of str
    look : Look
    place : Place
    rtl : bool
    pieces : tuple of tuple of (str, str)
    times : WordTimes
        When its words are spoken; nothing where they do not move.
    fixed : bool
        Whether it was put where it is by hand.
    """

    start_ms: int
    end_ms: int
    lines: tuple[str, ...]
    look: Look
    place: Place
    rtl: bool = False
    pieces: tuple[tuple[tuple[str, str], ...], ...] = ()
    times: WordTimes = ()
    fixed: bool = False


class Stamp(Value):
    """A drawn caption as planes: what to keep of the picture (0 to 256), and what to add to it."""

    box: tuple[int, int, int, int]  # left, top, right, bottom; even
    keeps: tuple[np.ndarray, np.ndarray, np.ndarray]
    adds: tuple[np.ndarray, np.ndarray, np.ndarray]


def blend(planes: list[np.ndarray], stamp: Stamp) -> None:
    """Put a drawn caption over the planes of a picture, in place."""
    left, top, right, bottom = stamp.box
    for nth, (plane, keep, add) in enumerate(zip(planes, stamp.keeps, stamp.adds)):
        half = 2 if nth else 1
        part = plane[top // half : bottom // half, left // half : right // half]
        part[...] = ((part.astype(np.uint16) * keep + add) >> 8).astype(np.uint8)


class Stamps:
    """The caption at a time, drawn when it is first needed, and again where it moves.

    Parameters
    ----------
    shown : sequence of Shown
    width, height : int
        Of the picture.
    frame_ms : float
        How long a frame stands.
    """

    def __init__(self, shown: Sequence[Shown], width: int, height: int, frame_ms: float = 40.0) -> None:
        self._shown = sorted(shown, key=lambda one: one.start_ms)
        self._size, self._frame_ms = (width, height), frame_ms
        self._at, self._made = 0, dict[int, Stamp | MovingStamp | None]()

    def at(self, ms: float) -> Stamp | None:
        """The stamp of the caption that is shown at a time; times only grow."""
        shown = self._shown
        while self._at < len(shown) and shown[self._at].end_ms <= ms + 0.5:
            self._made.pop(self._at, None)
            self._at += 1
        if self._at >= len(shown) or shown[self._at].start_ms > ms + 0.5:
            return None
        one = shown[self._at]
        if self._at not in self._made:
            moves = one.look.motion.moves and one.lines
            self._made[self._at] = (
                MovingStamp(one, *self._size, self._frame_ms) if moves else stamp_of(one, *self._size)
            )
        made = self._made[self._at]
        return made.at(ms) if isinstance(made, MovingStamp) else made


class MovingStamp:
    """A caption that moves, as planes of which only what changes is made again."""

    def __init__(self, shown: Shown, width: int, height: int, frame_ms: float) -> None:
        self._shown, self._size, self._frame_ms = shown, (width, height), frame_ms
        self._caption = moving_caption(shown, width, height)
        high, wide = self._caption.pixels.shape[:2]
        self._box = even_box(self._caption.x, self._caption.y, wide, high, width, height)
        left, top, right, bottom = self._box
        self._canvas = np.zeros((max(0, bottom - top), max(0, right - left), 4), np.uint8)
        self._planes = planes_of(self._canvas, height)

    def at(self, ms: float) -> Stamp | None:
        """The stamp at a time."""
        left, top, right, bottom = self._box
        if right <= left or bottom <= top:
            return None
        one, motion = self._shown, self._shown.look.motion
        changed = self._caption.draw(state_at(one.times, motion, ms + 0.5))
        if changed is not None:
            self._take(changed)
        seen, below = presence(motion, one.start_ms, one.end_ms, ms, self._frame_ms)
        keeps, adds = self._planes
        if seen >= 1 and not below:
            return Stamp(self._box, keeps, adds)
        down = min(even(below * self._caption.rise), even(self._size[1] - bottom))
        down = max(0, down)
        paler = [256 - ((256 - keep.astype(np.uint32)) * round(seen * 256) >> 8) for keep in keeps]
        less = [(add.astype(np.uint32) * round(seen * 256) >> 8).astype(np.uint16) for add in adds]
        kept = [keep.astype(np.uint16) for keep in paler]
        box = (left, top + down, right, bottom + down)
        return Stamp(box, (kept[0], kept[1], kept[2]), (less[0], less[1], less[2]))

    def _take(self, changed: tuple[int, int, int, int]) -> None:
        """Make the planes of a part of the caption again."""
        left, top, right, bottom = self._box
        x, y = self._caption.x - left, self._caption.y - top
        pixels = self._caption.pixels
        low, high = max(0, changed[0]), min(changed[2], right - left - x)
        first, last = max(0, changed[1]), min(changed[3], bottom - top - y)
        if high <= low or last <= first:
            return
        self._canvas[y + first : y + last, x + low : x + high] = pixels[first:last, low:high]
        rows = slice((y + first) // 2 * 2, min(bottom - top, -(-(y + last) // 2) * 2))
        columns = slice((x + low) // 2 * 2, min(right - left, -(-(x + high) // 2) * 2))
        keeps, adds = planes_of(self._canvas[rows, columns], self._size[1])
        half = (slice(rows.start // 2, rows.stop // 2), slice(columns.start // 2, columns.stop // 2))
        for nth, (keep, add) in enumerate(zip(keeps, adds)):
            place = half if nth else (rows, columns)
            self._planes[0][nth][place], self._planes[1][nth][place] = keep, add


def moving_caption(shown: Shown, width: int, height: int) -> MovingCaption:
    """A caption that moves, for a picture of a size."""
    return MovingCaption(
        shown.lines, shown.look, shown.place, width, height, rtl=shown.rtl, pieces=shown.pieces
    )


def even_box(x: int, y: int, wide: int, high: int, width: int, height: int) -> tuple[int, int, int, int]:
    """The part of a picture that a caption covers, on even pixels."""
    right, bottom = min(width, -(-(x + wide) // 2) * 2), min(height, -(-(y + high) // 2) * 2)
    return x // 2 * 2, y // 2 * 2, right, bottom


def stamp_of(shown: Shown, width: int, height: int) -> Stamp | None:
    """A caption drawn for a picture of a size, as planes (BT.601 or 709 by the height, limited range)."""
    drawn = draw_caption(
        shown.lines, shown.look, shown.place, width, height, rtl=shown.rtl, pieces=shown.pieces
    )
    high, wide = drawn.pixels.shape[:2]
    left, top, right, bottom = box = even_box(drawn.x, drawn.y, wide, high, width, height)
    if right <= left or bottom <= top:
        return None
    canvas = np.zeros((bottom - top, right - left, 4), np.uint8)
    y, x = drawn.y - top, drawn.x - left
    part = drawn.pixels[: canvas.shape[0] - y, : canvas.shape[1] - x]
    canvas[y : y + part.shape[0], x : x + part.shape[1]] = part
    return Stamp(box, *planes_of(canvas, height))


Planes = tuple[np.ndarray, np.ndarray, np.ndarray]


def planes_of(canvas: np.ndarray, height: int) -> tuple[Planes, Planes]:
    """What to keep of a picture under a drawing, and what to add to it.

    Parameters
    ----------
    canvas : ndarray of uint8, shape (even, even, 4)
    height : int
        Of the picture, by which its colours are understood.
    """
    colours = canvas.astype(np.float32)
    alpha = colours[..., 3] / 255
    red, green, blue = (colours[..., nth] for nth in range(3))
    kr, kb = (0.2126, 0.0722) if height >= 720 else (0.299, 0.114)
    luma = kr * red + (1 - kr - kb) * green + kb * blue
    planes = (
        16 + luma * 219 / 255,
        128 + (blue - luma) / (2 * (1 - kb)) * 224 / 255,
        128 + (red - luma) / (2 * (1 - kr)) * 224 / 255,
    )
    small = _halved(alpha)
    keeps, adds = [], []
    for nth, plane in enumerate(planes):
        weight = alpha if nth == 0 else small
        value = plane * alpha if nth == 0 else _halved(plane * alpha)
        keep = np.round((1 - weight) * 256).astype(np.uint16)
        keeps.append(keep)
        adds.append(np.round(value * 256).clip(0, 65535 - 255 * keep.astype(np.int64)).astype(np.uint16))
    return (keeps[0], keeps[1], keeps[2]), (adds[0], adds[1], adds[2])


def _halved(plane: np.ndarray) -> np.ndarray:
    """The means of two by two."""
    rows = plane[::2] + plane[1::2]
    return (rows[:, ::2] + rows[:, 1::2]) / 4
