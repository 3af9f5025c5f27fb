"""Captions of the spoken language: give them to the project, move their edges."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from dubrel.captions.setting import set_captions
from dubrel.captions.styles import DEFAULT_STYLE
from dubrel.edits.index import caption_with, index_of, place_in, track_index, words_with
from dubrel.edits.tracks import with_captions, with_track
from dubrel.model import Caption, CaptionTrack, HouseStyle, Project, Timing, Word
from dubrel.timecode import rounded

SHORTEST_MS = 100  # what an edge that is dragged always leaves of a caption


def set_again(project: Project, style: HouseStyle | None = None) -> Project:
    """Set the whole transcript into captions of the active track, or of a first one.

    Parameters
    ----------
    style : HouseStyle, optional
        That of the track unless another is given; the track keeps it.

    Returns
    -------
    Project
        What translates the captions now translates those that hold the same words.
    """
    track, transcript = project.captions, project.transcript
    if track is None or not track.spoken:
        track = next((one for one in project.tracks if one.spoken), None)
    next_id = project.next_id
    if track is None:
        track = CaptionTrack(next_id, transcript.language, DEFAULT_STYLE)
        next_id += 1
    style = style or track.style
    rate = project.media.frame_rate if project.media else None
    shots = project.media.shots if project.media else ()
    captions = set_captions(transcript, style, frame_rate=rate, shots=shots or (), first_id=next_id)
    new = replace(track, language=transcript.language, style=style, captions=captions)
    made = with_track(replace(project, next_id=next_id + len(captions)), new)
    return _sources_renewed(made, track)


def _sources_renewed(project: Project, before: CaptionTrack) -> Project:
    """Translations of a track that was set again point to the captions with the same words."""
    words = {one.id: one.words for one in before.captions}
    held = track_index(project, before.id).of_word
    for track in project.tracks:
        if track.translates != before.id:
            continue
        captions = []
        for one in track.captions:
            ids = (word for source in one.sources for word in words.get(source, ()))
            sources = tuple(dict.fromkeys(held[word] for word in ids if word in held))
            captions.append(replace(one, sources=sources))
        project = with_track(project, replace(track, captions=tuple(captions)))
    return project


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
    """The captions of the active track from a time on shifted and stretched by the user's own numbers."""
    captions = project.captions.captions if project.captions else ()
    times = {
        one.id: (max(0, move.time(one.start_ms)), max(0, move.time(one.end_ms)))
        for one in captions
        if one.start_ms >= move.from_ms
    }
    return retimed(project, times)


def retimed(project: Project, times: Mapping[int, tuple[int, int]]) -> Project:
    """Give captions of the active track other times.

    Words whose times are only a share of their caption's (``Timing.SPREAD``)
    are spread over the new one; words with times from the sound stay.

    Parameters
    ----------
    times : mapping of caption id to (in time, out time)
    """
    track = project.captions
    if track is None:
        return project
    index, changed = track_index(project, track.id), {}
    spans: dict[int, tuple[int, int]] = {}
    for caption_id, (start, end) in times.items():
        caption = index.captions.get(caption_id)
        if caption is not None and (start, end) != (caption.start_ms, caption.end_ms):
            changed[caption_id] = replace(caption, start_ms=start, end_ms=end)
            spans |= _shares(project, changed[caption_id])
    project = with_captions(project, track.id, changed)
    ids = {index_of(project).turn_of[one] for one in spans}
    turns = tuple(
        replace(turn, words=tuple(_moved(word, spans) for word in turn.words)) if turn.id in ids else turn
        for turn in project.transcript.turns
    )
    return replace(project, transcript=replace(project.transcript, turns=turns)) if ids else project


def _shares(project: Project, caption: Caption) -> dict[int, tuple[int, int]]:
    """The spread words of a caption, over its time by their lengths."""
    words = words_with(project, caption.words)
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


def move_edge(project: Project, caption_id: int, edge: str, ms: int) -> Project:
    """Move the in time or the out time of a caption of the active track.

    Parameters
    ----------
    edge : {"in", "out"}
    ms : int
        Where the edge should be. It stops at the neighbour, less the least gap
        of the house style, and where the caption would be too short to see.

    Returns
    -------
    Project
        The same object where the caption is gone or nothing moves.
    """
    track = project.captions
    caption = caption_with(project, track.id, caption_id) if track else None
    if track is None or caption is None:
        return project
    place = place_in(track.captions, caption)
    gap = track.style.least_gap(project.media.frame_rate if project.media else None)
    if edge == "in":
        before = track.captions[place - 1] if place else None
        low = min(before.end_ms + gap, caption.start_ms) if before else 0
        start = max(low, min(ms, caption.end_ms - SHORTEST_MS))
        moved = replace(caption, start_ms=min(start, caption.end_ms))
    else:
        after = track.captions[place + 1] if place + 1 < len(track.captions) else None
        end = max(ms, caption.start_ms + SHORTEST_MS)
        if after is not None:
            end = min(end, max(after.start_ms - gap, caption.end_ms))
        moved = replace(caption, end_ms=end)
    return project if moved == caption else with_captions(project, track.id, {caption_id: moved})
