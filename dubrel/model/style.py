"""House styles: the rules that captions keep."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from dubrel.timecode import rounded


@dataclass(frozen=True)
class HouseStyle:
    """Rules that captions keep; a caption track holds its own by value.

    Attributes
    ----------
    name : str
    max_lines : int
        Lines a caption may have.
    max_cpl : int
        Graphemes a line may have.
    max_cps : float
        Graphemes a second a reader can take, a line break counted as the
        space that it stands for.
    min_ms, max_ms : int
        Shortest and longest time on screen.
    gap_frames : int
        Least gap between two captions in frames of the picture.
    gap_ms : int
        The same where there is no picture.
    chain_ms : int
        A gap shorter than this is closed to the least gap.
    names : {"never", "change", "always"}
        When the speaker's name stands before the text.
    dashes : bool
        Whether two people may speak in one caption, each in a line with a dash.
    """

    name: str
    max_lines: int = 2
    max_cpl: int = 42
    max_cps: float = 20.0
    min_ms: int = 1000
    max_ms: int = 7000
    gap_frames: int = 2
    gap_ms: int = 80
    chain_ms: int = 400
    names: str = "never"
    dashes: bool = False

    def shows_name(self, changed: bool) -> bool:
        """Whether a name stands before a caption, ``changed`` where another person begins to speak."""
        return self.names == "always" or (self.names == "change" and changed)

    def least_gap(self, frame_rate: Fraction | None) -> int:
        """Least gap in milliseconds for a picture of a rate, or for sound alone."""
        if frame_rate is None:
            return self.gap_ms
        return rounded(Fraction(self.gap_frames * 1000) / frame_rate)
