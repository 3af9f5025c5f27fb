"""EBU STL captions (EBU Tech 3264).

A header of 1,024 bytes, and blocks of 128 with the text of each caption.
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.text import tidied
from dubrel.base.value import replace
from dubrel.formats.captions.stlletters import (
    decoded,
    encoded,
    has_letters,
    language_code,
    language_of,
    plain,
    table_for,
)
from dubrel.formats.shared.common import Reading, in_order, read_bytes, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import escaped, key_of_settings, settings_of_key
from dubrel.formats.shared.losses import DRAWN, Cannot, nearest_frame
from dubrel.formats.shared.oddities import Oddities
from dubrel.formats.shared.states import State, cues_of_states
from dubrel.model import Caption, Cue, Project
from dubrel.project.captiontext import CaptionText, shown_captions

FRAME_MS = 40
_HEAD, _BLOCK, _FIELD = 1024, 128, 112
_TTI = struct.Struct("<BHBBBBBBBBBBBBB112s")
_RATES = {
    "STL23.01": Fraction(24000, 1001),
    "STL24.01": Fraction(24),
    "STL25.01": Fraction(25),
    "STL29.01": Fraction(30),  # leaves numbers out, so its code keeps to the clock
    "STL30.01": Fraction(30),
    "STL50.01": Fraction(50),
    "STL59.01": Fraction(60),  # as 29
    "STL60.01": Fraction(60),
}
_LEAST_AFTER = 0.9  # of the captions, behind the time at which a programme is said to begin
_NEWLINE, _UNUSED, _LAST, _USER_DATA = 0x8A, 0x8F, 0xFF, 0xEF
_ITALICS, _UNDERLINE = (0x80, 0x81), (0x82, 0x83)
_ROWS, _LOWEST = 23, 22
_MOST_MS = 24 * 3_600_000


# -- written -----------------------------------------------------------------------------------


def write(project: Project) -> bytes:
    """The caption track in 25 frames a second, with one of nine places, italics and underlining.

    Captions at the very same times are one; one that is still out when the next
    begins ends there. Letters that the best of the five tables has not become “?”.

    Raises
    ------
    FormatError
        If a time lies beyond the first day, or hardly any letter has a place in a table.
    """
    track = project.captions
    shown = _apart(list(shown_captions(project, track)))
    lines = [line for _, texts in shown for text in texts for line in text.lines]
    table = table_for(lines)
    if lines and sum(decoded(encoded(line, table), table) != plain(line) for line in lines) > len(lines) / 2:
        raise FormatError(tr("EBU STL has no letters for this language. Release TTML or WebVTT instead."))
    if shown and shown[-1][0].end_ms >= _MOST_MS:
        raise FormatError(tr("EBU STL has no times beyond 24 hours. Release TTML or WebVTT instead."))
    blocks = [
        block
        for number, (caption, texts) in enumerate(shown)
        for block in _blocks(number, caption, _field(texts, table), sum(len(one.lines) for one in texts))
    ]
    language = track.language if track else project.transcript.language
    longest = max(map(len, lines), default=0)
    first = shown[0][0].start_ms if shown else 0
    return _header(project, table, language, len(blocks), len(shown), longest, first) + b"".join(blocks)


def _apart(shown: list[tuple[Caption, CaptionText]]) -> list[tuple[Caption, list[CaptionText]]]:
    """Captions one after the other."""
    found: list[tuple[Caption, list[CaptionText]]] = []
    for caption, text in sorted(shown, key=lambda one: (one[0].start_ms, one[0].end_ms)):
        if found and frame_of(found[-1][0].start_ms) == frame_of(caption.start_ms):
            ends = max(found[-1][0].end_ms, caption.end_ms)
            found[-1] = (replace(found[-1][0], end_ms=ends), [*found[-1][1], text])
            continue
        if found and found[-1][0].end_ms > caption.start_ms:
            found[-1] = (replace(found[-1][0], end_ms=caption.start_ms), found[-1][1])
        found.append((caption, [text]))
    return found


def frame_of(ms: int) -> int:
    """The frame that is nearest to a time."""
    return nearest_frame(ms, FRAME_MS)


def _lettering(lines: Sequence[str]) -> Callable[[str], str]:
    """What becomes of letters that the table of these lines has not."""
    table = table_for(lines)
    return lambda line: decoded(encoded(line, table), table)


def _header(
    project: Project, table: int, language: str, blocks: int, captions: int, longest: int, first_ms: int
) -> bytes:
    def text(value: str, length: int) -> bytes:
        return value.encode("cp850", "replace")[:length].ljust(length)

    today = f"{date.today():%y%m%d}"
    parts = [
        b"850STL25.01",
        b"0",
        f"{table:02}".encode(),
        language_code(language).encode(),
        text(project.title, 32),
        text(project.subtitle, 32),
        text("", 128),
        text("", 16),
        today.encode() * 2,
        b"00",
        f"{blocks:05}{captions:05}001{min(99, max(40, longest)):02}{_ROWS:02}1".encode(),
        b"00000000",  # when the programme begins
        "{:02}{:02}{:02}{:02}".format(*_clock(frame_of(first_ms))).encode(),
        b"11",
        text("", 3 + 32 + 32 + 32),
    ]
    return b"".join(parts).ljust(_HEAD)


def _blocks(number: int, caption: Caption, field: bytes, lines: int) -> Iterator[bytes]:
    start = frame_of(caption.start_ms)
    times = [*_clock(start), *_clock(max(start + 1, frame_of(caption.end_ms)))]
    row, column = divmod((key_of_settings(caption.place) if caption.place else 2) - 1, 3)
    top = (_LOWEST - lines + 1, (_ROWS - lines) // 2 + 1, 1)[row]
    parts = [field[at : at + _FIELD] for at in range(0, max(1, len(field)), _FIELD)]
    for nth, part in enumerate(parts):
        extension = _LAST if nth == len(parts) - 1 else nth
        place = (max(1, top), column + 1, 0)
        yield _TTI.pack(
            0, number % 65_536, extension, 0, *times, *place, part.ljust(_FIELD, bytes([_UNUSED]))
        )


def _clock(frame: int) -> tuple[int, int, int, int]:
    seconds, frames = divmod(frame, 25)
    return seconds // 3600, seconds // 60 % 60, seconds % 60, frames


def _field(texts: Sequence[CaptionText], table: int) -> bytes:
    rows = [
        _row(pieces, table)
        for text in texts
        for pieces in text.pieces or [((line, ""),) for line in text.lines]
    ]
    return bytes([_NEWLINE]).join(rows)


def _row(pieces: Sequence[tuple[str, str]], table: int) -> bytes:
    """A line; codes stand close to the letters that they are for."""
    found, now = b"", ""
    for piece, style in pieces:
        word = piece.lstrip()
        style = "".join(one for one in style if one in "iu")
        if style != now:
            found += _codes(now, on=False)
        found += encoded(piece[: len(piece) - len(word)], table)
        if style != now:
            found += _codes(style, on=True)
        found, now = found + encoded(word, table), style
    return found + _codes(now, on=False)


def _codes(style: str, *, on: bool) -> bytes:
    return bytes({"i": _ITALICS, "u": _UNDERLINE}[one][0 if on else 1] for one in style)


def listed(project: Project) -> str:
    """The file for the eye: time codes and lines."""
    file = _File(write(project), project.title)
    rows = []
    for one in file.cues:
        times = (":".join(f"{part:02}" for part in _clock(frame_of(ms))) for ms in (one.start_ms, one.end_ms))
        rows.append("\n".join(("  ".join(times), *one.lines)))
    return "\n\n".join(rows) + "\n"


# -- read --------------------------------------------------------------------------------------


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read captions with their places, italics and underlining, counted from where the programme begins.

    Raises
    ------
    FormatError
        If the file is not such a file, or has no caption.
    """
    file = _File(read_bytes(path), path.name)
    return reading_of(path, in_order(file.cues, file.odd), file.odd.sentences(), names, file.language)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues of a file, and what is odd."""
    file = _File(read_bytes(path), path.name)
    return in_order(file.cues, file.odd), file.odd.sentences()


@dataclass
class _Title:
    """The blocks of a caption."""

    number: int
    together: int  # 0 alone, 1 to 3 first, middle and last of those that add up on the picture
    times: tuple[int, int]
    row: int
    side: int
    field: bytes
    group: int = 0  # of those that add up, from 1


class _File:
    """A file taken apart block by block."""

    def __init__(self, data: bytes, name: str) -> None:
        self.head = data[:_HEAD]
        code = self.head[3:11].decode("latin-1")
        if len(data) < _HEAD + _BLOCK or not code.startswith("STL"):
            raise FormatError(
                tr("“{name}” is no EBU STL file. Choose another file, or ask for it again.").format(name=name)
            )
        self.odd = Oddities()
        if code not in _RATES:
            self.odd.say(
                tr("“{code}” is not a known frame rate; times were read in 25 frames a second.").format(
                    code=code
                )
            )
        self.rate = _RATES.get(code, Fraction(25))
        self.table = int(self.head[12:14]) if self.head[12:14] in (b"00", b"01", b"02", b"03", b"04") else 0
        self.language = language_of(self.head[14:16].decode("latin-1"))
        rows = self.head[253:255].decode("latin-1")
        self.rows = int(rows) if rows.strip().isdecimal() and int(rows) else _ROWS
        self.teletext = self.head[11:12] in (b"1", b"2")
        titles = list(self._titles(data[_HEAD:]))
        begins = self._programme(titles)
        states = map(self._state, self._added_up(titles, begins))
        self.cues = list(cues_of_states(states, self.odd))

    def _titles(self, data: bytes) -> Iterator[_Title]:
        field = b""
        for nth in range(len(data) // _BLOCK):
            _, number, extension, together, *rest = _TTI.unpack_from(data, nth * _BLOCK)
            times, (row, side, comment, text) = rest[:8], rest[8:]
            if _USER_DATA < extension < _LAST:
                self.odd.left_out(tr("blocks of user data"))
                continue
            field += text.rstrip(bytes([_UNUSED]))
            if extension != _LAST:
                continue
            if comment:
                self.odd.left_out(tr("comments"))
            else:
                start, end = self._ms(*times[:4]), self._ms(*times[4:])
                yield _Title(number, together, (start, end), row, side, field)
            field = b""

    def _ms(self, hours: int, minutes: int, seconds: int, frames: int) -> int:
        """A time code; that of 29.97 frames a second leaves numbers out and so keeps to the clock."""
        whole = (hours * 60 + minutes) * 60 + seconds
        if self.rate.denominator == 1:
            return whole * 1000 + round(Fraction(frames * 1000) / self.rate)
        return round(Fraction((whole * 24 + frames) * 1000) / self.rate)

    def _programme(self, titles: Sequence[_Title]) -> int:
        """When the programme begins; zero where that cannot be, as some captions would come before it."""
        code = self.head[256:264]
        if not code.isdigit():
            return 0
        begins = self._ms(*(int(code[at : at + 2]) for at in (0, 2, 4, 6)))
        before = sum(one.times[0] < begins for one in titles)
        if not begins or len(titles) - before < _LEAST_AFTER * len(titles):
            return 0
        if before:
            self.odd.say(
                counted(
                    before,
                    "caption stands before the programme begins; its time is set to zero.",
                    "captions stand before the programme begins; their times are set to zero.",
                )
            )
        clock = ":".join(code[at : at + 2].decode() for at in (0, 2, 4, 6))
        self.odd.say(tr("The programme begins at {clock}; times are counted from there.").format(clock=clock))
        return begins

    def _added_up(self, titles: Sequence[_Title], begins: int) -> Iterator[_Title]:
        """Captions that add up on the picture, each with what stands there already."""
        shown, group, first = b"", 0, titles[0] if titles else None
        for one, following in pairwise([*titles, None]):
            assert one is not None
            start, end = (max(0, ms - begins) for ms in one.times)
            if one.together == 1 or (one.together and not shown):
                group, first = group + 1, one
            if one.together and first is not None:
                one.group, one.row, one.side = group, first.row, first.side
            if one.together in (2, 3) and shown:
                one.field = shown + bytes([_NEWLINE]) + one.field
            shown = one.field if one.together in (1, 2) else b""
            if following is not None and shown and following.together in (2, 3):
                end = max(start, following.times[0] - begins)
            one.times = (start, end)
            yield one

    def _state(self, title: _Title) -> State:
        lines = _Lines(self.table, self.odd).of(title.field)
        high = 2 if self.teletext and 0x0D in title.field else 1
        tall = 1 if title.group else len(lines)  # what adds up stands where its first line does
        middle = (title.row - 1 + tall * high / 2) / self.rows
        row = 2 if middle < 0.34 else 1 if middle < 0.67 else 0
        key = 3 * row + {1: 0, 3: 2}.get(title.side, 1) + 1
        place = "" if key == 2 else settings_of_key(key)
        return State(*title.times, lines, place, title.number, title.group)


class _Lines:
    """The lines of a text field, as WebVTT writes them."""

    def __init__(self, table: int, odd: Oddities) -> None:
        self.table, self.odd = table, odd
        self.rows = [""]
        self._waiting = bytearray()
        self._on: list[str] = []

    def of(self, field: bytes) -> list[str]:
        """The lines that say something."""
        for code in field:
            if code == _UNUSED:
                break
            if 0x20 <= code <= 0x7F or code >= 0xA0:
                self._waiting.append(code)
            elif code == _NEWLINE:
                self._flush()
                self.rows.append("")
            elif code in (*_ITALICS, *_UNDERLINE):
                self._flush()
                style = "i" if code in _ITALICS else "u"
                self._on = [one for one in self._on if one != style]
                self._on += [style] if code in (_ITALICS[0], _UNDERLINE[0]) else []
            elif code < 0x20:  # of teletext: each takes the room of a sign
                self._waiting.append(0x20)
                if code < 0x07:
                    self.odd.left_out(tr("colours"))
        self._flush()
        return [tidied(row) for row in self.rows if row.strip()]

    def _flush(self) -> None:
        text = escaped(decoded(bytes(self._waiting), self.table))
        self._waiting.clear()
        for style in self._on if text.strip() else ():
            text = f"<{style}>{text}</{style}>"
        self.rows[-1] += text


FORM = caption_form(
    "stl",
    "EBU STL",
    ".stl",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot(
        "exact",
        speakers=True,
        styles="b",
        language=True,
        look=DRAWN,
        looks=True,
        together=True,
        frame_ms=FRAME_MS,
        lettering=_lettering,
    ),
    writes=has_letters,
    listed=lambda content: listed(content.project),
    seed=_header(Project(title="a"), 0, "09", 1, 1, 12, 1000)
    + b"".join(_blocks(0, Caption(0, 1000, 2000), b"Slow water.", 1)),
)
