"""Caption tracks of a project: put captions and notes in their places, keep what hangs on them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping

from dubrel.base.value import replace
from dubrel.model import HOLDS, Caption, CaptionTrack, Note, Project
from dubrel.project.index import captions_of, index_of, place_in, track_index, translations_of, turn_place


def with_track(project: Project, track: CaptionTrack) -> Project:
    """The project with a track in place of the one with its id, or added as the active one."""
    if project.track(track.id) is None:
        return replace(project, tracks=(*project.tracks, track), active=track.id)
    tracks = tuple(track if one.id == track.id else one for one in project.tracks)
    return replace(project, tracks=tracks)


def with_captions(
    project: Project,
    track_id: int,
    changed: Mapping[int, Caption | None],
    come: Iterable[Caption] = (),
) -> Project:
    """The project with some captions of a track changed, taken out or added, in order of time.

    Parameters
    ----------
    changed : mapping of caption id to Caption or None
        Captions of the track as they become; ``None`` takes one out.
    come : iterable of Caption
        New ones.

    Returns
    -------
    Project
        The same object where nothing changes. What translates a caption that
        is taken out keeps its text and its other sources.
    """
    track = project.track(track_id)
    new = list(come)
    if track is None or not (changed or new):
        return project
    captions, index = list(track.captions), track_index(project, track_id)
    places: list[int] = []
    gone: list[int] = []
    for caption_id, becomes in changed.items():
        old = index.captions.get(caption_id)
        if old is None or becomes is old:
            continue
        place = place_in(captions, old)
        if becomes is None:
            del captions[place]
            gone.append(caption_id)
        else:
            captions[place] = becomes
            places.append(place)
    if gone or any(_out_of_order(captions, place) for place in places):
        captions.sort(key=lambda one: one.start_ms)
    for one in sorted(new, key=lambda one: one.start_ms):  # of those at one time, the last comes last
        place = bisect_right(captions, one.start_ms, key=lambda other: other.start_ms)
        while (
            place
            and captions[place - 1].start_ms == one.start_ms
            and _is_said_before(project, one, captions[place - 1])
        ):
            place -= 1
        captions.insert(place, one)
    if not (places or gone or new):
        return project
    made = with_track(project, replace(track, captions=tuple(captions)))
    return _sources_gone(made, project, gone)


def _is_said_before(project: Project, one: Caption, other: Caption) -> bool:
    """Whether the words of a caption are said before those of another that comes in at the same time."""
    index = index_of(project)
    words = (one.words[:1], other.words[:1])
    if not all(words) or any(word not in index.turn_of for some in words for word in some):
        return False
    turns = [index.turns[index.turn_of[some[0]]] for some in words]
    places = [(turn_place(project, turn.id), turn.index_of[some[0]]) for turn, some in zip(turns, words)]
    return places[0] < places[1]


def _out_of_order(captions: list[Caption], place: int) -> bool:
    near = captions[max(0, place - 1) : place + 2]
    return any(a.start_ms > b.start_ms for a, b in zip(near, near[1:]))


def _sources_gone(project: Project, before: Project, gone: Iterable[int]) -> Project:
    for caption_id in gone:
        for track, caption in list(translations_of(before, caption_id)):
            present = project.track(track.id)
            now = next(one for one in present.captions if one.id == caption.id) if present else caption
            rest = tuple(one for one in now.sources if one != caption_id)
            left = replace(now, sources=rest)
            nothing = not (rest or left.of or left.text.strip())  # nothing is said, nothing translated
            project = with_captions(project, track.id, {now.id: None if nothing else left})
    return project


def with_sources(project: Project, track_id: int, words: Iterable[int]) -> Project:
    """What translates words of a track refers to the captions in which these words are now."""
    words = tuple(words)
    held = track_index(project, track_id).of_word
    for track in [one for one in project.tracks if one.translates == track_id]:
        changed: dict[int, Caption | None] = {}
        for one in captions_of(project, track.id, words).values():
            sources = tuple(dict.fromkeys(held[word] for word in one.of if word in held))
            if sources and sources != one.sources:
                changed[one.id] = replace(one, sources=sources)
        project = with_captions(project, track.id, changed)
    return project


def with_notes(project: Project, changed: Mapping[int, Note]) -> Project:
    """The project with some notes changed."""
    notes = tuple(changed.get(one.id, one) for one in project.notes)
    return replace(project, notes=notes)


def holding(caption: Caption, *what: str) -> Caption:
    """A caption of which a person has set something."""
    held = tuple(one for one in HOLDS if one in caption.held or one in what)
    return caption if held == caption.held else replace(caption, held=held)
