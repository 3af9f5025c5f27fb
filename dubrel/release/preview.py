"""How a deliverable will begin."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dubrel.formats.document import Document
from dubrel.formats.shownotes import show_notes
from dubrel.formats.textdocument import as_html
from dubrel.release.kits import Planned

_MOST, _BLOCKS = 6000, 24


@dataclass(frozen=True)
class Preview:
    """The beginning of a file.

    Attributes
    ----------
    text : str
    rich : bool
        Whether it is HTML.
    """

    text: str
    rich: bool = False


def preview_of(planned: Planned) -> Preview:
    """The first page of a document, the first lines of anything else."""
    form, source = planned.form, planned.source
    if form.id in ("docx", "odt", "pdf", "html"):
        return Preview(as_html(_beginning(source.document)), True)
    if form.id in ("notes-html", "notes-docx"):
        return Preview(as_html(_beginning(show_notes(source.project, source.options))), True)
    if form.id.startswith("facing") or form.id == "page":
        from dubrel.formats.bilingual import facing_html  # late: only for these

        if form.id == "page":
            return Preview(as_html(_beginning(source.document)), True)
        heads = (source.original.transcript.language, source.language)
        return Preview(
            facing_html(source.original.title, heads, heads, source.facing[:_BLOCKS], (False, False)), True
        )
    if form.film:
        return Preview(
            "A film is made in a process of its own; its progress stands in the footer, and it can be cancelled there."
        )
    text = form.write(source).decode("utf-8", "replace")
    return Preview(text if len(text) <= _MOST else f"{text[:_MOST]}\n…")


def _beginning(document: Document) -> Document:
    return replace(document, blocks=document.blocks[:_BLOCKS])
