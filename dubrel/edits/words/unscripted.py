"""Speech that is not in the script: noted where it was spoken, added when the user wants it."""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.text import joined, word_units
from dubrel.base.value import replace
from dubrel.edits.intake import add_heard
from dubrel.edits.notes import anchor
from dubrel.edits.words.wording import replace_text, with_turns
from dubrel.model import Note, Project, RecognisedWord, Timing, Turn
from dubrel.project.index import turn_of, turn_place

KIND = "Not in the script"
_APART_MS = 1500


def with_unscripted(project: Project, extra: Sequence[RecognisedWord]) -> Project:
    """Note what was said besides the script, in place of earlier such notes.

    Parameters
    ----------
    project : Project
    extra : sequence of RecognisedWord
        In order of time.
    """
    runs: list[list[RecognisedWord]] = []
    for word in extra:
        if runs and word.start_ms - runs[-1][-1].end_ms < _APART_MS:
            runs[-1].append(word)
        else:
            runs.append([word])
    found = [
        Note(
            project.next_id + k,
            run[0].start_ms,
            KIND,
            joined([word.text for word in run]),
            anchor(project, run[0].start_ms),
            run[-1].end_ms,
        )
        for k, run in enumerate(runs)
    ]
    kept = [note for note in project.notes if note.kind != KIND]
    notes = tuple(sorted([*kept, *found], key=lambda note: note.start_ms))
    return replace(project, notes=notes, next_id=project.next_id + len(found))


def next_unscripted(project: Project, from_ms: int) -> Note | None:
    """The first such note from a time on, or the first of all after the last one."""
    notes = [note for note in project.notes if note.kind == KIND]
    return next((one for one in notes if one.start_ms >= from_ms), notes[0] if notes else None)


def take_in(project: Project, note_id: int) -> tuple[Project, int]:
    """Put what a note says into the text, after the word that it stands beside.

    Returns
    -------
    project : Project
        Without the note; the words share the gap until they are aligned.
    word : int
        Id of the first of them.

    Raises
    ------
    KeyError
        If there is no such note.
    """
    note = next((one for one in project.notes if one.id == note_id), None)
    if note is None:
        raise KeyError(note_id)
    first = project.next_id
    rest = replace(project, notes=tuple(one for one in project.notes if one.id != note_id))
    turn = turn_of(project, note.words[0]) if note.words else None
    if turn is None:
        said = [
            RecognisedWord(one, note.start_ms, note.start_ms, timing=Timing.TYPED)
            for one in word_units(note.text)
        ]
        return add_heard(rest, said), first
    place = turn.index_of[note.words[0]]
    if note.start_ms < turn.words[place].start_ms and place == 0:
        return replace_text(rest, turn.id, 0, 0, note.text + " "), first
    at = turn.offsets[place] + len(turn.words[place].text)
    rest = _with_room(rest, turn, place, note)
    return replace_text(rest, turn.id, at, at, " " + note.text), first


def _with_room(project: Project, turn: Turn, place: int, note: Note) -> Project:
    """The words around what was said besides the script give it its time back: they were aligned over it."""
    before, after = turn.words[place], turn.words[place + 1] if place + 1 < len(turn.words) else None
    words = list(turn.words)
    if before.start_ms < note.start_ms < before.end_ms:
        words[place] = replace(before, end_ms=note.start_ms)
    end = min(note.end_ms or note.start_ms, after.start_ms) if after else note.end_ms
    if after is not None and end <= words[place].end_ms and note.start_ms < note.end_ms < after.end_ms:
        words[place + 1] = replace(after, start_ms=max(after.start_ms, note.end_ms))
    if all(a is b for a, b in zip(words, turn.words)):
        return project
    at = turn_place(project, turn.id)
    return with_turns(project, at, at + 1, replace(turn, words=tuple(words)))
