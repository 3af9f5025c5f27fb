"""Mask words in what is written, by a list of the user's; the words of the project stay as they are."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from functools import partial

from dubrel.edits.casing import marks_of
from dubrel.edits.striking import words_changed
from dubrel.model import Project, Word
from dubrel.text import bare_word, graphemes

HOW = ("no", "first letter", "stars", "bleep")
"""How masked words are written; the first masks nothing."""


def masked(project: Project, words: Collection[str], how: str) -> Project:
    """A project in which some words are masked, for writing.

    Parameters
    ----------
    words : collection of str
        Single words; one that ends in ``*`` stands for all that begin so.
    how : str
        One of ``HOW``.
    """
    if how == HOW[0] or not words:
        return project
    whole = {bare_word(one) for one in words if not one.endswith("*")}
    starts = tuple(bare_word(one[:-1]) for one in words if one.endswith("*") and bare_word(one[:-1]))
    wanted = {
        word.id
        for turn in project.transcript.turns
        for word in turn.words
        if (bare := bare_word(word.text)) and (bare in whole or (starts and bare.startswith(starts)))
    }
    return words_changed(project, wanted, partial(_masked, how=how)) if wanted else project


def _masked(word: Word, how: str) -> Word:
    stem, mark, closers = marks_of(word.text)
    lead = stem[: next((k for k, sign in enumerate(stem) if sign.isalnum()), 0)]
    signs = graphemes(stem[len(lead) :])
    hidden = {
        "first letter": signs[0] + "*" * max(1, len(signs) - 1),
        "stars": "*" * max(1, len(signs)),
        "bleep": "[bleep]",
    }[how]
    return replace(word, text=lead + hidden + mark + closers)
