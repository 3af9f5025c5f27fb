"""Every form that a deliverable can have: how it is written, read back, and what it cannot hold. A new one is a row."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Sequence
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
from dubrel.formats.inline import key_of_settings, settings_of_key, taken_apart
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
    film : {"", "burn", "sound", "inside", "chapters"}
        Made in a process of its own; see :mod:`dubrel.release.films`. Its suffix is
        that of the recording where it has none.
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
    film: str = ""


# -- captions ----------------------------------------------------------------------------------


def _captions(write: Callable[[Project], str]) -> Callable[[Source], bytes]:
    return lambda source: write(source.project).encode("utf-8")


def _cues_agree(
    read: Callable[[Path], tuple[list[Cue], list[str]]],
    as_read: Callable[[Sequence[str]], list[str]] = list,
) -> Callable[[Source, Path], bool]:
    """Whether the cues of a file say what the captions show, line by line, at the same times."""

    def verify(source: Source, path: Path) -> bool:
        project = source.project
        cues = [(one.start_ms, one.end_ms, list(one.lines)) for one in read(path)[0]]
        wanted = [
            (one.start_ms, one.end_ms, [*filter(None, map(str.strip, as_read(text.lines)))])
            for one, text in shown_captions(project, project.captions)
        ]
        wanted = [one for one in wanted if one[2]]
        return cues == wanted

    return verify


def _without_tags(lines: Sequence[str]) -> list[str]:
    """Lines as a form reads them that cannot tell a tag from words that look like one."""
    return [row.text for row in taken_apart(lines).rows]


def _spaced(lines: Sequence[str]) -> list[str]:
    return [" ".join(line.split()) for line in lines]


def _same_lines_sung(source: Source, path: Path) -> bool:
    found = [line for cue in lrc.read_cues(path)[0] for line in cue.lines]
    project = source.project
    lines = [line for _, text in shown_captions(project, project.captions) for line in text.lines]
    return found == [row for line in lines for row in _without_tags([lrc.sung(line)])]


def _ttml_agrees(source: Source, path: Path) -> bool:
    """Where captions lie over each other, a reader shows them together: then the words alone are compared."""
    if _cues_agree(ttml.read_cues, _spaced)(source, path):
        return True
    said = " ".join(line for cue in ttml.read_cues(path)[0] for line in cue.lines)
    project = source.project
    [said] = _spaced([said])
    return all(
        line in said for _, text in shown_captions(project, project.captions) for line in _spaced(text.lines)
    )


def _lost(
    place: str = "", look: bool = False, speakers: bool = False, styles: bool = False, tags: bool = False
) -> Callable[[Source], list[str]]:
    """What a form of captions cannot hold, counted; ``place`` is ``all``, or ``exact`` where nine places are held."""

    def said(source: Source) -> list[str]:
        track = source.project.captions
        captions = track.captions if track else ()
        found = []
        places = [one.place for one in captions if one.place]
        if place == "exact":
            places = [one for one in places if settings_of_key(key_of_settings(one)) != one]
        if place and places:
            exact = "exact " if place == "exact" else ""
            found.append(f"the {exact}place of {counted(len(places), 'caption')}")
        if look and track and (track.looks or track.look != type(track.look)()):
            found.append("the look")
        if speakers and len(source.project.transcript.speakers) > 1:
            found.append("who speaks")
        if styles and (count := sum(bool(one.styled) for one in captions)):
            found.append(f"italics in {counted(count, 'caption')}")
        if tags and (count := _tag_like(source)):
            found.append(f"words that look like tags in {counted(count, 'caption')}")
        return found

    return said


def _tag_like(source: Source) -> int:
    project = source.project
    shown = shown_captions(project, project.captions) if project.captions else ()
    return sum(_without_tags(text.lines) != [*map(str.strip, text.lines)] for _, text in shown)


# -- texts -------------------------------------------------------------------------------------


def _document(write: Callable[[Document], str | bytes]) -> Callable[[Source], bytes]:
    def made(source: Source) -> bytes:
        data = write(source.document)
        return data.encode("utf-8") if isinstance(data, str) else data

    return made


def _letters(text: str) -> str:
    return "".join(sign for sign in text if sign.isalnum())


def _found_again(
    read: Callable[[Path], str], document: Callable[[Source], Document], marks: bool = False
) -> Callable[[Source, Path], bool]:
    """Whether all that was to be said is in a file, in order; ``marks`` of notes too where they are text."""

    def verify(source: Source, path: Path) -> bool:
        text, at = _letters(read(path)), 0
        meant = document(source)
        notes = [" ".join(one.split()) for one in meant.notes]
        for one in meant.said_with(marks=marks):
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


def _fragment(source: Source) -> bytes:
    from dubrel.release.webpage import fragment

    return fragment(source).encode("utf-8")


def _fragment_agrees(source: Source, path: Path) -> bool:
    from dubrel.release.webpage import page_in

    text = _letters(textdocument.text_of_html(page_in(path.read_text(encoding="utf-8"))))
    return all(_letters(block.text) in text for block in source.document.blocks)


def _webpage_lost(source: Source) -> list[str]:
    from dubrel.release.webpage import kept_outside

    return kept_outside(source)


def _webpage_agrees(source: Source, path: Path) -> bool:
    text = _letters(textdocument.text_of_html(path.read_text(encoding="utf-8")))
    return all(_letters(block.text) in text for block in source.document.blocks)


_SRT = _lost(place="exact", look=True, speakers=True, tags=True)
_PLAIN = _lost(place="all", look=True, speakers=True, styles=True, tags=True)
_TABLE = _lost(look=True, styles=True, tags=True)
CAPTIONS, TRANSCRIPT, BOTH, AROUND, FILM = (
    "Captions",
    "Transcript",
    "Both languages",
    "Around it",
    "Film and sound",
)


def _none(source: Source) -> bytes:
    return b""


def _always(source: Source, path: Path) -> bool:
    return True


FORMS: dict[str, Form] = {
    form.id: form
    for form in (
        Form("srt", ".srt", "SubRip", CAPTIONS, _captions(srt.write), _cues_agree(srt.read_cues, _without_tags), loses=_SRT),
        Form("webvtt", ".vtt", "WebVTT", CAPTIONS, _captions(webvtt.write), _cues_agree(webvtt.read_cues)),
        Form("ttml", ".ttml", "TTML (IMSC 1.1 text)", CAPTIONS, _captions(ttml.write), _ttml_agrees, loses=_lost(place="exact")),
        Form("lrc", ".lrc", "LRC, for sung words", CAPTIONS, _captions(lrc.write), _same_lines_sung, loses=_PLAIN),
        Form("csv", ".csv", "Table, commas", CAPTIONS, _captions(captiontable.write_csv),
             _cues_agree(captiontable.read_cues, _without_tags), loses=_TABLE),
        Form("tsv", ".tsv", "Table, tabs", CAPTIONS, _captions(captiontable.write_tsv),
             _cues_agree(captiontable.read_cues, _without_tags), loses=_TABLE),
        Form("text", ".txt", "Plain text", TRANSCRIPT, _document(textdocument.as_text), _found_again(_read_text, _of, True), True),
        Form("markdown", ".md", "Markdown", TRANSCRIPT, _document(textdocument.as_markdown), _found_again(_read_text, _of, True), True),
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
             _found_again(_read_text, _notes, True), each_track=False),
        Form("notes-html", ".html", "Show notes, HTML", AROUND, lambda source: textdocument.as_html(_notes(source)).encode(),
             _found_again(lambda path: textdocument.text_of_html(_read_text(path)), _notes), each_track=False),
        Form("notes-docx", ".docx", "Show notes, DOCX", AROUND, lambda source: docx.as_docx(_notes(source)),
             _found_again(docx.text_of_docx, _notes), each_track=False),
        Form("chapters-vtt", ".vtt", "Chapters, WebVTT", AROUND, _chapters(as_webvtt), _titles_stand, each_track=False, needs="chapters"),
        Form("chapters-json", ".json", "Chapters, JSON for podcasts", AROUND, _chapters(as_json), _titles_stand, each_track=False, needs="chapters"),
        Form("chapters-txt", ".txt", "Chapters, a list of times", AROUND, _chapters(as_list), _titles_stand, each_track=False, needs="chapters"),
        Form("queries", ".csv", "Queries for a colleague", AROUND, lambda source: queries_csv(source.project).encode(),
             _queries_agree, each_track=False, needs="queries"),
        Form("page", ".html", "Web page with player", AROUND, _webpage, _webpage_agrees, each_track=False, loses=_webpage_lost),
        Form("fragment", ".html", "Web page, a piece to embed", AROUND, _fragment, _fragment_agrees, each_track=False, loses=_webpage_lost),
        Form("film", ".mp4", "Film, captions burned in", FILM, _none, _always, needs="film", film="burn"),
        Form("film-inside-mp4", ".mp4", "Film with caption tracks, MP4", FILM, _none, _always, each_track=False, needs="film", film="inside"),
        Form("film-inside-mkv", ".mkv", "Film with caption tracks, MKV", FILM, _none, _always, each_track=False, needs="media", film="inside"),
        Form("film-sound", ".mp4", "Film of the sound, with captions", FILM, _none, _always, needs="sound", film="sound"),
        Form("media-chapters", "", "Recording with chapters inside", FILM, _none, _always, each_track=False, needs="media-chapters", film="chapters"),
    )
}  # fmt: skip
GROUPS = (CAPTIONS, TRANSCRIPT, BOTH, AROUND, FILM)


def why_not(form: Form, project: Project) -> str:
    """Why there is nothing to write in a form; empty where there is."""
    if not project.transcript.word_count:
        return "There are no words yet. Transcribe the recording first."
    if form.needs == "translation" and not any(not one.spoken and one.captions for one in project.tracks):
        return "There is no translation yet."
    if form.needs == "chapters" and not chapters_of(project):
        return "There are no chapters yet."
    media = project.media
    if form.film and (media is None or not Path(media.path).is_file()):
        return "The recording is not here. Texts can be written without it."
    if form.needs == "film" and media and not media.has_video:
        return "The recording has no picture."
    if form.needs == "sound" and media and (media.has_video or not media.has_audio):
        return "This is for recordings without a picture."
    if form.needs == "media-chapters":
        if not chapters_of(project):
            return "There are no chapters yet."
        if media and Path(media.path).suffix.lower() not in (
            ".mp4",
            ".m4v",
            ".m4a",
            ".mkv",
            ".mka",
            ".mp3",
            ".mov",
        ):
            return "Files of that form cannot hold chapters. MP4, M4A, MP3 and MKV can."
    if form.needs == "queries" and not any(one.kind == "Query" for one in project.notes):
        return "There are no queries."
    return ""
