"""Every form that a deliverable can have: how it is written, what it needs and what it cannot hold. A new one is a row."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from dubrel.base.text import counted, language_name
from dubrel.formats import (
    captiontable,
    ctm,
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
from dubrel.formats.chapters import Chapter, as_json, as_list, as_webvtt, chapters_of
from dubrel.formats.document import Document
from dubrel.formats.shownotes import queries_csv, show_notes
from dubrel.formats.stlletters import has_letters
from dubrel.media.fontfiles import SHIPPED, fallbacks
from dubrel.model import Project
from dubrel.project.captiontext import shown_captions
from dubrel.release.losses import said_of
from dubrel.release.readback import READ_BACK, right_to_left
from dubrel.release.source import Source


def _nothing(source: Source) -> str:
    return ""


@dataclass(frozen=True)
class Form:
    """A form.

    Attributes
    ----------
    id, suffix, label, group : str
    write : callable
        ``Source -> bytes``; how it is read back stands in :mod:`dubrel.release.readback`.
    text : bool
        Whether it takes the options of texts.
    each_track : bool
        Whether there is one for each language that is wished.
    needs : {"", "translation", "chapters", "queries", "notes", "film", "media", "captions"}
    loses : callable
        ``Source -> parts of a sentence``: what it cannot hold.
    warns : callable
        ``Source -> sentence``: what will not look as it should on this machine.
    writes : callable
        ``language -> bool``: whether it has letters for a language.
    film : {"", "burn", "sound", "inside", "chapters"}
        Made in a process of its own; see :mod:`dubrel.release.films`. Its suffix is
        that of the recording where it has none.
    """

    id: str
    suffix: str
    label: str
    group: str
    write: Callable[[Source], bytes]
    text: bool = False
    each_track: bool = True
    needs: str = ""
    loses: Callable[[Source], list[str]] = lambda source: []
    warns: Callable[[Source], str] = _nothing
    writes: Callable[[str], bool] = lambda language: True
    film: str = ""

    def agrees(self, source: Source, path: Path) -> bool:
        """Whether a file says what was meant; films are read back where they are made."""
        return bool(self.film) or READ_BACK[self.id](source, path)


# -- made --------------------------------------------------------------------------------------


def _project(write: Callable[[Project], str | bytes]) -> Callable[[Source], bytes]:
    return lambda source: _bytes(write(source.project))


def _document(write: Callable[[Document], str | bytes]) -> Callable[[Source], bytes]:
    return lambda source: _bytes(write(source.document))


def _notes(write: Callable[[Document], str | bytes]) -> Callable[[Source], bytes]:
    return lambda source: _bytes(write(show_notes(source.project, source.options)))


def _bytes(data: str | bytes) -> bytes:
    return data.encode("utf-8") if isinstance(data, str) else data


def _pdf(source: Source) -> bytes:
    from dubrel.release.pdf import as_pdf  # late: only for PDF

    return as_pdf(source.document)


def _pdf_warning(source: Source) -> str:
    from dubrel.release.pdf import letters_without_font

    return _boxes(letters_without_font(source.document))


def _film_warning(source: Source) -> str:
    project = source.project
    track = project.captions
    family = track.look.font if track and track.look.font in SHIPPED else "Inter"
    text = "".join(line for _, text in shown_captions(project, track) for line in text.lines)
    return _boxes(fallbacks(family, text).missing)


def _boxes(missing: str) -> str:
    if not missing:
        return ""
    shown = " ".join(sorted(missing, key=lambda sign: not sign.isalnum())[:5])
    have = "has" if len(missing) == 1 else "have"
    return (
        f"{counted(len(missing), 'letter')} ({shown}{' …' * (len(missing) > 5)}) {have} no font on this machine "
        "and would show as boxes. Install a font for them."
    )


def _heads(source: Source) -> tuple[str, str]:
    return language_name(source.original.transcript.language), language_name(source.language)


def _facing_html(source: Source) -> bytes:
    from dubrel.formats.bilingual import facing_html

    tags = (source.original.transcript.language, source.language)
    page = facing_html(source.original.title, tags, _heads(source), source.facing, right_to_left(source))
    return page.encode("utf-8")


def _facing_docx(source: Source) -> bytes:
    return docx.facing_docx(source.original.title, _heads(source), source.facing, right_to_left(source))


def _facing_pdf(source: Source) -> bytes:
    from dubrel.release.pdf import facing_pdf

    return facing_pdf(source.original.title, _heads(source), source.facing, right_to_left(source))


def _tmx(source: Source) -> bytes:
    from dubrel.formats.tmx import write_tmx

    rows = [(one, other) for one, other, _ in source.pairs]
    return write_tmx(rows, source.original.transcript.language, source.language)


def _xliff(source: Source) -> bytes:
    from dubrel.formats.bilingual import xliff

    tags = (source.original.transcript.language, source.language)
    return xliff(source.original.title, *tags, source.pairs).encode("utf-8")


def _chapters(write: Callable[[list[Chapter]], str]) -> Callable[[Source], bytes]:
    return lambda source: write(chapters_of(source.project)).encode("utf-8")


def _webpage(source: Source) -> bytes:
    from dubrel.release.webpage import web_page  # late: only for the page

    return web_page(source).encode("utf-8")


def _fragment(source: Source) -> bytes:
    from dubrel.release.webpage import fragment

    return fragment(source).encode("utf-8")


def _webpage_lost(source: Source) -> list[str]:
    from dubrel.release.webpage import kept_outside

    return kept_outside(source)


def _none(source: Source) -> bytes:
    return b""


# -- the register ----------------------------------------------------------------------------------

CAPTIONS, TRANSCRIPT, BOTH, AROUND, FILM = (
    "Captions",
    "Transcript",
    "Both languages",
    "Around it",
    "Film and sound",
)


def _caption(id: str, suffix: str, label: str, write: Callable[[Project], str | bytes]) -> Form:
    return Form(id, suffix, label, CAPTIONS, _project(write), loses=partial(said_of, id))


def _text(id: str, suffix: str, label: str, write: Callable[[Source], bytes]) -> Form:
    return Form(id, suffix, label, TRANSCRIPT, write, text=True)


def _both(id: str, suffix: str, label: str, write: Callable[[Source], bytes]) -> Form:
    return Form(id, suffix, label, BOTH, write, needs="translation")


def _around(id: str, suffix: str, label: str, write: Callable[[Source], bytes], needs: str = "") -> Form:
    return Form(id, suffix, label, AROUND, write, each_track=False, needs=needs)


def _page(id: str, label: str, write: Callable[[Source], bytes]) -> Form:
    return Form(id, ".html", label, AROUND, write, each_track=False, loses=_webpage_lost)


def _film(id: str, suffix: str, label: str, needs: str, kind: str, each_track: bool = False) -> Form:
    warns = _film_warning if kind in ("burn", "sound") else _nothing
    return Form(id, suffix, label, FILM, _none, each_track=each_track, needs=needs, film=kind, warns=warns)


FORMS: dict[str, Form] = {
    form.id: form
    for form in (
        _caption("srt", ".srt", "SubRip", srt.write),
        _caption("webvtt", ".vtt", "WebVTT", webvtt.write),
        _caption("ttml", ".ttml", "TTML (IMSC 1.1 text)", ttml.write),
        replace(_caption("stl", ".stl", "EBU STL", stl.write), writes=has_letters),
        _caption("lrc", ".lrc", "LRC, for sung words", lrc.write),
        _caption("csv", ".csv", "Table, commas", captiontable.write_csv),
        _caption("tsv", ".tsv", "Table, tabs", captiontable.write_tsv),
        _text("text", ".txt", "Plain text", _document(textdocument.as_text)),
        _text("markdown", ".md", "Markdown", _document(textdocument.as_markdown)),
        _text("docx", ".docx", "DOCX", _document(docx.as_docx)),
        _text("odt", ".odt", "ODT", _document(odt.as_odt)),
        replace(_text("pdf", ".pdf", "PDF", _pdf), warns=_pdf_warning),
        _text("html", ".html", "HTML", _document(textdocument.as_html)),
        Form(
            "json", ".json", "JSON with the times of every word", TRANSCRIPT, _project(transcriptjson.write)
        ),
        Form("ctm", ".ctm", "Word times for scoring", TRANSCRIPT, _project(ctm.write)),
        Form("rttm", ".rttm", "Who speaks when", TRANSCRIPT, _project(rttm.write), each_track=False),
        _both("facing-html", ".html", "Facing columns, HTML", _facing_html),
        _both("facing-docx", ".docx", "Facing columns, DOCX", _facing_docx),
        _both("facing-pdf", ".pdf", "Facing columns, PDF", _facing_pdf),
        _both("tmx", ".tmx", "Translation memory (TMX)", _tmx),
        _both("xliff", ".xlf", "XLIFF", _xliff),
        _around("notes-md", ".md", "Show notes, Markdown", _notes(textdocument.as_markdown)),
        _around("notes-html", ".html", "Show notes, HTML", _notes(textdocument.as_html)),
        _around("notes-docx", ".docx", "Show notes, DOCX", _notes(docx.as_docx)),
        _around("chapters-vtt", ".vtt", "Chapters, WebVTT", _chapters(as_webvtt), "chapters"),
        _around("chapters-json", ".json", "Chapters, JSON for podcasts", _chapters(as_json), "chapters"),
        _around("chapters-txt", ".txt", "Chapters, a list of times", _chapters(as_list), "chapters"),
        _around("queries", ".csv", "Queries for a colleague", _project(queries_csv), "queries"),
        _page("page", "Web page with player", _webpage),
        _page("fragment", "Web page, a piece to embed", _fragment),
        _film("film", ".mp4", "Film, captions burned in", "film", "burn", each_track=True),
        _film("film-inside-mp4", ".mp4", "Film with caption tracks, MP4", "film", "inside"),
        _film("film-inside-mkv", ".mkv", "Film with caption tracks, MKV", "media", "inside"),
        _film("film-sound", ".mp4", "Film of the sound, with captions", "sound", "sound", each_track=True),
        _film("media-chapters", "", "Recording with chapters inside", "media-chapters", "chapters"),
    )
}
GROUPS = (CAPTIONS, TRANSCRIPT, BOTH, AROUND, FILM)


def why_not(form: Form, project: Project) -> str:
    """Why there is nothing to write in a form; empty where there is."""
    if not project.transcript.word_count:
        return "There are no words yet. Transcribe the recording first."
    if all(word.struck for turn in project.transcript.turns for word in turn.words):
        return "Every word is struck."
    if not any(map(form.writes, (project.transcript.language, *(one.language for one in project.tracks)))):
        return f"{form.label} has no letters for this language. Choose TTML or WebVTT."
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
