"""Scripts in Markdown (CommonMark, with tables, notes, crossed-out text and a head of data)."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator, Sequence
from typing import Any

from dubrel.base.text import tidied
from dubrel.formats.scripts.tablerows import lines_of_table

_BREAK = re.compile(r"<\s*(?:br|/p|/div|/li)\s*/?\s*>", re.IGNORECASE)
_HIDDEN = {"<!--": "-->", "<script": "</script>", "<style": "</style>"}
_CROSSED = re.compile(r"^<\s*(/?)\s*(?:s|del|strike)\s*>$", re.IGNORECASE)


def lines_of(text: str) -> list[str]:
    r"""The lines of a text, headings with ``#`` before them, notes in brackets.

    Examples
    --------
    >>> lines_of("Part one\n========\n\n**Ann:** Hello, [all](http://x) ~~of~~ you.")
    ['# Part one', 'Ann: Hello, all  you.']
    """
    from markdown_it import MarkdownIt  # late: only where such a script is read
    from mdit_py_plugins.footnote import footnote_plugin
    from mdit_py_plugins.front_matter import front_matter_plugin

    reader = MarkdownIt("commonmark", {"html": True}).enable(["table", "strikethrough"])
    tree = reader.use(front_matter_plugin).use(footnote_plugin).parse(text)
    return [line for line in _lines(tree) if line.strip()]


def _lines(tree: Sequence[Any]) -> Iterator[str]:
    heading, note, number, rows = False, False, "", list[list[str]]()
    for token in tree:
        kind = token.type
        if kind == "inline":
            said = _inline(token.children or ())
            if rows and token.level > 3 and rows[-1]:
                rows[-1][-1] = said
            elif heading:
                yield f"# {tidied(said)}"
            else:
                yield f"[{tidied(said)}]" if note and tidied(said) else number + said
            number = ""
        elif kind in ("heading_open", "heading_close"):
            heading = kind == "heading_open"
        elif kind in ("footnote_block_open", "footnote_block_close"):
            note = kind == "footnote_block_open"
        elif kind == "list_item_open":  # a year that begins a line is not a number of a list
            number = f"{token.info}. " if len(token.info) == 4 else ""
        elif kind == "tr_open":
            rows.append([])
        elif kind in ("th_open", "td_open"):
            rows[-1].append("")
        elif kind == "table_close":
            yield from lines_of_table(rows)
            rows = []
        elif kind == "code_block":
            yield from token.content.split("\n\n")
        elif kind == "html_block":
            yield html.unescape(_untagged(_BREAK.sub("\n", token.content)))


def _untagged(text: str) -> str:
    """A piece of HTML without its tags, comments, scripts and styles."""
    parts, at, low = list[str](), 0, text.lower()
    while (opens := text.find("<", at)) >= 0:
        parts.append(text[at:opens])
        hidden = next((one for one in _HIDDEN if low.startswith(one, opens)), "")
        end = _HIDDEN.get(hidden, ">")
        found = low.find(end, opens)
        if found < 0:
            return "".join(parts)
        at = found + len(end)
    return "".join([*parts, text[at:]])


def _inline(children: Sequence[Any]) -> str:
    """What is read of a line: text without its marks; what is crossed out is not spoken."""
    parts, crossed = list[str](), 0
    for one in children:
        if one.type == "s_open":
            crossed += 1
        elif one.type == "s_close":
            crossed -= 1
        elif one.type == "html_inline" and (mark := _CROSSED.match(one.content)):
            crossed = max(0, crossed + (-1 if mark.group(1) else 1))
        elif crossed:
            continue
        elif one.type in ("text", "code_inline", "text_special"):
            parts.append(one.content)
        elif one.type in ("softbreak", "hardbreak") or (
            one.type == "html_inline" and _BREAK.match(one.content)
        ):
            parts.append("\n")
    return "".join(parts)
