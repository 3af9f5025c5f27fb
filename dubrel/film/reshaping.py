"""Frames in another shape: turned upright, a part of the picture, or the whole of it on a ground."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np

from dubrel.base.value import Value, field
from dubrel.film.stamps import Stamp, blend
from dubrel.model import Framing

SHAPES = {"": None, "upright": Fraction(9, 16), "square": Fraction(1), "portrait": Fraction(4, 5)}
"""Width to height, by name; nothing for that of the film."""
GROUNDS = ("", "blurred", "plain")
_LIMITED, _FULL = 1, 2  # ranges of a picture
_PLAIN = (24, 128, 128)
_BLACK = (16, 128, 128)
_BLUR, _DARKER = 48, 0.55  # pixels that become one; of the light of the picture


class Wished(Value):
    """The shape that is wished for.

    Attributes
    ----------
    name : str
        Of ``SHAPES``.
    ground : str
        Of ``GROUNDS``: behind the whole picture; empty where a part of it is shown.
    framing : Framing
        Where that part lies, in time of the film that is made.
    """

    name: str = ""
    ground: str = ""
    framing: Framing = field(default_factory=Framing)


def cropped_size(width: int, height: int, shape: Fraction | None) -> tuple[int, int]:
    """The largest part of a picture in a shape, with even sides."""
    if shape is not None:
        width, height = min(width, int(height * shape)), min(height, int(width / shape))
    return width // 2 * 2, height // 2 * 2


def fitted_size(width: int, height: int, shape: Fraction) -> tuple[int, int]:
    """A picture in a shape, as wide as the other one's smaller side, with even sides."""
    wide = min(width, height)
    return wide // 2 * 2, int(wide / shape) // 2 * 2


class Shape:
    """Frames upright, in the wished shape, with even sides."""

    def __init__(self, first: Any, turns: int, wished: Wished | None = None) -> None:
        self.turns, self._wished = turns, wished or Wished()
        width, height = (first.height, first.width) if turns % 2 else (first.width, first.height)
        self._from = (width, height)
        shape = SHAPES[self._wished.name]
        self._fits = bool(shape is not None and self._wished.ground)
        if self._fits and shape is not None:
            self.width, self.height = fitted_size(width, height, shape)
        else:
            self.width, self.height = cropped_size(width, height, shape)
        self.same = turns == 0 and (self.width, self.height) == (first.width, first.height)

    def corner(self, ms: float) -> tuple[int, int]:
        """The left upper corner of the part that is shown at a time, on even pixels."""
        x, y = self._wished.framing.at(ms)
        left = round(self._from[0] * x / 100 - self.width / 2)
        top = round(self._from[1] * y / 100 - self.height / 2)
        left = min(max(left, 0), self._from[0] - self.width)
        top = min(max(top, 0), self._from[1] - self.height)
        return left // 2 * 2, top // 2 * 2

    def frame(self, frame: Any, stamp: Stamp | None, ms: float = 0.0) -> Any:
        """A frame with a caption on it; the very same one where nothing is to be done."""
        if frame.color_range == _FULL:  # what plays films takes them for limited unless it looks
            frame = frame.reformat(format="yuv420p", src_color_range=_FULL, dst_color_range=_LIMITED)
        elif frame.format.name != "yuv420p":
            frame = frame.reformat(format="yuv420p")
        if self.same and stamp is None:
            return frame
        if self.same and stamp is not None:
            frame.make_writable()  # the decoder may still look at what it gave
            blend([_plane(frame, nth) for nth in range(3)], stamp)
            return frame
        whole = [np.rot90(_plane(frame, nth), self.turns) for nth in range(3)]
        planes = self._fitted(whole) if self._fits else self._cropped(whole, ms)
        if stamp is not None:
            blend(planes, stamp)
        made = _frame_of(planes)
        made.color_range = frame.color_range
        return made

    def _cropped(self, whole: list[np.ndarray], ms: float) -> list[np.ndarray]:
        left, top = self.corner(ms)
        return _part(whole, left, top, self.width, self.height)

    def _fitted(self, whole: list[np.ndarray]) -> list[np.ndarray]:
        """The whole picture in the middle, on the ground."""
        scale = min(self.width / self._from[0], self.height / self._from[1])
        wide, high = int(self._from[0] * scale) // 2 * 2, int(self._from[1] * scale) // 2 * 2
        even = _part(whole, 0, 0, self._from[0] // 2 * 2, self._from[1] // 2 * 2)
        small = _planes(_frame_of(even).reformat(width=wide, height=high))
        planes = self._blurred(even) if self._wished.ground == "blurred" else self._plain()
        left, top = (self.width - wide) // 4 * 2, (self.height - high) // 4 * 2
        for nth, (plane, part) in enumerate(zip(planes, small)):
            half = 2 if nth else 1
            plane[top // half : (top + high) // half, left // half : (left + wide) // half] = part
        return planes

    def _plain(self) -> list[np.ndarray]:
        return [
            np.full((self.height // half, self.width // half), value, np.uint8)
            for half, value in zip((1, 2, 2), _PLAIN)
        ]

    def _blurred(self, whole: list[np.ndarray]) -> list[np.ndarray]:
        """The middle of the picture in the wished shape, so blurred that nothing is told apart, darker."""
        wide, high = cropped_size(self._from[0], self._from[1], Fraction(self.width, self.height))
        left, top = (self._from[0] - wide) // 4 * 2, (self._from[1] - high) // 4 * 2
        size = max(2, self.width // _BLUR // 2 * 2), max(2, self.height // _BLUR // 2 * 2)
        tiny = _frame_of(_part(whole, left, top, wide, high)).reformat(*size, interpolation="AREA")
        planes = _planes(tiny.reformat(self.width, self.height, interpolation="BICUBIC"))
        planes[0] = (16 + (planes[0].astype(np.float32) - 16) * _DARKER).clip(16, 235).astype(np.uint8)
        return [np.array(plane) for plane in planes]


def turns_of(frame: Any) -> int:
    """By how many quarters a frame is to be turned."""
    return round((getattr(frame, "rotation", 0) or 0) / 90) % 4


def _part(planes: list[np.ndarray], left: int, top: int, width: int, height: int) -> list[np.ndarray]:
    """A part of a picture, on even pixels; a copy."""
    found = []
    for nth, plane in enumerate(planes):
        half = 2 if nth else 1
        rows, columns = (
            slice(top // half, (top + height) // half),
            slice(left // half, (left + width) // half),
        )
        found.append(plane[rows, columns].copy())
    return found


def _plane(frame: Any, nth: int) -> np.ndarray:
    plane = frame.planes[nth]
    rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)
    return rows[: plane.height, : plane.width]


def _planes(frame: Any) -> list[np.ndarray]:
    return [_plane(frame, nth) for nth in range(3)]


def _frame_of(planes: list[np.ndarray]) -> Any:
    import av

    height, width = planes[0].shape
    flat = np.concatenate([np.ascontiguousarray(one).reshape(-1) for one in planes])
    return av.VideoFrame.from_ndarray(flat.reshape(height * 3 // 2, width), format="yuv420p")


def black(width: int, height: int) -> Any:
    """A black frame."""
    return _frame_of(
        [np.full((height // half, width // half), value, np.uint8) for half, value in zip((1, 2, 2), _BLACK)]
    )


def copied(frame: Any) -> Any:
    """A frame of its own that looks the same."""
    made = _frame_of(_planes(frame))
    made.color_range = frame.color_range
    return made


def fitted(frame: Any, width: int, height: int) -> Any:
    """A frame in a size, whole, on black where its shape is another; the very same one in that size."""
    if (frame.width, frame.height) == (width, height):
        return frame
    scale = min(width / frame.width, height / frame.height)
    wide, high = round(frame.width * scale / 2) * 2, round(frame.height * scale / 2) * 2
    small = frame.reformat(width=wide, height=high)
    if (wide, high) == (width, height):
        return small
    planes = [np.array(one) for one in _planes(black(width, height))]
    left, top = (width - wide) // 4 * 2, (height - high) // 4 * 2
    for nth, (plane, part) in enumerate(zip(planes, _planes(small))):
        half = 2 if nth else 1
        plane[top // half : (top + high) // half, left // half : (left + wide) // half] = part
    made = _frame_of(planes)
    made.color_range = frame.color_range
    return made
