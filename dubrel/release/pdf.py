"""Documents as PDF with their fonts inside; shaped only where the script needs it."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dubrel.base.text import counted, reads_rtl
from dubrel.film.fontfiles import fallbacks, font_file
from dubrel.formats.shared.agreement import document_agrees, holds
from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import BOTH, TRANSCRIPT, Content, Form
from dubrel.formats.texts.bilingual import heads, right_to_left

_FAMILIES = {"serif": "Gentium Plus", "sans": "Inter"}
_INK, _QUIET = (31, 28, 24), (107, 100, 90)
_LEADING, _MARGIN = 1.38, 25.0  # of the letters' height; mm
_SIMPLE = re.compile(
    r"[\u0000-\u02ff\u0370-\u058f\u1e00-\u2bff\u2e00-\u9fff\uac00-\ud7a3\uf900-\ufaff\ufe30-\uffef]*"
)


def as_pdf(document: Document) -> bytes:
    """A document as pages; letters that no font on this machine has show as boxes."""
    pdf = _Pages(
        document.options.page, document.options.font, float(document.options.size), _all_text(document)
    )
    pdf.title(document)
    for block in document.blocks:
        pdf.block(block)
    pdf.notes(document.notes)
    return pdf.bytes()


def facing_pdf(
    title: str, heads: tuple[str, str], rows: Sequence[tuple[str, str, str]], rtl: tuple[bool, bool]
) -> bytes:
    """Paragraph beside paragraph: who speaks, what is said, the translation."""
    pdf = _Pages("A4", "serif", 9.5, " ".join(text for row in rows for text in row) + title + " ".join(heads))
    pdf.facing(title, heads, rows, rtl)
    return pdf.bytes()


def letters_without_font(document: Document) -> str:
    """Letters of a document that no font on this machine has."""
    return missing_in(_all_text(document), document.options.font)


def missing_in(text: str, font: str = "serif") -> str:
    """Letters of a text that no font on this machine has."""
    return fallbacks(_FAMILIES[font], text).missing


def shaped(text: str) -> bool:
    """Whether a script joins or reorders its letters."""
    return _SIMPLE.fullmatch(composed(text)) is None


def _all_text(document: Document) -> str:
    parts = [document.title, document.subtitle, *document.notes]
    parts += [part for block in document.blocks for part in (block.lead, *(run.text for run in block.runs))]
    return composed(" ".join(parts))


class _Pages:
    """Puts blocks on pages."""

    def __init__(self, page: str, font: str, size: float, text: str) -> None:
        import logging

        from fpdf import FPDF  # late: only for PDF

        logging.getLogger("fontTools").setLevel(logging.ERROR)  # tables of fonts that it leaves out

        self.pdf: Any = FPDF(format=page)
        self.size, self.high = size, size * 0.3528 * _LEADING
        family = _FAMILIES[font]
        for style, weight in (("", 400), ("B", 700)):
            self.pdf.add_font("text", style, str(font_file(family, weight)[0]))
        self._fall_back(family, text)
        self.pdf.set_margin(_MARGIN)
        self.pdf.set_auto_page_break(True, 22)
        self.pdf.alias_nb_pages("")
        self.pdf.add_page()
        self.pdf.set_font("text", size=size)
        self.pdf.set_text_color(*_INK)
        self._shaped = False

    def _fall_back(self, family: str, text: str) -> None:
        """Other fonts for the letters that the family has not."""
        names = []
        for nth, path in enumerate(fallbacks(family, text).files):
            names.append(f"other{nth}")
            for style in ("", "B"):
                self.pdf.add_font(names[-1], style, str(path))
        if names:
            self.pdf.set_fallback_fonts(names, exact_match=False)

    def _shape(self, text: str) -> None:
        """Shape where the script joins or reorders its letters, and nowhere else: it takes its time."""
        # fpdf2 takes a font that stood in at the end of the last text for the one that is set now
        self.pdf.current_font_is_set_on_page = False
        wanted = shaped(text)
        if wanted != self._shaped:
            self.pdf.set_text_shaping(wanted)
            self._shaped = wanted

    def _line(
        self,
        text: str,
        *,
        style: str = "",
        size: float | None = None,
        colour: tuple[int, int, int] = _INK,
        after: float = 0.0,
    ) -> None:
        pdf, size = self.pdf, size or self.size
        self._shape(text)
        pdf.set_font("text", style, size)
        pdf.set_text_color(*colour)
        align = "R" if reads_rtl(text, "en") else "L"
        pdf.multi_cell(0, size * 0.3528 * _LEADING, _sound(text), align=align, new_x="LMARGIN", new_y="NEXT")
        if after:
            pdf.ln(after)

    def title(self, document: Document) -> None:
        """The title block."""
        self.pdf.set_title(_sound(document.title))
        if document.options.title == "yes":
            self._line(document.title, style="B", size=self.size * 1.7)
            if document.subtitle:
                self._line(document.subtitle, colour=_QUIET)
            self.pdf.ln(self.high)

    def block(self, block: Block) -> None:
        """A heading, a sound, a paragraph."""
        if block.kind == "heading":
            self.pdf.ln(self.high * 0.5)
            self._line(block.text, style="B", size=self.size * 1.2, after=self.high * 0.3)
            return
        if block.lead:
            self._line(block.lead, style="B" if block.speaker else "", size=self.size * 0.92)
        plain = all(run.kind in ("", "note") for run in block.runs)
        if plain:
            self._line(block.text, colour=_QUIET if block.kind == "sound" else _INK)
        else:
            self._runs(block)
        self.pdf.ln(self.high * 0.55)

    def _runs(self, block: Block) -> None:
        pdf = self.pdf
        for run in block.set_runs:
            self._shape(run.text)
            pdf.set_font("text", "", self.size * (0.85 if run.kind == "time" else 1))
            pdf.set_text_color(*(_QUIET if run.kind in ("time", "struck", "note") else _INK))
            pdf.strikethrough, pdf.underline = run.kind == "struck", run.kind == "doubt"
            pdf.char_vpos = "SUP" if run.kind in ("mark", "comma") else "LINE"
            pdf.write(self.high, _sound(run.text))
        pdf.strikethrough, pdf.underline, pdf.char_vpos = False, False, "LINE"
        pdf.ln(self.high)

    def notes(self, notes: Sequence[str]) -> None:
        """Notes at the end."""
        if notes:
            self.pdf.ln(self.high)
            self.pdf.line(_MARGIN, self.pdf.get_y(), _MARGIN + 40, self.pdf.get_y())
            self.pdf.ln(2)
        for nth, text in enumerate(notes, 1):
            self._line(f"{nth}  {text}", size=self.size * 0.85, after=1)

    def facing(
        self, title: str, heads: tuple[str, str], rows: Sequence[tuple[str, str, str]], rtl: tuple[bool, bool]
    ) -> None:
        """Two columns."""
        self.pdf.set_title(_sound(title))
        self._line(title, style="B", size=self.size * 1.7, after=self.high)
        for name, left, right in [("", *heads), *rows]:
            self._pair(name, (left, right), rtl, bold=(left, right) == heads and not name)

    def _pair(self, name: str, texts: tuple[str, str], rtl: tuple[bool, bool], *, bold: bool) -> None:
        pdf = self.pdf
        if name:
            self._line(name, style="B", size=self.size * 0.92)
        wide = (pdf.epw - 8) / 2
        pdf.set_font("text", "B" if bold else "", self.size)
        heights = []
        for text in texts:
            self._shape(text)
            heights.append(pdf.multi_cell(wide, self.high, _sound(text), dry_run=True, output="HEIGHT"))
        if pdf.get_y() + min(max(heights), pdf.eph) > pdf.page_break_trigger and pdf.get_y() > _MARGIN + 5:
            pdf.add_page()
        top, page, ends = pdf.get_y(), pdf.page, []
        for nth, text in enumerate(texts):
            pdf.page = page
            pdf.set_xy(_MARGIN + nth * (wide + 8), top)
            self._shape(text)
            pdf.set_text_color(*_INK)
            pdf.multi_cell(
                wide, self.high, _sound(text), align="R" if rtl[nth] else "L", new_x="LEFT", new_y="NEXT"
            )
            ends.append((pdf.page, pdf.get_y()))
        pdf.page, bottom = max(ends)
        pdf.set_xy(_MARGIN, bottom + self.high * 0.5)

    def bytes(self) -> bytes:
        """The file."""
        return bytes(self.pdf.output())


def composed(text: str) -> str:
    """A text with letters and accents as one sign where there is such a sign: fonts have those."""
    return unicodedata.normalize("NFC", text)


def _sound(text: str) -> str:
    text = composed(text)
    return "".join(sign if sign >= " " and not "\ud800" <= sign <= "\udfff" else " " for sign in text)


def letters_of_pdf(path: Path) -> str:
    """The letters and digits of a file in the order in which they stand in it."""
    from pypdf import PdfReader  # late: only to read back

    text = "".join(page.extract_text() for page in PdfReader(str(path)).pages)
    return "".join(sign for sign in text if sign.isalnum())


def _agrees(content: Content, path: Path) -> bool:
    """In order; of scripts that are shaped or read from the right, every letter in any order."""
    document, found = content.document, letters_of_pdf(path)
    missing = letters_without_font(document)
    parts = document.said_with(marks=True)
    if missing or any(block.rtl for block in document.blocks) or any(map(shaped, parts)):
        return holds(found, parts, missing)
    return document_agrees(found, document, marks=True)


def _facing(content: Content) -> bytes:
    return facing_pdf(content.original.title, heads(content), content.facing, right_to_left(content))


def _facing_agrees(content: Content, path: Path) -> bool:
    parts = [part for row in content.facing for part in row]
    return holds(letters_of_pdf(path), parts, missing_in("".join(parts)))


def boxes(missing: str) -> str:
    """That letters have no font, in a sentence; empty for none."""
    if not missing:
        return ""
    shown = " ".join(sorted(missing, key=lambda sign: not sign.isalnum())[:5])
    have = "has" if len(missing) == 1 else "have"
    return (
        f"{counted(len(missing), 'letter')} ({shown}{' …' * (len(missing) > 5)}) {have} no font on this"
        " machine and would show as boxes. Install a font for them."
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
