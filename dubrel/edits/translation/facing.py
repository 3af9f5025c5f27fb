"""Original and translation beside each other: what faces what."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import Value
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.changes import Change
from dubrel.project.index import track_index


class Slot(Value):
    """A place of the facing pages.

    Attributes
    ----------
    sources : tuple of Caption
        Captions of the original; none where one that is above goes on here.
    caption : Caption or None
        The translation; ``None`` where there is none yet.
    """

    sources: tuple[Caption, ...]
    caption: Caption | None

    @property
    def id(self) -> int:
        """By which it is known again."""
        return self.caption.id if self.caption else -self.sources[0].id

    @property
    def start_ms(self) -> int:
        """When it comes in."""
        return (self.caption or self.sources[0]).start_ms

    @property
    def end_ms(self) -> int:
        """When it goes out."""
        return (self.caption or self.sources[-1]).end_ms


class Facing:
    """The slots of a track; those whose captions are the same objects as before stay the same."""

    def __init__(self) -> None:
        self._made: dict[tuple[int, ...], Slot] = {}
        self._last: list[Slot] = []
        self._places: dict[int, int] = {}

    def renewed(self, change: Change, track: CaptionTrack) -> Sequence[Slot]:
        """The slots after a change: at its cost alone where captions only say something else."""
        ids = change.captions.get(track.id, frozenset())
        old = track_index(change.old, track.id).captions
        new = track_index(change.new, track.id).captions
        if change.captions.get(track.translates or 0) or not self._last:
            return self.slots(change.new, track)
        found = list(self._last)
        for one in ids:
            before, after, place = old.get(one), new.get(one), self._places.get(one)
            if before is None or after is None or place is None or found[place].caption is not before:
                return self.slots(change.new, track)
            if (before.sources, before.start_ms) != (after.sources, after.start_ms):
                return self.slots(change.new, track)
            found[place] = Slot(found[place].sources, after)
        self._last = found
        return found

    def place_of(self, slot_id: int) -> int:
        """Where the slot with an id stands; -1 where there is none."""
        return self._places.get(slot_id, -1)

    def slots(self, project: Project, track: CaptionTrack) -> Sequence[Slot]:
        """All slots in order of time.

        Each caption of the original stands beside the first of its translations.
        """
        source = project.track(track.translates) if track.translates else None
        index = track_index(project, track.id)
        rows: list[tuple[tuple[Caption, ...], Caption | None]] = []
        mine: dict[int, list[Caption]] = {}
        alone: list[Caption] = []
        for one in source.captions if source else ():
            ids = index.of_source.get(one.id)
            if ids:
                first = min(
                    (index.captions[each] for each in ids), key=lambda other: (other.start_ms, other.id)
                )
                mine.setdefault(first.id, []).append(one)
            else:
                alone.append(one)
        rows += [(tuple(mine.get(one.id, ())), one) for one in track.captions]
        rows += [((one,), None) for one in alone]
        if alone:
            rows.sort(key=lambda row: (row[1] or row[0][0]).start_ms)
        known, self._made = self._made, {}
        found = []
        for sources, caption in rows:
            key = (id(caption), *map(id, sources))
            slot = known.get(key) or Slot(sources, caption)
            self._made[key] = slot
            found.append(slot)
        self._last, self._places = found, {one.id: nth for nth, one in enumerate(found)}
        return found
