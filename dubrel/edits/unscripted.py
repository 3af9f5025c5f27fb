"""Speech that is not in the script: noted where it was heard, taken in when the user wants it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dubrel.edits.intake import HeardWord
from dubrel.edits.wording import replace_text
from dubrel.model import Note, Project

KIND = "Not in the script"
_APART_MS = 1500


def with_unscripted(project: Project, extra: Sequence[HeardWord]) -> Project:
    """Note what was said besides the script, in place of earlier such notes.

    Parameters
    ----------
    project : Project
    extra : sequence of HeardWord
        In order of time.
    """
    runs: list[list[HeardWord]] = []
    for word in extra:
        if runs and word.start_ms - runs[-1][-1].end_ms < _APART_MS:
            runs[-1].append(word)
        else:
            runs.append([word])
    found = [
        Note(project.next_id + k, run[0].start_ms, KIND, " ".join(word.text for word in run))
        for k, run in enumerate(runs)
    ]
    kept = [note for note in project.notes if note.kind != KIND]
    notes = tuple(sorted([*kept, *found], key=lambda note: note.start_ms))
    return replace(project, notes=notes, next_id=project.next_id + len(found))


def next_unscripted(project: Project, from_ms: int) -> Note | None:
    """The first such note from a time on, or the first of all after the last one."""
    notes = [note for note in project.notes if note.kind == KIND]
    return next((note for note in notes if note.start_ms >= from_ms), notes[0] if notes else None)


def take_in(project: Project, note_id: int) -> tuple[Project, int, int]:
    """Put what a note says into the text, between the words around its time.

    Returns
    -------
    project : Project
        Without the note; the words share the gap until they are lined up.
    turn : int
        Place of the turn that they are in.
    word : int
        Place of the first of them in it.

    Raises
    ------
    KeyError
        If there is no such note.
    """
    note = next((one for one in project.notes if one.id == note_id), None)
    if note is None:
        raise KeyError(note_id)
    turns = project.transcript.turns
    place = max((k for k, turn in enumerate(turns) if turn.start_ms <= note.start_ms), default=0)
    turn = turns[place]
    before = sum(word.start_ms < note.start_ms for word in turn.words)
    project = replace(project, notes=tuple(one for one in project.notes if one.id != note_id))
    if before:
        at = turn.offsets[before - 1] + len(turn.words[before - 1].text)
        return replace_text(project, turn.id, at, at, " " + note.text), place, before
    return replace_text(project, turn.id, 0, 0, note.text + " "), place, 0
