"""Integer milliseconds, exact frame rates, clocks in and out.

Every time in the model is an ``int`` of milliseconds. Samples and frames
become milliseconds here and nowhere else, with the rate as an exact fraction,
so that 29.97 frames a second is 30000/1001 and an hour of it does not drift.
"""

from __future__ import annotations

import re
from fractions import Fraction

LATEST_MS = 100 * 3_600_000
"""No time of a recording, a word or a caption is later: what says so is wrong."""

_NTSC = {"23.976": Fraction(24000, 1001), "23.98": Fraction(24000, 1001), "29.97": Fraction(30000, 1001)}
_NTSC |= {"47.95": Fraction(48000, 1001), "59.94": Fraction(60000, 1001), "119.88": Fraction(120000, 1001)}
_CLOCK = re.compile(r"^\s*(-)?(?:(\d+):)?(\d{1,3}):(\d{1,2})(?:[.,](\d{1,9}))?\s*$")


def parse_rate(text: str) -> Fraction:
    """Read a frame rate as an exact fraction.

    Parameters
    ----------
    text : str
        ``"25"``, ``"30000/1001"``, or the rounded trade name ``"29.97"``.

    Returns
    -------
    Fraction
        Frames a second.

    Raises
    ------
    ValueError
        If the text is not a positive rate.

    Examples
    --------
    >>> parse_rate("29.97")
    Fraction(30000, 1001)
    """
    text = text.strip()
    rate = _NTSC.get(text) or Fraction(text)
    if rate <= 0:
        raise ValueError(f"not a frame rate: {text!r}")
    return rate


def rate_in_words(rate: Fraction | None) -> str:
    """A frame rate as people say it; the exact fraction is for computing.

    Examples
    --------
    >>> rate_in_words(Fraction(30000, 1001)), rate_in_words(Fraction(25))
    ('29.97', '25')
    """
    if rate is None:
        return ""
    named = {value: name for name, value in _NTSC.items() if name != "23.98"}
    return named.get(rate) or f"{float(rate):.3f}".rstrip("0").rstrip(".")


def rounded(value: Fraction) -> int:
    """Round a fraction to the nearest integer, halves up.

    Examples
    --------
    >>> rounded(Fraction(5, 2))
    3
    """
    return int((2 * value.numerator + value.denominator) // (2 * value.denominator))


def samples_to_ms(samples: int, rate: int) -> int:
    """Milliseconds of a sample position, to the nearest."""
    return rounded(Fraction(samples * 1000, rate))


def ms_to_samples(ms: int, rate: int) -> int:
    """Sample position of a time in milliseconds, to the nearest."""
    return rounded(Fraction(ms * rate, 1000))


def frames_to_ms(frames: int, rate: Fraction) -> int:
    """Milliseconds at which a frame starts, to the nearest."""
    return rounded(Fraction(frames * 1000) / rate)


def ms_to_frames(ms: int, rate: Fraction) -> int:
    """The frame whose start is nearest to a time."""
    return rounded(Fraction(ms) * rate / 1000)


def snap_to_frame(ms: int, rate: Fraction | None) -> int:
    """The start of the nearest frame, or the time itself without a rate."""
    return ms if rate is None else frames_to_ms(ms_to_frames(ms, rate), rate)


def frame_beside(ms: int, step: int, rate: Fraction) -> int:
    """The start of the frame some frames after the one nearest to a time; of the first at the least.

    Examples
    --------
    >>> frame_beside(1000, 1, Fraction(25)), frame_beside(1010, -1, Fraction(25))
    (1040, 960)
    """
    return frames_to_ms(max(0, ms_to_frames(ms, rate) + step), rate)


def format_clock(ms: int, *, mark: str = ".", digits: int = 3, hours: bool = True) -> str:
    """Write a time as a clock.

    Parameters
    ----------
    ms : int
        Milliseconds; below zero gets a minus sign.
    mark : str
        What stands before the fraction ("." in WebVTT, "," in SRT).
    digits : int
        Digits of the fraction, 0 to 3; the rest is cut, never rounded up, so
        that a clock on screen never runs ahead of the sound.
    hours : bool
        Write the hours even where they are zero.

    Examples
    --------
    >>> format_clock(3723004)
    '01:02:03.004'
    >>> format_clock(14237, digits=1, hours=False)
    '00:14.2'
    """
    sign, ms = ("-", -ms) if ms < 0 else ("", ms)
    seconds, fraction = divmod(ms, 1000)
    minutes, seconds = divmod(seconds, 60)
    hour, minutes = divmod(minutes, 60)
    head = f"{hour:02d}:" if hours or hour else ""
    tail = f"{mark}{fraction:03d}"[: 1 + digits] if digits else ""
    return f"{sign}{head}{minutes:02d}:{seconds:02d}{tail}"


def parse_clock(text: str) -> int:
    """Read ``[h:]mm:ss[.fraction]`` with a point or a comma.

    Returns
    -------
    int
        Milliseconds, to the nearest.

    Raises
    ------
    ValueError
        If the text is not a clock.

    Examples
    --------
    >>> parse_clock("1:02:03,5")
    3723500
    """
    found = _CLOCK.match(text)
    if not found:
        raise ValueError(f"not a time: {text.strip()!r}")
    minus, hours, minutes, seconds, fraction = found.groups()
    ms = clock_ms(hours, minutes, seconds, fraction)
    return -ms if minus else ms


def clock_ms(hours: str | None, minutes: str | None, seconds: str | None, fraction: str | None = None) -> int:
    """Milliseconds of the parts of a clock, to the nearest; a part that is missing is zero.

    Examples
    --------
    >>> clock_ms(None, "1", "02", "5")
    62500
    """
    whole = (int(hours or 0) * 60 + int(minutes or 0)) * 60 + int(seconds or 0)
    digits = (fraction or "0")[:9]
    return whole * 1000 + rounded(Fraction(int(digits) * 1000, 10 ** len(digits)))


def format_length(ms: int) -> str:
    """A length as people say it on a page: ``4:07`` or ``1:04:07``.

    Examples
    --------
    >>> format_length(247_900)
    '4:07'
    """
    minutes, seconds = divmod(max(0, ms) // 1000, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02d}:{seconds:02d}" if hours else f"{minutes}:{seconds:02d}"
