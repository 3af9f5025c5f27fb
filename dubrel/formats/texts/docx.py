"""Documents as Office Open XML (.docx), and their text read back."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import document_form

_PAGES = {"A4": (21.0, 29.7), "Letter": (21.59, 27.94)}
_FONTS = {"serif": "Gentium Plus", "sans": "Inter"}


def as_docx(document: Document) -> bytes:
    """A document with styles, footnotes as notes at the end, right-to-left where it is written so."""
    file = _new(document.options.page, document.options.font, document.options.size, document.title)
    if document.options.title == "yes":
        _directed(file.add_heading(_sound(document.title), 0), document.reads_rtl(document.title))
        if subtitle := document.subtitle:
            _directed(file.add_paragraph(_sound(subtitle), style="Subtitle"), document.reads_rtl(subtitle))
    for block in document.blocks:
        _add(file, block)
    _add_notes(file, document)
    return _bytes(file)


def facing_docx(
    title: str, heads: tuple[str, str], rows: Sequence[tuple[str, str, str]], rtl: tuple[bool, bool]
) -> bytes:
    """Paragraph beside paragraph: who speaks, what is said, the translation."""
    file = _new("A4", "serif", "10", title)
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
    return _bytes(file)


def _new(page: str, font: str, size: str, title: str) -> Any:
    import docx  # late: only for documents
    from docx.shared import Cm, Pt

    file = docx.Document()
    file.core_properties.title = _sound(title)
    wide, high = _PAGES[page]
    for section in file.sections:
        section.page_width, section.page_height = Cm(wide), Cm(high)
        section.left_margin = section.right_margin = Cm(2.5)
    usual = file.styles["Normal"]
    usual.font.name, usual.font.size = _FONTS[font], Pt(float(size))
    return file


def _add(file: Any, block: Block) -> None:
    from docx.shared import RGBColor

    if block.kind == "heading":
        _directed(file.add_heading(_sound(block.text), 1), block.rtl)
        return
    paragraph = file.add_paragraph()
    if lead := block.lead:
        paragraph.add_run(_sound(lead)).bold = True
        paragraph.add_run("\n" if block.speaker else "  ")
    for run in block.set_runs:
        made = paragraph.add_run(_sound(run.text))
        made.font.strike = run.kind == "struck"
        made.font.superscript = run.kind in ("mark", "comma") or None
        made.italic = run.kind in ("note", "doubt") or block.kind == "sound" or None
        if run.kind == "time":
            made.font.color.rgb = RGBColor(0x6B, 0x64, 0x5A)
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
    """What stands in a file: paragraphs and tables in order."""
    import docx

    file = docx.Document(str(path))
    parts = []
    for one in file.iter_inner_content():
        if hasattr(one, "rows"):
            parts += [cell.text for row in one.rows for cell in row.cells]
        else:
            parts.append("".join(run.text for run in one.runs if not run.font.superscript) or one.text)
    return " ".join(" ".join(parts).split())


FORM = document_form("docx", "DOCX", ".docx", as_docx, text_of_docx)
