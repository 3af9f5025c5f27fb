"""Figures of a cut: how long it is, how many joins it has, what went by kind."""

from __future__ import annotations

from dubrel.base.text import counted
from dubrel.base.timecode import format_length
from dubrel.base.value import Value
from dubrel.model import Cut
from dubrel.model.cuts import Reason

KINDS: dict[str, tuple[Reason, ...]] = {
    "Pauses": ("pause",),
    "Fillers": ("filler", "repeat", "false start"),
    "Said again": ("said again",),
    "Struck": ("struck",),
    "Taken out by hand": ("by hand",),
}
"""What stands together in the figures of a cut."""


class Figures(Value):
    """What a cut comes to.

    Attributes
    ----------
    length_ms, saved_ms : int
    joins : int
    by_kind : tuple of (str, int, int)
        Kind, how many places, and how long they are together; kinds of which there are some.
    """

    length_ms: int
    saved_ms: int
    joins: int
    by_kind: tuple[tuple[str, int, int], ...]

    def __str__(self) -> str:
        saved = f"{'−' if self.saved_ms >= 0 else '+'}{format_length(abs(self.saved_ms))}"
        return f"{format_length(self.length_ms)}, {saved} in {counted(self.joins, 'join')}"


def figures(cut: Cut, whole_ms: int) -> Figures:
    """The figures of a cut of a recording that is so long."""
    rows = []
    for kind, reasons in KINDS.items():
        some = [one for one in cut.taken if one.why in reasons]
        if some:
            rows.append((kind, len(some), sum(one.end_ms - one.start_ms for one in some)))
    return Figures(cut.length_ms, whole_ms - cut.length_ms, cut.joins, tuple(rows))
