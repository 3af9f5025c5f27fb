"""Mask words in what is written, by a list of the user's; the words of the project stay as they are."""

from __future__ import annotations

from collections.abc import Callable, Collection
from functools import partial

from dubrel.base.text import bare_word, graphemes, joined, spaced_units
from dubrel.base.value import replace
from dubrel.edits.words.casing import marks_of
from dubrel.edits.words.striking import words_changed
from dubrel.model import Project, Word

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
    is_masked = _chosen_by(words)
    wanted = {word.id for turn in project.transcript.turns for word in turn.words if is_masked(word.text)}
    return words_changed(project, wanted, partial(_masked, how=how)) if wanted else project


def masked_text(text: str, words: Collection[str], how: str) -> str:
    """A text of its own with the same words masked.

    Examples
    --------
    >>> masked_text("the wretched boat", ["wretched"], "first letter")
    'the w******* boat'
    """
    if how == HOW[0] or not words:
        return text
    is_masked, units = _chosen_by(words), spaced_units(text)
    shown = [_hidden(unit, how) if is_masked(unit) else unit for unit, _ in units]
    return joined(shown, [spaced for _, spaced in units])


def _chosen_by(words: Collection[str]) -> Callable[[str], bool]:
    """Whether a word is among those of a list of the user's."""
    whole = {bare_word(one) for one in words if not one.endswith("*")}
    starts = tuple(bare_word(one[:-1]) for one in words if one.endswith("*") and bare_word(one[:-1]))

    def chosen(text: str) -> bool:
        bare = bare_word(text)
        return bool(bare) and (bare in whole or bool(starts and bare.startswith(starts)))

    return chosen


def _masked(word: Word, how: str) -> Word:
    return replace(word, text=_hidden(word.text, how))


def _hidden(text: str, how: str) -> str:
    stem, mark, closers = marks_of(text)
    lead = stem[: next((k for k, sign in enumerate(stem) if sign.isalnum()), 0)]
    signs = graphemes(stem[len(lead) :])
    hidden = {
        "first letter": signs[0] + "*" * max(1, len(signs) - 1),
        "stars": "*" * max(1, len(signs)),
        "bleep": "[bleep]",
    }[how]
    return lead + hidden + mark + closers
