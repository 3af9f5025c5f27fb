"""Put a value in order after it was made of two: what one side removed is referred to no more."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.value import replace
from dubrel.model import Caption, CaptionTrack, Project
from dubrel.project.index import index_of, track_index
from dubrel.project.tracks import with_sources


def sound(project: Project) -> Project:
    """The project with captions, translations, notes and switches of what is there, in order."""
    there = index_of(project).turn_of
    known = {track.id: track for track in project.tracks}
    tracks = tuple(
        _track(track, set(there))
        for track in project.tracks
        if track.translates is None or track.translates in known
    )
    notes = tuple(
        replace(one, words=kept) if (kept := tuple(w for w in one.words if w in there)) != one.words else one
        for one in project.notes
    )
    project = replace(project, tracks=tracks, notes=notes, index=None)
    if not any(one.id == project.active for one in tracks):
        project = replace(project, active=tracks[0].id if tracks else 0)
    for track in tracks:
        if track.spoken:
            project = with_sources(project, track.id, track_index(project, track.id).of_word)
    return _cameras(_without_lost_sources(project))


def _track(track: CaptionTrack, there: set[int]) -> CaptionTrack:
    """Each word once; nothing that shows nothing; in order of time."""
    free, translated, found = set(there), set[int](), list[Caption]()
    latest = 0
    for one in track.captions:
        words = tuple(word for word in one.words if word in free)
        free -= set(words)
        if one.words and not words:
            continue
        if words != one.words:
            one = _of_words(one, words)
        if translated & set(one.of):
            one = replace(one, of=(), said="")
        translated |= set(one.of)
        if one.start_ms < latest:
            one = replace(one, start_ms=latest, end_ms=max(latest, one.end_ms))
        latest = one.start_ms
        found.append(one)
    return replace(track, captions=tuple(found)) if found != list(track.captions) else track


def _of_words(one: Caption, words: tuple[int, ...]) -> Caption:
    kept = set(words)

    def still(ids: Sequence[int]) -> tuple[int, ...]:
        return tuple(word for word in ids if word in kept)

    return replace(
        one,
        words=words,
        breaks=tuple(word for word in still(one.breaks) if word != words[0]),
        named=still(one.named),
        dashed=still(one.dashed),
        hidden=still(one.hidden) if set(still(one.hidden)) != kept else (),
        styled=tuple(pair for pair in one.styled if pair[0] in kept),
    )


def _without_lost_sources(project: Project) -> Project:
    """Translations refer to captions that are there."""
    ids = {track.id: {one.id for one in track.captions} for track in project.tracks}
    tracks = tuple(
        track
        if track.translates is None
        else replace(
            track,
            captions=tuple(
                replace(one, sources=kept)
                if (kept := tuple(s for s in one.sources if s in ids[track.translates])) != one.sources
                else one
                for one in track.captions
            ),
        )
        for track in project.tracks
    )
    return replace(project, tracks=tracks, index=None)


def _cameras(project: Project) -> Project:
    """Every camera shows somebody who is there."""
    people = {one.id for one in project.transcript.speakers}
    cameras = project.cameras
    kept = tuple(replace(one, shows=tuple(who for who in one.shows if who in people)) for one in cameras.all)
    return project if kept == cameras.all else replace(project, cameras=replace(cameras, all=kept))
