"""Documents as OpenDocument text (.odt, ISO 26300), written part by part, and their text read back."""

from __future__ import annotations

import io
import re
import zipfile
from html import escape, unescape
from pathlib import Path

from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import document_form
from dubrel.formats.texts.docx import _PAGES

_SPACES = (
    " ".join(
        f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{what}:1.0"'
        for name, what in (("office", "office"), ("text", "text"), ("style", "style"), ("table", "table"))
    )
    + ' xmlns:fo="urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0"'
    ' xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0"'
)
_MIME = "application/vnd.oasis.opendocument.text"
_LOOKS = (
    ("comma", 'style:text-position="super 58%"'),
    ("struck", 'style:text-line-through-style="solid"'),
    ("doubt", 'fo:font-style="italic"'),
    ("note", 'fo:font-style="italic"'),
    ("time", 'fo:color="#6b645a"'),
    ("lead", 'fo:font-weight="bold"'),
)
_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def as_odt(document: Document) -> bytes:
    """A document with real footnotes."""
    options = document.options
    font = "Gentium Plus" if options.font == "serif" else "Inter"
    wide, high = _PAGES[options.page]
    looks = "".join(
        f'<style:style style:name="{name}" style:family="text"><style:text-properties {look}/></style:style>'
        for name, look in _LOOKS
    )
    looks += (
        '<style:style style:name="rtl" style:family="paragraph"><style:paragraph-properties'
        ' style:writing-mode="rl-tb" fo:text-align="start"/></style:style>'
    )
    body = ""
    if options.title == "yes":
        way = _style(document.reads_rtl(document.title))
        body += f'<text:h{way} text:outline-level="1">{_safe(document.title)}</text:h>'
        if subtitle := document.subtitle:
            body += f"<text:p{_style(document.reads_rtl(subtitle))}>{_safe(subtitle)}</text:p>"
    body += "".join(_block(block, document.notes) for block in document.blocks)
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_SPACES} office:version="1.3">'
        f"<office:automatic-styles>{looks}</office:automatic-styles><office:body><office:text>{body}"
        "</office:text></office:body></office:document-content>"
    )
    face = f"'{font}'"
    styles = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-styles {_SPACES} office:version="1.3">'
        f'<office:font-face-decls><style:font-face style:name="{font}" svg:font-family="{face}"/>'
        "</office:font-face-decls>"
        '<office:styles><style:default-style style:family="paragraph">'
        '<style:paragraph-properties fo:margin-bottom="0.3cm"/>'
        f'<style:text-properties style:font-name="{font}" fo:font-size="{options.size}pt"/>'
        "</style:default-style></office:styles>"
        '<office:automatic-styles><style:page-layout style:name="p"><style:page-layout-properties'
        f' fo:page-width="{wide}cm" fo:page-height="{high}cm" fo:margin="2.5cm"/></style:page-layout>'
        "</office:automatic-styles>"
        '<office:master-styles><style:master-page style:name="Standard" style:page-layout-name="p"/>'
        "</office:master-styles></office:document-styles>"
    )
    return _packed(content, styles)


def _packed(content: str, styles: str) -> bytes:
    parts = {"content.xml": content, "styles.xml": styles}
    entries = "".join(
        f'<manifest:file-entry manifest:full-path="{name}" manifest:media-type="text/xml"/>' for name in parts
    )
    parts["META-INF/manifest.xml"] = (
        '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest'
        ' xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"'
        ' manifest:version="1.3"><manifest:file-entry manifest:full-path="/"'
        f' manifest:media-type="{_MIME}"/>{entries}</manifest:manifest>'
    )
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), _MIME)  # first and not packed, as the standard wants it
        for name, text in parts.items():
            archive.writestr(name, text)
    return made.getvalue()


def _block(block: Block, notes: tuple[str, ...]) -> str:
    if block.kind == "heading":
        return f'<text:h{_style(block.rtl)} text:outline-level="2">{_safe(block.text)}</text:h>'
    lead = f'<text:span text:style-name="lead">{_safe(block.lead)}</text:span>' if block.lead else ""
    lead += ("<text:line-break/>" if block.speaker else "  ") if lead else ""
    inner = "".join(_run(run.text, run.kind, run.note, notes) for run in block.set_runs)
    return f"<text:p{_style(block.rtl)}>{lead}{inner}</text:p>"


def _style(rtl: bool) -> str:
    return ' text:style-name="rtl"' if rtl else ""


def _run(text: str, kind: str, note: int, notes: tuple[str, ...]) -> str:
    if kind == "mark":
        return (
            f'<text:note text:id="n{note}"'
            f' text:note-class="footnote"><text:note-citation>{note}</text:note-citation>'
            f"<text:note-body><text:p>{_safe(notes[note - 1])}</text:p></text:note-body></text:note>"
        )
    return f'<text:span text:style-name="{kind}">{_safe(text)}</text:span>' if kind else _safe(text)


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)


def text_of_odt(path: Path) -> str:
    """What stands in a file; footnotes behind the text."""
    with zipfile.ZipFile(path) as archive:
        content = archive.read("content.xml").decode("utf-8")
    notes = re.findall(r"<text:note-body>(.*?)</text:note-body>", content, re.DOTALL)
    content = re.sub(r"<text:note .*?</text:note>", "", content, flags=re.DOTALL)
    content = re.sub(r"<text:(line-break|tab|s)/>|</text:(p|h)>", " ", content)
    text = " ".join([content, *notes])
    return " ".join(unescape(re.sub(r"<[^>]+>", "", text)).split())


FORM = document_form("odt", "ODT", ".odt", as_odt, text_of_odt)
