"""What line 21 captions show, out of the model that a library makes of them.

The library's own way, a document for each moment, costs the square of the
length; here each paragraph is looked at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import pairwise
from typing import Any

from dubrel.base.text import tidied
from dubrel.formats.shared.inline import escaped, settings_of_key
from dubrel.formats.shared.states import State

_ROWS = ("after", "center", "before")
_LAST_S = Fraction(2)  # how long a caption stands that has no end


def states_of_model(model: Any, *, grows: bool, rolls: bool) -> list[State]:
    """What a document shows, one state after the other.

    Parameters
    ----------
    model : ttconv.model.ContentDocument
    grows : bool
        Whether text is painted while it is seen.
    rolls : bool
        Whether its lines roll up.
    """
    body = model.get_body()
    found = list(_states(body, Fraction(0), None)) if body is not None else []
    for one in found:
        one.group, one.rolls = int(grows or rolls), rolls
    return sorted(found, key=lambda one: one.start_ms)


def _span(element: Any, start: Fraction, end: Fraction | None) -> tuple[Fraction, Fraction | None]:
    """When an element is active, within its parent."""
    begin, stop = element.get_begin(), element.get_end()
    own = start + (begin or 0)
    ends = [one for one in (end, start + stop if stop is not None else None) if one is not None]
    return own, min(ends, default=None)


def _states(element: Any, start: Fraction, end: Fraction | None) -> Iterator[State]:
    from ttconv import model as m
    from ttconv.style_properties import DisplayType, StyleProperties

    if element.get_style(StyleProperties.Display) is DisplayType.none:
        return
    own, stop = _span(element, start, end)
    if not isinstance(element, m.P):
        for child in element:
            yield from _states(child, own, stop)
        return
    stop = own + _LAST_S if stop is None else stop
    inner = {time for time in _times(element, own, stop) if own < time < stop}
    key = 3 * _row(element) + 2
    place = "" if key == 2 else settings_of_key(key)
    for begin, until in pairwise(sorted({own, stop, *inner})):
        lines = _lines(element, own, stop, begin)
        if lines and round(until * 1000) > round(begin * 1000):
            yield State(round(begin * 1000), round(until * 1000), lines, place)


def _times(element: Any, start: Fraction, end: Fraction) -> Iterator[Fraction]:
    """When something inside an element comes or goes."""
    for child in element:
        if child.get_begin() is not None or child.get_end() is not None:
            own, stop = _span(child, start, end)
            yield own
            yield end if stop is None else stop
            yield from _times(child, own, end if stop is None else stop)
        else:
            yield from _times(child, start, end)


def _row(paragraph: Any) -> int:
    """Where the lines of a paragraph stand, from below."""
    from ttconv.style_properties import StyleProperties

    region = _region(paragraph)
    if region is None:
        return 0
    origin, extent = (region.get_style(one) for one in (StyleProperties.Origin, StyleProperties.Extent))
    align = region.get_style(StyleProperties.DisplayAlign)
    share = _ROWS.index(align.value) / 2 if align else 1.0  # from below
    document = paragraph.get_doc()
    top = _percent(origin.y, document) if origin else 0.0
    height = _percent(extent.height, document) if extent else 100.0 - top
    at = top + (1 - share) * height
    return 2 if at < 34 else 1 if at < 67 else 0


def _percent(length: Any, document: Any) -> float:
    """A height in percent of the picture's."""
    whole = {"px": document.get_px_resolution().height, "c": document.get_cell_resolution().rows}
    return float(length.value) * 100 / whole.get(length.units.value, 100)


def _region(element: Any) -> Any:
    while element is not None:
        if element.get_region() is not None:
            return element.get_region()
        element = element.parent()
    return None


def _style(element: Any, what: Any, region: Any = None) -> Any:
    """A style that is inherited."""
    while element is not None:
        value = element.get_style(what)
        if value is not None:
            return value
        element = element.parent()
    return region.get_style(what) if region is not None else None


def _lines(paragraph: Any, start: Fraction, end: Fraction, at: Fraction) -> list[str]:
    """The lines of a paragraph at a time, as WebVTT writes them.

    What looks like a tag is escaped, styles are tags.
    """
    from ttconv import model as m

    lines, plain = [""], [""]

    def walk(element: Any, start: Fraction, end: Fraction | None) -> None:
        if isinstance(element, m.Br):
            lines.append("")
            plain.append("")
        elif isinstance(element, m.Text):
            text = element.get_text()
            plain[-1] += text
            lines[-1] += _styled(escaped(text), element.parent())
        for child in element:
            own, stop = _span(child, start, end) if not isinstance(child, m.Text | m.Br) else (start, end)
            if own <= at and (stop is None or at < stop):
                walk(child, own, stop)

    walk(paragraph, start, end)
    return [tidied(line) for line, bare in zip(lines, plain) if bare.strip()]


def _styled(text: str, span: Any) -> str:
    from ttconv.style_properties import FontStyleType, FontWeightType, StyleProperties

    if not text.strip():
        return text
    if _style(span, StyleProperties.FontStyle) not in (None, FontStyleType.normal):
        text = f"<i>{text}</i>"
    if _style(span, StyleProperties.FontWeight) is FontWeightType.bold:
        text = f"<b>{text}</b>"
    line = _style(span, StyleProperties.TextDecoration)
    return f"<u>{text}</u>" if getattr(line, "underline", False) is True else text
