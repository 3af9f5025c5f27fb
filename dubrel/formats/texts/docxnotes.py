"""Footnotes of Office Open XML documents (ECMA-376, 17.11), which the library we write them with has not."""

from __future__ import annotations

from typing import Any
from xml.sax.saxutils import escape

_SPACE = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
_W = f"{{{_SPACE}}}"
_PART = "/word/footnotes.xml"
_TYPE = "application/vnd.openxmlformats-officedocument.wordprocessingml.footnotes+xml"
_RELATION = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/footnotes"
_SEPARATORS = (
    '<w:footnote w:type="separator" w:id="-1"><w:p><w:r><w:separator/></w:r></w:p></w:footnote>'
    '<w:footnote w:type="continuationSeparator" w:id="0"><w:p><w:r><w:continuationSeparator/></w:r></w:p>'
    "</w:footnote>"
)
_STYLES = f"""<w:styles xmlns:w="{_SPACE}">
<w:style w:type="paragraph" w:styleId="FootnoteText">
<w:name w:val="footnote text"/><w:basedOn w:val="Normal"/>
<w:pPr><w:spacing w:after="0" w:line="240" w:lineRule="auto"/></w:pPr>
<w:rPr><w:sz w:val="18"/><w:szCs w:val="18"/></w:rPr></w:style>
<w:style w:type="character" w:styleId="FootnoteReference"><w:name w:val="footnote reference"/>
<w:rPr><w:vertAlign w:val="superscript"/></w:rPr></w:style></w:styles>"""


class Footnotes:
    """Gathers the footnotes of a document and puts them into it."""

    def __init__(self) -> None:
        self._notes: list[str] = []

    def add(self, paragraph: Any, number: int, text: str, rtl: bool) -> None:
        """A footnote whose number stands at the end of a paragraph."""
        from docx.oxml import parse_xml

        paragraph._p.append(
            parse_xml(
                f'<w:r xmlns:w="{_SPACE}"><w:rPr><w:rStyle w:val="FootnoteReference"/></w:rPr>'
                f'<w:footnoteReference w:id="{number}"/></w:r>'
            )
        )
        way, right = ("<w:bidi/>", "<w:rPr><w:rtl/></w:rPr>") if rtl else ("", "")
        self._notes.append(
            f'<w:footnote w:id="{number}"><w:p><w:pPr><w:pStyle w:val="FootnoteText"/>{way}</w:pPr>'
            '<w:r><w:rPr><w:rStyle w:val="FootnoteReference"/></w:rPr><w:footnoteRef/></w:r>'
            f'<w:r>{right}<w:t xml:space="preserve"> {escape(text)}</w:t></w:r></w:p></w:footnote>'
        )

    def put_into(self, file: Any) -> None:
        """Write them into a document with what they look like."""
        from docx.opc.packuri import PackURI
        from docx.opc.part import Part
        from docx.oxml import parse_xml

        text = (
            '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
            f'<w:footnotes xmlns:w="{_SPACE}">{_SEPARATORS}{"".join(self._notes)}</w:footnotes>'
        )
        part = Part(PackURI(_PART), _TYPE, text.encode("utf-8"), file.part.package)
        file.part.relate_to(part, _RELATION)
        for style in list(parse_xml(_STYLES)):
            file.styles.element.append(style)


def texts_of_footnotes(file: Any) -> list[str]:
    """The footnotes of a document, one text each."""
    from docx.oxml import parse_xml

    for relation in file.part.rels.values():
        if relation.reltype == _RELATION:
            notes = parse_xml(relation.target_part.blob)
            return ["".join(part.text or "" for part in note.iter(f"{_W}t")) for note in notes]
    return []
