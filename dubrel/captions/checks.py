"""Say every rule of a house style that a caption breaks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from dubrel.captions.breaking import text_length
from dubrel.model import Caption, HouseStyle
from dubrel.text import grapheme_count


@dataclass(frozen=True)
class Finding:
    """One broken rule.

    Attributes
    ----------
    rule : str
        One of ``RULES``.
    message : str
        What is wrong and by how much.
    at_ms : int
        Where, for what is no caption's.
    """

    rule: str
    message: str
    at_ms: int = 0


RULES = {
    "speed": "Over speed",
    "line length": "Line too long",
    "lines": "Too many lines",
    "short": "Too short",
    "long": "Too long",
    "gap": "Gap too small",
    "overlap": "Overlaps",
    "backwards": "Ends before it begins",
    "no caption": "Words in no caption",
}


def reading_speed(caption: Caption, lines: Sequence[str]) -> float:
    """Characters a second: graphemes of the text over the time on screen."""
    return text_length(lines) * 1000 / max(1, caption.end_ms - caption.start_ms)


def check_caption(
    caption: Caption,
    lines: Sequence[str],
    style: HouseStyle,
    *,
    following: Caption | None = None,
    frame_rate: Fraction | None = None,
) -> list[Finding]:
    """Every rule that one caption breaks.

    Parameters
    ----------
    caption : Caption
    lines : sequence of str
        As they show.
    style : HouseStyle
    following : Caption, optional
        The next caption of the track.
    frame_rate : Fraction, optional
        Of the picture.
    """
    span = caption.end_ms - caption.start_ms
    if span <= 0:
        return [Finding("backwards", "ends before it begins")]
    if not lines:
        return []  # all its words are struck: nothing is shown
    found = _speed(text_length(lines), span, style)
    if len(lines) > style.max_lines:
        found.append(Finding("lines", f"{len(lines)} lines, {style.max_lines} at most"))
    for number, line in enumerate(lines, 1):
        if (length := grapheme_count(line)) > style.max_cpl:
            found.append(
                Finding("line length", f"line {number} has {length} characters, {style.max_cpl} at most")
            )
    if span < style.min_ms:
        found.append(Finding("short", f"{(style.min_ms - span) / 1000:.2f} s too short"))
    if span > style.max_ms:
        found.append(Finding("long", f"{(span - style.max_ms) / 1000:.2f} s too long"))
    if following is not None:
        found += _gap(following.start_ms - caption.end_ms, style.least_gap(frame_rate))
    return found


def _speed(length: int, span: int, style: HouseStyle) -> list[Finding]:
    if length * 1000 <= style.max_cps * span:
        return []
    over = length * 1000 / span - style.max_cps
    longer = length / style.max_cps - span / 1000
    fewer = length - int(style.max_cps * span / 1000)
    noun = "character" if fewer == 1 else "characters"
    hint = f"lengthen by {longer:.2f} s or shorten by {fewer} {noun}"
    return [Finding("speed", f"{over:.1f} CPS over: {hint}")]


def _gap(gap: int, least: int) -> list[Finding]:
    if gap < 0:
        return [Finding("overlap", f"overlaps the next by {-gap / 1000:.2f} s")]
    if gap < least:
        return [Finding("gap", f"gap to the next is {gap} ms, {least} ms at least")]
    return []
