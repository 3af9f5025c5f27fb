"""Scripts in Office Open XML (ECMA-376): the text as it reads once its changes are accepted.

What is deleted, hidden or crossed out is not spoken; notes at the foot become stage
directions; tables, links, text boxes and controls are text like any other.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.text import tidied
from dubrel.formats.scripts.tablerows import BOLD, led_by_bold, lines_of_table
from dubrel.formats.scripts.trees import bare_name, tree_of

_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_STRICT = "{http://purl.oclc.org/ooxml/wordprocessingml/main}"
_SKIPPED = frozenset("del moveFrom pPr rPr instrText delText delInstrText sdtPr sdtEndPr Fallback rt".split())
_BLOCKS = frozenset("body sdt sdtContent customXml ins moveTo smartTag footnote endnote".split())
_SIGNS = {"tab": "\t", "br": "\n", "cr": "\n", "noBreakHyphen": "\u2011", "softHyphen": "", "ptab": "\t"}
_OFF = ("0", "false", "off", "none")
_HEADINGS = ("heading", "title", "subtitle")
_LOOPS = 20  # styles based on styles


def lines_of(path: Path) -> list[str]:
    """The lines of a document, headings with ``#`` before them.

    Raises
    ------
    Exception
        Whatever a broken archive or tree makes its parser raise.
    """
    with zipfile.ZipFile(path) as archive:
        names = set(archive.namelist())

        def part(name: str) -> Any:
            data = archive.read(f"word/{name}.xml") if f"word/{name}.xml" in names else b"<none/>"
            return tree_of(data)

        if "word/document.xml" not in names:
            raise ValueError(tr("no document in the archive"))
        reader = _Reader(part("styles"), {kind: part(f"{kind}s") for kind in ("footnote", "endnote")})
        return list(reader.lines(part("document")))


def _value(element: Any, name: str = "val") -> str | None:
    if element is None:
        return None
    return next((element.get(space + name) for space in (_W, _STRICT) if element.get(space + name)), None)


def _child(element: Any, *path: str) -> Any:
    for name in path:
        element = (
            next((one for one in element if bare_name(one) == name), None) if element is not None else None
        )
    return element


def _is_on(properties: Any, *names: str) -> bool | None:
    """Whether one of some switches is set among the properties of a run; ``None`` where none says."""
    found = [one for name in names if (one := _child(properties, name)) is not None]
    return any((_value(one) or "1") not in _OFF for one in found) if found else None


class _Reader:
    def __init__(self, styles: Any, notes: dict[str, Any]) -> None:
        self._styles = {_value(one, "styleId"): one for one in styles if bare_name(one) == "style"}
        self._notes = {
            kind: {_value(one, "id"): one for one in root if bare_name(one) == kind}
            for kind, root in notes.items()
        }
        self._open = ""  # a paragraph whose end was deleted
        self._beside: list[str] = []  # notes and text boxes of the paragraph that is read

    def lines(self, element: Any) -> Iterator[str]:
        """The lines of all blocks in an element."""
        for one in element:
            name = bare_name(one)
            if name == "p":
                yield from self._paragraph(one)
            elif name == "tbl":
                yield from lines_of_table(list(self._rows(one)))
            elif name in _BLOCKS:
                yield from self.lines(one)

    def _rows(self, table: Any) -> Iterator[list[str]]:
        for row in self._inside(table, "tr"):
            yield ["\n".join(self.lines(cell)) for cell in self._inside(row, "tc")]

    def _inside(self, element: Any, wanted: str) -> Iterator[Any]:
        """Rows or cells, through whatever wraps them; a row that was deleted is none."""
        for one in element:
            name = bare_name(one)
            if name == wanted and _child(one, "trPr", "del") is None:
                yield one
            elif name in _BLOCKS:
                yield from self._inside(one, wanted)

    def _paragraph(self, paragraph: Any) -> Iterator[str]:
        style = _value(_child(paragraph, "pPr", "pStyle"))
        self._open += "".join(self._runs(paragraph, self._hides(style)))
        if _child(paragraph, "pPr", "rPr", "del") is not None:
            return  # its end was deleted: the next one goes on
        text, self._open = led_by_bold(self._open.strip()), ""
        beside, self._beside = self._beside, []
        level = _child(paragraph, "pPr", "outlineLvl")
        if text and (self._is_heading(style) or (level is not None and (_value(level) or "9") < "9")):
            text = f"# {tidied(text)}"
        yield text
        yield from beside

    def _runs(self, element: Any, hidden: bool) -> Iterator[str]:
        for one in element:
            name = bare_name(one)
            if name in _SKIPPED:
                continue
            if name == "r":
                if not self._is_left_out(one, hidden):
                    said = "".join(self._run(one))
                    yield said + BOLD if said and self._is_bold(one) else said
            elif name not in ("p", "tbl"):
                yield from self._runs(one, hidden)

    def _run(self, run: Any) -> Iterator[str]:
        for one in run:
            name = bare_name(one)
            if name == "t":
                yield one.text or ""
            elif name in _SIGNS:
                yield _SIGNS[name]
            elif name in ("footnoteReference", "endnoteReference"):
                note = self._notes[name.removesuffix("Reference")].get(_value(one, "id"))
                said = tidied(" ".join(self.lines(note))) if note is not None else ""
                self._beside += [f"[{said}]"] if said else []
            elif name in ("drawing", "pict", "AlternateContent", "object"):
                self._boxes(one)
            elif name == "ruby":
                yield from self._runs(_child(one, "rubyBase"), False)

    def _boxes(self, element: Any) -> None:
        """Text boxes: what stands in them follows the paragraph that they belong to."""
        for one in element:
            if bare_name(one) == "txbxContent":
                before, self._beside = self._beside, []
                self._beside = [*before, *self.lines(one)]
            elif bare_name(one) not in _SKIPPED:
                self._boxes(one)

    def _is_left_out(self, run: Any, hidden: bool) -> bool:
        own = _child(run, "rPr")
        style = _child(run, "rPr", "rStyle")
        if style is not None and self._hides(_value(style)):
            hidden = True
        said = _is_on(own, "vanish", "specVanish") if own is not None else None
        crossed = _is_on(own, "strike", "dstrike") if own is not None else None
        return bool(hidden if said is None else said) or bool(crossed)

    def _is_bold(self, run: Any) -> bool:
        style = self._chain(_value(_child(run, "rPr", "rStyle")))
        places = [_child(run, "rPr"), *(_child(one, "rPr") for one in style)]
        told = (_is_on(one, "b") for one in places if one is not None)
        return next((one for one in told if one is not None), False)

    def _chain(self, style: str | None) -> Iterator[Any]:
        """A style and those that it is based on."""
        for _ in range(_LOOPS):
            found = self._styles.get(style)
            if found is None:
                return
            yield found
            style = _value(_child(found, "basedOn"))

    def _hides(self, style: str | None) -> bool:
        for one in self._chain(style):
            properties = _child(one, "rPr")
            said = _is_on(properties, "vanish") if properties is not None else None
            if said is not None:
                return said
        return False

    def _is_heading(self, style: str | None) -> bool:
        for one in self._chain(style):
            if (_value(_child(one, "name")) or "").casefold().startswith(_HEADINGS):
                return True
        return False
