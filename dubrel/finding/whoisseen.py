"""Who is to be seen: faces over time, tied to who speaks, and where the crop lies so that it is calm."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dubrel.base.value import Value
from dubrel.finding.faces import Face
from dubrel.model import FrameKey, Project

HOLD_MS = 2000
"""The crop stays at least so long."""
_SAME = 12.0  # percent of the width: a face that near is the same one
_MOVED = 8.0  # percent: a face that has moved so far is followed
_GONE = 4  # sightings: a face that is missing as often is gone
_AT_ONCE = 4  # turns that may lie over each other
_STAYS = 0.3  # of the sightings: who is seen less often only passes by
_TELLS = 1.15  # how much more a mouth moves than another one that speaks


class Sighting(Value):
    """What was seen at a time.

    Attributes
    ----------
    ms : int
    faces : tuple of Face
    moves : tuple of float
        How much the mouth of each face moved until the next sighting.
    """

    ms: int
    faces: tuple[Face, ...]
    moves: tuple[float, ...]


@dataclass
class _Person:
    """A face through a shot: where it was at each sighting, and how its mouth moved."""

    places: dict[int, tuple[float, float]]
    moves: dict[int, float]
    last: int

    @property
    def x(self) -> float:
        return self.places[self.last][0]


def framing_of(
    project: Project, sightings: Sequence[Sighting], shots: Sequence[int], start_ms: int, end_ms: int
) -> list[FrameKey]:
    """Where the crop lies so that who speaks is seen, from one time to another.

    At a shot change the crop is where it has to be at once; within a shot it moves when
    somebody else speaks, or a face has moved, never within two seconds of the last time.
    Without a face it stays where it was, in the middle at first.

    Parameters
    ----------
    sightings : sequence of Sighting
        In order of time.
    shots : sequence of int
        Shot changes in milliseconds.
    """
    keys: list[FrameKey] = []
    edges = [start_ms, *(ms for ms in shots if start_ms < ms < end_ms), end_ms]
    for since, until in zip(edges, edges[1:]):
        seen = [one for one in sightings if since <= one.ms < until]
        if not seen:
            continue
        people = _people(seen)
        wanted = _wanted(project, seen, people)
        keys += _calm(seen, wanted, since, bool(keys))
    return keys


def shown_in(project: Project, sightings: Sequence[Sighting]) -> tuple[str, ...] | None:
    """Whom a camera that stands still shows.

    Parameters
    ----------
    sightings : sequence of Sighting
        Some of them while each speaker speaks, in time of the recording.

    Returns
    -------
    tuple of str or None
        Ids of speakers; none where it shows as many people as speak, or more: everybody.
        ``None`` where that cannot be told.
    """
    people = [one for one in _people(sightings) if len(one.places) >= max(2, _STAYS * len(sightings))]
    speaking = [_speaker(project, one.ms) for one in sightings]
    everybody = list(dict.fromkeys(one for one in speaking if one is not None))
    if not people or not everybody:
        return None
    if len(people) >= len(everybody) > 1:
        return ()
    found = []
    for person in people:
        worth = {who: _told(who, speaking, person) for who in everybody}
        best = max(worth, key=worth.__getitem__)
        if worth[best] >= _TELLS or len(everybody) == 1:
            found.append(best)
    return tuple(dict.fromkeys(found)) or None


def _told(who: str, speaking: Sequence[str | None], person: _Person) -> float:
    """How much more the mouth of somebody moves while one speaks than while others do."""
    own = [value for nth, value in person.moves.items() if speaking[nth] == who]
    others = [value for nth, value in person.moves.items() if speaking[nth] not in (who, None)]
    return float(np.mean(own)) / max(1e-6, float(np.mean(others))) if own and others else 0.0


def _people(sightings: Sequence[Sighting]) -> list[_Person]:
    """The faces of a shot, each followed from sighting to sighting."""
    people: list[_Person] = []
    for nth, sighting in enumerate(sightings):
        free = [one for one in people if nth - one.last <= _GONE]
        for face, moved in zip(sighting.faces, sighting.moves):
            near = min(free, key=lambda one: abs(one.x - face.x), default=None)
            if near is not None and abs(near.x - face.x) <= _SAME:
                free.remove(near)
            else:
                near = _Person({}, {}, nth)
                people.append(near)
            near.places[nth], near.moves[nth], near.last = (face.x, face.y), moved, nth
    return [one for one in people if len(one.places) > 1 or len(sightings) < 3]


def _wanted(
    project: Project, sightings: Sequence[Sighting], people: Sequence[_Person]
) -> list[tuple[float, float] | None]:
    """Where who speaks is at each sighting; nothing where nobody is seen."""
    speaking = [_speaker(project, one.ms) for one in sightings]
    faces = {who: _face_of(who, speaking, people) for who in {one for one in speaking if one is not None}}
    found: list[tuple[float, float] | None] = []
    last: _Person | None = None
    for nth, who in enumerate(speaking):
        here = [one for one in people if nth in one.places]
        person = faces.get(who) if who is not None else last
        if person is None or nth not in person.places:
            person = last if last is not None and nth in last.places else (here[0] if here else None)
        found.append(person.places[nth] if person is not None else None)
        last = person or last
    return found


def _speaker(project: Project, ms: int) -> str | None:
    """Who speaks at a time; of several the one who began first."""
    turns = project.transcript.turns
    stop = bisect_right(turns, ms, key=lambda turn: turn.start_ms)
    said = (turn for turn in turns[max(0, stop - _AT_ONCE) : stop] if ms < turn.end_ms)
    return next((turn.speaker or str(turn.id) for turn in said), None)


def _face_of(who: str, speaking: Sequence[str | None], people: Sequence[_Person]) -> _Person | None:
    """The face whose mouth moves most while somebody speaks, against how it moves else."""
    best, most = None, 0.0
    for person in people:
        own = [value for nth, value in person.moves.items() if speaking[nth] == who]
        others = [value for nth, value in person.moves.items() if speaking[nth] not in (who, None)]
        if not own:
            continue
        worth = float(np.mean(own)) / max(1e-6, float(np.mean(others))) if others else float(np.mean(own))
        if others and worth < _TELLS:
            worth *= 0.5  # it moves as much when others speak
        if worth > most:
            best, most = person, worth
    return best


def _calm(
    sightings: Sequence[Sighting], wanted: Sequence[tuple[float, float] | None], since: int, before: bool
) -> list[FrameKey]:
    """Keys of a shot: there at once, then only where it has to move and has stood long enough."""
    keys: list[FrameKey] = []
    for nth, place in enumerate(wanted):
        if place is None:
            continue
        following = [one for one in wanted[nth : nth + _steps(sightings)] if one is not None]
        near = [one for one in following if abs(one[0] - place[0]) < _MOVED]
        x, y = (round(sorted(one[axis] for one in near)[len(near) // 2], 1) for axis in (0, 1))
        ms = sightings[nth].ms
        if not keys:
            keys.append(FrameKey(ms if nth and before else since, x, y))
        elif abs(keys[-1].x - x) >= _MOVED and ms - keys[-1].ms >= HOLD_MS and 2 * len(near) > len(following):
            keys.append(FrameKey(ms, x, y, pans=True))
    return keys


def _steps(sightings: Sequence[Sighting]) -> int:
    """How many sightings lie in the time that the crop stays."""
    step = (sightings[-1].ms - sightings[0].ms) / max(1, len(sightings) - 1)
    return max(1, round(HOLD_MS / step)) if step else 1
