"""Read TTML and IMSC: what is shown from when to when, where, said by whom."""

from __future__ import annotations

import dataclasses
import html.entities
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.value import replace
from dubrel.formats.captions.cuestyle import colour_in
from dubrel.formats.captions.ttmltree import (
    CONTENT,
    INLINE,
    Paragraph,
    Region,
    Span,
    Style,
    Tree,
    attribute,
    name_of,
    percent,
)
from dubrel.formats.shared.common import read_bytes
from dubrel.formats.shared.inline import escaped, settings_of_key
from dubrel.formats.shared.oddities import Oddities
from dubrel.formats.shared.states import State, cues_of_states
from dubrel.model import Cue, Look

MOST_BYTES = 32 << 20
_LAST_S = Fraction(2)  # how long a caption stands that has no end
_SPACE = re.compile(r"[ \t\r\n]+")
_READINGS = ("text", "textContainer")
_ENTITY = re.compile(rb"&([A-Za-z]{2,8});")
_XML_ENTITIES = {b"amp", b"lt", b"gt", b"quot", b"apos"}


@dataclass
class Piece:
    """What is shown for a while.

    Attributes
    ----------
    lines : list of str
        As WebVTT has them: styles and voices are tags.
    colours : list of (str, str, str)
        Who says a text, its colour and that of its ground.
    language : str
    line : int
        In the file.
    paragraph : int
        Its number, from 1.
    """

    start_ms: int
    end_ms: int
    place: int
    region: str
    lines: list[str]
    colours: list[tuple[str, str, str]]
    language: str
    line: int
    paragraph: int


@dataclass
class Document:
    """What is in a file.

    Attributes
    ----------
    pieces : list of Piece
    language : str
        Of the document, or else of its first paragraph.
    """

    pieces: list[Piece] = field(default_factory=list)
    language: str = ""

    @property
    def languages(self) -> list[str]:
        """The languages of its paragraphs in their order; those that say none are in the first."""
        return list(dict.fromkeys(one.language for one in self.pieces))

    def cues(self, odd: Oddities, language: str | None = None) -> list[Cue]:
        """Its captions, of one language or of all.

        Paragraphs at the very same times in one region are lines of one caption.
        """
        found: list[Piece] = []
        for piece in self.pieces:
            if language is not None and piece.language != language:
                continue
            last = found[-1] if found else None
            together = last and (last.start_ms, last.end_ms, last.region, last.place)
            if last and together == (piece.start_ms, piece.end_ms, piece.region, piece.place):
                last.lines += piece.lines
            else:
                found.append(dataclasses.replace(piece, lines=list(piece.lines)))
        states = [
            State(
                one.start_ms,
                one.end_ms,
                one.lines,
                "" if one.place == 2 else settings_of_key(one.place),
                one.line,
                one.paragraph,
            )
            for one in found
        ]
        return list(cues_of_states(states, odd))

    def looks(self, odd: Oddities) -> dict[str, Look]:
        """The look of all captions (``""``), and of speakers who keep one of their own; others are said."""
        seen: dict[str, Counter[Look]] = {}
        for piece in self.pieces:
            for who, colour, ground in piece.colours:
                seen.setdefault(who, Counter())[_look(colour, ground)] += 1
        if not seen:
            return {}
        usual = sum(seen.values(), Counter()).most_common(1)[0][0]
        found = {who: looks.most_common(1)[0][0] for who, looks in seen.items() if who}
        lost = sum(
            many
            for who, looks in seen.items()
            for look, many in looks.items()
            if look != found.get(who, usual)
        )
        odd.left_out(tr("colours of single captions"), lost)
        own = {who: look for who, look in found.items() if look != usual}
        return own if usual == Look() else {"": usual, **own}


def _look(colour: str, ground: str) -> Look:
    look = Look()
    if colour and (found := colour_in(colour)):
        look = replace(look, colour=found[0])
    if ground and (found := colour_in(ground)):
        made, alpha = found
        look = replace(look, ground=made, opacity=round(alpha, 2)) if alpha else replace(look, box="none")
    return look


def document_in(path: Path, odd: Oddities) -> Document:
    """What a file shows.

    Raises
    ------
    FormatError
        If it cannot be read as XML.
    """
    tree = Tree(root_of(path), odd)
    made = Document(language=attribute(tree.root, "lang").strip())
    never = 0
    for nth, paragraph in enumerate(tree.paragraphs(), 1):
        if not paragraph.timed and _says(paragraph.element):
            odd.at(paragraph.line, tr("a paragraph without times; left out"))
            continue
        if tree.unread(paragraph):
            odd.at(paragraph.line, tr("a caption whose in time cannot be read; left out"))
            continue
        pieces = [dataclasses.replace(one, paragraph=nth) for one in _pieces(tree, paragraph)]
        never += not pieces and _says(paragraph.element)
        made.pieces += pieces
    odd.left_out(tr("paragraphs that are never shown"), never)
    images = sum(
        name_of(one) == "image" or bool(attribute(one, "backgroundImage"))
        for one in tree.root.iter()
        if name_of(one) in ("image", *CONTENT)
    )
    odd.left_out(tr("captions that are images"), images)
    made.language = made.language or next((one.language for one in made.pieces if one.language), "")
    return made


def _says(element: Any) -> bool:
    return bool("".join(element.itertext()).strip())


def root_of(path: Path) -> Any:
    """The root of an XML file; nothing that it names is fetched, and no entity of its own followed.

    Raises
    ------
    FormatError
        If it is not well-formed, or built of entities.
    """
    from lxml import etree

    data = read_bytes(path, MOST_BYTES)
    parser = {"resolve_entities": False, "no_network": True, "load_dtd": False}
    try:
        try:
            root = etree.fromstring(data, etree.XMLParser(**parser))
        except etree.XMLSyntaxError as error:
            if not _is_mendable(str(error)):
                raise
            root = etree.fromstring(_ENTITY.sub(_as_number, data), etree.XMLParser(recover=True, **parser))
    except etree.XMLSyntaxError as error:
        raise _unreadable(path, error) from error
    if root is None or next(root.iter(etree.Entity), None) is not None:
        raise FormatError(
            tr("“{name}” is not a readable caption file: it is built from entities. Export it again.").format(
                name=path.name
            )
        )
    return root


def _is_mendable(said: str) -> bool:
    """Whether a name without its namespace, or a letter by an entity of HTML, is all that is wrong."""
    return "Namespace prefix" in said or bool(re.search(r"Entity '(\w+)' not defined", said))


def _as_number(found: re.Match[bytes]) -> bytes:
    letter = html.entities.html5.get(found[1].decode() + ";", "")
    return found[0] if found[1] in _XML_ENTITIES or not letter else b"&#%d;" % ord(letter[0])


def _unreadable(path: Path, error: Any) -> FormatError:
    said = str(error).lower()
    if "amplification" in said or "entities" in said or "entity" in said:
        what = tr("it is built from entities")
    else:
        line = getattr(error, "lineno", None)
        what = (
            tr("line {line} is not well-formed XML").format(line=line)
            if line
            else tr("it is not well-formed XML")
        )
    return FormatError(
        tr("“{name}” is not a readable caption file: {what}. Export it again.").format(
            name=path.name, what=what
        )
    )


# -- a paragraph ----------------------------------------------------------------------------------


def _pieces(tree: Tree, paragraph: Paragraph) -> Iterator[Piece]:
    """What a paragraph shows, from one change in it to the next."""
    start, end = paragraph.span
    if end is None:
        end = start + _LAST_S
        tree.odd.at(paragraph.line, tr("a caption without an out time; it was given two seconds"))
    region = paragraph.region
    if region is not None:  # a region can have times of its own
        low, high = tree.span_of(region.element, (Fraction(0), None))
        start, end = max(start, low), end if high is None else min(end, high)
    inner = {time for time in _changes(tree, paragraph) if start < time < end}
    last: Piece | None = None
    for begin, until in pairwise(sorted({start, end, *inner})):
        reader = _Lines(tree, paragraph, begin)
        style = tree.style_at(region, paragraph.chain, begin)
        lines = reader.lines() if style is not None else []
        if style is None or not lines or round(until * 1000) <= round(begin * 1000):
            if last is not None:
                yield last
            last = None
            continue
        place = _place(tree, region, style)
        if last is not None and (last.lines, last.place) == (lines, place):
            last.end_ms = round(until * 1000)  # what changed is not seen
            continue
        if last is not None:
            yield last
        last = Piece(
            round(begin * 1000),
            round(until * 1000),
            place,
            region.id if region else "",
            lines,
            reader.colours,
            _language(paragraph, tree),
            paragraph.line,
            0,
        )
    if last is not None:
        yield last


def _language(paragraph: Paragraph, tree: Tree) -> str:
    own = paragraph.nearest("lang") or attribute(tree.root, "lang")
    return own.strip()


def _changes(tree: Tree, paragraph: Paragraph) -> Iterator[Fraction]:
    """When something inside a paragraph, or in the style around it, comes or goes."""
    around: list[tuple[Any, Span]] = list(paragraph.chain[:-1])
    if paragraph.region is not None:
        around.append((paragraph.region.element, (Fraction(0), None)))
    for element, span in around:
        for child in tree.sets_of(element):
            yield from _ends(tree.span_of(child, span))
    yield from _changes_in(tree, paragraph.element, paragraph.span)


def _changes_in(tree: Tree, element: Any, span: Span) -> Iterator[Fraction]:
    sequence = attribute(element, "timeContainer") == "seq"
    before = span[0] if sequence else None
    for child in element:
        if name_of(child) in ("span", "set"):
            own = tree.span_of(child, span, before)
            before = (own[1] if own[1] is not None else own[0]) if sequence else None
            yield from _ends(own)
            yield from _changes_in(tree, child, own)


def _ends(span: Span) -> Iterator[Fraction]:
    yield from (one for one in span if one is not None)


def _place(tree: Tree, region: Region | None, style: Style) -> int:
    """Where lines stand, as the keys of a number pad are."""
    right_to_left = style.get("direction") == "rtl"
    sides = {"left": 0, "start": 2 if right_to_left else 0, "right": 2, "end": 0 if right_to_left else 2}
    column = sides.get(style.get("textAlign", ""), 1)
    if region is None:
        return column + 1
    area = {name: region.own.get(name, "").split() for name in ("origin", "extent")}

    def vertical(name: str) -> float | None:
        return percent(area[name][1], tree.parameters, "height") if len(area[name]) == 2 else None

    top = vertical("origin") or 0.0
    height = vertical("extent")
    height = 100.0 - top if height is None else height
    share = {"before": 0.0, "center": 0.5, "after": 1.0}.get(region.own.get("displayAlign", "before"), 0.0)
    at = top + share * height
    return 3 * (2 if at < 34 else 1 if at < 67 else 0) + column + 1


class _Lines:
    """Reads the lines of a paragraph at a time."""

    def __init__(self, tree: Tree, paragraph: Paragraph, at: Fraction) -> None:
        self._tree, self._paragraph, self._at = tree, paragraph, at
        self._rows: list[str] = [""]
        self._said: list[bool] = [False]
        self._voices: list[str] = [""]
        self.colours: list[tuple[str, str, str]] = []

    def lines(self) -> list[str]:
        """Those that say something."""
        one = self._paragraph
        keeps = one.nearest("space") == "preserve"
        self._inside(one.element, one.chain, self._agent(one.chain), keeps)
        found = []
        for row, said, voice in zip(self._rows, self._said, self._voices):
            if said:
                row = row.strip(" \t\r\n")
                found.append(f"<v {escaped(voice)}>{row}</v>" if voice else row)
        return found

    def _agent(self, chain: Sequence[tuple[Any, Span]]) -> str:
        names = (self._tree.agents.get(attribute(one, "agent").split(" ")[0]) for one, _ in reversed(chain))
        return next((one for one in names if one), "")

    def _inside(self, element: Any, chain: list[tuple[Any, Span]], voice: str, keeps: bool) -> None:
        style = self._tree.style_at(self._paragraph.region, chain, self._at)
        self._text(element.text, style, voice, keeps)
        sequence = attribute(element, "timeContainer") == "seq"
        before = chain[-1][1][0] if sequence else None
        for child in element:
            kind = name_of(child)
            if kind == "br":
                self._break()
            elif kind == "span" or kind in INLINE:
                span = self._tree.span_of(child, chain[-1][1], before)
                before = (span[1] if span[1] is not None else span[0]) if sequence else None
                if span[0] <= self._at and (span[1] is None or self._at < span[1]):
                    self._span(child, [*chain, (child, span)], voice, keeps)
            self._text(child.tail, style, voice, keeps)

    def _span(self, child: Any, chain: list[tuple[Any, Span]], voice: str, keeps: bool) -> None:
        ruby = self._tree.specified(child).get("ruby", "")
        if ruby == "delimiter":
            return
        if ruby == "text":
            self._tree.odd.left_out(tr("readings above the line, now in brackets"))
            self._rows[-1] += "("
        own = self._tree.agents.get(attribute(child, "agent").split(" ")[0], voice)
        space = attribute(child, "space")
        self._inside(child, chain, own, space == "preserve" if space else keeps)
        if ruby == "text":
            self._rows[-1] += ")"

    def _break(self) -> None:
        self._rows.append("")
        self._said.append(False)
        self._voices.append("")

    def _text(self, text: str | None, style: Style | None, voice: str, keeps: bool) -> None:
        if not text or style is None:
            return
        parts = re.split(r"\r\n|[\r\n]", text) if keeps else [text]
        for nth, part in enumerate(parts):
            if nth:
                self._break()
            part = _SPACE.sub(" ", part)
            if part == " " and self._rows[-1].endswith(" "):
                continue
            self._rows[-1] += _styled(escaped(part), style)
            if part.strip(" "):
                self._said[-1] = True
                self._voices[-1] = self._voices[-1] or voice
                self.colours.append((voice, style.get("color", ""), style.get("backgroundColor", "")))


def _styled(text: str, style: Style) -> str:
    if not text.strip():
        return text
    if style.get("fontStyle", "normal") in ("italic", "oblique", "reverseOblique"):
        text = f"<i>{text}</i>"
    if style.get("fontWeight") == "bold":
        text = f"<b>{text}</b>"
    return f"<u>{text}</u>" if "underline" in style.get("textDecoration", "").split() else text
