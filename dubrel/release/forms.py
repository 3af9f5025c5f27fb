"""Every form that a deliverable can have: how it is written, read back, and what it cannot hold. A new one is a row."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from dubrel.edits.captiontext import shown_captions
from dubrel.formats import (
    captiontable,
    ctm,
    docx,
    lrc,
    odt,
    rttm,
    srt,
    textdocument,
    transcriptjson,
    ttml,
    webvtt,
)
from dubrel.formats.chapters import as_json, as_list, as_webvtt, chapters_of
from dubrel.formats.document import Document
from dubrel.formats.inline import plain
from dubrel.formats.shownotes import queries_csv, show_notes
from dubrel.model import Cue, Project
from dubrel.release.source import Source
from dubrel.text import counted, is_rtl, language_name


@dataclass(frozen=True)
class Form:
    """A form.

    Attributes
    ----------
    id, suffix, label, group : str
    write : callable
        ``Source -> bytes``.
    verify : callable
        ``(Source, path) -> whether the file says what was meant``.
    text : bool
        Whether it takes the options of texts.
    each_track : bool
        Whether there is one for each language that is wished.
    needs : {"", "translation", "chapters", "queries", "notes", "film", "media", "captions"}
    loses : callable
        ``Source -> sentences``: what it cannot hold.
    """

    id: str
    suffix: str
    label: str
    group: str
    write: Callable[[Source], bytes]
    verify: Callable[[Source, Path], bool]
    text: bool = False
    each_track: bool = True
    needs: str = ""
    loses: Callable[[Source], list[str]] = lambda source: []


# -- captions ----------------------------------------------------------------------------------


def _captions(write: Callable[[Project], str]) -> Callable[[Source], bytes]:
    return lambda source: write(source.project).encode("utf-8")


def _cues_agree(
    read: Callable[[Path], tuple[list[Cue], list[str]]],
    as_read: Callable[[str], str] = str.strip,
    grain_ms: int = 1,
) -> Callable[[Source, Path], bool]:
    """Whether the cues of a file say what the captions show, line by line, at the same times."""

    def verify(source: Source, path: Path) -> bool:
        project = source.project
        cues = [(one.start_ms, one.end_ms, list(one.lines)) for one in read(path)[0]]
        wanted = [
            (one.start_ms, one.end_ms, [*filter(None, map(as_read, text.lines))])
            for one, text in shown_captions(project, project.captions)
        ]
        wanted = [one for one in wanted if one[2]]
        return len(cues) == len(wanted) and all(
            abs(a[0] - b[0]) < grain_ms and abs(a[1] - b[1]) < grain_ms and a[2] == b[2]
            for a, b in zip(cues, wanted)
        )

    return verify


def _spaced(line: str) -> str:
    return " ".join(line.split())


def _same_lines_sung(source: Source, path: Path) -> bool:
    found = [line for cue in lrc.read_cues(path)[0] for line in cue.lines]
    project = source.project
    wanted = [
        lrc._plain(line) for _, text in shown_captions(project, project.captions) for line in text.lines
    ]
    return found == [plain(line) for line in wanted if plain(line)]


def _ttml_agrees(source: Source, path: Path) -> bool:
    """Where captions lie over each other, a reader shows them together: then the words alone are compared."""
    if _cues_agree(ttml.read_cues, _spaced)(source, path):
        return True
    said = " ".join(line for cue in ttml.read_cues(path)[0] for line in cue.lines)
    project = source.project
    return all(
        _spaced(line) in _spaced(said)
        for _, text in shown_captions(project, project.captions)
        for line in text.lines
    )


def _lost(place: bool, look: bool, speakers: bool, styles: bool) -> Callable[[Source], list[str]]:
    """What a form of captions cannot hold, counted."""

    def said(source: Source) -> list[str]:
        track = source.project.captions
        captions = track.captions if track else ()
        found = []
        if place and (count := sum(bool(one.place) for one in captions)):
            found.append(f"the place of {counted(count, 'caption')}")
        if look and track and (track.looks or track.look != type(track.look)()):
            found.append("the look")
        if speakers and len(source.project.transcript.speakers) > 1:
            found.append("who speaks")
        if styles and (count := sum(bool(one.styled) for one in captions)):
            found.append(f"italics in {counted(count, 'caption')}")
        return found

    return said


# -- texts -------------------------------------------------------------------------------------


def _document(write: Callable[[Document], str | bytes]) -> Callable[[Source], bytes]:
    def made(source: Source) -> bytes:
        data = write(source.document)
        return data.encode("utf-8") if isinstance(data, str) else data

    return made


def _letters(text: str) -> str:
    return "".join(sign for sign in text if sign.isalnum())


def _found_again(
    read: Callable[[Path], str], document: Callable[[Source], Document]
) -> Callable[[Source, Path], bool]:
    """Whether all that was to be said is in a file, in order."""

    def verify(source: Source, path: Path) -> bool:
        text, at = _letters(read(path)), 0
        notes = document(source).notes
        for one in document(source).said:
            letters = _letters(one)
            found = text.find(letters, 0 if one in notes else at)
            if found < 0:
                return False
            at = at if one in notes else found
        return True

    return verify


def _read_text(path: Path) -> str:
    return path.read_text(encoding="utf-8")


def _of(source: Source) -> Document:
    return source.document


def _pdf(source: Source) -> bytes:
    from dubrel.release.pdf import as_pdf  # late: only for PDF

    return as_pdf(source.document)


def _pdf_agrees(source: Source, path: Path) -> bool:
    """The letters of each paragraph; shaped and right-to-left ones in any order, as they stand on the page."""
    from dubrel.release.pdf import letters_of_pdf

    found = letters_of_pdf(path)
    if any(block.rtl for block in source.document.blocks) or not found.isascii():
        wanted = _letters("".join(source.document.said))
        return len(found) >= 0.9 * len(wanted)
    at = 0
    for block in source.document.blocks:
        letters = _letters("".join(run.text for run in block.runs))
        at = found.find(letters, at)
        if at < 0:
            return False
    return True


def _notes(source: Source) -> Document:
    return show_notes(source.project, source.options)


def _same_words(read) -> Callable[[Source, Path], bool]:
    def verify(source: Source, path: Path) -> bool:
        turns = read(path).project.transcript.turns
        said = [w.text for turn in source.project.transcript.turns for w in turn.words if not w.struck]
        return [word.text for turn in turns for word in turn.words] == said

    return verify


def _passages_agree(source: Source, path: Path) -> bool:
    passages = rttm.speaker_passages(source.project)
    return not passages or len(rttm.read_passages(path)[0]) == sum(
        one.end_ms > one.start_ms for one in passages
    )


# -- both languages ----------------------------------------------------------------------------


def _heads(source: Source) -> tuple[str, str]:
    return language_name(source.original.transcript.language), language_name(source.language)


def _ways(source: Source) -> tuple[bool, bool]:
    return is_rtl(source.original.transcript.language), is_rtl(source.language)


def _facing_html(source: Source) -> bytes:
    from dubrel.formats.bilingual import facing_html

    tags = (source.original.transcript.language, source.language)
    return facing_html(source.original.title, tags, _heads(source), source.facing, _ways(source)).encode(
        "utf-8"
    )


def _facing_docx(source: Source) -> bytes:
    return docx.facing_docx(source.original.title, _heads(source), source.facing, _ways(source))


def _facing_pdf(source: Source) -> bytes:
    from dubrel.release.pdf import facing_pdf

    return facing_pdf(source.original.title, _heads(source), source.facing, _ways(source))


def _facing_agrees(read: Callable[[Path], str], whole: bool = True) -> Callable[[Source, Path], bool]:
    def verify(source: Source, path: Path) -> bool:
        text = _letters(read(path))
        if not whole or any(_ways(source)):
            return len(text) >= 0.9 * len(_letters("".join(one + other for _, one, other in source.facing)))
        return all(_letters(one) in text and _letters(other) in text for _, one, other in source.facing)

    return verify


def _pairs(source: Source) -> list[tuple[str, str, bool]]:
    from dubrel.translation.pairs import pairs_of  # late: only for translations

    pairs = pairs_of(source.original, source.track) if source.track and not source.track.spoken else []
    return [(one.source, one.target, one.approved) for one in pairs if one.target]


def _tmx(source: Source) -> bytes:
    from dubrel.formats.tmx import write_tmx

    rows = [(one, other) for one, other, _ in _pairs(source)]
    return write_tmx(rows, source.original.transcript.language, source.language)


def _tmx_agrees(source: Source, path: Path) -> bool:
    from dubrel.formats.tmx import read_tmx

    return len(read_tmx(path)[0]) >= len({one for one, _, _ in _pairs(source)})


def _xliff(source: Source) -> bytes:
    from dubrel.formats.bilingual import xliff

    return xliff(
        source.original.title, source.original.transcript.language, source.language, _pairs(source)
    ).encode()


def _xliff_agrees(source: Source, path: Path) -> bool:
    from lxml import etree

    return len(etree.parse(str(path)).getroot().findall(".//{*}trans-unit")) == len(_pairs(source))


# -- around it -----------------------------------------------------------------------------------


def _chapters(write: Callable[[list[tuple[int, int, str]]], str]) -> Callable[[Source], bytes]:
    return lambda source: write(chapters_of(source.project)).encode("utf-8")


def _titles_stand(source: Source, path: Path) -> bool:
    text = path.read_text(encoding="utf-8")
    if path.suffix == ".json":
        return [one["title"] for one in json.loads(text)["chapters"]] == [
            c[2] for c in chapters_of(source.project)
        ]
    return all(
        title.replace("-->", "→") in text or title in text for _, _, title in chapters_of(source.project)
    )


def _queries_agree(source: Source, path: Path) -> bool:
    rows = list(csv.reader(io.StringIO(path.read_text(encoding="utf-8"))))
    return len(rows) - 1 == sum(one.kind == "Query" for one in source.project.notes)


def _webpage(source: Source) -> bytes:
    from dubrel.release.webpage import web_page  # late: only for the page

    return web_page(source).encode("utf-8")


def _webpage_agrees(source: Source, path: Path) -> bool:
    text = _letters(textdocument.text_of_html(path.read_text(encoding="utf-8")))
    return all(_letters(block.text) in text for block in source.document.blocks)


_SRT = _lost(place=True, look=True, speakers=True, styles=False)
_PLAIN = _lost(place=True, look=True, speakers=True, styles=True)
CAPTIONS, TRANSCRIPT, BOTH, AROUND = "Captions", "Transcript", "Both languages", "Around it"

FORMS: dict[str, Form] = {
    form.id: form
    for form in (
        Form("srt", ".srt", "SubRip", CAPTIONS, _captions(srt.write), _cues_agree(srt.read_cues, plain), loses=_SRT),
        Form("webvtt", ".vtt", "WebVTT", CAPTIONS, _captions(webvtt.write), _cues_agree(webvtt.read_cues),
             loses=_lost(False, True, False, False)),
        Form("ttml", ".ttml", "TTML (IMSC 1.1 text)", CAPTIONS, _captions(ttml.write), _ttml_agrees,
             loses=_lost(False, False, False, False)),
        Form("lrc", ".lrc", "LRC, for sung words", CAPTIONS, _captions(lrc.write), _same_lines_sung, loses=_PLAIN),
        Form("csv", ".csv", "Table, commas", CAPTIONS, _captions(captiontable.write_csv),
             _cues_agree(captiontable.read_cues, plain), loses=_lost(False, True, False, True)),
        Form("tsv", ".tsv", "Table, tabs", CAPTIONS, _captions(captiontable.write_tsv),
             _cues_agree(captiontable.read_cues, plain), loses=_lost(False, True, False, True)),
        Form("text", ".txt", "Plain text", TRANSCRIPT, _document(textdocument.as_text), _found_again(_read_text, _of), True),
        Form("markdown", ".md", "Markdown", TRANSCRIPT, _document(textdocument.as_markdown), _found_again(_read_text, _of), True),
        Form("docx", ".docx", "DOCX", TRANSCRIPT, _document(docx.as_docx), _found_again(docx.text_of_docx, _of), True),
        Form("odt", ".odt", "ODT", TRANSCRIPT, _document(odt.as_odt), _found_again(odt.text_of_odt, _of), True),
        Form("pdf", ".pdf", "PDF", TRANSCRIPT, _pdf, _pdf_agrees, True),
        Form("html", ".html", "HTML", TRANSCRIPT, _document(textdocument.as_html),
             _found_again(lambda path: textdocument.text_of_html(_read_text(path)), _of), True),
        Form("json", ".json", "JSON with the times of every word", TRANSCRIPT, _captions(transcriptjson.write), _same_words(transcriptjson.read)),
        Form("ctm", ".ctm", "Word times for scoring", TRANSCRIPT, _captions(ctm.write), _same_words(ctm.read)),
        Form("rttm", ".rttm", "Who speaks when", TRANSCRIPT, _captions(rttm.write), _passages_agree, each_track=False),
        Form("facing-html", ".html", "Facing columns, HTML", BOTH, _facing_html,
             _facing_agrees(lambda path: textdocument.text_of_html(_read_text(path))), needs="translation"),
        Form("facing-docx", ".docx", "Facing columns, DOCX", BOTH, _facing_docx, _facing_agrees(docx.text_of_docx), needs="translation"),
        Form("facing-pdf", ".pdf", "Facing columns, PDF", BOTH, _facing_pdf,
             _facing_agrees(lambda path: __import__("dubrel.release.pdf", fromlist=["x"]).letters_of_pdf(path), False), needs="translation"),
        Form("tmx", ".tmx", "Translation memory (TMX)", BOTH, _tmx, _tmx_agrees, needs="translation"),
        Form("xliff", ".xlf", "XLIFF", BOTH, _xliff, _xliff_agrees, needs="translation"),
        Form("notes-md", ".md", "Show notes, Markdown", AROUND, lambda source: textdocument.as_markdown(_notes(source)).encode(),
             _found_again(_read_text, _notes), each_track=False),
        Form("notes-html", ".html", "Show notes, HTML", AROUND, lambda source: textdocument.as_html(_notes(source)).encode(),
             _found_again(lambda path: textdocument.text_of_html(_read_text(path)), _notes), each_track=False),
        Form("notes-docx", ".docx", "Show notes, DOCX", AROUND, lambda source: docx.as_docx(_notes(source)),
             _found_again(docx.text_of_docx, _notes), each_track=False),
        Form("chapters-vtt", ".vtt", "Chapters, WebVTT", AROUND, _chapters(as_webvtt), _titles_stand, each_track=False, needs="chapters"),
        Form("chapters-json", ".json", "Chapters, JSON for podcasts", AROUND, _chapters(as_json), _titles_stand, each_track=False, needs="chapters"),
        Form("chapters-txt", ".txt", "Chapters, a list of times", AROUND, _chapters(as_list), _titles_stand, each_track=False, needs="chapters"),
        Form("queries", ".csv", "Queries for a colleague", AROUND, lambda source: queries_csv(source.project).encode(),
             _queries_agree, each_track=False, needs="queries"),
        Form("page", ".html", "Web page with player", AROUND, _webpage, _webpage_agrees, each_track=False),
    )
}  # fmt: skip
GROUPS = (CAPTIONS, TRANSCRIPT, BOTH, AROUND)


def why_not(form: Form, project: Project) -> str:
    """Why there is nothing to write in a form; empty where there is."""
    if not project.transcript.word_count:
        return "There are no words yet. Transcribe the recording first."
    if form.needs == "translation" and not any(not one.spoken and one.captions for one in project.tracks):
        return "There is no translation yet."
    if form.needs == "chapters" and not chapters_of(project):
        return "There are no chapters yet."
    if form.needs == "queries" and not any(one.kind == "Query" for one in project.notes):
        return "There are no queries."
    return ""
