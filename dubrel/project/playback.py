"""What of a recording is played: sentences, passages without pauses, doubtful words."""

from __future__ import annotations

from collections.abc import Iterable

from dubrel.base.text import ends_sentence
from dubrel.model import Project
from dubrel.project.queries import word_at

AROUND_MS = 1000
_LEAD_MS = 150
_JUST_BEGUN_MS = 700


def sentence_start(project: Project, ms: int) -> int:
    """When the sentence began that is said at a time; where it has just begun, the one before it."""
    found = word_at(project, ms)
    if found is None:
        return 0
    turns = project.transcript.turns
    spots = ((turn, at) for turn in range(found[0], -1, -1) for at in _backwards(project, turn, found))
    start = turns[found[0]].words[found[1]].start_ms
    for turn, at in spots:
        begins = at == 0 or ends_sentence(turns[turn].words[at - 1].text)
        start = turns[turn].words[at].start_ms
        if begins and ms - start > _JUST_BEGUN_MS:
            break
    return max(0, start - _LEAD_MS)


def _backwards(project: Project, turn: int, found: tuple[int, int]) -> range:
    last = found[1] if turn == found[0] else len(project.transcript.turns[turn].words) - 1
    return range(last, -1, -1)


def without_pauses(project: Project, longest_ms: int) -> list[tuple[int, int]]:
    """The passages to play so that no pause is longer than so much."""
    around = longest_ms // 2
    spans = ((w.start_ms - around, w.end_ms + around) for t in project.transcript.turns for w in t.words)
    return merged(spans)


def doubtful_spans(project: Project, threshold: float) -> list[tuple[int, int]]:
    """The doubtful words, with a second around each."""
    return merged(
        (word.start_ms - AROUND_MS, word.end_ms + AROUND_MS)
        for turn in project.transcript.turns
        for word in turn.words
        if word.doubt >= threshold and not word.struck
    )


def merged(spans: Iterable[tuple[int, int]]) -> list[tuple[int, int]]:
    """Passages in order, those that touch as one, none before the beginning.

    Examples
    --------
    >>> merged([(5, 9), (-2, 3), (8, 12)])
    [(0, 3), (5, 12)]
    """
    found: list[tuple[int, int]] = []
    for start, end in sorted((max(0, a), b) for a, b in spans):
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return found
