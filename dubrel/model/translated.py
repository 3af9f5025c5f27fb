"""A sentence in another language, before it becomes captions."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Translated:
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
    over : tuple of (int, str)
        Captions that it may take the place of although a person had them in
        hand: their ids and the texts they had when that was agreed to.
    """

    words: tuple[int, ...]
    said: tuple[str, ...]
    edges: tuple[int, ...]
    text: str
    cuts: tuple[int, ...] = ()
    over: tuple[tuple[int, str], ...] = ()
