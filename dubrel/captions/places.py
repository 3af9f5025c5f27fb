"""Where a caption stands on the picture, in percent of its width and height.

A caption keeps its place as cue settings of WebVTT (W3C): ``line`` in percent
of the height, ``position`` in percent of the width, ``align``. What stands in
no caption comes from the house style.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from dubrel.base.value import Value
from dubrel.model import Caption, HouseStyle

SAFE = 5.0
"""What stays free at each edge of the picture, in percent."""
_TOPS = {"top": SAFE, "middle": 50.0, "bottom": 100.0 - SAFE}
_SIDES = {"left": SAFE, "centre": 50.0, "right": 100.0 - SAFE}
_ANCHORS = {"top": "start", "middle": "center", "bottom": "end"}
_ALIGN = {"left": "left", "centre": "center", "right": "right"}
_LINE = re.compile(r"(?:^|\s)line:(-?\d+(?:\.\d+)?)(%?)(?:,(start|center|end))?")
_POSITION = re.compile(r"(?:^|\s)position:(\d+(?:\.\d+)?)%(?:,(line-left|center|line-right))?")
_ALIGNED = re.compile(r"(?:^|\s)align:(start|left|center|middle|end|right)")
LINE_HEIGHT = 8.5  # percent of the height that a line is taken to have before it is drawn
_MIDDLE = 2.0  # percent of the height by which each line of a caption in the middle begins higher
SIGN_WIDTH = 1.75  # percent of the width that a character is taken to have


class Place(Value):
    """A point of the picture, and which point of the caption stands on it.

    Attributes
    ----------
    x, y : float
        In percent of the width and the height.
    side : {"left", "centre", "right"}
    level : {"top", "middle", "bottom"}
    """

    x: float = 50.0
    y: float = 100.0 - SAFE
    side: str = "centre"
    level: str = "bottom"

    @property
    def name(self) -> str:
        """In words: ``bottom centre``, or where it was put by hand."""
        usual = self == named_place(f"{self.level} {self.side}")
        return f"{self.level} {self.side}" if usual else f"{self.x:.0f} % across, {self.y:.0f} % down"


def named_place(name: str) -> Place:
    """The place that a house style names."""
    level, _, side = name.partition(" ")
    level, side = level if level in _TOPS else "bottom", side if side in _SIDES else "centre"
    return Place(_SIDES[side], _TOPS[level], side, level)


def settings_of(place: Place) -> str:
    """A place as cue settings of WebVTT."""
    line = f"line:{place.y:g}%,{_ANCHORS[place.level]}"
    return f"{line} position:{place.x:g}% align:{_ALIGN[place.side]}"


def placed(caption: Caption, style: HouseStyle) -> Place:
    """Where a caption stands: its own place, or that of the style."""
    usual = named_place(style.place)
    return _from_settings(caption.place, usual) if caption.place else usual


def _from_settings(text: str, usual: Place) -> Place:
    x, y, side, level = usual.x, usual.y, usual.side, usual.level
    if found := _LINE.search(text):
        value = float(found.group(1))
        if found.group(2):
            level = {"start": "top", "center": "middle", "end": "bottom"}.get(found.group(3) or "", "")
            level = level or "top"
            y = min(max(value, 0.0), 100.0)
        else:  # a number of lines, from the top or with a minus from the bottom
            level = "top" if value >= 0 else "bottom"
            y = SAFE + value * LINE_HEIGHT if value >= 0 else 100 - SAFE + (value + 1) * LINE_HEIGHT
            y = min(max(y, SAFE), 100 - SAFE)
    if found := _ALIGNED.search(text):
        sides = {"start": "left", "left": "left", "end": "right", "right": "right"}
        side = sides.get(found.group(1), "centre")
        x = _SIDES[side]
    if found := _POSITION.search(text):
        x = min(float(found.group(1)), 100.0)
    return Place(x, y, side, level)


def plain_settings(settings: str, lines: int) -> str:
    """Cue settings without anchors of lines, which some browsers do not know and then leave out the whole.

    Where the first line stands follows from how many lines there are; the
    usual place at the bottom needs no setting. Those browsers also move a
    caption up by a share of its height, so that a middle is halfway between.

    Examples
    --------
    >>> plain_settings("line:50%,center position:5% align:left", 2)
    'line:46% position:5% align:left'
    >>> plain_settings("line:95%,end position:50% align:center", 2), plain_settings("line:5%,start", 1)
    ('position:50% align:center', 'line:5%')
    """
    found = _LINE.search(settings)
    if found is None or not found.group(3):
        return settings
    value, anchor = float(found.group(1)), found.group(3)
    height = {"start": 0.0, "center": _MIDDLE, "end": LINE_HEIGHT}[anchor]
    usual = anchor == "end" and value == _TOPS["bottom"]
    made = "" if usual else f"line:{max(0.0, round(value - lines * height, 2)):g}%"
    return _exchanged(settings, found, made)


def anchored_settings(settings: str, lines: int) -> str:
    """Cue settings in which a middle that was written by :func:`plain_settings` has its anchor again.

    Examples
    --------
    >>> anchored_settings("line:46% position:5% align:left", 2), anchored_settings("line:46%", 1)
    ('line:50%,center position:5% align:left', 'line:46%')
    """
    found = _LINE.search(settings)
    if found is None or found.group(3) or not found.group(2):
        return settings
    middle = float(found.group(1)) == _TOPS["middle"] - lines * _MIDDLE
    return _exchanged(settings, found, "line:50%,center") if middle else settings


def _exchanged(settings: str, found: re.Match[str], made: str) -> str:
    parts = (settings[: found.start()], made, settings[found.end() :])
    return " ".join(filter(None, map(str.strip, parts)))


def box_of(lines: Sequence[str], place: Place) -> tuple[float, float, float, float]:
    """About the room that a caption takes: left, top, right, bottom in percent."""
    width = min(100.0, max((len(line) for line in lines), default=0) * SIGN_WIDTH)
    height = max(1, len(lines)) * LINE_HEIGHT
    left = {"left": place.x, "centre": place.x - width / 2, "right": place.x - width}[place.side]
    top = {"top": place.y, "middle": place.y - height / 2, "bottom": place.y - height}[place.level]
    left, top = min(max(left, 0.0), 100 - width), min(max(top, 0.0), max(0.0, 100 - height))
    return left, top, left + width, top + height
