"""Times of many captions on the frames of a picture, exactly."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from dubrel.base.value import Value

Times = np.ndarray | int


class Grid(Value):
    """The times that an in or out time may have.

    Attributes
    ----------
    rate : Fraction or None
        Frames a second; without a picture every millisecond will do.
    """

    rate: Fraction | None

    def after(self, ms: Times) -> np.ndarray:
        """The first times on the grid that are not before some times, in milliseconds."""
        if self.rate is None:
            return np.asarray(ms, np.int64)
        return self.ms(self.frame_after(ms))

    def before(self, ms: Times) -> np.ndarray:
        """The last times on the grid that are not after some times."""
        if self.rate is None:
            return np.asarray(ms, np.int64)
        value = np.asarray(ms, np.int64)
        # a frame begins, rounded halves up, at the latest at ms: frame * 1000 / rate < ms + 1/2
        frame = -((-(2 * value + 1) * self.rate.numerator) // (2000 * self.rate.denominator)) - 1
        return self.ms(frame)

    def nearest(self, ms: Times) -> np.ndarray:
        """The nearest times on the grid."""
        if self.rate is None:
            return np.asarray(ms, np.int64)
        return self.ms(self.frame(ms))

    def frame(self, ms: Times) -> np.ndarray:
        """The nearest frames."""
        assert self.rate is not None
        top, bottom = self.rate.numerator, 1000 * self.rate.denominator
        return (2 * np.asarray(ms, np.int64) * top + bottom) // (2 * bottom)

    def frame_after(self, ms: Times) -> np.ndarray:
        """The first frames that begin, rounded to milliseconds, not before some times."""
        assert self.rate is not None
        return -(
            (-(2 * np.asarray(ms, np.int64) - 1) * self.rate.numerator) // (2000 * self.rate.denominator)
        )

    def ms(self, frame: Times) -> np.ndarray:
        """When frames begin, to the nearest millisecond, halves up."""
        assert self.rate is not None
        top, bottom = 1000 * self.rate.denominator, self.rate.numerator
        return (2 * np.asarray(frame, np.int64) * top + bottom) // (2 * bottom)

    def earlier(self, ms: Times, frames: int, otherwise_ms: int) -> np.ndarray:
        """Times some frames, or without a picture some milliseconds, before times on the grid."""
        if self.rate is None:
            return np.asarray(ms, np.int64) - otherwise_ms
        return self.ms(self.frame(ms) - frames)

    def span(self, frames: int) -> int:
        """The least number of milliseconds that so many frames can be when both ends are rounded."""
        return 0 if self.rate is None else int(np.floor(frames * 1000 / float(self.rate)))

    def step(self) -> int:
        """About how far two times on the grid are apart; 120 ms without a picture."""
        return 120 if self.rate is None else max(1, round(1000 / float(self.rate)))
