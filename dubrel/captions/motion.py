"""Which words of a moving caption are seen at a time, and which one is being spoken."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

from dubrel.base.text import bare_word, grapheme_count
from dubrel.base.value import Value
from dubrel.model import Motion

Span = tuple[int, int]
_ASTRAY = 0.35  # of a caption: a word that is the same is not the same one farther off
EVERY = 1 << 30
"""As many words as there are."""
WordTimes = tuple[tuple[Span, ...], ...]
"""For each line of a caption when its words are spoken, in milliseconds."""


class WordState(Value):
    """What the words of a caption look like for a while.

    Attributes
    ----------
    shown : int
        How many are seen, of all lines one after the other; ``EVERY`` where nothing hangs on words.
    spoken : int
        Place of the one that is being spoken; -1 for none.
    passed : int
        How many have been spoken.
    """

    shown: int
    spoken: int = -1
    passed: int = 0


def in_caption(rows: Sequence[Sequence[Span]], start_ms: int, end_ms: int) -> WordTimes:
    """Times of words within those of their caption, none before the one before it."""
    found, at = [], start_ms
    for row in rows:
        line = []
        for start, end in row:
            start = min(max(at, start), end_ms)
            at = start
            line.append((start, min(max(start, end), end_ms)))
        found.append(tuple(line))
    return tuple(found)


def shared_out(said: Sequence[tuple[str, int, int]], words: Sequence[str]) -> list[Span]:
    """Times for words that say the same as others in another language.

    Words that are the same in both, in the same order, have the same times; between them
    time is shared out by letters over the time in which something is said.

    Parameters
    ----------
    said : sequence of (str, int, int)
        Words with their times, in order.
    words : sequence of str

    Examples
    --------
    >>> shared_out([("Heron", 0, 400), ("sails", 400, 1000)], ["A", "Heron", "navega"])
    [(0, 0), (0, 400), (400, 1000)]
    """
    places = _same(said, words)
    found = list[Span]()
    for (from_said, from_words), (to_said, to_words) in zip(places, places[1:]):
        if from_words >= 0:
            found.append(said[from_said][1:] if from_said >= 0 else (0, 0))
        found += _by_letters(said[from_said + 1 : to_said], words[from_words + 1 : to_words], said, to_said)
    return found


def _same(said: Sequence[tuple[str, int, int]], words: Sequence[str]) -> list[tuple[int, int]]:
    """Places of words that are the same in both, at about the same place; and both ends."""
    own = [bare_word(word) for word, _, _ in said]
    found, at = [(-1, -1)], 0
    for place, word in enumerate(map(bare_word, words)):
        if len(word) > 2 and word in own[at:]:
            there = own.index(word, at)
            if abs(there / len(said) - place / len(words)) <= _ASTRAY:
                found.append((there, place))
                at = there + 1
    return [*found, (len(said), len(words))]


def _by_letters(
    said: Sequence[tuple[str, int, int]], words: Sequence[str], every: Sequence[tuple[str, int, int]], to: int
) -> list[Span]:
    """Times for words between two that are the same, over what is said there."""
    if not words:
        return []
    if not said:  # nothing is said in their place: they come with what follows
        at = every[to][1] if to < len(every) else every[-1][2]
        return [(at, at)] * len(words)
    lengths = [max(1, grapheme_count(word)) for word, _, _ in said]
    wanted = [max(1, grapheme_count(word)) for word in words]
    scale = sum(lengths) / sum(wanted)
    edges, total = [0.0], 0.0
    for one in wanted:
        total += one * scale
        edges.append(total)
    times = [_time_at(said, lengths, edge) for edge in edges]
    return list(zip(times, times[1:]))


def _time_at(said: Sequence[tuple[str, int, int]], lengths: Sequence[int], letters: float) -> int:
    """When so many letters have been said."""
    for (_, start, end), length in zip(said, lengths):
        if letters <= length + 1e-9:
            return round(start + (end - start) * letters / length)
        letters -= length
    return said[-1][2]


def state_at(times: WordTimes, motion: Motion, ms: float) -> WordState:
    """What the words of a caption look like at a time."""
    flat = [span for row in times for span in row]
    if not flat or not motion.by_words:
        return WordState(EVERY)
    begun = max(1, bisect_right(flat, ms, key=lambda span: span[0]))
    last = flat[begun - 1]
    spoken = begun - 1 if motion.marks and last[0] <= ms < last[1] else -1
    passed = 0
    if motion.dimmed:
        passed = begun - (ms < last[1])
    return WordState(_shown(times, motion, begun, len(flat)), spoken, passed)


def coming(times: WordTimes, motion: Motion, start_ms: int) -> list[int]:
    """When each word of a caption comes, of all its lines one after the other."""
    starts = [start for row in times for start, _ in row]
    seen = min(len(starts), state_at(times, motion, start_ms).shown)
    comes = [start_ms] * len(starts)
    for start in starts:
        shown = min(len(starts), state_at(times, motion, start).shown)
        for place in range(seen, shown):
            comes[place] = start
        seen = max(seen, shown)
    return comes


def _shown(times: WordTimes, motion: Motion, begun: int, count: int) -> int:
    if motion.words == "word":
        return begun
    if motion.words == "few":
        return min(count, -(-begun // motion.few) * motion.few)
    if motion.words == "line":
        seen = 0
        for row in times:
            seen += len(row)
            if seen >= begun:
                return seen
    return count


def presence(
    motion: Motion, start_ms: float, end_ms: float, ms: float, frame_ms: float
) -> tuple[float, float]:
    """How much of a caption is seen while it comes in or goes out, and how far it still has to rise.

    Returns
    -------
    seen : float
        0 to 1.
    below : float
        0 where it stands, 1 where it rises from.
    """
    length = min(motion.frames * frame_ms, (end_ms - start_ms) / 3)
    if length <= 0:
        return 1.0, 0.0
    into, out = (ms - start_ms + frame_ms) / length, (end_ms - ms) / length
    share, seen, below = min(into, out), 1.0, 0.0
    kind = motion.entrance if into <= out else motion.leaving
    if kind != "none" and share < 1:
        seen = max(0.0, share)
        below = (1 - seen) ** 2 if kind == "rise" else 0.0
    return seen, below
