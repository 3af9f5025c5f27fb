"""Shorter readings of a translation that is too long to be read in time."""

from __future__ import annotations

import re
from collections.abc import Iterable

from dubrel.base.languages import main_tag
from dubrel.base.text import grapheme_count, tokens
from dubrel.translation.wordlists import DROPPABLE, number_words

_MOST = 6


def shorter_readings(text: str, language: str, known: Iterable[str] = ()) -> list[str]:
    """What could stand instead, the one that changes least first.

    Parameters
    ----------
    text : str
    known : iterable of str
        Other translations of the same sentence, from the memory.

    Examples
    --------
    >>> shorter_readings("She really waited twelve days.", "en")
    ['She really waited 12 days.', 'She waited twelve days.', 'She waited 12 days.']
    """
    found = []
    figures = _with_figures(text, language)
    words = _droppable(text, language)
    singles = [_without(text, [word]) for word in words]
    found += [figures, *singles]
    if len(words) > 1:
        found.append(_without(text, words))
    found.append(_without(figures, words))
    found += known
    length = grapheme_count(text)
    better = [one for one in dict.fromkeys(found) if one.strip() and grapheme_count(one) < length]
    return sorted(better, key=lambda one: -grapheme_count(one))[:_MOST]


def _with_figures(text: str, language: str) -> str:
    known = {word: value for word, value in number_words(language).items() if word not in ("twice",)}
    if not known:
        return text
    pattern = re.compile(rf"(?<![\w-])({'|'.join(map(re.escape, known))})(?![\w-])", re.IGNORECASE)
    joiner = {"pt": "e", "es": "y"}.get(main_tag(language))
    if joiner and re.search(rf"\b({'|'.join(map(re.escape, known))}) {joiner} \w+", text, re.IGNORECASE):
        return text  # “trinta e um” is one number: it stays
    return pattern.sub(lambda match: str(known[match.group().lower()]), text)


def _droppable(text: str, language: str) -> list[str]:
    listed = set(DROPPABLE.get(main_tag(language), "").split())
    words = tokens(text)
    return [word for word in words[1:] if word.lower() in listed]


def _without(text: str, words: Iterable[str]) -> str:
    for word in words:
        text = re.sub(rf" {re.escape(word)}(?= )", "", text, count=1)
    return text
