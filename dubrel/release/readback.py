"""How the file of each form is read back and compared with what was to be written."""

from __future__ import annotations

import csv
import io
import json
import unicodedata
from collections import Counter
from collections.abc import Callable, Iterable
from pathlib import Path

from dubrel.base.text import is_rtl
from dubrel.edits.notes import notes_in_order
from dubrel.edits.speakers.assigning import speaker_passages
from dubrel.formats import (
    captiontable,
    docx,
    lrc,
    odt,
    rttm,
    srt,
    stl,
    textdocument,
    transcriptjson,
    ttml,
    webvtt,
)
from dubrel.formats.chapters import as_list, chapters_of
from dubrel.formats.common import Reading, read_text
from dubrel.formats.ctm import read as read_ctm
from dubrel.formats.document import Block, Document
from dubrel.formats.shownotes import show_notes
from dubrel.model import Project, Word, text_of_words
from dubrel.project.captiontext import shown_captions
from dubrel.project.index import words_with
from dubrel.release.losses import CANNOT, differences, expected, leaves_any, without_tags
from dubrel.release.source import Source

Verify = Callable[[Source, Path], bool]

# -- captions ----------------------------------------------------------------------------------


def _captions(form: str, read: Callable[[Path], Reading]) -> Verify:
    """Whether nothing is lost but what was said before."""

    def agree(source: Source, path: Path) -> bool:
        project = source.project
        if not leaves_any(project, CANNOT[form]):
            return True
        found = differences(project, read(path).project, CANNOT[form])
        return not found - expected(source, CANNOT[form])

    return agree


def _sung(source: Source, path: Path) -> bool:
    """Lines and when each begins, in hundredths of a second."""
    project = source.project
    wanted = [
        ((start + 5) // 10 * 10, row)
        for caption, text in shown_captions(project, project.captions)
        for start, line in zip(lrc.starts(project, caption, len(text.lines)), text.lines)
        for row in without_tags([lrc.sung(line)])
    ]
    found = [(cue.start_ms, line) for cue in lrc.read_cues(path)[0] for line in cue.lines]
    return found == sorted(wanted, key=lambda one: one[0])


# -- texts -------------------------------------------------------------------------------------


def letters(text: str) -> str:
    """Letters and digits alone, however they are composed."""
    return "".join(sign for sign in unicodedata.normalize("NFKC", text) if sign.isalnum())


def _of(source: Source) -> Document:
    return source.document


def _notes(source: Source) -> Document:
    return show_notes(source.project, source.options)


def _text(path: Path) -> str:
    return path.read_text(encoding="utf-8")


def _html(path: Path) -> str:
    return textdocument.text_of_html(_text(path))


def _document(
    read: Callable[[Path], str], document: Callable[[Source], Document] = _of, marks: bool = False
) -> Verify:
    """Whether all that a document says is in a file, in order; ``marks`` of notes too where they are text."""

    def agree(source: Source, path: Path) -> bool:
        return _in_order(letters(read(path)), document(source), marks)

    return agree


def _in_order(text: str, document: Document, marks: bool = False) -> bool:
    at = 0
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


def _pdf(source: Source, path: Path) -> bool:
    """In order; of scripts that are shaped or read from the right, which stand otherwise on a page, every letter."""
    from dubrel.release.pdf import letters_of_pdf, letters_without_font, shaped

    document, found = source.document, letters(letters_of_pdf(path))
    missing = letters_without_font(document)
    parts = document.said_with(marks=True)
    if missing or any(block.rtl for block in document.blocks) or any(map(shaped, parts)):
        return _holds(found, parts, missing)
    return _in_order(found, document, marks=True)


def _holds(found: str, parts: Iterable[str], missing: str = "") -> bool:
    """Whether every letter is there, as often as it is wanted."""
    wanted = Counter(letters("".join(parts)))
    for sign in letters(missing):
        del wanted[sign]
    return not wanted - Counter(found)


# -- words, speakers -------------------------------------------------------------------------------


def _said(project: Project) -> list[Word]:
    return [word for turn in project.transcript.turns for word in turn.words if not word.struck]


def _names(project: Project) -> list[tuple[str, str]]:
    """Who says each word that is not struck."""
    known = {one.id: one.name for one in project.transcript.speakers}
    return [
        (known.get(turn.speaker or "", ""), word.text)
        for turn in project.transcript.turns
        for word in turn.words
        if not word.struck
    ]


def _json(source: Source, path: Path) -> bool:
    found = transcriptjson.read(path).project
    times = [[(one.text, one.start_ms, one.end_ms) for one in _said(p)] for p in (source.project, found)]
    return times[0] == times[1] and _names(source.project) == _names(found)


def _ctm(source: Source, path: Path) -> bool:
    """Words and times; where two begin at once the shorter may come first, so they are compared sorted."""
    found = _said(read_ctm(path).project)
    both = (
        sorted((one.start_ms, one.end_ms, one.text) for one in words)
        for words in (_said(source.project), found)
    )
    wanted, there = both
    return wanted == there


def _passages(source: Source, path: Path) -> bool:
    wanted = [one for one in speaker_passages(source.project) if one.end_ms > one.start_ms]
    if not wanted:
        return True
    found = [(one.start_ms, one.end_ms, one.speaker) for one in rttm.read_passages(path)[0]]
    spelt = [(one.start_ms, one.end_ms, " ".join(one.speaker.replace("_", " ").split())) for one in wanted]
    return sorted(found) == sorted(spelt)


# -- both languages --------------------------------------------------------------------------------


def _facing(read: Callable[[Path], str]) -> Verify:
    def agree(source: Source, path: Path) -> bool:
        text, at = letters(read(path)), 0
        for part in (letters(part) for row in source.facing for part in row):
            found = text.find(part, at)
            if found < 0:
                return False
            at = found + len(part)
        return True

    return agree


def _facing_pdf(source: Source, path: Path) -> bool:
    from dubrel.release.pdf import letters_of_pdf, missing_in

    parts = [part for row in source.facing for part in row]
    return _holds(letters(letters_of_pdf(path)), parts, missing_in("".join(parts)))


def _memory(source: Source, path: Path) -> bool:
    from dubrel.formats.tmx import read_tmx

    tags = (source.original.transcript.language, source.language)
    found = {tuple(" ".join(unit.get(tag, "").split()) for tag in tags) for unit in read_tmx(path)[0]}
    return all((" ".join(one.split()), " ".join(other.split())) in found for one, other, _ in source.pairs)


def _xliff(source: Source, path: Path) -> bool:
    from lxml import etree

    units = etree.parse(str(path)).getroot().findall(".//{*}trans-unit")
    found = [
        (unit.findtext("{*}source"), unit.findtext("{*}target"), unit.get("approved") == "yes")
        for unit in units
    ]
    return [tuple(row) for row in found] == [tuple(row) for row in source.pairs]


# -- around it -------------------------------------------------------------------------------------


def _chapters_vtt(source: Source, path: Path) -> bool:
    found = [(one.start_ms, one.end_ms, " ".join(one.lines)) for one in webvtt.read_cues(path)[0]]
    return found == [one for one in chapters_of(source.project) if one[2]]


def _chapters_json(source: Source, path: Path) -> bool:
    rows = json.loads(_text(path))["chapters"]
    found = [(round(one["startTime"] * 1000), round(one["endTime"] * 1000), one["title"]) for one in rows]
    return found == chapters_of(source.project)


def _chapters_list(source: Source, path: Path) -> bool:
    return _text(path) == as_list(chapters_of(source.project))


def _queries(source: Source, path: Path) -> bool:
    project = source.project
    rows = list(csv.reader(io.StringIO(read_text(path)[0])))
    wanted = [
        (str(one.id), text_of_words([word for word in words_with(project, one.words) if not word.struck]))
        for one in notes_in_order(project)
        if one.kind == "Query"
    ]
    return [(row[0], row[2].lstrip("\u200b")) for row in rows[1:]] == wanted


def _page(source: Source, path: Path) -> bool:
    return _in_page(source, _text(path))


def _fragment(source: Source, path: Path) -> bool:
    from dubrel.release.webpage import page_in

    return _in_page(source, page_in(_text(path)))


def _in_page(source: Source, page: str) -> bool:
    """Every word with its time, chapters, and the captions on the picture, in every language."""
    from lxml import html

    from dubrel.release.webpage import languages_of

    tree = html.document_fromstring(page)
    languages = languages_of(source)
    titles = [one.text_content().partition(" ")[2] for one in tree.xpath("//nav[@class='chapters']//button")]
    if titles != [title for _, _, title in chapters_of(source.project)]:
        return False
    [captions] = tree.xpath("//script[@id='captions']")
    for nth, (_, project) in enumerate(languages):
        words = [
            (one.get("data-t"), one.text_content()) for one in tree.xpath(f"//article[@id='text{nth}']//i")
        ]
        if words != [(str(word.start_ms), word.text) for word in _said(project)]:
            return False
        table = [(start, end, lines.split("\n")) for start, end, lines in json.loads(captions.text)[nth]]
        shown = shown_captions(project, project.captions)
        if table != [(one.start_ms, one.end_ms, [*text.lines]) for one, text in shown]:
            return False
    return True


READ_BACK: dict[str, Verify] = {
    "srt": _captions("srt", srt.read),
    "webvtt": _captions("webvtt", webvtt.read),
    "ttml": _captions("ttml", ttml.read),
    "stl": _captions("stl", stl.read),
    "lrc": _sung,
    "csv": _captions("csv", captiontable.read),
    "tsv": _captions("tsv", captiontable.read),
    "text": _document(_text, marks=True),
    "markdown": _document(_text, marks=True),
    "docx": _document(docx.text_of_docx),
    "odt": _document(odt.text_of_odt),
    "pdf": _pdf,
    "html": _document(_html),
    "json": _json,
    "ctm": _ctm,
    "rttm": _passages,
    "facing-html": _facing(_html),
    "facing-docx": _facing(docx.text_of_docx),
    "facing-pdf": _facing_pdf,
    "tmx": _memory,
    "xliff": _xliff,
    "notes-md": _document(_text, _notes, True),
    "notes-html": _document(_html, _notes),
    "notes-docx": _document(docx.text_of_docx, _notes),
    "chapters-vtt": _chapters_vtt,
    "chapters-json": _chapters_json,
    "chapters-txt": _chapters_list,
    "queries": _queries,
    "page": _page,
    "fragment": _fragment,
}
"""The check of each form that is not a film."""


def right_to_left(source: Source) -> tuple[bool, bool]:
    """Whether original and translation are read from the right."""
    return is_rtl(source.original.transcript.language), is_rtl(source.language)
