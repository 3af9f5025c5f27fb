"""How a deliverable will begin."""

from __future__ import annotations

import base64
from html import escape

from dubrel.base.catalogue import Message, counted, told, tr
from dubrel.base.languages import language_name
from dubrel.base.timecode import format_length
from dubrel.base.value import Value, replace
from dubrel.formats.shared.document import Document
from dubrel.formats.texts.bilingual import facing_page
from dubrel.formats.texts.chapters import chapters_of
from dubrel.formats.texts.textdocument import as_html, as_text
from dubrel.model import Project
from dubrel.release.forms import FORMS
from dubrel.release.kits import Planned, loses
from dubrel.release.source import Source
from dubrel.release.spokenlines import speaking_of

_MOST, _BLOCKS = 6000, 24
_FILM = Message(
    "Its first caption. The film is made in the background; its progress stands in the footer and "
    "can be cancelled there."
)
_AS_THEY_STAND = (".txt", ".md")  # shown as the text that is written


class Preview(Value):
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


def preview_in(project: Project, form: str, name: str, bare: Source) -> Preview:
    """The same from what can be sent to another process.

    Parameters
    ----------
    project : Project
    form, name : str
        Of the planned file.
    bare : Source
        Its source without the project, and with the track's id alone.
    """
    track = project.track(bare.track.id) if bare.track is not None else None
    return preview_of(Planned(FORMS[form], replace(bare, original=project, track=track), name))


def _begins(planned: Planned) -> Preview:
    form, source = planned.form, planned.source
    if form.document is not None and form.suffix not in _AS_THEY_STAND:
        return Preview(as_html(_beginning(form.document(source))), True)
    if form.id.startswith("facing"):
        return Preview(facing_page(source, _BLOCKS), True)
    if form.film in ("burn", "sound"):
        from dubrel.release.films import still_of  # late: only for films

        picture = base64.b64encode(still_of(planned)).decode()
        return Preview(
            f'<p align=center><img width=330 src="data:image/png;base64,{picture}"></p>'
            f"<p>{escape(told(_FILM))}</p>",
            True,
        )
    if form.film in ("copy", "small"):
        as_it_is = tr("The recording as it is, for a page that plays it.")
        small = tr("The recording as sound alone, in one channel of MP3, for a page that plays it.")
        return Preview(as_it_is if form.film == "copy" else small)
    if form.film == "forward":
        return Preview(_forward(source))
    if form.film == "spoken":
        return Preview(_spoken(source))
    if form.film:
        inside = [tr("The recording as it is; nothing is re-encoded. Inside it:"), ""]
        if form.film == "inside":
            tracks = [one for one in source.original.tracks if one.captions]
            inside += [
                tr("Captions, {language}").format(language=tr(language_name(one.language))) for one in tracks
            ]
        chapter = tr("Chapter, {clock}: {title}")
        inside += [
            chapter.format(clock=format_length(one[0]), title=one[2]) for one in chapters_of(source.original)
        ]
        return Preview("\n".join(inside))
    text = _plain(planned)
    return Preview(text if len(text) <= _MOST else f"{text[:_MOST]}\n…")


def _forward(source: Source) -> str:
    amount, loudness = source.values.get("amount") or "100", source.values.get("loudness", "")
    said = [tr("The sound of the recording as it is.")]
    if amount != "0":
        said = [
            tr("The sound of the recording with its voice brought forward by {share} %.").format(share=amount)
        ]
    if loudness:
        level = tr("At {level} LUFS, no peak over −1 dBTP.")
        said.append(level.format(level=loudness.replace("-", "−")))
    return " ".join(said)


def _spoken(source: Source) -> str:
    """The lines that will be spoken, with their times; what is too long is only known once they are."""
    speaking = speaking_of(source.original, source.track, source.values)
    under = speaking.under_db
    about = (
        tr("{language}, spoken alone: {lines}.")
        if under is None
        else tr("{language}, spoken over the recording, which is lowered by {under:g} dB meanwhile: {lines}.")
    ).format(
        language=tr(language_name(speaking.language)), under=under, lines=counted(len(speaking.lines), "line")
    )
    lines = [f"{format_length(one.start_ms)}  {one.text}" for one in speaking.lines[:_BLOCKS]]
    return "\n".join([about, "", *lines, *(["…"] if len(speaking.lines) > _BLOCKS else [])])


def text_of(planned: Planned) -> tuple[str, str]:
    """The whole text of a deliverable, plain and as HTML; no HTML for what has no such look."""
    form, source = planned.form, planned.source
    if form.document is not None:
        document = form.document(source)
        return as_text(document), as_html(document)
    if form.id.startswith("facing"):
        rows = ("\n".join(filter(None, row)) for row in source.facing)
        return "\n\n".join(rows), facing_page(source)
    return _plain(planned), ""


def _plain(planned: Planned) -> str:
    form, source = planned.form, planned.source
    return form.listed(source) if form.listed else form.written(source).decode("utf-8", "replace")


def _beginning(document: Document) -> Document:
    return replace(document, blocks=document.blocks[:_BLOCKS])
