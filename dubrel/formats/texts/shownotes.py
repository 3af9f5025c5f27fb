"""Show notes as a document: what was noted, chapters, quotes and queries."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.text import reads_rtl
from dubrel.base.timecode import format_clock
from dubrel.base.value import replace
from dubrel.edits.notes import notes_in_order, time_of
from dubrel.formats.shared.agreement import utf8
from dubrel.formats.shared.common import read_text
from dubrel.formats.shared.document import Block, Document, Run, TextOptions
from dubrel.formats.shared.form import AROUND, Content, Form, document_form, of_project
from dubrel.formats.shared.tablecells import guarded, guards_said, unguarded
from dubrel.formats.texts.chapters import as_list, chapters_of
from dubrel.formats.texts.docx import as_docx, text_of_docx
from dubrel.formats.texts.textdocument import as_html, as_markdown, text_of_html
from dubrel.model import Project, text_of_words
from dubrel.project.index import words_with


def show_notes(project: Project, options: TextOptions) -> Document:
    """Notes and clips with their times, and the chapters."""
    language = project.transcript.language

    def paragraph(text: str, time: str = "") -> Block:
        return Block("paragraph", (Run(text),), time=time, rtl=reads_rtl(text, language))

    def heading(text: str) -> Block:
        return Block("heading", (Run(text),))

    blocks: list[Block] = []
    by_kind = {kind: [one for one in project.notes if one.kind == kind] for kind in ("Show note", "Clip")}
    for kind, title in (("Show note", "Notes"), ("Clip", "Quotes")):
        notes = sorted(by_kind[kind], key=lambda one: time_of(project, one))
        if notes:
            blocks.append(heading(title))
        for one in notes:
            words = [word for word in words_with(project, one.words) if not word.struck]
            said = f"“{text_of_words(words)}” {one.text}".strip() if kind == "Clip" and words else one.text
            blocks.append(paragraph(said, format_clock(time_of(project, one), digits=0)))
    chapters = chapters_of(project)
    if chapters:
        blocks.append(heading("Chapters"))
        blocks += [
            paragraph(title, time)
            for time, title in (line.split(" ", 1) for line in as_list(chapters).splitlines() if " " in line)
        ]
    people = [one for one in project.transcript.speakers if one.name]
    if people:
        blocks.append(heading("With"))
        blocks.append(
            paragraph(", ".join(f"{one.name} ({one.role})" if one.role else one.name for one in people))
        )
    return Document(
        project.title, project.subtitle, language, tuple(blocks), (), replace(options, title="yes")
    )


_HEADS = ("id", "time", "asked at", "question", "answer")


def queries_csv(project: Project) -> str:
    """The open queries for a colleague: the last column is to be filled in."""
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(_HEADS)
    for one in notes_in_order(project):
        if one.kind == "Query":
            words = text_of_words([word for word in words_with(project, one.words) if not word.struck])
            cells = (guarded(cell) for cell in (words, one.text, one.answer))
            rows.writerow([one.id, format_clock(time_of(project, one)), *cells])
    return out.getvalue()


def answers_read(project: Project, path: Path) -> tuple[Project, int]:
    """The project with the answers of a list of queries, and how many were new.

    Raises
    ------
    FormatError
        If it is not such a list.
    """
    text, _ = read_text(path)
    rows = list(csv.reader(io.StringIO(text)))
    if not rows or [cell.strip().casefold() for cell in rows[0]][: len(_HEADS)] != list(_HEADS):
        raise FormatError(
            tr("“{name}” is not a list of queries. Choose the file that Release wrote.").format(
                name=path.name
            )
        )
    answers: dict[str, str] = {
        row[0].strip(): unguarded(row[4].strip()) for row in rows[1:] if len(row) > 4 and row[4].strip()
    }
    count, notes = 0, []
    for one in project.notes:
        answer = answers.get(str(one.id), "")
        fresh = bool(answer) and one.kind == "Query" and answer != one.answer
        count += fresh
        notes.append(replace(one, answer=answer) if fresh else one)
    return (replace(project, notes=tuple(notes)), count) if count else (project, 0)


def _text_of_page(path: Path) -> str:
    return text_of_html(utf8(path))


def _notes_of(content: Content) -> Document:
    return show_notes(content.project, content.options)


def _notes_form(*args: Any, **how: Any) -> Form:
    """The notes stand around the transcript: once, and without its options."""
    form = document_form(*args, document=_notes_of, **how)
    return replace(form, group=AROUND, text=False, each_track=False)


def _queries_agree(content: Content, path: Path) -> bool:
    project = content.project
    rows = list(csv.reader(io.StringIO(read_text(path)[0])))
    wanted = [
        (str(one.id), text_of_words([word for word in words_with(project, one.words) if not word.struck]))
        for one in notes_in_order(project)
        if one.kind == "Query"
    ]
    return [(row[0], unguarded(row[2])) for row in rows[1:]] == wanted


FORMS = (
    _notes_form("notes-md", "Show notes, Markdown", ".md", as_markdown, utf8, marks=True),
    _notes_form("notes-html", "Show notes, HTML", ".html", as_html, _text_of_page),
    _notes_form("notes-docx", "Show notes, DOCX", ".docx", as_docx, text_of_docx),
    Form(
        id="queries",
        label="Queries for a colleague",
        suffixes=(".csv",),
        group=AROUND,
        write=of_project(queries_csv),
        agrees=_queries_agree,
        warns=lambda content: guards_said(
            text for one in content.project.notes if one.kind == "Query" for text in (one.text, one.answer)
        ),
        needs="queries",
        each_track=False,
    ),
)
