"""Timecodes that count frames (SMPTE ST 12-1), with and without dropped numbers."""

from __future__ import annotations

import re
from fractions import Fraction

_TIMECODE = re.compile(r"\s*(\d{1,3})[:.](\d{1,2})[:.](\d{1,2})([:;.,])(\d{1,3})\s*")


def nominal(rate: Fraction) -> int:
    """How many frames a second of timecode has.

    Examples
    --------
    >>> nominal(Fraction(30000, 1001)), nominal(Fraction(24000, 1001)), nominal(Fraction(25))
    (30, 24, 25)
    """
    return max(1, -(-rate.numerator // rate.denominator))


def can_drop(rate: Fraction) -> bool:
    """Whether timecode of a rate can leave numbers out to keep up with the clock: 29.97, 59.94 and so on."""
    return rate.denominator == 1001 and nominal(rate) % 30 == 0


def timecode(frame: int, rate: Fraction, drop: bool = False) -> str:
    """The timecode of a frame.

    Parameters
    ----------
    drop : bool
        Whether two numbers (at 29.97) are left out every minute but each tenth.

    Examples
    --------
    >>> timecode(1800, Fraction(30000, 1001), drop=True), timecode(1800, Fraction(30000, 1001))
    ('00:01:00;02', '00:01:00:00')
    """
    whole = nominal(rate)
    if drop:
        each = whole // 15
        ten, rest = divmod(frame, whole * 600 - 9 * each)
        minutes = max(0, rest - each) // (whole * 60 - each)
        frame += each * (9 * ten + minutes)
    seconds, frames = divmod(frame, whole)
    minutes, seconds = divmod(seconds, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours:02d}:{minutes:02d}:{seconds:02d}{';' if drop else ':'}{frames:02d}"


def frame_of(text: str, rate: Fraction, drop: bool | None = None) -> int:
    """The frame of a timecode.

    Parameters
    ----------
    drop : bool, optional
        Whether numbers are left out; unless given, as the last mark (``;``) says.

    Raises
    ------
    ValueError
        If the text is not a timecode, or counts more frames than a second has.

    Examples
    --------
    >>> frame_of("00:01:00;02", Fraction(30000, 1001)), frame_of("01:00:00:00", Fraction(25))
    (1800, 90000)
    """
    found = _TIMECODE.fullmatch(text)
    whole = nominal(rate)
    if found is None:
        raise ValueError(f"not a timecode: {text.strip()!r}")
    hours, minutes, seconds, frames = (int(found[k]) for k in (1, 2, 3, 5))
    if frames >= whole or seconds > 59 or minutes > 59:
        raise ValueError(f"not a timecode of {whole} frames a second: {text.strip()!r}")
    count = ((hours * 60 + minutes) * 60 + seconds) * whole + frames
    drops = (found[4] in ";," if drop is None else drop) and can_drop(rate)
    passed = hours * 60 + minutes
    return count - (whole // 15) * (passed - passed // 10) if drops else count
