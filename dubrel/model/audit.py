"""What the sound says of captions."""

from __future__ import annotations

from dubrel.base.value import Value
from dubrel.model.recognised import RecognisedWord

TOLERANCE_MS = 150
"""A caption that comes in no further from its first word than this is on time."""
ON_TIME, EARLY, LATE, NOT_SPOKEN = "on time", "early", "late", "not spoken"


class AuditedCaption(Value):
    """What the sound says of one caption.

    Attributes
    ----------
    number : int
        From 1, in the order of the file.
    start_ms, end_ms : int
        As in the file.
    text : str
    agreement : float
        Share of its words that are in the sound there, 0 to 1.
    heard : (int, int) or None
        Where it is spoken.
    mark : str
        ``on time``, ``early``, ``late`` or ``not spoken``; a caption is early
        when it comes in before it is spoken.
    """

    number: int
    start_ms: int
    end_ms: int
    text: str
    agreement: float
    heard: tuple[int, int] | None
    mark: str

    @property
    def offset_ms(self) -> int | None:
        """How much later it is spoken than it comes in."""
        return self.heard[0] - self.start_ms if self.heard else None


class Course(Value):
    """How the offset goes over time.

    Attributes
    ----------
    kind : str
        ``steady``, ``shift``, ``drift`` or ``jump``.
    shift_ms : float
        Offset at time zero (for a jump: before it).
    factor : float
        What times must be multiplied by; 1 but for a drift.
    known_factor : str
        The frame rate conversion that this is, such as ``25/24``, if it is one.
    jump_at_ms, jump_ms : int
        Where it jumps, and by how much, for a jump.
    """

    kind: str
    shift_ms: float = 0.0
    factor: float = 1.0
    known_factor: str = ""
    jump_at_ms: int = 0
    jump_ms: int = 0

    def corrected(self, ms: int) -> int:
        """Where a time of the file is in the sound."""
        jump = self.jump_ms if self.kind == "jump" and ms >= self.jump_at_ms else 0
        return max(0, round(ms * self.factor + self.shift_ms + jump))


class Audit(Value):
    """The whole report: each caption, the course of all, and speech that no caption shows."""

    captions: tuple[AuditedCaption, ...]
    course: Course
    uncaptioned: tuple[RecognisedWord, ...]

    @property
    def clean(self) -> bool:
        """Whether nothing was found."""
        return not self.uncaptioned and all(one.mark == ON_TIME for one in self.captions)
