"""Rules by which a cut of the picture is proposed."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class CameraRules:
    """Which camera is shown when.

    Attributes
    ----------
    shortest_ms : int
        No shot is shorter.
    wide_ms : int
        After so long without it the picture from afar is shown; 0 for never.
    ahead_ms : int
        How long before a voice the picture changes to who speaks, where a pause has the room.
    laughter : bool
        Whether laughter and applause show everybody.
    quick : bool
        Whether a quick exchange does.
    """

    shortest_ms: int = 2000
    wide_ms: int = 40_000
    ahead_ms: int = 200
    laughter: bool = True
    quick: bool = True
