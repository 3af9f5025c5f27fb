"""Captions of the spoken language: give them to the project, move their edges."""

from __future__ import annotations

from dataclasses import replace

from dubrel.captions.setting import set_captions
from dubrel.captions.styles import HouseStyle
from dubrel.model import Project


def set_again(project: Project, style: HouseStyle) -> Project:
    """Set the whole transcript into captions by a house style."""
    track, next_id = set_captions(
        project.transcript,
        style,
        frame_rate=project.media.frame_rate if project.media else None,
        first_id=project.next_id,
    )
    return replace(project, captions=track, next_id=next_id)


def move_edge(project: Project, caption_id: int, edge: str, ms: int, gap_ms: int) -> Project:
    """Move the in time or the out time of a caption.

    Parameters
    ----------
    edge : {"in", "out"}
    ms : int
        Where the edge should be; it stops at the neighbour and leaves ``gap_ms``.
    """
    track = project.captions
    if track is None:
        return project
    place = next(k for k, one in enumerate(track.captions) if one.id == caption_id)
    caption = track.captions[place]
    if edge == "in":
        low = track.captions[place - 1].end_ms + gap_ms if place else 0
        moved = replace(caption, start_ms=min(max(ms, low), max(low, caption.end_ms - 100)))
    else:
        rest = track.captions[place + 1 : place + 2]
        high = rest[0].start_ms - gap_ms if rest else ms
        moved = replace(caption, end_ms=max(min(ms, high), caption.start_ms + 100))
    if moved == caption:
        return project
    captions = (*track.captions[:place], moved, *track.captions[place + 1 :])
    return replace(project, captions=replace(track, captions=captions))
