"""Documents as OpenDocument text (.odt, ISO 26300), written part by part, and their text read back."""

from __future__ import annotations

import io
import re
import zipfile
from datetime import UTC, datetime
from html import escape, unescape
from pathlib import Path

from dubrel.base.text import is_rtl
from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import document_form
from dubrel.formats.texts.docx import _PAGES

_SPACES = (
    " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{what}:1.0"'
        for name, what in (("office", "office"), ("text", "text"), ("style", "style"), ("meta", "meta"))
    )
    + ' xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0"'
    ' xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0"'
    ' xmlns:dc="http://purl.org/dc/elements/1.1/"'
)
_HEAD = '<?xml version="1.0" encoding="UTF-8"?>'
_MIME = "application/vnd.oasis.opendocument.text"


def _in_every_script(name: str, value: str) -> str:
    """A property of letters for Western, Asian and complex scripts, which have a name each."""
    return f'fo:{name}="{value}" style:{name}-asian="{value}" style:{name}-complex="{value}"'


_LOOKS = (
    ("comma", 'style:text-position="super 58%"'),
    ("struck", 'style:text-line-through-style="solid" style:text-line-through-type="single"'),
    ("doubt", _in_every_script("font-style", "italic")),
    ("note", _in_every_script("font-style", "italic")),
    ("time", 'fo:color="#6b645a"'),
    ("lead", _in_every_script("font-weight", "bold")),
)
_PARAGRAPHS = (  # name, shown name, based on, share of the size, weight, space above and below in cm
    ("Standard", "Standard", "", 1.0, "normal", 0.0, 0.3),
    ("Title", "Title", "Standard", 1.7, "bold", 0.0, 0.2),
    ("Subtitle", "Subtitle", "Standard", 1.0, "normal", 0.0, 0.6),
    ("Heading_20_1", "Heading 1", "Standard", 1.2, "bold", 0.4, 0.2),
    ("Footnote", "Footnote", "Standard", 0.85, "normal", 0.0, 0.0),
)
_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def as_odt(document: Document) -> bytes:
    """A document with styles, a language and real footnotes."""
    body = ""
    if document.options.title == "yes":
        body += _paragraph("Title", _safe(document.title), document.reads_rtl(document.title))
        if subtitle := document.subtitle:
            body += _paragraph("Subtitle", _safe(subtitle), document.reads_rtl(subtitle))
    body += "".join(_block(block, document) for block in document.blocks)
    if document.options.notes == "end":
        body += "".join(
            _paragraph("Footnote", _safe(f"{nth}  {text}"), document.reads_rtl(text))
            for nth, text in enumerate(document.notes, 1)
        )
    content = (
        f'{_HEAD}<office:document-content {_SPACES} office:version="1.3">'
        f"<office:automatic-styles>{_automatic()}</office:automatic-styles><office:body><office:text>{body}"
        "</office:text></office:body></office:document-content>"
    )
    return _packed({"content.xml": content, "styles.xml": _styles(document), "meta.xml": _meta(document)})


def _automatic() -> str:
    """Styles of letters, and those of paragraphs that are read from the right."""
    looks = "".join(
        f'<style:style style:name="{name}" style:family="text"><style:text-properties {look}/></style:style>'
        for name, look in _LOOKS
    )
    return looks + "".join(
        f'<style:style style:name="{name}_rtl" style:family="paragraph" style:parent-style-name="{name}">'
        '<style:paragraph-properties style:writing-mode="rl-tb" fo:text-align="right"/></style:style>'
        for name, *_ in _PARAGRAPHS
    )


def _styles(document: Document) -> str:
    options = document.options
    font = "Gentium Plus" if options.font == "serif" else "Inter"
    wide, high = _PAGES[options.page]
    every = (
        f'style:font-name="{font}" {_in_every_script("font-size", f"{options.size}pt")}'
        f"{_language(document.language)}"
    )
    face = f"'{font}'"
    return (
        f'{_HEAD}<office:document-styles {_SPACES} office:version="1.3">'
        f'<office:font-face-decls><style:font-face style:name="{font}" svg:font-family="{face}"/>'
        '</office:font-face-decls><office:styles><style:default-style style:family="paragraph">'
        f"<style:text-properties {every}/></style:default-style>"
        + "".join(_named(float(options.size), *one) for one in _PARAGRAPHS)
        + "</office:styles>"
        '<office:automatic-styles><style:page-layout style:name="p"><style:page-layout-properties'
        f' fo:page-width="{wide}cm" fo:page-height="{high}cm" fo:margin="2.5cm"/></style:page-layout>'
        "</office:automatic-styles>"
        '<office:master-styles><style:master-page style:name="Standard" style:page-layout-name="p"/>'
        "</office:master-styles></office:document-styles>"
    )


def _named(
    size: float, name: str, shown: str, parent: str, share: float, weight: str, above: float, below: float
) -> str:
    """A style of paragraphs."""
    based = f' style:parent-style-name="{parent}"' if parent else ""
    level = ' style:default-outline-level="1"' if name.startswith("Heading") else ""
    keep = ' fo:keep-with-next="always"' if weight == "bold" else ""
    sizes = _in_every_script("font-size", f"{size * share:g}pt")
    weights = _in_every_script("font-weight", weight)
    return (
        f'<style:style style:name="{name}" style:display-name="{shown}" style:family="paragraph"'
        f"{based}{level}>"
        f'<style:paragraph-properties fo:margin-top="{above}cm" fo:margin-bottom="{below}cm"{keep}/>'
        f"<style:text-properties {sizes} {weights}/></style:style>"
    )


def _language(tag: str) -> str:
    """The language of all text, for the kind of script that it is written in."""
    language, _, country = (tag if tag and tag != "und" else "zxx").partition("-")
    kind = "-complex" if is_rtl(tag) else "-asian" if language in ("ja", "ko", "zh") else ""
    kind = "-complex" if language in ("th", "hi", "bn", "ta", "lo", "km", "my") else kind
    space = "style" if kind else "fo"
    return (
        f' {space}:language{kind}="{_quoted(language)}" {space}:country{kind}="{_quoted(country) or "none"}"'
    )


def _meta(document: Document) -> str:
    now = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    language = f"<dc:language>{_safe(document.language)}</dc:language>" if document.language != "und" else ""
    return (
        f'{_HEAD}<office:document-meta {_SPACES} office:version="1.3"><office:meta>'
        f"<meta:generator>Dubrel</meta:generator><dc:title>{_safe(document.title)}</dc:title>{language}"
        f"<meta:creation-date>{now}</meta:creation-date><dc:date>{now}</dc:date>"
        "</office:meta></office:document-meta>"
    )


def _packed(parts: dict[str, str]) -> bytes:
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{name}" manifest:media-type="text/xml"/>' for name in parts
    )
    manifest = (
        f"{_HEAD}<manifest:manifest"
        ' xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"'
        ' manifest:version="1.3"><manifest:file-entry manifest:full-path="/"'
        f' manifest:media-type="{_MIME}"/>{entries}</manifest:manifest>'
    )
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), _MIME)  # first and not packed, as the standard wants it
        for name, text in {**parts, "META-INF/manifest.xml": manifest}.items():
            archive.writestr(name, text)
    return made.getvalue()


def _paragraph(style: str, inner: str, rtl: bool) -> str:
    heading = style.startswith("Heading")
    tag, level = ("h", ' text:outline-level="1"') if heading else ("p", "")
    return f'<text:{tag} text:style-name="{style}{"_rtl" if rtl else ""}"{level}>{inner}</text:{tag}>'


def _block(block: Block, document: Document) -> str:
    if block.kind == "heading":
        return _paragraph("Heading_20_1", _safe(block.text), block.rtl)
    lead = f'<text:span text:style-name="lead">{_safe(block.lead)}</text:span>' if block.lead else ""
    lead += ("<text:line-break/>" if block.speaker else "  ") if lead else ""
    inner = "".join(_run(run.text, run.kind, run.note, document) for run in block.set_runs)
    if block.kind == "sound":
        inner = f'<text:span text:style-name="note">{inner}</text:span>'
    return _paragraph("Standard", lead + inner, block.rtl)


def _run(text: str, kind: str, note: int, document: Document) -> str:
    if kind == "mark" and document.options.notes == "footnotes":
        said = document.notes[note - 1]
        return (
            f'<text:note text:id="n{note}"'
            f' text:note-class="footnote"><text:note-citation>{note}</text:note-citation>'
            f"<text:note-body>{_paragraph('Footnote', f'<text:s/>{_safe(said)}', document.reads_rtl(said))}"
            "</text:note-body></text:note>"
        )
    if kind == "line":
        return "<text:line-break/>"
    kind = "comma" if kind == "mark" else kind
    return f'<text:span text:style-name="{kind}">{_safe(text)}</text:span>' if kind else _safe(text)


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)


def _quoted(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=True)


def text_of_odt(path: Path) -> str:
    """What stands in a file; footnotes behind the text."""
    with zipfile.ZipFile(path) as archive:
        content = archive.read("content.xml").decode("utf-8")
    notes = re.findall(r"<text:note-body>(.*?)</text:note-body>", content, re.DOTALL)
    content = re.sub(r'<text:span text:style-name="comma">[^<]*</text:span>', "", content)
    content = re.sub(r"<text:note .*?</text:note>", "", content, flags=re.DOTALL)
    content = re.sub(r"<text:(line-break|tab|s)/>|</text:(p|h)>", " ", content)
    text = " ".join([content, *notes])
    return " ".join(unescape(re.sub(r"<[^>]+>", "", text)).split())


FORM = document_form("odt", "ODT", ".odt", as_odt, text_of_odt)
