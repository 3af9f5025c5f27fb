"""What a project's turns say of its speakers: talk time, shares, samples of each voice."""

from __future__ import annotations

from itertools import groupby

from dubrel.base.value import Value
from dubrel.model import Project, Turn

UNSURE = 0.85
_SHORTEST_MS, _BEST_MS, _LONGEST_MS = 1200, 4500, 7000


class Talk(Value):
    """How much somebody speaks.

    Attributes
    ----------
    time_ms : int
        Time in turns, of which words said at the same time by another count for both.
    share : float
        Of the time of all speakers, 0 to 1.
    turns : int
        Times that the speaker begins to speak: turns that follow each other count once.
    """

    time_ms: int = 0
    share: float = 0.0
    turns: int = 0


def talk_of(project: Project) -> dict[str, Talk]:
    """How much each speaker of the project speaks, by id."""
    times = dict.fromkeys((one.id for one in project.transcript.speakers), 0)
    counts = dict(times)
    before = None
    for turn in project.transcript.turns:
        who = turn.speaker
        if who in times:
            times[who] += turn.end_ms - turn.start_ms
            counts[who] += who != before
        for other, time in turn.others_ms.items():
            if other in times:
                times[other] += time
        before = who
    total = max(1, sum(times.values()))
    return {one: Talk(time, time / total, counts[one]) for one, time in times.items()}


def is_unsure(turn: Turn) -> bool:
    """Whether the machine is unsure who says some of the words, and no person has said it."""
    return not turn.confirmed and turn.speaker is not None and turn.sureness < UNSURE


def unsure_runs(turn: Turn) -> list[tuple[int, int]]:
    """Runs of words whose speaker the machine is unsure of, as places (from, to)."""
    if not is_unsure(turn):
        return []
    runs, first = [], 0
    for unsure, run in groupby(turn.words, lambda word: word.sure < UNSURE):
        stop = first + sum(1 for _ in run)
        if unsure:
            runs.append((first, stop))
        first = stop
    return runs


def voice_samples(project: Project, speaker_id: str, count: int = 3) -> list[tuple[int, int]]:
    """Passages in which a speaker can be heard well, spread over the recording.

    Returns
    -------
    list of (start_ms, end_ms)
        At most ``count``, in order of time: of each part of the speaker's turns
        the one that is sure and of a good length.
    """
    turns = [one for one in project.transcript.turns if one.speaker == speaker_id and one.words]
    found = []
    for part in range(count):
        some = turns[len(turns) * part // count : len(turns) * (part + 1) // count]
        if some:
            best = max(some, key=_worth)
            found.append((best.start_ms, min(best.end_ms, best.start_ms + _LONGEST_MS)))
    return found


def _worth(turn: Turn) -> float:
    """How good a sample a turn is: sure, alone, neither short nor long."""
    length = turn.end_ms - turn.start_ms
    good = min(length, _BEST_MS) / _BEST_MS if length >= _SHORTEST_MS else 0.1 * length / _SHORTEST_MS
    alone = 1 - sum(word.also is not None for word in turn.words) / max(1, len(turn.words))
    return good * alone * (1.0 if turn.confirmed else turn.sureness)
