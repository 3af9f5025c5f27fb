"""Cues out of the model that the library for TTML and SCC makes of a file.

The library's own way, a document for each moment, costs the square of the
length; here each paragraph is looked at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

from dubrel.formats.shared.common import cue_of
from dubrel.formats.shared.inline import escaped, settings_of_key
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Cue, Look

ROWS, COLUMNS = ("after", "center", "before"), ("start", "center", "end")
"""Alignments in the order of the keys of a number pad."""
Voices = list[list[tuple[str, str]]]
_LAST_S = Fraction(2)  # how long a caption stands that has no end


@dataclass
class _Piece:
    """What a paragraph shows for a while."""

    start_ms: int
    end_ms: int
    place: tuple[int, int]
    lines: list[str]
    paragraph: int


def cues_of_model(model: Any, odd: Oddities, voices: Voices, sides: bool = True) -> Iterator[Cue]:
    """The cues of a document.

    Paragraphs at the very same times are one caption.

    Parameters
    ----------
    model : ttconv.model.ContentDocument or None
    odd : Oddities
    voices : list of list of (str, str)
        For each paragraph its lines and who says them.
    sides : bool
        Whether left and right mean anything.
    """
    body = model.get_body() if model is not None else None
    pieces: list[_Piece] = []
    found = _pieces(body, Fraction(0), None, _by_paragraph(body, voices)) if body is not None else ()
    shown = set[int]()
    for piece in found:
        shown.add(piece.paragraph)
        last = pieces[-1] if pieces else None
        if last and (last.start_ms, last.end_ms) == (piece.start_ms, piece.end_ms):
            last.lines += piece.lines
        else:
            pieces.append(piece)
    odd.left_out("paragraphs that are never shown", max(0, sum(map(bool, voices)) - len(shown)))
    for nth, one in enumerate(pieces, 1):
        row, column = one.place
        key = 3 * row + (column if sides else 1) + 1
        place = "" if key == 2 else settings_of_key(key)
        cue = cue_of((one.start_ms, one.end_ms), one.lines, nth, odd, place)
        if cue is not None:
            yield cue


def _by_paragraph(body: Any, voices: Voices) -> dict[int, list[tuple[str, str]]]:
    """Who says the lines of each paragraph of a model.

    Where the paragraphs are not those of the file, of all.
    """
    from ttconv import model as m

    paragraphs = [one for one in body.dfs_iterator() if isinstance(one, m.P)]
    every = [line for lines in voices for line in lines]
    same = len(paragraphs) == len(voices)
    return {id(one): voices[nth] if same else every for nth, one in enumerate(paragraphs)}


def look_of_model(model: Any) -> Look | None:
    """The colours of a document, as its first paragraph has them; ``None`` where it says nothing of them.

    Where paragraphs differ, the look of the others is lost: it would be one for each caption.
    """
    from ttconv import model as m
    from ttconv.style_properties import StyleProperties

    body = model.get_body() if model is not None else None
    first = (
        next((one for one in body.dfs_iterator() if isinstance(one, m.P)), None) if body is not None else None
    )
    if first is None:
        return None
    spans = [one for one in first if isinstance(one, m.Span)]
    inner = spans[0] if len(spans) == 1 else first
    region = _region(first)
    look, colour = Look(), _style(inner, StyleProperties.Color, region)
    ground = _style(inner, StyleProperties.BackgroundColor, region)
    if colour is not None:
        look = replace(look, colour="#{:02X}{:02X}{:02X}".format(*colour.components[:3]))
    if ground is not None:
        alpha = round(ground.components[3] / 255, 2)
        made = "#{:02X}{:02X}{:02X}".format(*ground.components[:3])
        look = replace(look, ground=made, opacity=alpha) if alpha else replace(look, box="none")
    return None if look == Look() else look


def _span(element: Any, start: Fraction, end: Fraction | None) -> tuple[Fraction, Fraction | None]:
    """When an element is active, within its parent."""
    begin, stop = element.get_begin(), element.get_end()
    own = start + (begin or 0)
    ends = [one for one in (end, start + stop if stop is not None else None) if one is not None]
    return own, min(ends, default=None)


def _pieces(
    element: Any, start: Fraction, end: Fraction | None, voices: dict[int, list[tuple[str, str]]]
) -> Iterator[_Piece]:
    from ttconv import model as m
    from ttconv.style_properties import DisplayType, StyleProperties

    if element.get_style(StyleProperties.Display) is DisplayType.none:
        return
    own, stop = _span(element, start, end)
    if not isinstance(element, m.P):
        for child in element:
            yield from _pieces(child, own, stop, voices)
        return
    stop = own + _LAST_S if stop is None else stop
    inner = {time for time in _times(element, own, stop) if own < time < stop}
    place = _row_and_column(element)
    for begin, until in pairwise(sorted({own, stop, *inner})):
        lines = _lines(element, own, stop, begin, voices[id(element)])
        if lines and round(until * 1000) > round(begin * 1000):
            yield _Piece(round(begin * 1000), round(until * 1000), place, lines, id(element))


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


def _row_and_column(paragraph: Any) -> tuple[int, int]:
    """Where the lines of a paragraph stand: row from below, column from the left."""
    from ttconv.style_properties import StyleProperties

    region = _region(paragraph)
    side = _style(paragraph, StyleProperties.TextAlign, region)
    column = COLUMNS.index(side.value) if side else 1
    if region is None:
        return 0, column
    origin, extent = (region.get_style(one) for one in (StyleProperties.Origin, StyleProperties.Extent))
    align = region.get_style(StyleProperties.DisplayAlign)
    share = ROWS.index(align.value) / 2 if align else 1.0  # from below
    document = paragraph.get_doc()
    top = _percent(origin.y, document) if origin else 0.0
    height = _percent(extent.height, document) if extent else 100.0 - top
    at = top + (1 - share) * height
    return (2 if at < 34 else 1 if at < 67 else 0), column


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


def _lines(
    paragraph: Any, start: Fraction, end: Fraction, at: Fraction, voices: list[tuple[str, str]]
) -> list[str]:
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
    shown = [(line, " ".join(bare.split())) for line, bare in zip(lines, plain) if bare.strip()]
    names = dict(voices)
    if [bare for _, bare in shown] == [said for said, _ in voices]:
        who = [name for _, name in voices]  # the same line can be said by two
    else:
        who = [names.get(bare, "") for _, bare in shown]
    rows = [(" ".join(line.split()), name) for (line, _), name in zip(shown, who)]
    return [f"<v {escaped(name)}>{line}</v>" if name else line for line, name in rows]


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
