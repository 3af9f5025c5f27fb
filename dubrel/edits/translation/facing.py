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
        self._source_places: dict[int, int] = {}

    def renewed(self, change: Change, track: CaptionTrack) -> Sequence[Slot]:
        """The slots after a change: at its cost alone where captions only say something else."""
        found = list(self._last)
        if found and self._renew_sources(found, change, track) and self._renew_captions(found, change, track):
            self._last = found
            return found
        return self.slots(change.new, track)

    def _renew_captions(self, found: list[Slot], change: Change, track: CaptionTrack) -> bool:
        """Put the captions that changed into their slots; whether each has stayed where it was."""
        then, now = (track_index(each, track.id).captions for each in (change.old, change.new))
        for one in change.captions.get(track.id, ()):
            before, after, place = then.get(one), now.get(one), self._places.get(one)
            if before is None or after is None or place is None or found[place].caption is not before:
                return False
            if (before.sources, before.start_ms) != (after.sources, after.start_ms):
                return False
            found[place] = Slot(found[place].sources, after)
        return True

    def _renew_sources(self, found: list[Slot], change: Change, track: CaptionTrack) -> bool:
        """The same for the captions of the original."""
        source = track.translates or 0
        then, now = (track_index(each, source).captions for each in (change.old, change.new))
        for one in change.captions.get(source, ()):
            before, after, place = then.get(one), now.get(one), self._source_places.get(one)
            if before is None or after is None or place is None or before.start_ms != after.start_ms:
                return False
            sources = tuple(after if each is before else each for each in found[place].sources)
            if after not in sources:
                return False
            found[place] = Slot(sources, found[place].caption)
        return True

    def place_of(self, slot_id: int) -> int:
        """Where the slot with an id stands; -1 where there is none."""
        return self._places.get(slot_id, -1)

    def slots(self, project: Project, track: CaptionTrack) -> Sequence[Slot]:
        """All slots in order of time.

        Each caption of the original stands beside the first of its translations.
        """
        source = project.track(track.translates) if track.translates else None
        index = track_index(project, track.id)

        def when(caption_id: int) -> tuple[int, int]:
            return index.captions[caption_id].start_ms, caption_id

        rows: list[tuple[tuple[Caption, ...], Caption | None]] = []
        mine: dict[int, list[Caption]] = {}
        alone: list[Caption] = []
        for one in source.captions if source else ():
            ids = index.of_source.get(one.id)
            if ids:
                first = ids[0] if len(ids) == 1 else min(ids, key=when)
                mine.setdefault(first, []).append(one)
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
        self._source_places = {each.id: nth for nth, one in enumerate(found) for each in one.sources}
        return found
