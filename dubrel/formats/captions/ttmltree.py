"""TTML as a tree: when each part is shown, where, and how it looks (W3C, TTML2 §§ 8, 10 to 13).

Names are compared without their namespaces: those of 2006 and files without any are read alike.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.value import Value
from dubrel.formats.captions.ttmltime import Clock, clock_of, is_usual
from dubrel.formats.shared.oddities import Oddities

INLINE: dict[str, dict[str, str]] = {  # elements of HTML that some programs write, and how they look
    "i": {"fontStyle": "italic"},
    "em": {"fontStyle": "italic"},
    "b": {"fontWeight": "bold"},
    "strong": {"fontWeight": "bold"},
    "u": {"textDecoration": "underline"},
    "font": {},
    "a": {},
}
CONTENT = ("body", "div", "p", "span", "br", "set")
_INHERITED = {
    "backgroundColor",  # not by the standard, but what is painted around shows behind the letters
    "color",
    "direction",
    "fontStyle",
    "fontWeight",
    "textAlign",
    "textDecoration",
    "visibility",
}
_LOOPS = 20  # styles that name styles
Style = dict[str, str]
Span = tuple[Fraction, Fraction | None]


@lru_cache(maxsize=4096)
def _bare(name: str) -> str:
    """A name without its namespace or prefix."""
    return name.rpartition("}")[2].rpartition(":")[2]


def name_of(element: Any) -> str:
    """What kind of element it is; empty for comments and the like."""
    return _bare(element.tag) if isinstance(element.tag, str) else ""


def attribute(element: Any, name: str) -> str:
    """An attribute, in whatever namespace; empty where it is not there."""
    value = element.get(name)
    if value is not None:
        return str(value)
    return next((str(found) for key, found in element.attrib.items() if _bare(key) == name), "")


class Region(Value):
    """An area of the picture.

    Attributes
    ----------
    id : str
    element : lxml element or None
    own : dict
        Its specified style.
    """

    id: str
    element: Any
    own: Style


@dataclass
class Paragraph:
    """A paragraph in its tree.

    Attributes
    ----------
    element : lxml element
    chain : list of (lxml element, span)
        What it lies in, from the body on, and itself, each with when it is active.
    region : Region or None
    timed : bool
        Whether it, or anything around or inside it, has a time at all.
    """

    element: Any
    chain: list[tuple[Any, Span]]
    region: Region | None
    timed: bool

    @property
    def line(self) -> int:
        """Where it stands in the file."""
        return int(self.element.sourceline or 0)

    @property
    def span(self) -> Span:
        """When it is active."""
        return self.chain[-1][1]

    def nearest(self, name: str) -> str:
        """An attribute of it or of what it lies in; empty where nobody has it."""
        return next((found for one, _ in reversed(self.chain) if (found := attribute(one, name))), "")


@dataclass
class Tree:
    """A document.

    Attributes
    ----------
    root : lxml element
    odd : Oddities
        Gets what cannot be read.
    """

    root: Any
    odd: Oddities
    clock: Clock = field(init=False)
    styles: dict[str, Any] = field(init=False)
    regions: dict[str, Region] = field(init=False)
    agents: dict[str, str] = field(init=False)
    _spans: dict[Any, Span] = field(init=False, default_factory=dict)
    _lost: set[Any] = field(init=False, default_factory=set)
    _specified: dict[Any, Style] = field(init=False, default_factory=dict)
    _sets: dict[Any, list[Any]] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        named = {_bare(key): str(value) for key, value in self.root.attrib.items()}
        self.clock = clock_of(named)
        self.parameters = named
        every = [one for one in self.root.iter() if isinstance(one.tag, str)]
        self.styles = {attribute(one, "id"): one for one in every if name_of(one) == "style"}
        self.initial: Style = {}
        for one in every:
            if name_of(one) == "initial":
                self.initial |= _plain(one)
        regions = (one for one in every if name_of(one) == "region")
        self.regions = {
            (id_ := attribute(one, "id")): Region(id_, one, self.specified(one)) for one in regions
        }
        self.agents = {}
        for one in every:
            if name_of(one) == "agent":
                said = " ".join("".join(part.itertext()) for part in one if name_of(part) == "name")
                self.agents[attribute(one, "id")] = " ".join(said.split())

    # -- styles ----------------------------------------------------------------------------------

    def specified(self, element: Any) -> Style:
        """The style that is specified on an element: by reference, nested, on itself."""
        known = self._specified.get(element)
        if known is None:
            known = dict(INLINE.get(name_of(element), {}))
            for name in attribute(element, "style").split():
                known |= self._referred(name, 0)
            if name_of(element) == "region":
                for part in element:
                    if name_of(part) == "style":
                        known |= self.specified(part)
            known = self._specified[element] = known | _plain(element)
        return known

    def _referred(self, name: str, depth: int) -> Style:
        element = self.styles.get(name)
        if element is None or depth > _LOOPS:
            return {}
        found: Style = {}
        for other in attribute(element, "style").split():
            found |= self._referred(other, depth + 1)
        return found | _plain(element)

    def sets_of(self, element: Any) -> list[Any]:
        """The changes of style that stand in an element itself."""
        known = self._sets.get(element)
        if known is None:
            known = self._sets[element] = [one for one in element if name_of(one) == "set"]
        return known

    def style_at(
        self, region: Region | None, chain: Sequence[tuple[Any, Span]], at: Fraction
    ) -> Style | None:
        """The style at the end of a chain at a time; ``None`` where it is not shown."""
        style = dict(self.initial)
        steps: list[tuple[Any, Span]] = [(region.element, (Fraction(0), None))] if region else []
        for element, span in [*steps, *chain]:
            own = region.own if region and element is region.element else self.specified(element)
            for child in self.sets_of(element):
                if _active(self.span_of(child, span), at):
                    own = own | _plain(child)
            if own.get("display") == "none" or _nothing(own.get("opacity", "")):
                return None
            style = {key: value for key, value in style.items() if key in _INHERITED} | own
        return None if style.get("visibility") == "hidden" else style

    # -- times -----------------------------------------------------------------------------------

    def time(self, element: Any, name: str) -> Fraction | None:
        """A time of an element; ``None`` where there is none, or none that can be read, which is said."""
        text = attribute(element, name)
        if not text:
            return None
        found = self.clock.seconds(text)
        line = int(element.sourceline or 0)
        if found is None:
            self.odd.at(line, tr("the time “{text}” cannot be read").format(text=text[:40]))
            if name == "begin":
                self._lost.add(element)
        elif not is_usual(text):
            self.odd.at(
                line, tr("a time is not written as the standard requires; it was read as what it looks like")
            )
        return found

    def span_of(self, element: Any, within: Span, before: Fraction | None = None) -> Span:
        """When an element is active.

        Parameters
        ----------
        within : tuple
            When what it lies in is.
        before : Fraction, optional
            When the one before it ends, where one comes after the other.
        """
        known = self._spans.get(element)
        if known is not None:
            return known
        start, end = within
        start = start if before is None else before
        begin, until, length = (self.time(element, name) for name in ("begin", "end", "dur"))
        own = start + (begin or 0)
        stops = [end]
        if until is not None:
            stops.append(start + until)
        if length is not None:
            stops.append(own + length)
        known = own, min((one for one in stops if one is not None), default=None)
        if before is not None and until is None and length is None:
            known = own, self._implicit(element, own)
        self._spans[element] = known
        return known

    def _implicit(self, element: Any, own: Fraction) -> Fraction:
        """When an element in a sequence ends that does not say so: with the last thing in it."""
        ends, before = [own], own if attribute(element, "timeContainer") == "seq" else None
        for child in element:
            if name_of(child) in CONTENT:
                _, stop = self.span_of(child, (own, None), before)
                stop = self._implicit(child, own) if stop is None else stop
                before = stop if before is not None else None
                ends.append(stop)
        return max(ends)

    def unread(self, paragraph: Paragraph) -> bool:
        """Whether it is not known when a paragraph, or what it lies in, begins."""
        return any(element in self._lost for element, _ in paragraph.chain)

    def paragraphs(self) -> Iterator[Paragraph]:
        """The paragraphs in their order."""
        for body in self.root.iter():
            if name_of(body) == "body":
                yield from self._inside(body, [(body, self.span_of(body, (Fraction(0), None)))])
                return

    def _inside(self, element: Any, chain: list[tuple[Any, Span]]) -> Iterator[Paragraph]:
        sequence = attribute(element, "timeContainer") == "seq"
        before = chain[-1][1][0] if sequence else None
        for child in element:
            kind = name_of(child)
            if kind not in ("div", "p"):
                continue
            span = self.span_of(child, chain[-1][1], before)
            before = (span[1] if span[1] is not None else span[0]) if sequence else None
            inner = [*chain, (child, span)]
            if kind == "div":
                yield from self._inside(child, inner)
            else:
                names = (attribute(one, "region") for one, _ in reversed(inner))
                region = self.regions.get(next((one for one in names if one), ""))
                yield Paragraph(child, inner, region, sequence or _is_timed(inner))


def _is_timed(chain: Sequence[tuple[Any, Span]]) -> bool:
    elements = [*(one for one, _ in chain), *chain[-1][0].iter()]
    return any(attribute(one, name) for one in elements for name in ("begin", "end", "dur"))


def _plain(element: Any) -> Style:
    return {_bare(key): str(value).strip() for key, value in element.attrib.items()}


def _nothing(opacity: str) -> bool:
    return bool(re.fullmatch(r"0*(\.0*)?%?", opacity)) and bool(opacity)


def _active(span: Span, at: Fraction) -> bool:
    return span[0] <= at and (span[1] is None or at < span[1])


def percent(length: str, parameters: Mapping[str, str], whole: str) -> float | None:
    """A length in percent of the picture's width or height; ``None`` where it says nothing.

    Parameters
    ----------
    length : str
        One length.
    parameters : mapping
        Of the root: ``extent``, ``cellResolution``.
    whole : {"width", "height"}
    """
    found = re.fullmatch(r"([+-]?\d+(?:\.\d+)?|[+-]?\.\d+)(%|px|c|rw|rh)", length)
    if found is None:
        return None
    value, unit = float(found[1]), found[2]
    if unit in ("%", "rw", "rh"):
        return value
    side = whole == "height"
    if unit == "c":
        cells = re.findall(r"\d+", parameters.get("cellResolution", ""))
        many = int(cells[side]) if len(cells) == 2 else (32, 15)[side]
    else:
        pixels = re.findall(r"(\d+(?:\.\d+)?)px", parameters.get("extent", ""))
        many = round(float(pixels[side])) if len(pixels) == 2 else 0
    return value * 100 / many if many else None
