"""Words beside words: original and translation as a page, as XLIFF 1.2 (OASIS)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from html import escape

_BAD = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")
_STYLE = """body{font:15px/1.5 Georgia,serif;max-width:64em;margin:2.5em auto;padding:0 1em;color:#1f1c18}
table{border-collapse:collapse;width:100%}td,th{vertical-align:top;text-align:start;padding:.4em .8em .4em 0;border-bottom:1px solid #d8d0c0;width:45%}
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
        f"<!DOCTYPE html>\n<html lang={escape(languages[0], True)}><meta charset=utf-8><title>{escape(title)}</title>"
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
        '<?xml version="1.0" encoding="UTF-8"?>\n<xliff version="1.2" xmlns="urn:oasis:names:tc:xliff:document:1.2">\n'
        f'<file original="{escape(_BAD.sub("�", title), True)}" source-language="{escape(source, True)}" '
        f'target-language="{escape(target, True)}" datatype="plaintext"><body>\n{units}</body></file>\n</xliff>\n'
    )


def _safe(text: str) -> str:
    return escape(_BAD.sub("�", text), quote=False)
