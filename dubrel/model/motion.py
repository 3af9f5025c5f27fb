"""How the words of a caption come, and how the one that is being spoken is set off."""

from __future__ import annotations

from typing import Literal

from dubrel.base.value import Value

Coming = Literal["all", "word", "few", "line"]
"""All words at once; each as it is spoken; a few at a time; line by line."""
Entrance = Literal["none", "fade", "rise"]


class Motion(Value):
    """Movement of a look; nothing moves by default.

    Attributes
    ----------
    words : {"all", "word", "few", "line"}
        How words come; each stays until the caption goes out.
    few : int
        How many come at a time.
    colour : str
        Of the word that is being spoken, as ``#RRGGBB``; empty for that of the others.
    box : str
        Colour of a box behind it; empty for none.
    bold, ruled : bool
        Whether it is bold, and underlined.
    larger : float
        By how many percent it is larger.
    dimmed : float
        How much paler words are once they have been spoken, 0 to 1.
    entrance, leaving : {"none", "fade", "rise"}
        How a caption comes in and goes out.
    frames : int
        Of the picture that this takes.
    """

    words: Coming = "all"
    few: int = 3
    colour: str = ""
    box: str = ""
    bold: bool = False
    ruled: bool = False
    larger: float = 0.0
    dimmed: float = 0.0
    entrance: Entrance = "none"
    leaving: Entrance = "none"
    frames: int = 4

    @property
    def marks(self) -> bool:
        """Whether the spoken word is set off."""
        return bool(self.colour or self.box or self.bold or self.ruled or self.larger)

    @property
    def by_words(self) -> bool:
        """Whether anything hangs on the times of words."""
        return self.words != "all" or self.marks or self.dimmed > 0

    @property
    def moves(self) -> bool:
        """Whether anything moves at all."""
        return self.by_words or self.entrance != "none" or self.leaving != "none"
