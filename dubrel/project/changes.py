"""What differs between two values that share most of their objects: sets of ids, found by identity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any

from dubrel.base.value import Value, field
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.index import exchanged, turn_with

_NONE: frozenset[int] = frozenset()


class Change(Value, dict=True):
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

    @cached_property
    def words(self) -> frozenset[int]:
        """Ids of the words that came, went or are others, and of all words of turns with another speaker."""
        found = set[int]()
        for turn_id in self.turns:
            old, new = turn_with(self.old, turn_id), turn_with(self.new, turn_id)
            if old is not None and new is not None and old.speaker == new.speaker:
                gone, come = exchanged(old.words, new.words)
                found.update(word.id for word in (*gone, *come))
            else:
                found.update(word.id for turn in (old, new) if turn is not None for word in turn.words)
        return frozenset(found)

    @cached_property
    def once(self) -> dict[object, Any]:
        """What is found out of it once for all that look at it."""
        return {}

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
