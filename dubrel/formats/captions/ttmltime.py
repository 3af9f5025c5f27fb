"""Times of TTML (W3C, TTML2 §12.3): clocks, offsets, frames, ticks; and what others write."""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction

from dubrel.base.value import Value

_CLOCK = re.compile(r"(\d+):([0-5]?\d):([0-5]?\d|60)(?:([.,])(\d+)|([:;])(\d+)(?:\.(\d+))?)?")
_SHORT = re.compile(r"(\d+):([0-5]?\d)(?:[.,](\d+))?")
_OFFSET = re.compile(r"(\d+(?:[.,]\d*)?|[.,]\d+)\s*(h|m|s|ms|f|t|)")
_STRICT = re.compile(r"\d{2,}:\d\d:\d\d(\.\d+|:\d{2,}(\.\d+)?)?|\d+(\.\d+)?(h|m|s|ms|f|t)")
_METRICS = {
    "h": Fraction(3600),
    "m": Fraction(60),
    "s": Fraction(1),
    "ms": Fraction(1, 1000),
    "": Fraction(1),
}


class Clock(Value):
    """How a document counts.

    Attributes
    ----------
    nominal : int
        Frames of a full second of the time code.
    rate : Fraction
        Frames in a second.
    parts : int
        Of a frame.
    ticks : Fraction
        In a second.
    drops : bool
        Whether its time code leaves numbers out, as at 29.97.
    smpte : bool
        Whether its times are time code.
    """

    nominal: int = 30
    rate: Fraction = Fraction(30)
    parts: int = 1
    ticks: Fraction = Fraction(1)
    drops: bool = False
    smpte: bool = False

    def seconds(self, text: str) -> Fraction | None:
        """A time in seconds from where it counts; ``None`` where it cannot be read.

        Examples
        --------
        >>> clock = Clock(25, Fraction(25), ticks=Fraction(25))
        >>> [clock.seconds(one) for one in ("00:00:01.5", "00:00:01:05", "1500ms", "30t", "wallclock(1)")]
        [Fraction(3, 2), Fraction(6, 5), Fraction(3, 2), Fraction(6, 5), None]
        """
        text = text.strip()
        if found := _CLOCK.fullmatch(text):
            return self._of_clock(found)
        if found := _SHORT.fullmatch(text):
            return Fraction(int(found[1]) * 60 + int(found[2])) + _decimal("0." + (found[3] or "0"))
        found = _OFFSET.fullmatch(text)
        if found is None:
            return None
        many = _decimal(found[1])
        if found[2] in ("f", "t"):
            return many / (self.rate if found[2] == "f" else self.ticks)
        return many * _METRICS[found[2]]

    def _of_clock(self, found: re.Match[str]) -> Fraction:
        hours, minutes, seconds = (int(found[k]) for k in (1, 2, 3))
        whole = hours * 3600 + minutes * 60 + seconds
        if found[4]:
            return whole + _decimal(f"0.{found[5]}")
        frames = Fraction(int(found[7] or 0)) + Fraction(int(found[8] or 0), self.parts)
        if not (self.smpte or found[6] == ";"):
            return whole + frames / self.rate
        dropped = 0
        if self.drops or (found[6] == ";" and self.nominal % 30 == 0):
            each, passed = self.nominal // 15, hours * 60 + minutes
            dropped = each * (passed - passed // 10)
        return (whole * self.nominal - dropped + frames) / self.rate


def is_usual(text: str) -> bool:
    """Whether a time is written as the standard has it."""
    return _STRICT.fullmatch(text.strip()) is not None


def _decimal(text: str) -> Fraction:
    text = text.replace(",", ".")
    return Fraction(text if text[-1] != "." else text + "0")


def clock_of(values: Mapping[str, str]) -> Clock:
    """How a document counts, by the parameters on its root; what makes no sense there is the usual."""
    nominal = _whole(values.get("frameRate"), 0)
    parts = _whole(values.get("subFrameRate"), 1)
    rate = Fraction(nominal or 30) * _multiplier(values.get("frameRateMultiplier", ""))
    ticks = _whole(values.get("tickRate"), 0)
    counted = rate * parts if nominal else Fraction(1)
    return Clock(
        nominal or 30,
        rate,
        parts,
        Fraction(ticks) if ticks else counted,
        values.get("dropMode") == "dropNTSC",
        values.get("timeBase") == "smpte",
    )


def _whole(text: str | None, usual: int) -> int:
    digits = (text or "").strip()
    return int(digits) if digits.isdecimal() and 0 < int(digits) <= 10**9 else usual


def _multiplier(text: str) -> Fraction:
    """``1000 1001``, or as earlier versions have it ``1000:1001``."""
    numbers = re.findall(r"\d{1,9}", text)
    if len(numbers) == 2 and int(numbers[0]) and int(numbers[1]):
        return Fraction(int(numbers[0]), int(numbers[1]))
    return Fraction(1)
