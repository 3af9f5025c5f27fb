"""Sound descriptions: which would have room among the captions, and taking them in."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from dubrel.base.errors import DubrelError
from dubrel.base.value import Value
from dubrel.captions.soundwords import sound_words
from dubrel.edits.captions.shape import insert_caption
from dubrel.model import Project, SoundSpot

_LEAST_MS = 600
_LONGEST_MS = 4000


class Proposal(Value):
    """A sound description that might be set.

    Attributes
    ----------
    start_ms, end_ms : int
        Where it would stand, between the captions.
    text : str
    spot : SoundSpot
    """

    start_ms: int
    end_ms: int
    text: str
    spot: SoundSpot


def proposals(project: Project, spots: Iterable[SoundSpot]) -> list[Proposal]:
    """Sound descriptions where no other caption stands, in order of time."""
    track = project.captions
    if track is None:
        return []
    rate = project.frame_rate
    gap = track.style.least_gap(rate)
    found: list[Proposal] = []
    for spot in spots:
        start, end = spot.start_ms, min(spot.end_ms, spot.start_ms + _LONGEST_MS)
        for one in track.captions:
            if one.start_ms < end and one.end_ms > start:
                if one.start_ms - start >= max(_LEAST_MS, end - one.end_ms):
                    end = one.start_ms - gap
                else:
                    start = one.end_ms + gap
                    end = min(spot.end_ms, start + _LONGEST_MS)
        if end - start >= _LEAST_MS:
            text = sound_words(spot.name, track.style, track.language)
            found.append(Proposal(start, end, text, spot))
    return found


def with_sounds(project: Project, chosen: Sequence[Proposal]) -> Project:
    """The project with some sound descriptions; such as have no room any more are passed over."""
    for one in chosen:
        try:
            project, _ = insert_caption(project, one.start_ms, one.text, one.end_ms)
        except DubrelError:
            continue
    return project
