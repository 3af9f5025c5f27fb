"""Documents as Office Open XML (.docx), and their text read back."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

from dubrel.formats.document import Block, Document

_PAGES = {"A4": (21.0, 29.7), "Letter": (21.59, 27.94)}
_FONTS = {"serif": "Gentium Plus", "sans": "Inter"}


def as_docx(document: Document) -> bytes:
    """A document with styles, footnotes as notes at the end, right-to-left where it is written so."""
    file = _new(document.options.page, document.options.font, document.options.size, document.title)
    if document.options.title == "yes":
        file.add_heading(_sound(document.title), 0)
        if document.subtitle:
            file.add_paragraph(_sound(document.subtitle), style="Subtitle")
    for block in document.blocks:
        _add(file, block)
    _add_notes(file, document.notes)
    return _bytes(file)


def facing_docx(
    title: str, heads: tuple[str, str], rows: Sequence[tuple[str, str, str]], rtl: tuple[bool, bool]
) -> bytes:
    """Paragraph beside paragraph: who speaks, what is said, the translation."""
    from docx.enum.text import WD_ALIGN_PARAGRAPH  # late: only for documents

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
            if nth and rtl[nth - 1]:
                paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT
                _set_rtl(paragraph, run)
    return _bytes(file)


def _new(page: str, font: str, size: str, title: str) -> Any:
    import docx  # late: as above
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
    from docx.enum.text import WD_ALIGN_PARAGRAPH
    from docx.shared import RGBColor

    if block.kind == "heading":
        file.add_heading(_sound(block.text), 1)
        return
    paragraph = file.add_paragraph()
    if lead := block.lead:
        paragraph.add_run(_sound(lead)).bold = True
        paragraph.add_run("\n" if block.speaker else "  ")
    for run in block.runs:
        made = paragraph.add_run(_sound(run.text))
        made.font.strike = run.kind == "struck"
        made.font.superscript = run.kind == "mark" or None
        made.italic = run.kind in ("note", "doubt") or block.kind == "sound" or None
        if run.kind == "time":
            made.font.color.rgb = RGBColor(0x6B, 0x64, 0x5A)
        if block.rtl:
            _set_rtl(paragraph, made)
    if block.rtl:
        paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT


def _set_rtl(paragraph: Any, run: Any) -> None:
    run.font.rtl = True
    properties = paragraph._p.get_or_add_pPr()
    if not properties.xpath("w:bidi"):
        from docx.oxml import OxmlElement

        properties.append(OxmlElement("w:bidi"))


def _add_notes(file: Any, notes: Iterable[str]) -> None:
    for nth, text in enumerate(notes, 1):
        paragraph = file.add_paragraph()
        paragraph.add_run(str(nth)).font.superscript = True
        paragraph.add_run(_sound(f" {text}"))


def _sound(text: str) -> str:
    """A text without what XML cannot hold."""
    return "".join(
        sign
        if sign in "\t\n" or (sign >= " " and not "\ud800" <= sign <= "\udfff" and sign not in "\ufffe\uffff")
        else "�"
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
