"""Words beside words: original and translation as a page, as XLIFF 1.2 (OASIS)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from html import escape
from pathlib import Path

from dubrel.base.languages import language_name
from dubrel.base.text import is_rtl
from dubrel.formats.shared.agreement import facing_agrees, utf8
from dubrel.formats.shared.form import BOTH, Content, Form
from dubrel.formats.texts.docx import facing_docx, text_of_docx
from dubrel.formats.texts.textdocument import POLICY, text_of_html

_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")
_STYLE = """body{font:15px/1.5 Georgia,serif;max-width:64em;margin:2.5em auto;padding:0 1em;color:#1f1c18}
table{border-collapse:collapse;width:100%}td,th{vertical-align:top;text-align:start;
padding:.4em .8em .4em 0;border-bottom:1px solid #d8d0c0;width:45%}
td.w{width:10%;font-weight:600;font-size:.88em}"""


def facing_html(
    title: str,
    languages: tuple[str, str],
    heads: tuple[str, str],
    rows: Sequence[tuple[str, str, str]],
    rtl: tuple[bool, bool],
) -> str:
    """A page with a row for each turn."""
    ways = [" dir=rtl" if one else "" for one in rtl]
    body = "".join(
        f"<tr><td class=w>{escape(who)}</td><td lang={escape(languages[0], True)}{ways[0]}>{escape(one)}</td>"
        f"<td lang={escape(languages[1], True)}{ways[1]}>{escape(other)}</td></tr>"
        for who, one, other in rows
    )
    return (
        f"<!DOCTYPE html>\n<html lang={escape(languages[0], True)}><meta"
        f" charset=utf-8>{POLICY}<title>{escape(title)}</title>"
        f"<style>{_STYLE}</style><h1>{escape(title)}</h1><table><tr><th></th><th>{escape(heads[0])}</th>"
        f"<th>{escape(heads[1])}</th></tr>{body}</table></html>\n"
    )


def xliff(title: str, source: str, target: str, rows: Sequence[tuple[str, str, bool]]) -> str:
    """Sentences with their translations, and whether each is approved."""
    units = "".join(
        f'<trans-unit id="{nth}" approved="{"yes" if approved else "no"}"><source>{_safe(one)}</source>'
        f'<target state="{"final" if approved else "translated"}">{_safe(other)}</target></trans-unit>\n'
        for nth, (one, other, approved) in enumerate(rows, 1)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<xliff version="1.2"'
        ' xmlns="urn:oasis:names:tc:xliff:document:1.2">\n<file'
        f' original="{escape(_BAD.sub("�", title), True)}" source-language="{escape(source, True)}"'
        f' target-language="{escape(target, True)}"'
        f' datatype="plaintext"><body>\n{units}</body></file>\n</xliff>\n'
    )


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)


def tags(content: Content) -> tuple[str, str]:
    """The languages of the original and the translation."""
    return content.original.transcript.language, content.language


def heads(content: Content) -> tuple[str, str]:
    """Their names."""
    one, other = tags(content)
    return language_name(one), language_name(other)


def right_to_left(content: Content) -> tuple[bool, bool]:
    """Whether each is read from the right."""
    one, other = tags(content)
    return is_rtl(one), is_rtl(other)


def facing_page(content: Content, most: int | None = None) -> str:
    """The columns as HTML; of ``most`` turns only."""
    title, rows = content.original.title, content.facing[:most]
    return facing_html(title, tags(content), heads(content), rows, right_to_left(content))


def _as_docx(content: Content) -> bytes:
    return facing_docx(
        content.original.title, tags(content), heads(content), content.facing, right_to_left(content)
    )


def _xliff_agrees(content: Content, path: Path) -> bool:
    from lxml import etree  # late: only where it is read

    units = etree.parse(str(path)).getroot().findall(".//{*}trans-unit")
    found = [
        (unit.findtext("{*}source"), unit.findtext("{*}target"), unit.get("approved") == "yes")
        for unit in units
    ]
    return found == [tuple(row) for row in content.pairs]


FORMS = (
    Form(
        id="facing-html",
        label="Facing columns, HTML",
        suffixes=(".html",),
        group=BOTH,
        write=lambda content: facing_page(content).encode("utf-8"),
        agrees=lambda content, path: facing_agrees(text_of_html(utf8(path)), content.facing),
        needs="translation",
    ),
    Form(
        id="facing-docx",
        label="Facing columns, DOCX",
        suffixes=(".docx",),
        group=BOTH,
        write=_as_docx,
        agrees=lambda content, path: facing_agrees(text_of_docx(path), content.facing),
        needs="translation",
    ),
    Form(
        id="xliff",
        label="XLIFF",
        suffixes=(".xlf",),
        group=BOTH,
        write=lambda content: xliff(content.original.title, *tags(content), content.pairs).encode("utf-8"),
        agrees=_xliff_agrees,
        needs="translation",
    ),
)
