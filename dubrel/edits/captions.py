"""Captions of the spoken language: give them to the project, move their edges."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from dubrel.captions.setting import set_captions
from dubrel.captions.styles import HouseStyle
from dubrel.model import Caption, Project, Timing, Word
from dubrel.timecode import rounded


def set_again(project: Project, style: HouseStyle) -> Project:
    """Set the whole transcript into captions by a house style."""
    track, next_id = set_captions(
        project.transcript,
        style,
        frame_rate=project.media.frame_rate if project.media else None,
        first_id=project.next_id,
    )
    return replace(project, captions=track, next_id=next_id)


@dataclass(frozen=True)
class Move:
    """Times stretched about a point and shifted.

    Attributes
    ----------
    shift_ms : int
    factor : Fraction
        Exact, as 25/24 or 1001/1000.
    from_ms : int
        Captions that begin before stay; times are stretched about here.
    """

    shift_ms: int = 0
    factor: Fraction = Fraction(1)
    from_ms: int = 0

    def time(self, ms: int) -> int:
        """Where a time goes."""
        return rounded((ms - self.from_ms) * self.factor) + self.from_ms + self.shift_ms


def moved(project: Project, move: Move) -> Project:
    """The captions from a time on shifted and stretched by the user's own numbers."""
    captions = project.captions.captions if project.captions else ()
    times = {
        one.id: (max(0, move.time(one.start_ms)), max(0, move.time(one.end_ms)))
        for one in captions
        if one.start_ms >= move.from_ms
    }
    return retimed(project, times)


def retimed(project: Project, times: Mapping[int, tuple[int, int]]) -> Project:
    """Give captions other times.

    Words whose times are only a share of their caption's (``Timing.SPREAD``)
    are spread over the new one; words with times from the sound stay.

    Parameters
    ----------
    times : mapping of caption id to (in time, out time)
    """
    track = project.captions
    if track is None:
        return project
    captions: list[Caption] = []
    spans: dict[int, tuple[int, int]] = {}
    for caption in track.captions:
        start, end = times.get(caption.id, (caption.start_ms, caption.end_ms))
        if (start, end) != (caption.start_ms, caption.end_ms):
            caption = replace(caption, start_ms=start, end_ms=end)
            spans |= _shares(project, caption)
        captions.append(caption)
    captions.sort(key=lambda caption: caption.start_ms)
    turns = tuple(
        replace(turn, words=tuple(_moved(word, spans) for word in turn.words))
        if any(word.id in spans for word in turn.words)
        else turn
        for turn in project.transcript.turns
    )
    transcript = replace(project.transcript, turns=turns)
    return replace(project, transcript=transcript, captions=replace(track, captions=tuple(captions)))


def _shares(project: Project, caption: Caption) -> dict[int, tuple[int, int]]:
    """The spread words of a caption, over its time by their lengths."""
    words = [project.transcript.words_by_id[one] for one in caption.words]
    if any(word.timing is not Timing.SPREAD for word in words):
        return {}
    total, done, found = sum(len(word.text) for word in words), 0, {}
    span = caption.end_ms - caption.start_ms
    for word in words:
        start = caption.start_ms + span * done // total
        done += len(word.text)
        found[word.id] = (start, caption.start_ms + span * done // total)
    return found


def _moved(word: Word, spans: Mapping[int, tuple[int, int]]) -> Word:
    if word.id not in spans:
        return word
    start, end = spans[word.id]
    return replace(word, start_ms=start, end_ms=end)


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
