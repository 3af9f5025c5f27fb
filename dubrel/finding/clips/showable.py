"""Sentences that name things one could show: animals, tools, plants, places, figures."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import IO

from dubrel.base.languages import main_tag
from dubrel.base.text import bare_word
from dubrel.base.value import Value
from dubrel.captions.closedwords import WordClass
from dubrel.captions.wordclasses import class_of
from dubrel.finding.clips.features import figures_in, names_in
from dubrel.finding.commonwords import common_words
from dubrel.project.sentences import Sentence

LEXICON = Path("/usr/share/wordnet")
_CONCRETE = frozenset((5, 6, 13, 15, 17, 20, 27))
"""Lexicographer files: animal, artefact, food, location, object, plant, substance."""
_LEAST, _MOST_APART_MS = 2.0, 15_000
_THING, _NAME, _FIGURE = 1.0, 1.0, 0.5


class Showable(Value):
    """A sentence to which a picture could be shown.

    Attributes
    ----------
    place : int
        Of the sentence.
    things : tuple of str
        What could be shown, as it is said.
    worth : float
    """

    place: int
    things: tuple[str, ...]
    worth: float


def has_lexicon() -> bool:
    """Whether things are known by what they are; without it names and figures are."""
    return (LEXICON / "index.noun").is_file() and (LEXICON / "data.noun").is_file()


def showable(sentences: Sequence[Sentence], language: str, most: int = 20) -> list[Showable]:
    """The sentences that name most that could be shown, in order of time.

    Two that follow each other within a quarter of a minute count once: the better one.
    """
    found = [one for place, each in enumerate(sentences) if (one := _weighed(place, each.text, language))]
    chosen: list[Showable] = []
    for one in sorted(found, key=lambda one: (-one.worth, one.place)):
        start = sentences[one.place].start_ms
        if all(abs(sentences[other.place].start_ms - start) >= _MOST_APART_MS for other in chosen):
            chosen.append(one)
        if len(chosen) == most:
            break
    return sorted(chosen, key=lambda one: one.place)


def _weighed(place: int, text: str, language: str) -> Showable | None:
    names, figures = names_in(text, language), figures_in(text)
    inside = {word for name in names for word in name.split()}
    things = [word for word in _things(text, language) if word not in inside]
    worth = _THING * len(things) + _NAME * len(names) + _FIGURE * len(figures)
    if worth < _LEAST:
        return None
    return Showable(place, tuple(dict.fromkeys([*names, *things, *figures])), worth)


def _things(text: str, language: str) -> list[str]:
    """Nouns of things, as they are said, each once; none in a language of which no lexicon is known."""
    if main_tag(language) != "en" or not has_lexicon():
        return []
    common, found = common_words(language), dict[str, str]()
    for word in text.split():
        bare = bare_word(word)
        if len(bare) < 3 or bare in common or class_of(bare, language) is not WordClass.NOUN:
            continue
        if _is_thing(bare):
            found.setdefault(_singulars(bare)[-1], word.strip('.,;:!?…“”"()–—'))
    return list(found.values())


@lru_cache(maxsize=4096)
def _is_thing(word: str) -> bool:
    """Whether at least half of what a noun can mean is something that can be seen."""
    index = _index()
    offsets = next((index[one] for one in _singulars(word) if one in index), ())
    with (LEXICON / "data.noun").open("rb") as file:
        seen = [_file_of(file, offset) in _CONCRETE for offset in offsets]
    return bool(seen) and 2 * sum(seen) >= len(seen)


def _file_of(file: IO[bytes], offset: int) -> int:
    """The lexicographer file of a meaning."""
    file.seek(offset)
    return int(file.read(11)[9:11])


def _singulars(word: str) -> list[str]:
    """A word, and what it is one or several of."""
    found = [word]
    if word.endswith("ies"):
        found.append(f"{word[:-3]}y")
    elif word.endswith(("ses", "xes", "ches", "shes")):
        found.append(word[:-2])
    elif word.endswith("s") and not word.endswith("ss"):
        found.append(word[:-1])
    return found


@lru_cache(maxsize=1)
def _index() -> dict[str, tuple[int, ...]]:
    """Where the meanings of each noun stand."""
    found = {}
    with (LEXICON / "index.noun").open(encoding="ascii", errors="replace") as file:
        for line in file:
            fields = line.split()
            if not line.startswith(" ") and "_" not in fields[0]:
                # lemma, n, meanings, pointers, their signs, meanings, tagged ones, places
                found[fields[0]] = tuple(map(int, fields[6 + int(fields[3]) :]))
    return found
