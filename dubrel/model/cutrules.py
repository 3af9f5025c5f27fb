"""Rules by which passages are proposed to be taken out of a cut."""

from __future__ import annotations

from typing import Literal

from dubrel.base.value import Value

PausesAs = Literal["shortened", "muted", "gap"]


class CutRules(Value):
    """What goes.

    Attributes
    ----------
    name : str
        Of a preset; empty for rules of the moment.
    pauses : bool
        Whether pauses are looked for.
    longer_ms, becomes_ms : int
        Pauses longer than the first become as long as the second; 0 removes them but for ``keep_ms``.
    pauses_as : {"shortened", "muted", "gap"}
        Whether the rest of a pause goes, or its time stays without its sound, or without anything.
    sounds : bool
        Whether breaths, laughter and music between words go with the pauses.
    quiet_db : int
        How many decibels below full scale the recording is quiet; found for each recording where it is 0.
    fillers, repeats, struck, again : bool
        Fillers; repeats and false starts; struck words; all but one take of what is said again.
    keep_ms : int
        Room before and after each word.
    cross_ms : int
        The cross-fade at each join.
    """

    name: str = ""
    pauses: bool = True
    longer_ms: int = 800
    becomes_ms: int = 300
    pauses_as: PausesAs = "shortened"
    sounds: bool = False
    quiet_db: int = 0
    fillers: bool = True
    repeats: bool = True
    struck: bool = True
    again: bool = True
    keep_ms: int = 40
    cross_ms: int = 20


PRESETS = {
    one.name: one
    for one in (
        CutRules("Conversation"),
        CutRules("Gentle", longer_ms=1500, becomes_ms=700, fillers=False, repeats=False),
        CutRules("Tight", longer_ms=400, becomes_ms=150),
        CutRules("Pauses only", fillers=False, repeats=False, struck=False, again=False),
    )
}
"""Rules that ship, by name; the first is the usual one."""
