"""What differs between two values that share most of their objects: sets of ids, found by identity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from operator import is_
from typing import TypeVar

from dubrel.base.value import Value, field
from dubrel.model import Caption, CaptionTrack, Project

T = TypeVar("T")
_NONE: frozenset[int] = frozenset()


def exchanged(old: Sequence[T], new: Sequence[T]) -> tuple[list[T], list[T]]:
    """The objects that only the first, and those that only the second of two sequences holds.

    Compared by identity, at the speed of C; an object that only changed its
    place may be in both lists.

    Examples
    --------
    >>> a, b, c, d = "a", "b", "c", "d"
    >>> exchanged((a, b, c), (a, d, c))
    (['b'], ['d'])
    """
    if old is new:
        return [], []
    same = list(map(is_, old, new))
    if len(old) == len(new):
        places = [place for place, kept in enumerate(same) if not kept] if False in same else []
        return [old[place] for place in places], [new[place] for place in places]
    start = same.index(False) if False in same else len(same)
    tail_room = len(same) - start
    tails = list(map(is_, reversed(old[len(old) - tail_room :]), reversed(new[len(new) - tail_room :])))
    tail = tails.index(False) if False in tails else len(tails)
    gone, come = old[start : len(old) - tail], new[start : len(new) - tail]
    before, after = set(map(id, gone)), set(map(id, come))
    return [one for one in gone if id(one) not in after], [one for one in come if id(one) not in before]


class Change(Value):
    """One step from a project to another, and what differs.

    Attributes
    ----------
    old, new : Project
    turns : frozenset of int
        Ids of the turns that came, went or are others.
    captions : mapping of int to frozenset of int
        The same of captions, by the id of their track; tracks without a
        difference are not in it.
    notes : frozenset of int
    """

    old: Project
    new: Project
    turns: frozenset[int] = _NONE
    captions: Mapping[int, frozenset[int]] = field(default_factory=dict)
    notes: frozenset[int] = _NONE

    @property
    def speakers(self) -> bool:
        """Whether there are other speakers, or other names."""
        return self.old.transcript.speakers is not self.new.transcript.speakers

    @property
    def tracks(self) -> bool:
        """Whether there are other tracks, or another one is worked on."""
        before, after = ([one.id for one in value.tracks] for value in (self.old, self.new))
        return before != after or self.old.active != self.new.active


def change_between(old: Project, new: Project) -> Change:
    """What differs between two values; far-apart edits cost as much as their sum."""
    turns = _ids(old.transcript.turns, new.transcript.turns)
    captions: dict[int, frozenset[int]] = {}
    for track_id in {one.id for one in (*old.tracks, *new.tracks)}:
        found = _ids(_captions(old.track(track_id)), _captions(new.track(track_id)))
        if found:
            captions[track_id] = found
    return Change(old, new, turns, captions, _ids(old.notes, new.notes))


def _captions(track: CaptionTrack | None) -> Sequence[Caption]:
    return track.captions if track else ()


def _ids(old: Sequence, new: Sequence) -> frozenset[int]:
    if old is new:
        return _NONE
    gone, come = exchanged(old, new)
    return frozenset(one.id for one in (*gone, *come))
