"""Notes stand beside words."""

from __future__ import annotations

from dataclasses import replace

from dubrel.edits.queries import word_at
from dubrel.model import Project


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
