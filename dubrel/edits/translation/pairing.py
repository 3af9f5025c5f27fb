"""Captions of a file in another language, paired with ours by time and, where times are off, by meaning.

First it is looked for how the times of the file run against ours: cues and
captions that mean the same and nothing else say by how much (the median line
through their times, Theil 1950 and Sen 1968). Then each word of ours goes to
the cue in whose time it is said.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence

import numpy as np

from dubrel.base.value import Value, replace
from dubrel.model import Caption, Course, Cue, Project, Word
from dubrel.project.index import track_index
from dubrel.project.tracks import with_captions

Encode = Callable[[Sequence[str]], np.ndarray]
_LIKE, _AHEAD = 0.45, 0.08
_LEAST_PAIRS = 4
_NEAR_MS = 1500
_FIT_MS = 400
_BIN_MS = 250
_JUMP_S = 60


class Paired(Value):
    """What came of it.

    Attributes
    ----------
    project : Project
        With the cues as captions of the track.
    course : Course
        How the times of the file run against ours.
    unpaired : int
        Cues for which nothing of ours is said.
    """

    project: Project
    course: Course
    unpaired: int


def pair_cues(project: Project, track_id: int, cues: Sequence[Cue], encode: Encode | None = None) -> Paired:
    """The project with the cues of a file as captions of a translated track; what was there goes.

    Parameters
    ----------
    encode : callable, optional
        Texts to unit vectors; without it times alone count.
    """
    track = project.track(track_id)
    assert track is not None
    kept = sorted((cue for cue in cues if any(cue.lines)), key=lambda cue: cue.start_ms)
    course = course_of(project, kept, encode) if encode else Course("steady")
    words = _words(project)
    spans = [(course.corrected(cue.start_ms), course.corrected(cue.end_ms)) for cue in kept]
    owners = _owners(words, spans)
    held = track_index(project, track.translates or 0).of_word
    made, next_id, unpaired = [], project.next_id, 0
    for nth, cue in enumerate(kept):
        own = owners.get(nth, [])
        unpaired += not own
        start, end = spans[nth]
        made.append(
            Caption(
                next_id,
                start,
                max(start + 1, end),
                text="\n".join(line for line in cue.lines if line.strip()),
                sources=tuple(dict.fromkeys(held[word.id] for word in own if word.id in held)),
                place=cue.place,
                held=("times", "text"),
                of=tuple(word.id for word in own),
                said=" ".join(word.text for word in own),
            )
        )
        next_id += 1
    gone = {one.id: None for one in track.captions}
    project = with_captions(replace(project, next_id=next_id), track_id, gone, made)
    return Paired(project, course, unpaired)


def _words(project: Project) -> list[Word]:
    words = [word for turn in project.transcript.turns for word in turn.words if not word.struck]
    return sorted(words, key=lambda word: word.start_ms)


def _owners(words: Sequence[Word], spans: Sequence[tuple[int, int]]) -> dict[int, list[Word]]:
    """The words that are said in the time of each cue, or nearest to it."""
    starts = [start for start, _ in spans]
    found: dict[int, list[Word]] = {}
    for word in words:
        middle = (word.start_ms + word.end_ms) // 2
        at = bisect_right(starts, middle) - 1
        near = [nth for nth in (at, at + 1) if 0 <= nth < len(spans)]
        best = min(near, key=lambda nth: _away(middle, *spans[nth]), default=None)
        if best is not None and _away(middle, *spans[best]) <= _NEAR_MS:
            found.setdefault(best, []).append(word)
    return found


def _away(ms: int, start: int, end: int) -> int:
    return max(0, start - ms, ms - end)


def course_of(project: Project, cues: Sequence[Cue], encode: Encode) -> Course:
    """How the times of cues run against ours, by what they mean."""
    words = _words(project)
    if not words or not cues:
        return Course("steady")
    ours = _windows([(word.text, word.start_ms) for word in words])
    theirs = [(" ".join(cue.lines), cue.start_ms) for cue in cues]
    vectors = encode([text for text, _ in (*ours, *theirs)])
    like = vectors[len(ours) :] @ vectors[: len(ours)].T
    pairs = _alike(like)
    if len(pairs) < _LEAST_PAIRS:
        return Course("steady")
    x = np.array([theirs[a][1] for a, _ in pairs], float)
    y = np.array([ours[b][1] for _, b in pairs], float)
    return _line(x, y)


def _windows(words: Sequence[tuple[str, int]], size: int = 8, step: int = 2) -> list[tuple[str, int]]:
    """Runs of our words, each with when it begins: cues are cut otherwise than our captions."""
    return [
        (" ".join(text for text, _ in words[at : at + size]), words[at][1])
        for at in range(0, max(1, len(words) - size // 2), step)
    ]


def _alike(like: np.ndarray) -> list[tuple[int, int]]:
    """Pairs that are the best for each other and clearly alike."""
    best, back = like.argmax(axis=1), like.argmax(axis=0)
    found = []
    for row, column in enumerate(best):
        if like[row, column] < _LIKE or back[column] != row:
            continue
        far = np.abs(np.arange(like.shape[1]) - column) > 6
        if far.any() and like[row, column] - like[row, far].max() < _AHEAD:
            continue
        found.append((row, int(column)))
    return found


def _line(x: np.ndarray, y: np.ndarray) -> Course:
    """The line through most of the pairs of times."""
    offsets = y - x
    bins = np.round(offsets / _BIN_MS)
    values, counts = np.unique(bins, return_counts=True)
    slopes = [
        (y[j] - y[i]) / (x[j] - x[i])
        for i in range(len(x))
        for j in range(i + 1, len(x))
        if x[j] - x[i] > _JUMP_S * 1000
    ]
    factor = float(np.median(slopes)) if len(slopes) >= 6 else 1.0
    rise = abs(factor - 1) * float(x.max() - x.min())  # less of it is how roughly the pairs are placed
    drifting = 2e-4 < abs(factor - 1) < 0.06 and rise > 2 * _BIN_MS
    rest = y - x * factor
    if drifting and np.median(np.abs(rest - np.median(rest))) < _FIT_MS:
        return Course("drift", float(np.median(rest)), factor)
    peak = float(values[counts.argmax()]) * _BIN_MS
    near = offsets[np.abs(offsets - peak) <= 2 * _BIN_MS]
    shift = float(np.median(near))
    return Course("shift", shift) if abs(shift) > _BIN_MS else Course("steady")
