"""A cut of the picture that shows who speaks, from what is said and when.

Moments at which the picture may change (in pauses between words, on frames) divide the cut into pieces;
each camera has a worth in each piece; the best sequence of shots, none shorter than wished, is found by
dynamic programming over the moments, as the best division of a sequence is (Bellman, 1961).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from dubrel.base.timecode import frames_to_ms, ms_to_frames
from dubrel.base.value import Value
from dubrel.edits.cameras.camerashots import runs_through
from dubrel.edits.cameras.gathering import plain_switches
from dubrel.edits.cameras.switching import switches_between
from dubrel.edits.cuts.cutting import cut_project
from dubrel.model import Camera, Cut, Project, Switch, Word
from dubrel.model.cameras import CameraRules
from dubrel.project.timeline import Timeline, timeline

_SILENT_STEP_MS = 1000  # where nobody speaks the picture may change so often
_SHOWN, _BOTH, _WIDE, _OTHER = 1.0, 0.85, 0.4, 0.0  # worth of a second of who is seen
_ALL = 1.6
_SILENT_WIDE, _SILENT_LAST, _SILENT_OTHER = 0.5, 0.45, 0.25  # who spoke last is shown on
_CHANGE, _SAME_OVER_JOIN = 0.7, 2.0  # what a change costs, and a jump within one camera's picture
_NOT_RUNNING = -1000.0
_QUICK_MS, _QUICK_CHANGES, _QUICK_TURN_MS = 7000, 3, 3500
_TRIES = 12


class _Pieces(Value):
    """The cut in pieces between moments at which the picture may change.

    Attributes
    ----------
    frames : ndarray, shape (n + 1,), int64
        The moments, in frames of the cut.
    speakers : list of (str or None, bool)
        Who speaks in each piece, or spoke last, and whether it is silent.
    everybody : ndarray, shape (n,), bool
        Where the picture from afar is wished.
    joins : ndarray, shape (n + 1,), bool
        Which moments are joins.
    """

    frames: np.ndarray
    speakers: list[tuple[str | None, bool]]
    everybody: np.ndarray
    joins: np.ndarray


def proposed_switches(
    project: Project,
    cut: Cut,
    rules: CameraRules,
    laughter: Sequence[tuple[int, int]] = (),
) -> tuple[Switch, ...]:
    """Switches, in time of the recording, that show who speaks in a cut.

    Parameters
    ----------
    cut : Cut
        What plays; the whole recording as one passage, or an edit of it: a join is hidden by
        another camera where that is as good.
    laughter : sequence of (int, int)
        From when to when there is laughter or applause, in time of the recording.
    """
    rate, cameras = project.frame_rate, project.cameras.seen
    clock = timeline(cut, rate)
    if rate is None or not cameras or not clock.length_ms:
        return ()
    pieces = _pieces(project, cut, clock, rules, laughter)
    worth = _worth(project, cameras, pieces, clock)
    shortest = max(1, -(-rules.shortest_ms * rate // 1000))
    shots = _best(worth, pieces, int(shortest))
    wide = [nth for nth, one in enumerate(cameras) if not one.shows]
    if wide and rules.wide_ms and len(wide) < len(cameras):
        limit = int(rules.wide_ms * rate / 1000)
        for _ in range(_TRIES):
            if not _wish_for_wide(worth, pieces, shots, wide, limit, int(shortest)):
                break
            shots = _best(worth, pieces, int(shortest))
    return _switches(project, cameras, pieces, shots, clock)


# -- pieces ----------------------------------------------------------------------------------


def _pieces(
    project: Project, cut: Cut, clock: Timeline, rules: CameraRules, laughter: Sequence[tuple[int, int]]
) -> _Pieces:
    rate = project.frame_rate
    assert rate is not None
    made = cut_project(project, cut)
    turns = made.transcript.turns
    said = [(word, turn.speaker or f"turn {turn.id}") for turn in turns for word in turn.words]
    said.sort(key=lambda one: one[0].start_ms)
    length = ms_to_frames(clock.length_ms, rate)
    joins = {ms_to_frames(one.at_ms, rate) for one in clock.placements[1:]}
    pauses = _frames_of(_pauses([word for word, _ in said], clock.length_ms, rules), rate)
    frames = np.unique(np.concatenate([[0, length], sorted(joins), pauses]).astype(np.int64))
    frames = frames[(frames >= 0) & (frames <= length)]
    count = len(frames) - 1
    speakers: list[str | None] = [None] * count
    starts = _frames_of([word.start_ms for word, _ in said], rate)
    ends = np.maximum(starts + 1, _frames_of([word.end_ms for word, _ in said], rate))
    first = np.maximum(0, np.searchsorted(frames, starts, "right") - 1)
    last = np.minimum(count, np.searchsorted(frames, ends, "left"))
    for (_, who), low, high in zip(said, first.tolist(), last.tolist()):
        speakers[low:high] = [who] * (high - low)
    everybody = np.zeros(count, bool)
    spans = [*(_placed(clock, laughter) if rules.laughter else ())]
    spans += _quick([(word.start_ms, word.end_ms, who) for word, who in said]) if rules.quick else []
    for since, until in _frames_of([ms for span in spans for ms in span], rate).reshape(-1, 2):
        everybody[max(0, np.searchsorted(frames, since, "right") - 1) : np.searchsorted(frames, until)] = True
    return _Pieces(frames, _with_silence(speakers), everybody, np.isin(frames, sorted(joins)))


def _frames_of(times_ms: Sequence[int], rate: Fraction) -> np.ndarray:
    """The frames whose starts are nearest to times, as :func:`ms_to_frames` counts them."""
    ms = np.array(times_ms, np.int64)
    return (2 * ms * rate.numerator + 1000 * rate.denominator) // (2000 * rate.denominator)


def _with_silence(speakers: Sequence[str | None]) -> list[tuple[str | None, bool]]:
    found, last = list[tuple[str | None, bool]](), None
    for one in speakers:
        last = one or last
        found.append((last, one is None))
    return found


def _pauses(words: Sequence[Word], length_ms: int, rules: CameraRules) -> list[int]:
    """Moments between words: before a word by as much as wished, or in the middle of a short pause."""
    found = list[float]()
    end = 0
    for word in [*words, None]:
        start = length_ms if word is None else word.start_ms
        gap = start - end
        if gap >= 0:
            found.append(start - min(rules.ahead_ms, gap / 2))
        if gap > 2 * _SILENT_STEP_MS:
            found += range(end + _SILENT_STEP_MS, start - _SILENT_STEP_MS, _SILENT_STEP_MS)
        end = max(end, word.end_ms if word else 0)
    return [round(ms) for ms in found]


def _placed(clock: Timeline, spans: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Passages of the recording where they play in the cut."""
    found = []
    for place in clock.placements:
        for start, end in spans:
            a, b = max(start, place.start_ms), min(end, place.end_ms)
            if b > a:
                found.append((place.placed(a), place.placed(b)))
    return found


def _quick(said: Sequence[tuple[int, int, str]]) -> list[tuple[int, int]]:
    """Where voices change quickly: some changes within a few seconds, and no long turn between them."""
    turns = list[tuple[int, int, str]]()
    for start, end, who in said:
        if turns and turns[-1][2] == who:
            turns[-1] = (turns[-1][0], max(end, turns[-1][1]), who)
        else:
            turns.append((start, end, who))
    found = []
    for nth in range(len(turns) - _QUICK_CHANGES):
        some = turns[nth : nth + _QUICK_CHANGES + 1]
        inner = some[1:-1]
        near = some[-1][0] - some[1][0] <= _QUICK_MS
        if near and all(end - start <= _QUICK_TURN_MS for start, end, _ in inner):
            found.append((some[1][0], some[-1][0]))
    return found


# -- worth ------------------------------------------------------------------------------------


def _worth(project: Project, cameras: Sequence[Camera], pieces: _Pieces, clock: Timeline) -> np.ndarray:
    """What each camera is worth in each piece, in seconds, shape (cameras, pieces)."""
    rate = project.frame_rate
    assert rate is not None
    seconds = np.diff(pieces.frames) / float(rate)
    known = {who for one in cameras for who in one.shows}
    made = np.empty((len(cameras), len(seconds)))
    codes = {who: nth for nth, who in enumerate(dict.fromkeys(pieces.speakers))}
    who = np.array([codes[one] for one in pieces.speakers], int)
    begins = np.rint(pieces.frames[:-1] * 1000 / float(rate)).astype(int).tolist()
    starts = np.array([clock.source(ms) for ms in begins], float)
    ends = starts + seconds * 1000
    for nth, camera in enumerate(cameras):
        value = np.array([_value(camera, *one, known) for one in codes])[who]
        if not camera.shows:
            value = np.where(pieces.everybody, _ALL, value)
        made[nth] = value * seconds
        length = project.length_ms
        lacks = ~runs_through(camera, length, starts, ends)
        made[nth][lacks] = _NOT_RUNNING * seconds[lacks]
    return made


def _value(camera: Camera, who: str | None, silent: bool, known: set[str]) -> float:
    """What a second of a camera is worth while somebody speaks, or after."""
    if silent:
        near = _SILENT_LAST if who in camera.shows else _SILENT_OTHER
        return near if camera.shows else _SILENT_WIDE
    if not camera.shows:
        return _WIDE if who in known else _SHOWN
    if who not in camera.shows:
        return _OTHER
    return _SHOWN if len(camera.shows) == 1 else _BOTH


# -- the best shots -----------------------------------------------------------------------------


def _best(worth: np.ndarray, pieces: _Pieces, shortest: int) -> list[tuple[int, int, int]]:
    """The shots worth most: (camera, first piece, piece after the last)."""
    cameras, count = worth.shape
    frames = pieces.frames
    sums = np.concatenate([np.zeros((cameras, 1)), np.cumsum(worth, axis=1)], axis=1)
    before = np.concatenate([[0], np.cumsum(pieces.joins)]).astype(float) * _SAME_OVER_JOIN
    # a shot from j to i is worth sums[i] - sums[j] less the joins strictly between, before[i] - before[j + 1]
    nearest = (np.searchsorted(frames, frames - shortest, "right") - 1).tolist()  # the last early enough
    gained, lost = sums.T.tolist(), before.tolist()
    ended = [[-math.inf] * cameras for _ in range(count + 1)]
    begun = [[0] * cameras for _ in range(count + 1)]
    open_, opened, j = [-math.inf] * cameras, [0] * cameras, -1
    for i in range(1, count + 1):
        while j < nearest[i] and j + 1 < i:
            j += 1
            for camera, comes in enumerate(_entering(ended[j], j)):
                value = comes - gained[j][camera] + lost[j + 1]
                if value > open_[camera]:
                    open_[camera], opened[camera] = value, j
        ended[i] = [best + gain - lost[i] for best, gain in zip(open_, gained[i])]
        begun[i] = opened.copy()
    if max(ended[count]) == -math.inf:
        return [(int(np.argmax(sums[:, -1])), 0, count)]
    found, at, camera = list[tuple[int, int, int]](), count, _highest(ended[count])
    while at > 0:
        start = begun[at][camera]
        found.append((camera, start, at))
        if start:
            camera = _highest(ended[start], besides=camera)
        at = start
    return found[::-1]


def _highest(values: Sequence[float], besides: int = -1) -> int:
    """The place of the highest value, or of the highest of the others."""
    return max((one for one in range(len(values)) if one != besides), key=values.__getitem__)


def _entering(ended: Sequence[float], moment: int) -> list[float]:
    """What each camera comes from at a moment: the best that ended there with another one."""
    if moment == 0:
        return [0.0] * len(ended)
    if len(ended) == 1:
        return [-math.inf]
    best = _highest(ended)
    second = ended[_highest(ended, besides=best)]
    return [(second if one == best else ended[best]) - _CHANGE for one in range(len(ended))]


def _wish_for_wide(
    worth: np.ndarray,
    pieces: _Pieces,
    shots: Sequence[tuple[int, int, int]],
    wide: Sequence[int],
    limit: int,
    shortest: int,
) -> bool:
    """Wish for the picture from afar where it was missing for too long; whether anything was wished."""
    frames, wished = pieces.frames, False
    last = 0
    for camera, start, end in [*shots, (wide[0], len(frames) - 1, len(frames) - 1)]:
        if camera not in wide:
            continue
        since, until = int(frames[last]), int(frames[start])
        while until - since > limit:
            latest = min(since + limit, until - shortest)
            a, b = (int(np.searchsorted(frames, at)) for at in (latest - limit // 4, latest))
            place = _least_lost(worth, frames, a, max(a + 1, b), wide, shortest)
            if place is None:
                break
            first, after, which = place
            worth[which, first:after] += worth[:, first:after].clip(min=0).max(axis=0) * 3 + 2.0
            wished, since = True, int(frames[after])
        last = end
    return wished


def _least_lost(
    worth: np.ndarray, frames: np.ndarray, a: int, b: int, wide: Sequence[int], shortest: int
) -> tuple[int, int, int] | None:
    """Where a shot from afar costs least, of those that begin between two moments."""
    until = int(np.searchsorted(frames, frames[min(b, len(frames) - 1)] + shortest)) + 1
    part = worth[:, a:until]
    sums = np.concatenate([np.zeros((len(worth), 1)), np.cumsum(part, axis=1)], axis=1)
    top = np.concatenate([[0.0], np.cumsum(part.max(axis=0))])
    best: tuple[float, tuple[int, int, int]] | None = None
    for first in range(a, min(b, len(frames) - 1)):
        after = int(np.searchsorted(frames, frames[first] + shortest))
        if after >= len(frames):
            break
        for which in wide:
            own = float(sums[which, after - a] - sums[which, first - a])
            lost = float(top[after - a] - top[first - a]) - own
            if own > _NOT_RUNNING and (best is None or lost < best[0]):
                best = (lost, (first, after, which))
    return best[1] if best else None


def _switches(
    project: Project,
    cameras: Sequence[Camera],
    pieces: _Pieces,
    shots: Sequence[tuple[int, int, int]],
    clock: Timeline,
) -> tuple[Switch, ...]:
    """Shots of the cut as switches of the recording; each passage begins with what it is to show."""
    rate = project.frame_rate
    assert rate is not None
    found: dict[int, Switch] = {}
    begins = [int(pieces.frames[start]) for _, start, _ in shots]
    for place in clock.placements:
        nth = int(np.searchsorted(begins, ms_to_frames(place.at_ms, rate), "right")) - 1
        found[place.start_ms] = Switch(place.start_ms, cameras[shots[max(0, nth)][0]].id)
    for camera, start, _ in shots:
        ms = clock.source(frames_to_ms(int(pieces.frames[start]), rate))
        found[ms] = Switch(ms, cameras[camera].id)
    return plain_switches(found.values(), project.cameras.all)


def with_proposal(
    project: Project, cut: Cut, rules: CameraRules, laughter: Sequence[tuple[int, int]] = ()
) -> Project:
    """The project with the proposed switches in place of those that it has where the cut plays."""
    rows = proposed_switches(project, cut, rules, laughter)
    spans = [(one.start_ms, one.end_ms) for one in cut.passages]
    if not spans:
        return project
    start, end = min(a for a, _ in spans), max(b for _, b in spans)
    first = project.cameras.first
    at_first = [Switch(start, first.id)] if first is not None else []
    return switches_between(project, start, end, [*at_first, *rows])
