"""Rules by which passages are proposed as clips."""

from __future__ import annotations

from typing import Literal

from dubrel.base.value import Value

Alone = Literal["must", "rather", "any"]
Order = Literal["worth", "time"]


class ClipRules(Value):
    """What makes a good clip.

    Attributes
    ----------
    low_s, high_s : int
        Shortest and longest, in seconds.
    alone : {"must", "rather", "any"}
        Whether a clip must need nothing that was said before it, should rather not, or may.
    answers, laughter, raised, facts, thought, voices : int
        How much counts what: a question with its answer; laughter and applause; a voice that rises
        above its own average in loudness, pitch or pace; figures, names and key terms; that it holds
        one thought; that voices change. 0 not at all, 1 a little, 2 as usual, 3 much.
    about : str
        What it is to be about; empty for anything.
    order : {"worth", "time"}
        How proposals are listed.
    """

    low_s: int = 20
    high_s: int = 60
    alone: Alone = "must"
    answers: int = 2
    laughter: int = 2
    raised: int = 2
    facts: int = 2
    thought: int = 2
    voices: int = 2
    about: str = ""
    order: Order = "worth"
