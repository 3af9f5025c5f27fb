"""Cuts: which passages of the recording make an edit of it, and how they join."""

from __future__ import annotations

from functools import cached_property
from typing import Literal

from dubrel.base.value import Value

Plays = Literal["all", "muted", "gap"]
"""What a passage plays: picture and sound, the picture alone, or nothing while its time passes."""

Reason = Literal["pause", "filler", "repeat", "false start", "said again", "struck", "by hand"]
"""Why a passage is not in a cut."""


class CutPassage(Value):
    """A passage of the recording in a cut.

    Attributes
    ----------
    start_ms, end_ms : int
        In and out time in the recording; on frames where there is a picture.
    cross_ms : int
        How long the cross-fade of the sound (constant power) into the next passage is,
        half of it before and half after the join; 0 for a hard join.
    lead_frames : int
        How many frames the sound of the next passage comes before its picture; below
        zero, how many it comes after.
    plays : {"all", "muted", "gap"}
    """

    start_ms: int
    end_ms: int
    cross_ms: int = 0
    lead_frames: int = 0
    plays: Plays = "all"


class TakenOut(Value):
    """A passage of the recording that is not in a cut, and why."""

    start_ms: int
    end_ms: int
    why: Reason = "by hand"


class Cut(Value, dict=True):
    """A named list of passages of the recording, in the order in which they play.

    Attributes
    ----------
    id : int
    name : str
    passages : tuple of CutPassage
    taken : tuple of TakenOut
        What was taken out and why, in order of time; for the eye and for putting it back.
    clip : bool
        Whether it is a clip: a few passages that are passed on by themselves.
    """

    id: int
    name: str
    passages: tuple[CutPassage, ...]
    taken: tuple[TakenOut, ...] = ()
    clip: bool = False

    @cached_property
    def length_ms(self) -> int:
        """How long it plays, but for what whole frames add or take."""
        return sum(one.end_ms - one.start_ms for one in self.passages)

    @property
    def joins(self) -> int:
        """How many joins it has."""
        return max(0, len(self.passages) - 1)
