"""Break the words of a caption into balanced lines."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from dubrel.text import ends_clause, ends_sentence, gap_lengths, grapheme_count

# words that belong to what follows them: a line should not end with one
_LEANING = {
    "en": [
        "a",
        "an",
        "the",
        "of",
        "to",
        "in",
        "on",
        "at",
        "by",
        "for",
        "from",
        "with",
        "and",
        "or",
        "but",
        "nor",
        "as",
        "if",
        "than",
        "that",
        "my",
        "your",
        "his",
        "her",
        "its",
        "our",
        "their",
        "this",
        "these",
        "those",
        "no",
        "not",
        "very",
        "so",
        "i",
        "you",
        "he",
        "she",
        "we",
        "they",
        "is",
        "are",
        "was",
        "were",
        "be",
        "been",
        "has",
        "have",
        "had",
        "will",
        "would",
        "can",
        "could",
        "should",
        "do",
        "does",
        "did",
        "who",
        "which",
        "where",
        "when",
        "while",
        "because",
        "into",
        "over",
        "under",
    ],
}
_LEANS = {language: frozenset(words) for language, words in _LEANING.items()}
_UNFIT = 1e9


def leans_forward(word: str, language: str = "en") -> bool:
    """Whether a word belongs to the one after it (article, preposition, pronoun, auxiliary)."""
    return word.lower() in _LEANS.get(language.split("-")[0], frozenset())


def line_lengths(words: Sequence[str], breaks: Sequence[int]) -> list[int]:
    """Graphemes of each line.

    Parameters
    ----------
    words : sequence of str
    breaks : sequence of int
        Places in ``words`` that begin a new line.
    """
    edges = [0, *breaks, len(words)]
    return [text_length(words[a:b]) for a, b in zip(edges, edges[1:])]


def text_length(words: Sequence[str]) -> int:
    """Graphemes of a caption's text; a line break counts as what stands between words elsewhere."""
    return sum(grapheme_count(word) for word in words) + sum(gap_lengths(words))


def break_cost(word: str, language: str = "en") -> float:
    """How bad it is to end a line after a word, in graphemes of imbalance."""
    if ends_sentence(word):
        return -14.0
    if ends_clause(word):
        return -8.0
    return 10.0 if leans_forward(word, language) else 0.0


def break_lines(
    words: Sequence[str], max_lines: int, max_cpl: int, language: str = "en"
) -> tuple[int, ...] | None:
    """Find the best line breaks: fewest lines, then balance and sense.

    Parameters
    ----------
    words : sequence of str
    max_lines, max_cpl : int
        Most lines, and most graphemes a line.
    language : str
        Decides which words should not end a line.

    Returns
    -------
    tuple of int or None
        Places in ``words`` that begin a new line; ``None`` if the words do
        not fit. A single word longer than a line stands alone in its line.
    """
    return _break_lines(tuple(words), max_lines, max_cpl, language)


@lru_cache(maxsize=8192)
def _break_lines(
    words: tuple[str, ...], max_lines: int, max_cpl: int, language: str
) -> tuple[int, ...] | None:
    lengths = [grapheme_count(word) for word in words]
    gaps = gap_lengths(words)
    total = sum(lengths) + sum(gaps)
    if total <= max_cpl or len(words) == 1:
        return ()
    for lines in range(2, max_lines + 1):
        cost, breaks = _best(words, lengths, gaps, lines, max_cpl, (total - lines + 1) / lines, language)
        if cost < _UNFIT:
            return breaks
    return None


def _best(
    words: tuple[str, ...],
    lengths: list[int],
    gaps: list[int],
    lines: int,
    max_cpl: int,
    ideal: float,
    language: str,
) -> tuple[float, tuple[int, ...]]:
    """Cheapest way to set words into exactly so many lines (dynamic programming over line ends)."""
    count = len(words)
    unreached: tuple[float, tuple[int, ...]] = (_UNFIT, ())
    best = [unreached] * (count + 1)
    best[0] = (0.0, ())
    for line in range(lines):
        reached = [unreached] * (count + 1)
        for start in range(line, count):
            if best[start][0] >= _UNFIT:
                continue
            length = -gaps[start]
            for stop in range(start + 1, count + 1):
                length += lengths[stop - 1] + gaps[stop - 1]
                if length > max_cpl and stop > start + 1:
                    break
                cost = best[start][0] + abs(length - ideal)
                if stop < count:
                    cost += break_cost(words[stop - 1], language)
                if cost < reached[stop][0]:
                    reached[stop] = (cost, (*best[start][1], start) if start else best[start][1])
        best = reached
    return best[count]
