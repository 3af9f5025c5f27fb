"""Captions whose words move: drawn word by word, and only what changes is drawn again."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from dubrel.base.value import Value
from dubrel.captions.motion import WordState
from dubrel.captions.places import Place
from dubrel.film.drawing import Drawn, Pen, Pieces, laid_out, rgb
from dubrel.model import Look

_BOX_SIDE, _BOX_HIGH = 0.16, 0.62  # of the size: around the spoken word, above and below its middle
_RISE = 0.6
_RTL, _NUMBERS = frozenset(("R", "AL")), frozenset(("EN", "AN"))

Box = tuple[int, int, int, int]


class _Word(Value):
    """A word in its place: its left end and the middle of its line, in the caption's own picture."""

    text: str
    style: str
    x: float
    y: int
    width: float
    line: int


class MovingCaption:
    """A caption as it looks from state to state.

    Parameters
    ----------
    lines : sequence of str
    look : Look
    place : Place
    width, height : int
        Of the picture.
    rtl : bool
    pieces : sequence of tuple of (str, str)
        For each line its words, with what stands before them, and their styles.
    """

    def __init__(
        self,
        lines: Sequence[str],
        look: Look,
        place: Place,
        width: int,
        height: int,
        *,
        rtl: bool = False,
        pieces: Sequence[Pieces] = (),
    ) -> None:
        from PIL import Image

        self.look, self.rtl = look, rtl
        self._place = laid_out(lines, look, place, width, height, rtl)
        self._pen = self._place.pen
        self._words = [word for nth, row in enumerate(pieces) for word in self._spots(nth, row)]
        self._tiles: dict[tuple[int, str], tuple[Any, int, int]] = {}
        self._image = Image.new("RGBA", (self._place.room, self._place.tall), (0, 0, 0, 0))
        self._state: WordState | None = None
        self.x, self.y = self._place.x, self._place.y
        self.rise = round(self._pen.size * _RISE)

    @property
    def missing(self) -> str:
        """The family of a font that is not there."""
        return "" if self._pen.there else self.look.font

    @property
    def pixels(self) -> np.ndarray:
        """What was drawn last, shape (height, width, 4)."""
        return np.asarray(self._image)

    def _spots(self, line: int, row: Pieces) -> list[_Word]:
        """The words of a line from the left, in the order in which they are said."""
        pen, (left, top) = self._pen, self._place.spots[line]
        words = [text.lstrip(" ") for text, _ in row]
        gaps = [pen.advance(" ") if text[:1] == " " else 0.0 for text, _ in row]
        widths = [pen.advance(word, style) for word, (_, style) in zip(words, row)]
        order = visual_order(words, self.rtl)
        places, x = [0.0] * len(words), 0.0
        for nth, place in enumerate(order):
            x += gaps[max(place, order[nth - 1])] if nth else 0.0
            places[place] = x
            x += widths[place]
        start = left + pen.pad + (self._place.widths[line] - x) / 2
        middle = top + self._place.step // 2
        return [
            _Word(word, style, start + at, middle, width, line)
            for word, (_, style), at, width in zip(words, row, places, widths)
        ]

    # -- drawing ------------------------------------------------------------------------------

    def draw(self, state: WordState) -> Box | None:
        """Draw a state; what changed of the picture, or nothing."""
        before, self._state = self._state, state
        if before == state:
            return None
        box: Box | None = (0, 0, self._place.room, self._place.tall)
        if before is not None:
            box = self._changed(before, state)
        if box is not None:
            self._compose(box, state)
        return box

    def _kind(self, nth: int, state: WordState) -> str:
        """How a word is drawn: spoken, passed, plain, or not at all."""
        if nth >= state.shown:
            return ""
        if nth == state.spoken:
            return "spoken"
        return "passed" if nth < state.passed and self.look.motion.dimmed else "plain"

    def _changed(self, before: WordState, state: WordState) -> Box | None:
        found: Box | None = None
        for nth, word in enumerate(self._words):
            kinds = self._kind(nth, before), self._kind(nth, state)
            if kinds[0] == kinds[1]:
                continue
            for kind in kinds:
                if kind:
                    image, left, top = self._tile(nth, kind)
                    found = _union(found, (left, top, left + image.width, top + image.height))
            if "" in kinds:  # the box of its line grows or shrinks
                top = self._place.spots[word.line][1]
                found = _union(found, (0, top, self._place.room, top + self._place.step))
        if found is None:
            return None
        clipped = (
            max(0, found[0]),
            max(0, found[1]),
            min(self._place.room, found[2]),
            min(self._place.tall, found[3]),
        )
        return clipped if clipped[2] > clipped[0] and clipped[3] > clipped[1] else None

    def _compose(self, box: Box, state: WordState) -> None:
        """Draw what lies in a box: the ground, the words, the spoken one above all."""
        ground = self._ground(state)
        part = ground.crop(box)
        order = [nth for nth in range(len(self._words)) if nth != state.spoken]
        order += [state.spoken] if 0 <= state.spoken < len(self._words) else []
        for nth in order:
            kind = self._kind(nth, state)
            if not kind:
                continue
            image, left, top = self._tile(nth, kind)
            if left < box[2] and left + image.width > box[0] and top < box[3] and top + image.height > box[1]:
                x, y = left - box[0], top - box[1]
                part.alpha_composite(image, (max(0, x), max(0, y)), (max(0, -x), max(0, -y)))
        self._image.paste(part, box[:2])

    def _ground(self, state: WordState) -> Any:
        """The boxes behind the words that are seen."""
        ends: dict[int, tuple[float, float]] = {}
        for word in self._words[: state.shown]:
            low, high = ends.get(word.line, (word.x, word.x))
            ends[word.line] = (min(low, word.x), max(high, word.x + word.width))
        whole = state.shown >= len(self._words)
        spots, widths = [], []
        for nth, ((x, y), width) in enumerate(zip(self._place.spots, self._place.widths)):
            low, high = ends.get(nth, (0.0, 0.0))
            spots.append((x if whole else round(low) - self._pen.pad, y))
            widths.append(width if whole else round(high - low))
        return _ground(
            self._pen, self._place.room, self._place.tall, self._place.step, tuple(spots), tuple(widths)
        )

    def _tile(self, nth: int, kind: str) -> tuple[Any, int, int]:
        """A word drawn by itself, and where its left upper corner stands."""
        key = (nth, kind)
        if key not in self._tiles:
            self._tiles[key] = self._paler(nth) if kind == "passed" else self._drawn(self._words[nth], kind)
        return self._tiles[key]

    def _paler(self, nth: int) -> tuple[Any, int, int]:
        """A word as it is once it has been spoken."""
        image, left, top = self._tile(nth, "plain")
        paler, share = image.copy(), 1 - self.look.motion.dimmed
        paler.putalpha(paler.getchannel("A").point(lambda value: round(value * share)))
        return paler, left, top

    def _drawn(self, word: _Word, kind: str) -> tuple[Any, int, int]:
        from PIL import Image, ImageDraw

        motion, pen, style, colour = self.look.motion, self._pen, word.style, ""
        if kind == "spoken":
            pen = Pen(self.look, round(pen.size * (1 + motion.larger / 100)), self.rtl)
            style += ("b" if motion.bold else "") + ("u" if motion.ruled else "")
            colour = motion.colour
        edge = pen.pad + round(pen.size * (0.4 + self.look.shadow / 100))
        wide = max(word.width, pen.advance(word.text, style)) if kind == "spoken" else word.width
        width, height = round(wide) + 2 * edge, round(pen.size * 1.7) + 2 * edge
        image = Image.new("RGBA", (width, height), (0, 0, 0, 0))
        middle = (width // 2, height // 2)
        left = round(word.x + word.width / 2) - middle[0]
        if kind == "spoken" and motion.box:
            side, high = wide / 2 + pen.size * _BOX_SIDE, pen.size * _BOX_HIGH
            area = (middle[0] - side, middle[1] - high, middle[0] + side, middle[1] + high)
            ImageDraw.Draw(image).rectangle(area, fill=(*rgb(motion.box), 255))
        if kind == "spoken":
            pen.write(image, word.text, middle, style, colour, "mm")
        else:  # exactly where the line would have it
            pen.write(image, word.text, (round(word.x) - left, middle[1]), style)
        self._pen.there = self._pen.there and pen.there
        return image, left, word.y - middle[1]

    def drawn(self, state: WordState, seen: float = 1.0, below: float = 0.0) -> Drawn:
        """A state as a picture of its own, as far as it has come in."""
        self.draw(state)
        pixels = self.pixels
        if seen < 1:
            pixels = pixels.copy()
            pixels[..., 3] = np.round(pixels[..., 3] * seen).astype(np.uint8)
        return Drawn(pixels, self.x, self.y + even(below * self.rise), self.missing)


@lru_cache(maxsize=8)
def _ground(
    pen: Pen, room: int, tall: int, step: int, spots: tuple[tuple[int, int], ...], widths: tuple[int, ...]
) -> Any:
    from PIL import Image

    image = Image.new("RGBA", (room, tall), (0, 0, 0, 0))
    pen.boxes(image, spots, widths, step)
    return image


def even(value: float) -> int:
    """A whole number of two pixels: colours have one for each two by two."""
    return round(value / 2) * 2


def _union(one: Box | None, other: Box) -> Box:
    if one is None:
        return other
    return min(one[0], other[0]), min(one[1], other[1]), max(one[2], other[2]), max(one[3], other[3])


def visual_order(words: Sequence[str], rtl: bool) -> list[int]:
    """The places of words from left to right, in a line of one direction with words of the other in it.

    The rules of the Unicode bidirectional algorithm (UAX 9) as far as whole words go: a number
    goes with the words before it, what has no direction with those around it.

    Examples
    --------
    >>> visual_order(["הסירה", "Slow", "Water", "7", "כאן"], True)
    [4, 1, 2, 3, 0]
    >>> visual_order(["the", "הסירה", "הצרה", "boat"], False)
    [0, 2, 1, 3]
    """
    own, other = ("R", "L") if rtl else ("L", "R")
    kinds = [_kind_of(word) for word in words]
    strong = own
    for nth, kind in enumerate(kinds):
        if kind == "N" and strong == "L":
            kinds[nth] = "L"
        elif kind in "LR":
            strong = kind
    for nth, kind in enumerate(kinds):
        if kind in ("N", ""):
            before = next((one for one in reversed(kinds[:nth]) if one in ("L", "R")), own)
            after = next((one for one in kinds[nth + 1 :] if one in ("L", "R")), own)
            kinds[nth] = before if before == after and kind == "" else own
    order: list[int] = []
    nth = 0
    while nth < len(kinds):
        stop = nth
        while stop < len(kinds) and kinds[stop] == other and kinds[nth] == other:
            stop += 1
        run = list(range(nth, max(stop, nth + 1)))
        order += run if not rtl and kinds[nth] != other else run[::-1]
        nth += len(run)
    return order[::-1] if rtl else order


def _kind_of(word: str) -> str:
    """``L`` or ``R`` by its first letter, ``N`` for a number, nothing for signs alone."""
    number = ""
    for sign in word:
        kind = unicodedata.bidirectional(sign)
        if kind == "L":
            return "L"
        if kind in _RTL:
            return "R"
        number = "N" if kind in _NUMBERS else number
    return number
