"""Documents as PDF: a page of HTML, set in pages by a library, with tags, a language and an outline."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from html import escape
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.text import reads_rtl
from dubrel.film.fontfiles import fallbacks, font_file
from dubrel.formats.shared.agreement import document_agrees, holds
from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import BOTH, TRANSCRIPT, Content, Form
from dubrel.formats.texts.bilingual import heads, right_to_left, tags

_FAMILIES = {"serif": "Gentium Plus", "sans": "Inter"}
_FOOT_MM = 22  # below the text: numbers of pages
_STYLE = """
@page {{ size: {page}; margin: 22mm 25mm {foot}mm; @bottom-center {{ content: counter(page);
    font: 9pt text; color: #6b645a }} @footnote {{ border-top: .4pt solid #8a8378; padding-top: 3pt }} }}
@font-face {{ font-family: text; font-weight: 400; src: url({regular}) }}
@font-face {{ font-family: text; font-weight: 700; src: url({bold}) }}
body {{ margin: 0; font: {size}pt/1.38 text, sans-serif; color: #1f1c18; overflow-wrap: anywhere }}
h1 {{ font-size: 1.7em; line-height: 1.2; margin: 0 0 .2em; bookmark-level: none }}
h2 {{ font-size: 1.2em; margin: 1em 0 .4em; bookmark-level: 1; break-after: avoid }}
p {{ margin: 0 0 .75em; orphans: 2; widows: 2; white-space: pre-line }}
.sub, .sound, .note, .time {{ color: #6b645a }}
.sub {{ margin-bottom: 1.4em }}
.lead {{ display: block; font-weight: 700; font-size: .92em; break-after: avoid }}
.lead.bare {{ font-weight: 400 }}
.time {{ font-size: .85em }}
s {{ color: #6b645a }}
u {{ text-decoration-thickness: .06em }}
sup {{ font-size: .65em; line-height: 1; vertical-align: super }}
.foot {{ float: footnote; font-size: .85em; line-height: 1.3 }}
.end {{ font-size: .85em }}
hr {{ border: 0; border-top: .4pt solid #8a8378; width: 40mm; margin: 1.4em 0 .6em; margin-inline-start: 0 }}
table {{ width: 100%; table-layout: fixed; border-spacing: 0 }}
td, th {{ width: 50%; vertical-align: top; text-align: start; padding: 0 0 .5em }}
td + td, th + th {{ padding-inline-start: 8mm }}
"""


def as_pdf(document: Document) -> bytes:
    """A document as pages; letters that no font on this machine has show as boxes."""
    options = document.options
    parts = []
    if options.title == "yes":
        parts.append(_tagged("h1", document.title, rtl=document.reads_rtl(document.title)))
        if subtitle := document.subtitle:
            parts.append(_tagged("p", subtitle, "sub", rtl=document.reads_rtl(subtitle)))
    parts += [_block(block, document) for block in document.blocks]
    if options.notes == "end" and document.notes:
        parts.append("<hr>")
        parts += [
            _tagged("p", f"{nth}  {text}", "end", rtl=document.reads_rtl(text))
            for nth, text in enumerate(document.notes, 1)
        ]
    size = float(options.size)
    return _pages(document.title, document.language, parts, options.page, options.font, size)


def facing_pdf(
    title: str,
    languages: tuple[str, str],
    heads: tuple[str, str],
    rows: Sequence[tuple[str, str, str]],
    rtl: tuple[bool, bool],
) -> bytes:
    """Paragraph beside paragraph: who speaks, what is said, the translation."""
    ways = [
        f" lang={_quoted(language)} dir={'rtl' if way else 'ltr'}" for language, way in zip(languages, rtl)
    ]

    def row(name: str, texts: Iterable[str], cell: str) -> str:
        cells = "".join(f"<{cell}{way}>{_safe(text)}</{cell}>" for way, text in zip(ways, texts))
        lead = f"<p class=lead{_way(reads_rtl(name, 'en'))}>{_safe(name)}</p>" if name else ""
        return f"{lead}<table><tr>{cells}</tr></table>"

    parts = [_tagged("h1", title, rtl=reads_rtl(title, "en")), row("", heads, "th")]
    parts += [row(name, texts, "td") for name, *texts in rows]
    return _pages(title, languages[0], parts, "A4", "serif", 9.5)


def pages_of(text: str) -> bytes:
    """A page of HTML as the pages of a PDF; nothing but files of fonts is fetched for it.

    Raises
    ------
    FormatError
        If the libraries that set text are not installed.
    """
    try:
        from weasyprint import HTML  # late: only for PDF
        from weasyprint.text.fonts import FontConfiguration
    except OSError as error:  # it looks for its libraries when it is loaded
        raise FormatError(
            tr(
                "PDF needs the libraries of Pango, which are not installed. Type: apt-get install "
                "libpango-1.0-0"
                " libpangoft2-1.0-0"
            )
        ) from error
    fonts = FontConfiguration()
    made = HTML(string=text, url_fetcher=_fonts_alone()).write_pdf(font_config=fonts, pdf_variant="pdf/ua-1")
    return bytes(made)


def faces(font: str) -> list[str]:
    """Where the shipped files of a font lie, regular and bold, as a style sheet names them."""
    return [font_file(_FAMILIES[font], weight)[0].as_uri() for weight in (400, 700)]


def _pages(title: str, language: str, parts: Sequence[str], page: str, font: str, size: float) -> bytes:
    files = faces(font)
    style = _STYLE.format(page=page, foot=_FOOT_MM, size=size, regular=files[0], bold=files[1])
    spoken = f" lang={_quoted(language)}" if language != "und" else ""
    return pages_of(
        f"<!DOCTYPE html><html{spoken}><head><meta charset=utf-8><title>{_safe(title)}"
        f"</title><style>{style}</style></head><body>{''.join(parts)}</body></html>"
    )


def _fonts_alone() -> Any:
    """What fetches for the library: files of fonts, and nothing from anywhere else."""
    from weasyprint.urls import URLFetcher

    return URLFetcher(allowed_protocols=["file"], allow_redirects=False)


def _block(block: Block, document: Document) -> str:
    inner = "".join(_run(run.text, run.kind, run.note, document) for run in block.set_runs).strip()
    way = _way(block.rtl)
    if block.kind == "heading":
        return f"<h2{way}>{inner}</h2>"
    bare = "" if block.speaker else " bare"
    lead = f'<span class="lead{bare}">{_safe(block.lead)}</span>' if block.lead else ""
    return f"<p{' class=sound' if block.kind == 'sound' else ''}{way}>{lead}{inner}</p>"


def _run(text: str, kind: str, note: int, document: Document) -> str:
    if kind == "mark" and document.options.notes == "footnotes":
        said = document.notes[note - 1]
        return f"<span class=foot{_way(document.reads_rtl(said))}>{_safe(said)}</span>"
    if kind == "line":
        return "<br>"
    before, after = {
        "mark": ("<sup>", "</sup>"),
        "comma": ("<sup>", "</sup>"),
        "struck": ("<s>", "</s>"),
        "doubt": ("<u>", "</u>"),
        "time": ("<span class=time>", "</span>"),
        "note": ("<span class=note>", "</span>"),
    }.get(kind, ("", ""))
    space = text[: len(text) - len(text.lstrip(" "))]
    return f"{space}{before}{_safe(text[len(space) :])}{after}"


def _tagged(name: str, text: str, kind: str = "", *, rtl: bool) -> str:
    return f"<{name}{f' class={kind}' if kind else ''}{_way(rtl)}>{_safe(text)}</{name}>"


def _way(rtl: bool) -> str:
    return f" dir={'rtl' if rtl else 'ltr'}"


def _quoted(text: str) -> str:
    return f'"{escape(text, True)}"'


def _safe(text: str) -> str:
    text = unicodedata.normalize("NFC", text)
    fit = (sign if sign >= " " and not "\ud800" <= sign <= "\udfff" else " " for sign in text)
    return escape("".join(fit), quote=False)


def letters_without_font(document: Document) -> str:
    """Letters of a document that no font on this machine has."""
    return missing_in(_all_text(document), document.options.font)


def missing_in(text: str, font: str = "serif") -> str:
    """Letters of a text that no font on this machine has."""
    return fallbacks(_FAMILIES[font], text).missing


def _all_text(document: Document) -> str:
    parts = [document.title, document.subtitle, *document.notes]
    parts += [part for block in document.blocks for part in (block.lead, *(run.text for run in block.runs))]
    return unicodedata.normalize("NFC", " ".join(parts))


def letters_of_pdf(path: Path) -> str:
    """The letters and digits of a file in the order in which they stand in it, without numbers of pages."""
    import pypdfium2  # late: only to read back

    foot = _FOOT_MM / 25.4 * 72
    file = pypdfium2.PdfDocument(str(path))
    try:
        text = "".join(page.get_textpage().get_text_bounded(bottom=foot) for page in file)
    finally:
        file.close()
    return "".join(sign for sign in text if sign.isalnum())


def _agrees(content: Content, path: Path) -> bool:
    """In order; with notes at the foot of pages, or read from the right, every letter in any order."""
    document, found = content.document, letters_of_pdf(path)
    missing = letters_without_font(document)
    parts = document.said_with(marks=True)
    feet = document.options.notes == "footnotes" and document.notes
    if missing or feet or any(block.rtl for block in document.blocks):
        return holds(found, parts, missing)
    return document_agrees(found, document, marks=True)


def _facing(content: Content) -> bytes:
    return facing_pdf(
        content.original.title, tags(content), heads(content), content.facing, right_to_left(content)
    )


def _facing_agrees(content: Content, path: Path) -> bool:
    parts = [part for row in content.facing for part in row]
    return holds(letters_of_pdf(path), parts, missing_in("".join(parts)))


def boxes(missing: str) -> str:
    """That letters have no font, in a sentence; empty for none."""
    if not missing:
        return ""
    shown = " ".join(sorted(missing, key=lambda sign: not sign.isalnum())[:5])
    return counted(
        len(missing),
        "letter ({shown}) has no font on this machine and would show as a box. Install a font for it.",
        "letters ({shown}) have no font on this machine and would show as boxes. Install a font for them.",
        shown=shown + " …" * (len(missing) > 5),
    )


FORMS = (
    Form(
        id="pdf",
        label="PDF",
        suffixes=(".pdf",),
        group=TRANSCRIPT,
        write=lambda content: as_pdf(content.document),
        agrees=_agrees,
        warns=lambda content: boxes(letters_without_font(content.document)),
        document=lambda content: content.document,
        text=True,
    ),
    Form(
        id="facing-pdf",
        label="Facing columns, PDF",
        suffixes=(".pdf",),
        group=BOTH,
        write=_facing,
        agrees=_facing_agrees,
        needs="translation",
    ),
)
