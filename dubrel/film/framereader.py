"""Frames of a film at the times at which they are wanted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Any

from dubrel.media.probe import origin_s

_FAR_S = 12.0


class FrameReader:
    """The frames of a film, forward from wherever they are wanted.

    Parameters
    ----------
    film : av.container.InputContainer
    rate : Fraction
        Frames a second in which is counted.
    far_s : float
        What lies further ahead is sought, not decoded.
    """

    def __init__(self, film: Any, rate: Fraction, far_s: float = _FAR_S) -> None:
        self._far_s = far_s
        self._film, self._stream = film, film.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._zero, self._rate = origin_s(film), rate
        self._frames = film.decode(self._stream)
        self._held: Any = None  # read, and belongs to what comes
        self._last: Any = None
        self._at = Fraction(-1)

    def _time(self, frame: Any) -> Fraction:
        return frame.pts * frame.time_base - self._zero

    def _next(self) -> Any:
        frame, self._held = self._held, None
        while frame is None:
            frame = next(self._frames, None)
            if frame is None:
                return None
            if frame.pts is None:
                frame = None
        self._at = self._time(frame)
        return frame

    def _go_near(self, start: Fraction) -> None:
        if start < self._at or start > self._at + Fraction(self._far_s):
            self._film.seek(max(0, round((start + self._zero) * 1_000_000)), backward=True)
            self._frames, self._held, self._last = self._film.decode(self._stream), None, None

    def at_times(self, times: Sequence[Fraction]) -> Iterator[Any]:
        """The frame that is shown at each of some times, in order; the nearest to the very moment."""
        self._go_near(times[0] if times else Fraction(0))
        half = 1 / Fraction(self._stream.average_rate or self._rate) / 2
        for time in times:
            while (frame := self._next()) is not None:
                if self._time(frame) > time + half:
                    self._held = frame
                    break
                self._last = frame
            shown = self._last if self._last is not None else self._held
            if shown is None:
                return
            yield shown

    def passage(self, start: Fraction, end: Fraction) -> Iterator[tuple[Fraction, Any]]:
        """The frames from a time up to another one, with their times from its start."""
        self._go_near(start)
        near = 1 / self._rate / 2
        begun = False
        while (frame := self._next()) is not None:
            at = self._time(frame)
            if at >= end - near:
                self._held = frame
                break
            if at >= start - near:
                if not begun and self._last is not None and at > start + near:
                    yield Fraction(0), self._last  # a picture that stands still goes on
                begun = True
                yield max(Fraction(0), at - start), frame
            self._last = frame
        if not begun and self._last is not None:
            yield Fraction(0), self._last
