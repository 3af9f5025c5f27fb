"""Which part of the picture is shown where a film is made in another shape."""

from __future__ import annotations

from bisect import bisect_right

from dubrel.base.value import Value

PAN_MS = 800


class FrameKey(Value):
    """From when on the crop lies where.

    Attributes
    ----------
    ms : int
        In time of the recording.
    x, y : float
        Where its middle is, in percent of the picture's width and height.
    pans : bool
        Whether it moves there, over 0.8 s from that time on; else it is there at once.
    """

    ms: int
    x: float = 50.0
    y: float = 50.0
    pans: bool = False


class Framing(Value):
    """Where the crop lies over time; in the middle before anything is said.

    Attributes
    ----------
    keys : tuple of FrameKey
        In order of time, no two at the same.
    """

    keys: tuple[FrameKey, ...] = ()

    def at(self, ms: float) -> tuple[float, float]:
        """Where the middle of the crop is at a time, in percent.

        Examples
        --------
        >>> framing = Framing((FrameKey(0, 20), FrameKey(1000, 80, pans=True)))
        >>> [round(framing.at(ms)[0]) for ms in (0, 999, 1200, 1400, 1800)]
        [20, 20, 29, 50, 80]
        """
        nth = bisect_right(self.keys, ms, key=lambda key: key.ms) - 1
        if nth < 0:
            return 50.0, 50.0
        key = self.keys[nth]
        share = (ms - key.ms) / PAN_MS
        if not key.pans or share >= 1:
            return key.x, key.y
        x, y = self.at(key.ms - 1) if nth else (50.0, 50.0)
        eased = share * share * (3 - 2 * share)
        return x + (key.x - x) * eased, y + (key.y - y) * eased
