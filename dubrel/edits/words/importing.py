"""Take the text of a file into an open project: its recording, terms, notes and release record stay."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable

from dubrel.base.value import replace
from dubrel.edits.words.terms import merged
from dubrel.model import Caption, CaptionTrack, Note, Project, Turn, Word
from dubrel.project.index import words_with


def with_text_of(present: Project, read: Project) -> Project:
    """The open project with the words, speakers and captions of another one.

    Ids of the other one are given anew, so that nothing that refers to a word of
    the open project means another word from then on. Notes stand beside the
    word that is said at their time, and say that they moved.
    """
    read = _renumbered(read, present.next_id)
    words = [word for turn in read.transcript.turns for word in turn.words]
    notes = (*(_beside(present, note, words) for note in present.notes), *read.notes)
    return replace(
        present,
        transcript=read.transcript,
        tracks=read.tracks,
        active=read.active,
        notes=tuple(notes),
        terms=merged(present.terms, read.terms),
        next_id=read.next_id,
    )


def _beside(present: Project, note: Note, words: list[Word]) -> Note:
    """A note at the word that is said when those were that it stood beside."""
    if not note.words:
        return note
    before = words_with(present, note.words)
    ms = before[0].start_ms if before else note.start_ms
    at = min(bisect_left(words, ms, key=lambda word: word.start_ms), len(words) - 1)
    end = note.end_ms and ms + max(0, note.end_ms - note.start_ms)
    return replace(note, start_ms=ms, end_ms=end, words=(words[at].id,) if words else (), moved=True)


def _renumbered(project: Project, by: int) -> Project:
    turns = tuple(
        replace(turn, id=turn.id + by, words=tuple(replace(word, id=word.id + by) for word in turn.words))
        for turn in project.transcript.turns
    )
    return replace(
        project,
        transcript=replace(project.transcript, turns=_in_order(turns)),
        tracks=tuple(_track(track, by) for track in project.tracks),
        active=project.active + by if project.active else 0,
        notes=tuple(replace(one, id=one.id + by, words=_up(one.words, by)) for one in project.notes),
        next_id=project.next_id + by,
    )


def _in_order(turns: tuple[Turn, ...]) -> tuple[Turn, ...]:
    return tuple(sorted(turns, key=lambda turn: turn.start_ms))


def _track(track: CaptionTrack, by: int) -> CaptionTrack:
    captions = tuple(_caption(one, by) for one in track.captions)
    translates = track.translates + by if track.translates is not None else None
    return replace(track, id=track.id + by, captions=captions, translates=translates)


def _caption(one: Caption, by: int) -> Caption:
    names = ("words", "breaks", "named", "dashed", "sources", "hidden", "of")
    ids = {name: _up(getattr(one, name), by) for name in names}
    styled = tuple((word + by, style) for word, style in one.styled)
    return replace(one, id=one.id + by, styled=styled, **ids)


def _up(ids: Iterable[int], by: int) -> tuple[int, ...]:
    return tuple(one + by for one in ids)
