"""A text of its own in the best lines, whatever lines it came in."""

from __future__ import annotations

from dubrel.base.text import joined, spaced_units
from dubrel.captions.lengths import text_length
from dubrel.model import HouseStyle, Word


def best_text(text: str, style: HouseStyle, language: str) -> str:
    """A text of its own in the best lines by a style; as it is where it does not fit."""
    from dubrel.captions.setting.breaking import (
        best_lines,  # late: arrays, which opening a window does without
    )

    found = [one for line in text.split("\n") for one in spaced_units(line)]
    units, spaced = [unit for unit, _ in found], [space for _, space in found]
    whole = joined(units, spaced) if units else ""
    if units and text_length([whole]) <= (style.single_cpl or style.max_cpl):
        return whole
    words = [Word(nth + 1, unit, 0, 0, spaced=space) for nth, (unit, space) in enumerate(found)]
    breaks = best_lines(words, style, language)
    if breaks is None:
        return text
    edges = [0, *breaks, len(units)]
    return "\n".join(joined(units[a:b], spaced[a:b]) for a, b in zip(edges, edges[1:]))
