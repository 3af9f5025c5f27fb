"""Scripts in OpenDocument Text (ISO/IEC 26300): the text as it reads once its changes are accepted.

What is deleted, hidden or crossed out is not spoken; notes at the foot become stage
directions; tables, lists, frames and fields are text like any other.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from dubrel.base.text import tidied
from dubrel.formats.scripts.tablerows import BOLD, led_by_bold, lines_of_table
from dubrel.formats.scripts.trees import bare_name, tree_of

_SKIPPED = frozenset(
    "tracked-changes annotation annotation-end note-citation ruby-text sequence-decls variable-decls"
    " user-field-decls forms hidden-text hidden-paragraph desc title object-ole script".split()
)
_HEADER_NAMES = ("Title", "Subtitle")
_LOOPS = 20  # styles based on styles


def lines_of(path: Path) -> list[str]:
    """The lines of a document, headings with ``#`` before them.

    Raises
    ------
    Exception
        Whatever a broken archive or tree makes its parser raise.
    """
    with zipfile.ZipFile(path) as archive:
        content = tree_of(archive.read("content.xml"))
        styles = archive.read("styles.xml") if "styles.xml" in archive.namelist() else b"<none/>"
        reader = _Reader([tree_of(styles), content])
    body = next(one for one in content.iter() if bare_name(one) == "body")
    return list(reader.lines(body))


def _value(element: Any, name: str) -> str:
    """An attribute by its name without the namespace; empty where it is not there."""
    return next((str(value) for key, value in element.attrib.items() if key.rpartition("}")[2] == name), "")


class _Reader:
    def __init__(self, roots: list[Any]) -> None:
        every = (one for root in roots for one in root.iter())
        self._styles = {_value(one, "name"): one for one in every if bare_name(one) == "style"}
        self._beside: list[str] = []  # notes and frames of the paragraph that is read

    def lines(self, element: Any) -> Iterator[str]:
        """The lines of all blocks in an element."""
        for one in element:
            name = bare_name(one)
            if name in ("p", "h"):
                yield from self._paragraph(one, name == "h")
            elif name == "table":
                yield from lines_of_table(list(self._rows(one)))
            elif name not in _SKIPPED and _value(one, "display") not in ("none", "condition"):
                yield from self.lines(one)

    def _rows(self, element: Any) -> Iterator[list[str]]:
        for one in element:
            if bare_name(one) == "table-row":
                yield ["\n".join(self.lines(cell)) for cell in one if bare_name(cell) == "table-cell"]
            elif bare_name(one).startswith("table-"):
                yield from self._rows(one)

    def _paragraph(self, paragraph: Any, heading: bool) -> Iterator[str]:
        style = _value(paragraph, "style-name")
        text = "" if self._is_left_out(style) else led_by_bold("".join(self._text(paragraph)).strip())
        beside, self._beside = self._beside, []
        if text and (heading or any(name in _HEADER_NAMES for name in self._names(style))):
            text = f"# {tidied(text)}"
        yield text
        yield from beside

    def _text(self, element: Any) -> Iterator[str]:
        yield _in_one(element.text)
        for one in element:
            yield from self._inside(one)
            yield _in_one(one.tail)

    def _inside(self, one: Any) -> Iterator[str]:
        name = bare_name(one)
        if name in ("s", "tab"):
            yield " " if name == "s" else "\t"
        elif name == "line-break":
            yield "\n"
        elif name == "note":
            said = tidied(" ".join(self.lines(one)))
            self._beside += [f"[{said}]"] if said else []
        elif name == "frame":
            before, self._beside = self._beside, []
            self._beside = [*before, *self.lines(one)]
        elif name == "span":
            style = _value(one, "style-name")
            said = "" if self._is_left_out(style) else "".join(self._text(one))
            yield said + BOLD if said.strip() and self._says(style, "font-weight") == "bold" else said
        elif name and name not in _SKIPPED:
            yield from self._text(one)

    def _chain(self, style: str) -> Iterator[Any]:
        """A style and those that it is based on."""
        for _ in range(_LOOPS):
            found = self._styles.get(style)
            if found is None:
                return
            yield found
            style = _value(found, "parent-style-name")

    def _names(self, style: str) -> list[str]:
        return [style, *(_value(one, "parent-style-name") for one in self._chain(style))]

    def _is_left_out(self, style: str) -> bool:
        """Whether a style hides its text or crosses it out."""
        crossed = self._says(style, "text-line-through-style")
        return self._says(style, "display") == "none" or crossed not in ("", "none")

    def _says(self, style: str, name: str) -> str:
        """What a style says of its text, or the nearest of those that it is based on."""
        every = (one for found in self._chain(style) for one in found if bare_name(one) == "text-properties")
        return next((value for one in every if (value := _value(one, name))), "")


def _in_one(text: str | None) -> str:
    """Text in which line feeds and runs of spaces are one space, as OpenDocument counts them."""
    return " ".join((text or "").replace("\t", " ").replace("\r", " ").split("\n"))
