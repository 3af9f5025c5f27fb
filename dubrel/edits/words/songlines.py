"""The lines and stanzas of a song or a poem: found from how it is sung, or set by hand.

A stanza is a turn; a line begins with a word that is marked as the first of it
(``Word.verse``). Nothing that is said and no time changes.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Collection, Iterator, Sequence
from itertools import pairwise
from statistics import median

from dubrel.base.text import ends_clause, ends_sentence, grapheme_count
from dubrel.base.value import replace
from dubrel.edits.words.paragraphs import divided_anew
from dubrel.edits.words.wording import with_turns
from dubrel.model import Project, Turn, Word, opening
from dubrel.project.index import turn_place

_LEAST, _MOST = 3, 18  # syllables of a line; what is shorter or longer needs a pause
_SIZES = range(4, 15)  # syllables that a song's lines may have
_LENGTH, _HELD, _SENTENCE, _CLAUSE, _CAPITAL, _RHYME = 1.6, 1.3, 0.9, 0.45, 0.25, 0.5
_LINE = 0.12  # what a line costs: fewer where nothing speaks for more
_STANZA_TIMES, _STANZA_MS = 2.2, 700  # a silence so many times that between lines, and so much longer
_DRAW = 0.75  # syllables a line: repeats that differ by less are as good
_STANZA_SIZES = (4, 6, 3, 8, 5, 2)
_VOWELS = re.compile("[aeiouyæøœаеёиоуыэюяєіїαεηιουωאוי]+")


def has_lines(turns: Collection[Turn]) -> bool:
    """Whether any of some turns has lines."""
    return any(word.verse for turn in turns for word in turn.words)


def set_song(project: Project, turn_ids: Collection[int]) -> Project:
    """Find the lines and stanzas of some turns: from pauses, held notes, lengths that come back, rhymes.

    Turns that follow each other and have one speaker are taken together. Each
    stanza becomes a turn; the first keeps its id.

    Parameters
    ----------
    project : Project
    turn_ids : collection of int

    Returns
    -------
    Project
        The same object where nothing changes.
    """
    return divided_anew(project, turn_ids, stanzas_of)


def without_lines(project: Project, turn_ids: Collection[int]) -> Project:
    """Turns without the lines of a song; they stay the turns that they are."""

    def plain(turn: Turn) -> tuple[Word, ...]:
        return tuple(
            opening(word, turn.words[nth - 1].text if nth else "", False)
            for nth, word in enumerate(turn.words)
        )

    return _changed(project, turn_ids, plain)


def line_switched(project: Project, turn_id: int, word_id: int) -> Project:
    """A line begins with a word, or no longer does; with the first word of a turn one always does."""

    def switched(turn: Turn) -> tuple[Word, ...]:
        at = turn.index_of[word_id]
        if not at:
            return turn.words
        before, word = turn.words[at - 1], turn.words[at]
        words = list(turn.words)
        words[at] = opening(word, before.text, not word.verse)
        words[0] = opening(words[0], "", any(one.verse for one in words[1:]))
        return tuple(words)

    return _changed(project, [turn_id], switched)


def _changed(
    project: Project, turn_ids: Collection[int], change: Callable[[Turn], tuple[Word, ...]]
) -> Project:
    places = {turn_place(project, turn_id) for turn_id in turn_ids}
    turns = list(project.transcript.turns)
    for place in places:
        words = change(turns[place])
        if any(a is not b for a, b in zip(words, turns[place].words)):
            turns[place] = replace(turns[place], words=words)
    if all(a is b for a, b in zip(turns, project.transcript.turns)):
        return project
    return with_turns(project, 0, len(turns), *turns)


# -- lines --------------------------------------------------------------------------------------


def stanzas_of(words: Sequence[Word]) -> list[tuple[Word, ...]]:
    """Words as stanzas, the first word of each line marked."""
    if not words:
        return []
    edges = [*line_starts(words), len(words)]
    stanzas = []
    for first, stop in pairwise([0, *_stanza_starts(words, edges), len(edges) - 1]):
        begins = set(edges[first:stop])
        stanzas.append(
            tuple(
                opening(words[place], words[place - 1].text if place > edges[first] else "", place in begins)
                for place in range(edges[first], edges[stop])
            )
        )
    return stanzas


def line_starts(words: Sequence[Word]) -> list[int]:
    """Places of the words with which lines begin: 0 first.

    A dynamic programme over the ends of lines, for each size that lines may
    have; the size whose lines cost the least a syllable is the song's.
    """
    sizes = [syllables(word.text) for word in words]
    held = _held(words, sizes)
    gains = [0.0, *(_gain(words, place, held[place - 1]) for place in range(1, len(words)))]
    ends = [_ending(word.text) for word in words]
    ways = [_cheapest(sizes, gains, ends, size) for size in _SIZES]
    return min(ways, key=lambda way: way[0])[1]


def _cheapest(
    sizes: Sequence[int], gains: Sequence[float], ends: Sequence[str], size: int
) -> tuple[float, list[int]]:
    """What lines of about so many syllables cost at the least, and where they begin."""
    count, offs = len(sizes), [_off(length, size) for length in range(_MOST + 1)]
    best, came = [0.0] + [float("inf")] * count, [0] * (count + 1)
    for stop in range(1, count + 1):
        length = 0
        for start in range(stop - 1, -1, -1):
            length += sizes[start]
            if length > _MOST and start < stop - 1:
                break
            cost = best[start] + _LINE + _LENGTH * offs[min(length, _MOST)]
            cost -= gains[start] if start else 0.0
            if start and _rhymes(ends[start - 1], ends[stop - 1]):
                cost -= _RHYME
            if cost < best[stop]:
                best[stop], came[stop] = cost, start
    found, at = [], count
    while at:
        at = came[at]
        found.append(at)
    return best[count], found[::-1]


def _off(length: int, size: int) -> float:
    """How far a line's length is from the song's: a line may be half of it, or lack or have some."""
    off = min(abs(length - size) / size, 0.35 + abs(2 * length - size) / size)
    return off * off * 4 + (1.0 if length < _LEAST else 0.0)


def _held(words: Sequence[Word], sizes: Sequence[int]) -> list[float]:
    """How long it takes from each word to the next, a syllable, over what is usual in the song."""
    steps = [
        max(1, after.start_ms - word.start_ms) / max(1, size)
        for (word, after), size in zip(pairwise(words), sizes)
    ]
    usual = median(steps) if steps else 1.0
    return [step / usual for step in steps] + [1.0]


def _gain(words: Sequence[Word], place: int, held: float) -> float:
    """What speaks for a line that begins at a place."""
    before, word = words[place - 1], words[place]
    found = _HELD * min(1.6, max(0.0, held - 1.25) / 1.5)
    if ends_sentence(before.text):
        found += _SENTENCE
    elif ends_clause(before.text):
        found += _CLAUSE
    elif word.text[:1].isupper() and word.text not in ("I", "I’m", "I'm"):
        found += _CAPITAL
    return found


def syllables(text: str) -> int:
    """About how many syllables a word has: groups of vowels; letters where a script shows none.

    Examples
    --------
    >>> [syllables(one) for one in ("water", "stone", "towpath", "水門")]
    [2, 1, 2, 2]
    """
    plain = _plain(text)
    found = len(_VOWELS.findall(plain))
    if found > 1 and plain.isascii() and re.search("[^aeiouyl]e$", plain):
        found -= 1
    if found:
        return found
    return max(1, 1 if plain.isascii() else grapheme_count(plain))


def _plain(text: str) -> str:
    """Letters alone, small, without accents."""
    signs = unicodedata.normalize("NFD", text.casefold())
    return unicodedata.normalize("NFC", "".join(sign for sign in signs if sign.isalpha()))


def _ending(text: str) -> str:
    """What a rhyme is seen by: from the last vowels on; a silent “e” is not the last."""
    plain = _plain(text)
    groups = list(_VOWELS.finditer(plain))
    if len(groups) > 1 and plain.endswith("e") and groups[-1].group() == "e":
        groups.pop()
    return plain[groups[-1].start() :].replace("y", "i") if groups else plain[-2:]


def _rhymes(one: str, other: str) -> bool:
    return len(one) > 1 and one == other


# -- stanzas ------------------------------------------------------------------------------------


def _stanza_starts(words: Sequence[Word], edges: Sequence[int]) -> list[int]:
    """Which lines begin a stanza, but the first."""
    rests = [max(0, words[at].start_ms - words[at - 1].end_ms) for at in edges[1:-1]]
    if not rests:
        return []
    usual = median(rests)
    long = max(_STANZA_TIMES * usual, usual + _STANZA_MS)
    found = [nth + 1 for nth, rest in enumerate(rests) if rest >= long]
    if found or len(edges) - 1 < 8:
        return found
    lengths = [sum(syllables(word.text) for word in words[first:stop]) for first, stop in pairwise(edges)]
    return list(_repeating(lengths))


def _repeating(lengths: Sequence[int]) -> Iterator[int]:
    """Stanzas where no silence tells: so many lines that their lengths come back best; four at a draw."""

    def off(size: int) -> float:
        pairs = list(zip(lengths, lengths[size:]))
        return sum(abs(a - b) for a, b in pairs) / len(pairs) if pairs else float("inf")

    fitting = [size for size in _STANZA_SIZES if len(lengths) >= 2 * size and len(lengths) % size == 0]
    best = min(map(off, fitting), default=0.0)
    size = next((size for size in fitting if off(size) <= best + _DRAW), 4)
    yield from range(size, len(lengths), size)
