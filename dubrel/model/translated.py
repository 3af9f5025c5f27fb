"""A sentence in another language, before it becomes captions."""

from __future__ import annotations

from dubrel.base.value import Value

Agreed = tuple[int, str, bool]
"""A translated caption that may be replaced although a person had it in hand: id, text, whether approved."""


class Translated(Value):
    """What a translator, a memory or a file gives for a sentence.

    Attributes
    ----------
    words : tuple of int
        Ids of the words of the sentence, without struck ones.
    said : tuple of str
        Those words as they were.
    edges : tuple of int
        Places among the words before which another caption of the original begins.
    text : str
        The sentence in the other language.
    cuts : tuple of int
        For each edge the place among the words of ``text`` that belongs to it.
    """

    words: tuple[int, ...]
    said: tuple[str, ...]
    edges: tuple[int, ...]
    text: str
    cuts: tuple[int, ...] = ()


class Weighed(Value):
    """What was found out about a translation.

    Attributes
    ----------
    source, target : str
        The original and the translation.
    meaning : float or None
        How likely both mean the same, 0 to 1; ``None`` where that cannot be told.
    back : str
        The translation translated back; empty where no translator goes back.
    """

    source: str
    target: str
    meaning: float | None = None
    back: str = ""
