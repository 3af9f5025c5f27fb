"""Notes stand beside words: show notes, queries, chapters, clips, pictures that are wanted."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from dubrel.base.value import replace
from dubrel.model import Note, Project
from dubrel.project.index import turn_of, words_with
from dubrel.project.queries import word_at

SHOW, QUERY, CHAPTER, CLIP, PICTURE = "Show note", "Query", "Chapter", "Clip", "Picture wanted"
KINDS = (SHOW, QUERY, CHAPTER, CLIP, PICTURE)
"""The kinds that a person makes; others come from the machine."""


def phrase_of(kind: str) -> str:
    """A kind of note within a sentence."""
    return "wanted picture" if kind == PICTURE else kind.lower()


def anchor(project: Project, ms: int) -> tuple[int, ...]:
    """The word that a note at a time stands beside: the one said last, or else the first of all."""
    turns = project.transcript.turns
    found = word_at(project, ms) or ((0, 0) if turns else None)
    return (turns[found[0]].words[found[1]].id,) if found else ()


def anchored(project: Project) -> Project:
    """The project with every note beside a word."""
    if all(note.words for note in project.notes):
        return project
    notes = tuple(
        note if note.words else replace(note, words=anchor(project, note.start_ms)) for note in project.notes
    )
    return replace(project, notes=notes)


def with_note(
    project: Project, kind: str, text: str, words: Sequence[int], by: str = ""
) -> tuple[Project, int]:
    """The project with a note beside some words, and the note's id.

    A chapter begins with the first of the words; a clip, and a picture that is wanted, last from
    the first to the last. ``by`` is who wrote it.
    """
    found = words_with(project, words)
    start = min((word.start_ms for word in found), default=0)
    end = max((word.end_ms for word in found), default=0) if kind in (CLIP, PICTURE) else 0
    ids = tuple(word.id for word in found)
    beside = ids[:1] if kind == CHAPTER else ids
    note = Note(project.next_id, start, kind, text, beside, end, by=by)
    notes = _in_order((*project.notes, note))
    return replace(project, notes=notes, next_id=project.next_id + 1), note.id


def with_notes_added(project: Project, notes: Iterable[tuple[str, str, Sequence[int]]]) -> Project:
    """The project with several notes (kind, text, words)."""
    for kind, text, words in notes:
        project = with_note(project, kind, text, words)[0]
    return project


def note_with(project: Project, note_id: int) -> Note | None:
    """The note with an id."""
    return next((one for one in project.notes if one.id == note_id), None)


def note_changed(project: Project, note: Note) -> Project:
    """The project with a note as it is given, in place of the one with its id."""
    old = note_with(project, note.id)
    if old is None or old == note:
        return project
    return replace(
        project, notes=_in_order(tuple(note if one.id == note.id else one for one in project.notes))
    )


def without_note(project: Project, note_id: int) -> Project:
    """The project without a note."""
    notes = tuple(one for one in project.notes if one.id != note_id)
    return project if len(notes) == len(project.notes) else replace(project, notes=notes)


def time_of(project: Project, note: Note) -> int:
    """When a note is: with its first word, or where it says itself."""
    words = words_with(project, note.words[:1])
    return words[0].start_ms if words else note.start_ms


def span_of(project: Project, note: Note) -> tuple[int, int]:
    """What is played of a note: its words, its clip, or a few seconds from where it stands."""
    words = words_with(project, note.words)
    start = min((word.start_ms for word in words), default=note.start_ms)
    end = max((word.end_ms for word in words), default=start)
    if note.kind in (CLIP, PICTURE) and note.end_ms > start:
        return start, note.end_ms
    turn = turn_of(project, words[-1].id) if words else None
    return start, max(end, min(start + 4000, turn.end_ms if turn else start + 4000))


def notes_in_order(project: Project, kinds: Iterable[str] = ()) -> list[Note]:
    """Notes of some kinds (or of all), in order of time."""
    wanted = set(kinds)
    found = [one for one in project.notes if not wanted or one.kind in wanted]
    return sorted(found, key=lambda one: time_of(project, one))


def _in_order(notes: tuple[Note, ...]) -> tuple[Note, ...]:
    return tuple(sorted(notes, key=lambda one: one.start_ms))
