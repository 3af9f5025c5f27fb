"""Titles of clips: words that were said, never others."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from dubrel.base.text import bare_word, ends_clause, ends_sentence, graphemes
from dubrel.finding.clips.leaning import leans
from dubrel.finding.commonwords import common_words

_FEWEST, _MOST, _LONGEST = 3, 9, 8
_RARE = 5.0
_MOST_SIGNS = 60
_MARKS = ".,;:!…“”\"«»()[]–—'‘’"


def title_of(texts: Sequence[str], rare: Mapping[str, float], language: str) -> str:
    """The clause of some sentences that tells most, without the marks around it.

    Parameters
    ----------
    texts : sequence of str
        Sentences of a clip, in order.
    rare : mapping of str to float
        How rare words are; see :func:`dubrel.finding.clips.features.rarities`.
    """
    common, best, found = common_words(language), 0.0, ""
    for place, text in enumerate(texts):
        for clause in _clauses(text):
            worth = _worth(clause, rare, common, language) - 0.05 * place
            if worth > best:
                best, found = worth, " ".join(clause)
    if not found and texts:
        words = texts[0].split()
        found = " ".join(words[:_LONGEST]) + ("…" if len(words) > _LONGEST else "")
        signs = graphemes(found)
        found = found if len(signs) <= _MOST_SIGNS else "".join(signs[:_MOST_SIGNS]) + "…"
        return found[:1].upper() + found[1:]
    found = found.strip(_MARKS) + ("?" if found.rstrip("”\"’'").endswith("?") and found[-1] != "?" else "")
    return found[:1].upper() + found[1:]


def _clauses(text: str) -> Iterator[list[str]]:
    """Clauses, and two that follow each other where both are short."""
    parts, run = list[list[str]](), list[str]()
    for word in text.split():
        run.append(word)
        if ends_clause(word) or ends_sentence(word):
            parts.append(run)
            run = []
    if run:
        parts.append(run)
    for nth, one in enumerate(parts):
        yield one
        if nth + 1 < len(parts):
            yield one + parts[nth + 1]


def _worth(clause: list[str], rare: Mapping[str, float], common: frozenset[str], language: str) -> float:
    if not _FEWEST <= len(clause) <= _MOST:
        return 0.0
    bare = [bare_word(word) for word in clause]
    telling = sum(min(_RARE, rare.get(word, _RARE)) for word in set(bare) if word and word not in common)
    lean, _ = leans(" ".join(clause), language)
    asked = 0.5 if clause[-1].endswith("?") else 0.0
    return telling / len(clause) ** 0.5 * (1 - 0.6 * lean) + asked
