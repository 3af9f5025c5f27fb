"""How long captions and their lines are, in graphemes."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.text import gap_lengths, grapheme_count


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
