"""Whether a file says what was meant: letters in order, words, times and names."""

from __future__ import annotations

import unicodedata
from collections import Counter
from collections.abc import Iterable
from pathlib import Path

from dubrel.formats.shared.document import Block, Document
from dubrel.model import Project, Word


def letters(text: str) -> str:
    """Letters and digits alone, however they are composed."""
    return "".join(sign for sign in unicodedata.normalize("NFKC", text) if sign.isalnum())


def utf8(path: Path) -> str:
    """The text of a file of ours."""
    return path.read_text(encoding="utf-8")


def document_agrees(text: str, document: Document, *, marks: bool = False) -> bool:
    """Whether all that a document says is in a text, in order; ``marks`` of notes too where they are text."""
    text, at = letters(text), 0
    titles = [document.title, document.subtitle] if document.options.title == "yes" else []
    for part in map(letters, titles):
        found = text.find(part, at)
        if found < 0:
            return False
        at = found + len(part)
    for block in document.blocks:
        at = _after(text, block, at, marks)
        if at < 0:
            return False
    return all(letters(note) in text for note in document.notes)


def _after(text: str, block: Block, at: int, marks: bool) -> int:
    """Where a paragraph ends in a text of letters; -1 where it or something before it is not there."""
    leads = [letters(one) for one in (str(block.number or ""), block.time, block.speaker)]
    places = [(text.find(one, at), len(one)) for one in leads]
    if any(place < 0 for place, _ in places):
        return -1
    at = max(place + length for place, length in places)
    said = letters("".join(run.text for run in block.runs if marks or run.kind != "mark"))
    found = text.find(said, at)
    return found + len(said) if found >= 0 else -1


def facing_agrees(text: str, rows: Iterable[tuple[str, str, str]]) -> bool:
    """Whether the cells of facing columns stand in a text, in order."""
    text, at = letters(text), 0
    for part in (letters(part) for row in rows for part in row):
        found = text.find(part, at)
        if found < 0:
            return False
        at = found + len(part)
    return True


def holds(text: str, parts: Iterable[str], missing: str = "") -> bool:
    """Whether every letter is there, as often as it is wanted, but for those that have no font."""
    wanted = Counter(letters("".join(parts)))
    for sign in letters(missing):
        del wanted[sign]
    return not wanted - Counter(letters(text))


def said(project: Project) -> list[Word]:
    """The words that are not struck."""
    return [word for turn in project.transcript.turns for word in turn.words if not word.struck]


def who_says(project: Project) -> list[tuple[str, str]]:
    """Who says each word that is not struck."""
    known = {one.id: one.name for one in project.transcript.speakers}
    return [
        (known.get(turn.speaker or "", ""), word.text)
        for turn in project.transcript.turns
        for word in turn.words
        if not word.struck
    ]
