"""Places on the sheet: by turn and letter, and by the ids that they are held by."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, order=True)
class Spot:
    """A place in the transcript: which turn, and which character of what it shows."""

    turn: int
    place: int


@dataclass(frozen=True)
class Held:
    """A spot by ids: it stays in its word whatever is done elsewhere.

    ``inside`` is where in the word; ``shift`` whether a space that parts no
    words yet stands before it.
    """

    turn: int
    place: int
    word: int | None
    inside: int
    shift: int
