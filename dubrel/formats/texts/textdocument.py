"""Documents as plain text, Markdown and HTML."""

from __future__ import annotations

import re
from html import escape
from html.parser import HTMLParser

from dubrel.formats.shared.agreement import utf8
from dubrel.formats.shared.document import Block, Document
from dubrel.formats.shared.form import document_form

_STYLE = """body{font:{size}pt/1.55 {font};max-width:40em;margin:2.5em auto;padding:0 1em;
color:#1f1c18;background:#fff;overflow-wrap:anywhere}
h1{font-size:1.7em;margin:0 0 .1em}p.sub{color:#6b645a;margin:0 0 2em}h2{font-size:1.15em;margin:2em 0 .6em}
p{margin:0 0 1em}.who{font-weight:600;display:block}.t{color:#6b645a;
font-size:.82em;font-variant-numeric:tabular-nums}
s{color:#6b645a}mark{background:none;border-bottom:1px dotted #b26b00}.snd{color:#6b645a;font-style:italic}
ol.notes{border-top:1px solid #cfc7b6;margin-top:3em;padding-top:1em;font-size:.88em}sup{font-size:.7em}
.n{float:inline-start;margin-inline-start:-3em;color:#6b645a;font-size:.82em}
@media(max-width:48em){.n{float:none;margin:0}}@media print{body{margin:0;max-width:none}}"""
POLICY = "<meta http-equiv=Content-Security-Policy content=\"default-src 'none'; style-src 'unsafe-inline'\">"
"""What a page of text may do: wear its own style, and nothing else."""
FONTS = {"serif": '"Gentium Plus",Georgia,serif', "sans": "Inter,Helvetica,Arial,sans-serif"}


def as_text(document: Document) -> str:
    """Paragraphs with a blank line between them."""
    found = []
    if document.options.title == "yes":
        found.append("\n".join(filter(None, (document.title, document.subtitle))))
    for block in document.blocks:
        text = "".join(_plain(run.text, run.kind) for run in block.runs).strip()
        lead = block.lead
        if block.kind == "heading":
            found.append(f"== {text}")
        elif block.speaker:
            found.append(f"{lead}: {text}")
        else:
            found.append(f"{lead}  {text}" if lead else text)
    if document.notes:
        found.append("\n".join(f"[{nth}] {text}" for nth, text in enumerate(document.notes, 1)))
    return "\n\n".join(found) + ("\n" if found else "")


def _plain(text: str, kind: str) -> str:
    if kind == "mark":
        return f" [{text}]"
    if kind in ("struck", "doubt"):
        sign = "~" if kind == "struck" else "?"
        lead = text[: len(text) - len(text.lstrip())]
        return f"{lead}{sign}{text.strip()}{sign}"
    return text


_SIGNS = re.compile(r"([\\`*_{}\[\]<>#|~]|&(?=#?\w{1,31};))")
_STARTS = re.compile(r"^(\s*)([-+]|\d+[.)])(?=\s)", re.MULTILINE)


def _markdown(text: str) -> str:
    return _STARTS.sub(r"\1\\\2", _SIGNS.sub(r"\\\1", text))


def as_markdown(document: Document) -> str:
    """CommonMark with footnotes as they are written most."""
    found = []
    if document.options.title == "yes":
        found.append(f"# {_markdown(document.title)}")
        found += [f"*{_markdown(document.subtitle)}*"] if document.subtitle else []
    for block in document.blocks:
        text = "".join(_marked(run.text, run.kind) for run in block.runs).strip()
        if block.kind == "heading":
            found.append(f"## {text}")
            continue
        number = f"{block.number}\\. " if block.number else ""
        time = f"`{block.time}` " if block.time else ""
        name = f"**{_markdown(block.speaker)}:** " if block.speaker else ""
        found.append(f"{number}{time}{name}{text}" if block.kind == "paragraph" else f"*{text}*")
    found += [f"[^{nth}]: {_markdown(text)}" for nth, text in enumerate(document.notes, 1)]
    return "\n\n".join(found) + ("\n" if found else "")


def _marked(text: str, kind: str) -> str:
    if kind == "mark":
        return f"[^{text}]"
    if kind == "line":
        return "\\\n"
    lead = text[: len(text) - len(text.lstrip())]
    inner = _markdown(text.strip())
    signs = {"struck": ("~~", "~~"), "doubt": ("*", "*"), "time": ("`", "`"), "note": ("*", "*")}
    before, after = signs.get(kind, ("", ""))
    return f"{lead}{before}{text.strip() if kind == 'time' else inner}{after}"


def as_html(document: Document) -> str:
    """A page without anything from outside."""
    options = document.options
    style = _STYLE.replace("{size}", options.size).replace("{font}", FONTS[options.font])
    head = ""
    if options.title == "yes":
        head = f"<h1{_way(document, document.title)}>{escape(document.title)}</h1>"
        if subtitle := document.subtitle:
            head += f"<p class=sub{_way(document, subtitle)}>{escape(subtitle)}</p>"
    body = "\n".join(html_block(block) for block in document.blocks)
    notes = "".join(
        f"<li id=note{nth}{_way(document, text)}>{escape(text)}</li>"
        for nth, text in enumerate(document.notes, 1)
    )
    notes = f"<ol class=notes>{notes}</ol>" if notes else ""
    return (
        f"<!DOCTYPE html>\n<html lang={escape(document.language, True)}><meta charset=utf-8>"
        f"{POLICY}"
        f"<meta name=viewport content='width=device-width'><title>{escape(document.title)}</title>"
        f"<style>{style}</style>\n{head}\n{body}\n{notes}</html>\n"
    )


def _way(document: Document, text: str) -> str:
    return " dir=rtl" if document.reads_rtl(text) else ""


def html_block(block: Block) -> str:
    """A block as HTML."""
    inner = "".join(_html(run.text, run.kind) for run in block.set_runs).strip()
    way = " dir=rtl" if block.rtl else ""
    if block.kind == "heading":
        return f"<h2{way}>{inner}</h2>"
    if block.kind == "sound":
        return f"<p class=snd{way}>{inner}</p>"
    number = f"<span class=n>{block.number}</span> " if block.number else ""
    time = f"<span class=t>{escape(block.time)}</span> " if block.time else ""
    name = f"<span class=who>{escape(block.speaker)} {time}</span>" if block.speaker else time
    return f"<p{way}>{number}{name}{inner}</p>"


def _html(text: str, kind: str) -> str:
    if kind == "mark":
        return f"<sup><a href=#note{text}>{text}</a></sup>"
    if kind in ("comma", "line"):
        return "<br>" if kind == "line" else "<sup>, </sup>"
    lead = " " if text[:1] == " " else ""
    inner = escape(text.strip())
    tags = {
        "struck": ("<s>", "</s>"),
        "doubt": ("<mark>", "</mark>"),
        "time": ("<span class=t>", "</span>"),
        "note": ("<em>", "</em>"),
    }
    before, after = tags.get(kind, ("", ""))
    return f"{lead}{before}{inner}{after}"


class _Text(HTMLParser):
    """Gathers what a reader of a page sees."""

    def __init__(self) -> None:
        super().__init__()
        self.parts: list[str] = []
        self._hidden = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self._hidden += tag in ("style", "script", "sup")
        self.parts.append(" " if tag in ("p", "h1", "h2", "li", "td", "span", "br") else "")

    def handle_endtag(self, tag: str) -> None:
        self._hidden -= tag in ("style", "script", "sup")
        self.parts.append(" " if tag in ("p", "h1", "h2", "li", "td", "span") else "")

    def handle_data(self, data: str) -> None:
        if not self._hidden:
            self.parts.append(data)


def text_of_html(page: str) -> str:
    """What a reader of a page sees, in its own parser."""
    parser = _Text()
    parser.feed(page)
    return " ".join("".join(parser.parts).split())


FORMS = (
    document_form("text", "Plain text", ".txt", as_text, utf8, marks=True),
    document_form("markdown", "Markdown", ".md", as_markdown, utf8, marks=True),
    document_form("html", "HTML", ".html", as_html, lambda path: text_of_html(utf8(path))),
)
