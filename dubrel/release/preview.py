"""How a deliverable will begin."""

from __future__ import annotations

import base64
from dataclasses import dataclass, replace

from dubrel.base.text import is_rtl, language_name
from dubrel.base.timecode import format_length
from dubrel.formats import stl
from dubrel.formats.bilingual import facing_html
from dubrel.formats.chapters import chapters_of
from dubrel.formats.document import Document
from dubrel.formats.shownotes import show_notes
from dubrel.formats.textdocument import as_html, as_text
from dubrel.release.kits import Planned, loses
from dubrel.release.source import Source

_MOST, _BLOCKS = 6000, 24


@dataclass(frozen=True)
class Preview:
    """The beginning of a file.

    Attributes
    ----------
    text : str
    rich : bool
        Whether it is HTML.
    lost : str
        What the file cannot hold.
    """

    text: str
    rich: bool = False
    lost: str = ""


def preview_of(planned: Planned) -> Preview:
    """The first page of a document, the first lines of anything else; and what is lost."""
    return replace(_begins(planned), lost=loses(planned))


def _begins(planned: Planned) -> Preview:
    form, source = planned.form, planned.source
    if form.id in ("docx", "odt", "pdf", "html"):
        return Preview(as_html(_beginning(source.document)), True)
    if form.id in ("notes-html", "notes-docx"):
        return Preview(as_html(_beginning(show_notes(source.project, source.options))), True)
    if form.id in ("page", "fragment"):
        return Preview(as_html(_beginning(source.document)), True)
    if form.id.startswith("facing"):
        return Preview(_facing(source, _BLOCKS), True)
    if form.film in ("burn", "sound"):
        from dubrel.release.films import still_of  # late: only for films

        picture = base64.b64encode(still_of(planned)).decode()
        return Preview(
            f'<p align=center><img width=330 src="data:image/png;base64,{picture}"></p>'
            "<p>Its first caption. The film is made in the background; its progress stands in the footer and "
            "can be cancelled there.</p>",
            True,
        )
    if form.film:
        inside = ["The recording as it is; nothing is encoded anew. Inside it:", ""]
        if form.film == "inside":
            tracks = [one for one in source.original.tracks if one.captions]
            inside += [f"Captions, {language_name(one.language)}" for one in tracks]
        inside += [f"Chapter, {format_length(one[0])}: {one[2]}" for one in chapters_of(source.original)]
        return Preview("\n".join(inside))
    text = _plain(planned)
    return Preview(text if len(text) <= _MOST else f"{text[:_MOST]}\n…")


def text_of(planned: Planned) -> tuple[str, str]:
    """The whole text of a deliverable, plain and as HTML; no HTML for what has no such look."""
    form, source = planned.form, planned.source
    if form.id.startswith("notes"):
        notes = show_notes(source.project, source.options)
        return as_text(notes), as_html(notes)
    if form.text or form.id in ("page", "fragment"):
        return as_text(source.document), as_html(source.document)
    if form.id.startswith("facing"):
        rows = ("\n".join(filter(None, row)) for row in source.facing)
        return "\n\n".join(rows), _facing(source)
    return _plain(planned), ""


def _plain(planned: Planned) -> str:
    if planned.form.id == "stl":
        return stl.listed(planned.source.project)
    return planned.form.write(planned.source).decode("utf-8", "replace")


def _facing(source: Source, most: int | None = None) -> str:
    tags = (source.original.transcript.language, source.language)
    names = (language_name(tags[0]), language_name(tags[1]))
    ways = (is_rtl(tags[0]), is_rtl(tags[1]))
    return facing_html(source.original.title, tags, names, source.facing[:most], ways)


def _beginning(document: Document) -> Document:
    return replace(document, blocks=document.blocks[:_BLOCKS])
