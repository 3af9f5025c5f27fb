"""What stands inside the text of captions besides words: tags, entities, places, line breaks.

Tags are those of WebVTT (W3C) and the few that SubRip files carry; anything
else between angle brackets is text and stays.
"""

from __future__ import annotations

import html
import re
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

from dubrel.base.catalogue import tr
from dubrel.base.text import spaced_units, tokens, word_units
from dubrel.base.timecode import clock_ms

_TOKEN = re.compile(
    r"</?(?P<tag>[A-Za-z]{1,8})(?P<more>[\s.][^<>]*)?/?>"
    r"|(?P<clock><\d{1,3}:[\d:.]{1,14}>)"
    r"|(?P<brace>\{(?=\\|[A-Za-z]:|/?[biu]\})[^{}]{1,200}\})"
    r"|(?P<slash>\\[Nnh])"
    r"|(?P<entity>&(?:#\d{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z]{2,8});)"
)
_TIME = re.compile(r"<(?:(\d{1,3}):(?=\d{1,2}:))?(\d{1,3}):(\d{1,2})(?:\.(\d{1,9}))?>")
_SPECIAL = re.compile(r"[<{\\&]")
_STYLES = {"i": "i", "b": "b", "u": "u", "em": "i", "strong": "b"}
_DROPPED = {
    "c": tr("colours and classes"),
    "font": tr("colours and fonts"),
    "lang": tr("language tags"),
    "s": tr("struck text"),
    "span": tr("colours and classes"),
    "p": tr("colours and classes"),
}
_WITH_ANNOTATION = {"v", "c", "lang", "font", "span", "p"}
_CODES = re.compile(r"\\(an|[a-z])([^\\]*)", re.IGNORECASE)
_BRACE_STYLE = re.compile(r"\{([/]?)([biu])\}|\{[yY]:([biu,]+)\}")
_OLD_PLACES = {1: 1, 2: 2, 3: 3, 5: 7, 6: 8, 7: 9, 9: 4, 10: 5, 11: 6}  # \a counts otherwise than \an


@dataclass
class Row:
    """A line of a caption.

    Attributes
    ----------
    text : str
    styles : list of str
        For each character its style: some of ``b``, ``i``, ``u``, or nothing.
    voice : str or None
        Who begins to speak in it, where that is said; empty where nobody known goes on.
    clocks : list of (int, int)
        Times that stand in it: before which character, and milliseconds.
    """

    text: str = ""
    styles: list[str] = field(default_factory=list)
    voice: str | None = None
    clocks: list[tuple[int, int]] = field(default_factory=list)

    def add(self, text: str, style: str) -> None:
        """More text."""
        self.text += text
        self.styles += [style] * len(text)

    def word_begins(self) -> dict[int, int]:
        """When words begin, by their place in the row, where that is said."""
        found: dict[int, int] = {}
        for at, ms in self.clocks:
            place = len(spaced_units(self.text[:at].strip()))
            if self.text[at:].strip():
                found.setdefault(place, ms)
        return found

    def word_styles(self) -> list[str]:
        """The style of each word."""
        found, at = [], 0
        for unit in word_units(self.text):
            at = self.text.index(unit, at)
            styles = self.styles[at : at + len(unit)]
            at += len(unit)
            found.append("".join(sorted(set("".join(styles)))) if styles else "")
        return found


@dataclass
class Inline:
    """The text of a caption, taken apart.

    Attributes
    ----------
    rows : list of Row
        Those that say something.
    place : int
        Where it stands, as the keys of a number pad are; 0 where that is not said.
    dropped : Counter
        What could not be kept, by what it is.
    """

    rows: list[Row]
    place: int = 0
    dropped: Counter[str] = field(default_factory=Counter)


def taken_apart(lines: Sequence[str]) -> Inline:
    r"""Take the text of a caption apart.

    Examples
    --------
    >>> found = taken_apart(["{\\an8}<i>Hello</i> &amp; 5 < 6", "<v Ann>Yes"])
    >>> [row.text for row in found.rows], found.rows[0].word_styles(), found.place
    (['Hello & 5 < 6', 'Yes'], ['i', '', '', '', ''], 8)
    """
    if not any(_SPECIAL.search(line) for line in lines):
        return Inline([_stripped(Row(line, [""] * len(line))) for line in lines if line.strip()])
    reader = _Reader()
    for line in lines:
        reader.line(line)
    found = reader.found
    found.rows = [_stripped(row) for row in found.rows if row.text.strip()]
    return found


def plain(line: str) -> str:
    """A line without what is not text."""
    return " ".join(row.text for row in taken_apart([line]).rows)


def _clock(text: str) -> int | None:
    """The milliseconds of ``<00:01.500>``; nothing where it is not a time."""
    found = _TIME.fullmatch(text)
    return clock_ms(found[1], found[2], found[3], found[4]) if found else None


def _stripped(row: Row) -> Row:
    start = len(row.text) - len(row.text.lstrip())
    text = row.text.strip()
    clocks = [(min(max(0, at - start), len(text)), ms) for at, ms in row.clocks]
    return Row(text, row.styles[start : start + len(text)], row.voice, clocks)


class _Reader:
    def __init__(self) -> None:
        self.found = Inline([])
        self._depth = dict.fromkeys("biu", 0)  # how many tags of each style are open
        self._now = ""
        self._said = False  # whether the voice that spoke has ended
        self._ruby = False

    def line(self, line: str) -> None:
        """Read a line; tags that are open go on in it."""
        if not line.strip():
            return
        row = self._new_row()
        at = 0
        for token in _TOKEN.finditer(line):
            row.add(line[at : token.start()], self._now)
            row = self._token(token, row)
            at = token.end()
        row.add(line[at:], self._now)

    def _new_row(self) -> Row:
        row = Row()
        row.voice = "" if self._said else None
        self.found.rows.append(row)
        return row

    def _token(self, token: re.Match[str], row: Row) -> Row:
        text = token.group()
        if token.group("clock"):
            if (ms := _clock(text)) is None:
                self.found.dropped[tr("times inside captions")] += 1
            else:
                row.clocks.append((len(row.text), ms))
        elif token.group("slash"):
            if text == "\\h":
                row.add(" ", self._now)
            else:
                return self._new_row()
        elif token.group("entity"):
            row.add(html.unescape(text), self._now)
        elif token.group("brace"):
            self._brace(text, row)
        else:
            return self._tag(token, row)
        return row

    def _brace(self, text: str, row: Row) -> None:
        """Codes in braces that other forms of captions leave behind."""
        if text.startswith("{\\"):
            for name, value in _CODES.findall(text[1:-1]):
                self._code(name, value)
        elif style := _BRACE_STYLE.fullmatch(text):
            if style.group(3):
                for letter in set(style.group(3)) & set("biu"):
                    self._turn(letter, True)
            else:
                self._turn(style.group(2), not style.group(1))
        else:
            self.found.dropped[tr("codes in braces")] += 1

    def _code(self, name: str, value: str) -> None:
        """One of the codes of a brace: a place, a style on or off, or something that is not kept."""
        if name in ("an", "a") and value.isdecimal():
            self.found.place = int(value) if name == "an" else _OLD_PLACES.get(int(value), 0)
        elif name in "biu" and value.isdecimal():
            self._turn(name, value != "0")
        else:
            self.found.dropped[tr("codes in braces")] += 1

    def _turn(self, letter: str, on: bool) -> None:
        self._depth[letter] = max(0, self._depth[letter] + (1 if on else -1))
        self._now = "".join(one for one, depth in self._depth.items() if depth)

    def _tag(self, token: re.Match[str], row: Row) -> Row:
        name, more, text = token.group("tag").lower(), (token.group("more") or ""), token.group()
        closing = text.startswith("</")
        if more.strip() and not more.startswith(".") and name not in _WITH_ANNOTATION:
            row.add(text, self._now)  # “<b 5 and c>” is not a tag
        elif name in _STYLES:
            self._turn(_STYLES[name], not closing)
        elif name == "br":
            return self._new_row()
        elif name == "v":
            return self._speaks(more, closing, row)
        elif name in ("ruby", "rt"):
            if name == "rt":
                row.add(")" if closing else "(", self._now)
                self.found.dropped[tr("readings above the line, now in brackets")] += not closing
        elif name == "c" and not more:
            pass  # a word by itself, so that times around it count
        elif name in _DROPPED:
            self.found.dropped[_DROPPED[name]] += not closing
        else:
            row.add(text, self._now)
        return row

    def _speaks(self, more: str, closing: bool, row: Row) -> Row:
        self._said = closing
        if closing:
            return row
        name = html.unescape(more.partition(" ")[2] if more.startswith(".") else more).strip()
        if row.text.strip():  # another person on the same line gets a line
            row = Row()
            self.found.rows.append(row)
            self.found.dropped[tr("second speakers on a line, now on a line of their own")] += 1
        row.voice = name
        return row


_CODE = re.compile(r"\{(?=\\|[A-Za-z]:|/?[biu]\})|\\(?=[Nnh])")


def escaped(text: str) -> str:
    r"""Text that no reader takes for tags, nor for codes in braces that some files carry over.

    Examples
    --------
    >>> escaped("<b> {\\an8}")
    '&lt;b&gt; &#123;\\an8}'
    """
    text = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    return _CODE.sub(lambda one: f"&#{ord(one.group())};", text)


def marked(pieces: Sequence[tuple[str, str]], escape: Callable[[str], str] = str) -> str:
    """Words, each with the space before it, and their styles as text with tags.

    Examples
    --------
    >>> marked([("So", ""), (" very", "i"), (" old.", "i")])
    'So <i>very old.</i>'
    """
    runs: list[tuple[str, str]] = []
    for text, style in pieces:
        if runs and runs[-1][0] == style:
            runs[-1] = (style, runs[-1][1] + escape(text))
        else:
            runs.append((style, escape(text)))
    said = []
    for style, text in runs:
        bare = text.lstrip(" ")
        said.append(" " * (len(text) - len(bare)) + _wrapped(bare, style))
    return "".join(said)


def _wrapped(text: str, style: str) -> str:
    for letter in style:
        text = f"<{letter}>{text}</{letter}>"
    return text


_SETTING = re.compile(
    r"(?:line:-?\d{1,4}(?:\.\d{1,6})?%?(?:,(?:start|center|end))?"
    r"|position:\d{1,3}(?:\.\d{1,6})?%(?:,(?:line-left|center|line-right|middle|start|end))?"
    r"|size:\d{1,3}(?:\.\d{1,6})?%|align:(?:start|center|end|left|right|middle)|vertical:(?:rl|lr))"
)


def settings_of(text: str) -> tuple[str, list[str]]:
    """The cue settings of WebVTT in a text, and what is none."""
    words = tokens(text)
    good = [word for word in words if _SETTING.fullmatch(word)]
    return " ".join(good), [word for word in words if word not in good]


_ROWS, _COLUMNS = (
    ("", "line:50%,center", "line:0"),
    ("position:10% align:left", "", "position:90% align:right"),
)


def settings_of_key(key: int) -> str:
    """A place as cue settings; ``key`` as the keys of a number pad are."""
    if not 1 <= key <= 9:
        return ""
    return " ".join(one for one in (_ROWS[(key - 1) // 3], _COLUMNS[(key - 1) % 3]) if one)


def key_of_settings(settings: str) -> int:
    """The key of the number pad that is nearest to cue settings; 2 for the usual place."""
    row, column = 0, 1
    for name, value in _pairs(settings):
        if name == "line" and "%" in value:
            percent = float(value.split(",")[0].rstrip("%"))
            row = 2 if percent < 34 else 1 if percent < 67 else 0
        elif name == "line":
            row = 0 if value.startswith("-") else 2
        elif name == "align":
            column = {"start": 0, "left": 0, "end": 2, "right": 2}.get(value, 1)
    return 3 * row + column + 1


def _pairs(settings: str) -> Iterator[tuple[str, str]]:
    for one in settings.split():
        name, _, value = one.partition(":")
        yield name, value
