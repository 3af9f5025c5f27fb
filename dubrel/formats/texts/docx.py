"""Documents as Office Open XML (.docx), and their text read back."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from dubrel.base.languages import main_tag
from dubrel.base.text import is_rtl
from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import document_form
from dubrel.formats.texts.docxnotes import Footnotes, texts_of_footnotes

_PAGES = {"A4": (21.0, 29.7), "Letter": (21.59, 27.94)}
_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_FONTS = {"serif": "Gentium Plus", "sans": "Inter"}


def as_docx(document: Document) -> bytes:
    """A document with styles, footnotes, right-to-left where it is written so."""
    options = document.options
    file = _new(options.page, options.font, options.size, document.title, document.language)
    feet = Footnotes() if options.notes == "footnotes" and document.notes else None
    if options.title == "yes":
        _directed(file.add_heading(_sound(document.title), 0), document.reads_rtl(document.title))
        if subtitle := document.subtitle:
            _directed(file.add_paragraph(_sound(subtitle), style="Subtitle"), document.reads_rtl(subtitle))
    for block in document.blocks:
        _add(file, block, document, feet)
    if feet is None:
        _add_notes(file, document)
    else:
        feet.put_into(file)
    return _bytes(file)


def facing_docx(
    title: str,
    languages: tuple[str, str],
    heads: tuple[str, str],
    rows: Sequence[tuple[str, str, str]],
    rtl: tuple[bool, bool],
) -> bytes:
    """Paragraph beside paragraph: who speaks, what is said, the translation."""
    file = _new("A4", "serif", "10", title, languages[0])
    file.add_heading(_sound(title), 0)
    table = file.add_table(rows=1, cols=3)
    for cell, text in zip(table.rows[0].cells, ("", *heads)):
        cell.paragraphs[0].add_run(text).bold = True
    for row in rows:
        cells = table.add_row().cells
        for nth, (cell, text) in enumerate(zip(cells, row)):
            paragraph = cell.paragraphs[0]
            run = paragraph.add_run(_sound(text))
            run.bold = nth == 0
            _directed(paragraph, nth > 0 and rtl[nth - 1])
            if nth == 2:
                _say_language(run._r.get_or_add_rPr(), languages[1])
    return _bytes(file)


def _new(page: str, font: str, size: str, title: str, language: str) -> Any:
    import docx  # late: only for documents
    from docx.shared import Cm, Pt

    file = docx.Document()
    for section in file.sections:
        section.page_width, section.page_height = (Cm(side) for side in _PAGES[page])
        section.left_margin = section.right_margin = Cm(2.5)
    file.styles["Normal"].font.size = Pt(float(size))
    for name in ("Normal", "Title", "Subtitle", "Heading 1"):
        _set_type(file.styles[name], _FONTS[font])
    for style in file.styles:
        _for_every_script(style.element)
    _say_language(file.styles.element.find(f".//{_W}rPrDefault/{_W}rPr"), language)
    _say_who_wrote_it(file.core_properties, title, language)
    return file


def _set_type(style: Any, font: str) -> None:
    """The letters of a style, in our ink; those of the theme would go before them."""
    from docx.shared import RGBColor

    style.font.name, style.font.color.rgb = font, RGBColor(0x1F, 0x1C, 0x18)
    fonts = style.element.rPr.rFonts
    for name in ("asciiTheme", "hAnsiTheme"):
        fonts.attrib.pop(_W + name, None)
    border = style.element.find(f"{_W}pPr/{_W}pBdr")
    if border is not None:
        border.getparent().remove(border)


def _for_every_script(style: Any) -> None:
    """Sizes and weights of a style for scripts read from the right too, which have switches of their own."""
    from docx.oxml import OxmlElement

    properties = style.find(f"{_W}rPr")
    for name, twin in (("b", "bCs"), ("i", "iCs"), ("sz", "szCs")):
        one = properties.find(_W + name) if properties is not None else None
        if one is None:
            continue
        for old in properties.findall(_W + twin):
            properties.remove(old)
        made = OxmlElement(f"w:{twin}")
        made.attrib.update(one.attrib)
        one.addnext(made)


def _say_language(properties: Any, language: str) -> None:
    """The language of a text, in the place that its script has; an unknown one is left open."""
    from docx.oxml import OxmlElement

    for old in properties.findall(f"{_W}lang"):
        properties.remove(old)
    if language and language != "und":
        made = OxmlElement("w:lang")
        place = (
            "bidi" if is_rtl(language) else "eastAsia" if main_tag(language) in ("ja", "ko", "zh") else "val"
        )
        made.set(_W + place, language)
        properties.append(made)


def _say_who_wrote_it(properties: Any, title: str, language: str) -> None:
    now = datetime.now(UTC).replace(microsecond=0, tzinfo=None)
    properties.title, properties.language = _sound(title), language
    properties.author = properties.last_modified_by = "Dubrel"
    properties.created = properties.modified = now
    properties.comments, properties.revision = "", 1


def _add(file: Any, block: Block, document: Document, feet: Footnotes | None) -> None:
    from docx.shared import RGBColor

    if block.kind == "heading":
        _directed(file.add_heading(_sound(block.text), 1), block.rtl)
        return
    paragraph = file.add_paragraph()
    if lead := block.lead:
        paragraph.add_run(_sound(lead)).bold = True
        paragraph.add_run("\n" if block.speaker else "  ")
    for run in block.set_runs:
        if run.kind == "mark" and feet is not None:
            text = document.notes[run.note - 1]
            feet.add(paragraph, run.note, _sound(text), document.reads_rtl(text))
            continue
        made = paragraph.add_run(_sound(run.text))
        made.font.strike = run.kind == "struck" or None
        made.font.superscript = run.kind in ("mark", "comma") or None
        made.italic = run.kind in ("note", "doubt") or block.kind == "sound" or None
        if run.kind == "time":
            made.font.color.rgb = RGBColor(0x6B, 0x64, 0x5A)
    for made in paragraph.runs:
        _for_every_script(made._r)
    _directed(paragraph, block.rtl)


def _directed(paragraph: Any, rtl: bool) -> None:
    """Set from the right where it is read so.

    Its side follows from that, and saying it would turn it round.
    """
    if not rtl:
        return
    from docx.oxml import OxmlElement

    paragraph._p.get_or_add_pPr().append(OxmlElement("w:bidi"))
    for run in paragraph.runs:
        run.font.rtl = True


def _add_notes(file: Any, document: Document) -> None:
    for nth, text in enumerate(document.notes, 1):
        paragraph = file.add_paragraph()
        paragraph.add_run(str(nth)).font.superscript = True
        paragraph.add_run(_sound(f" {text}"))
        _directed(paragraph, document.reads_rtl(text))


def _sound(text: str) -> str:
    """A text without what XML cannot hold."""
    return "".join(
        (
            sign
            if sign in "\t\n"
            or (sign >= " " and not "\ud800" <= sign <= "\udfff" and sign not in "\ufffe\uffff")
            else "�"
        )
        for sign in text
    )


def _bytes(file: Any) -> bytes:
    made = io.BytesIO()
    file.save(made)
    return made.getvalue()


def text_of_docx(path: Path) -> str:
    """What stands in a file: paragraphs and tables in order, then its footnotes."""
    import docx

    file = docx.Document(str(path))
    parts = []
    for one in file.iter_inner_content():
        if hasattr(one, "rows"):
            parts += [cell.text for row in one.rows for cell in row.cells]
        else:
            parts.append("".join(run.text for run in one.runs if not run.font.superscript) or one.text)
    return " ".join(" ".join([*parts, *texts_of_footnotes(file)]).split())


FORM = document_form("docx", "DOCX", ".docx", as_docx, text_of_docx)
