"""How a text is to be spoken, as the user wishes it."""

from __future__ import annotations

from dubrel.base.value import Value


class SpokenWishes(Value):
    """What the blanks of the sentence hold.

    Attributes
    ----------
    track : int
        Id of a translation; 0 for the original.
    by : str
        ``captions``, or empty for sentence by sentence.
    voice : str
    fastest : float
    under : float or None
        Decibels; ``None`` for the voice alone.
    """

    track: int = 0
    by: str = ""
    voice: str = "auto"
    fastest: float = 1.25
    under: float | None = 15.0
