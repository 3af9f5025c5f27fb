"""Questions about a project: what is said at a time, what comes next, what is still to do."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from itertools import chain

from dubrel.model import Caption, CaptionTrack, Project, Turn
from dubrel.project.talk import unsure_runs

DOUBTFUL = 0.3
"""From here on a word is shown as doubtful, until the user says otherwise."""


def word_at(project: Project, ms: int) -> tuple[int, int] | None:
    """The word that is said at a time, or was said last.

    Returns
    -------
    tuple of (place of the turn, place of the word in it) or None
    """
    turns = project.transcript.turns
    at = bisect_right(turns, ms, key=lambda turn: turn.start_ms) - 1
    if at < 0:
        return None
    place = bisect_right(turns[at].words, ms, key=lambda word: word.start_ms) - 1
    return (at, place) if place >= 0 else None


def caption_at(track: CaptionTrack | None, ms: int) -> Caption | None:
    """The caption that is on screen at a time; of several the last that came."""
    return next(captions_between(track, ms, ms + 1), None) if track else None


def captions_between(track: CaptionTrack | None, start_ms: float, end_ms: float) -> Iterator[Caption]:
    """The captions that are on screen in a span of time, the last first, however long each is."""
    captions = track.captions if track else ()
    for place in range(bisect_right(captions, end_ms - 1e-9, key=lambda one: one.start_ms) - 1, -1, -1):
        if captions[place].end_ms > start_ms:
            yield captions[place]
        elif track is not None and captions[place].start_ms < start_ms - track.longest_ms:
            return


def doubts_in(turn: Turn, threshold: float) -> int:
    """How many words of a turn are doubtful."""
    return len(turn.doubts) - bisect_left(turn.doubts, threshold)


def next_doubt(
    turns: Sequence[Turn], here: int, word: int, step: int, threshold: float
) -> tuple[int, int] | None:
    """The next doubtful word from a word on, around the end; ``None`` where there is none.

    Parameters
    ----------
    turns : sequence of Turn
    here, word : int
        Places of the turn and of the word in it to begin after; -1 for before the first word.
    step : {1, -1}
    threshold : float

    Returns
    -------
    tuple of (place of the turn, place of the word in it) or None
    """
    for nth in range(len(turns) + 1):
        place = (here + step * nth) % len(turns)
        words = turns[place].words
        order = range(len(words)) if step > 0 else range(len(words) - 1, -1, -1)
        for at in order:
            if nth == 0 and (at - word) * step <= 0:
                continue
            if nth == len(turns) and (at - word) * step > 0:
                break
            if words[at].doubt >= threshold and not words[at].struck:
                return place, at
    return None


def next_unsure(turns: Sequence[Turn], here: int, word: int) -> tuple[int, int, int] | None:
    """The next words whose speaker the machine is unsure of, around the end.

    Returns
    -------
    tuple of (place of the turn, first word, word after the last) or None
    """
    later = ((here, run) for run in unsure_runs(turns[here]) if run[0] > word)
    around = (place % len(turns) for place in range(here + 1, here + len(turns) + 1))
    found = next(chain(later, ((place, run) for place in around for run in unsure_runs(turns[place]))), None)
    return (found[0], *found[1]) if found else None
