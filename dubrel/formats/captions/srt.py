"""SubRip captions (.srt), read as they come and written plainly."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.timecode import LATEST_MS, clock_ms, format_clock
from dubrel.formats.shared.common import Reading, cue_of, in_order, read_text, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import key_of_settings, marked
from dubrel.formats.shared.losses import DRAWN, Cannot
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Caption, Cue, Project
from dubrel.project.captiontext import CaptionText, shown_captions

_CLOCK = (
    r"(-?)\s{0,3}(?:(\d{1,4})\s{0,2}:\s{0,2})?(\d{1,3})\s{0,2}:\s{0,2}(\d{1,2})"
    r"(?:\s{0,2}([.,:;])\s{0,2}(\d{1,9}))?"
)
_ARROW = r"\s{0,9}(?:-{1,3}\s?[->＞]|[-–—]{1,2}>|→|=>|&gt;|-->)\s{0,9}"
_TIMES = re.compile(rf"^\s*{_CLOCK}{_ARROW}{_CLOCK}(?P<rest>\s.*)?$")
_MARKS = re.compile("[\u200b-\u200f\u202a-\u202e\u2060-\u2069\ufeff]")
_COORDINATES = re.compile(r"(?:[XY][12]:\s*-?\d+\s*)+", re.IGNORECASE)
_LOOKS_LIKE_TIMES = re.compile(r"\d.{0,12}(?:-->|→).{0,12}\d")


def write(project: Project) -> str:
    """The caption track as SubRip text."""
    blocks = []
    for number, (caption, text) in enumerate(shown_captions(project, project.captions), 1):
        times = " --> ".join(format_clock(ms, mark=",") for ms in (caption.start_ms, caption.end_ms))
        blocks.append(f"{number}\n{times}\n{_placed(caption, text)}\n")
    return "\n".join(blocks)


def _placed(caption: Caption, text: CaptionText) -> str:
    key = key_of_settings(caption.place) if caption.place else 2
    lines = [marked(pieces) for pieces in text.pieces] if text.pieces else text.lines
    return (f"{{\\an{key}}}" if key != 2 else "") + "\n".join(lines)


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read captions, correcting what can be corrected and warning of it.

    Parameters
    ----------
    path : Path
    names : collection of str
        What the user says is a speaker's name where it stands before a colon.

    Raises
    ------
    FormatError
        If there is no caption in the file.
    """
    cues, warnings = read_cues(path)
    return reading_of(path, cues, warnings, names)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues as they stand in the file, and what is odd."""
    text, warnings = read_text(path)
    odd = Oddities()
    return cues_of(text, odd), warnings + odd.sentences()


def cues_of(text: str, odd: Oddities) -> list[Cue]:
    """The cues of a SubRip text; what is odd is added to ``odd``."""
    lines = text.replace("--&gt;", "-->").split("\n")
    found = [(place, _TIMES.match(_MARKS.sub("", line))) for place, line in enumerate(lines) if _may_be(line)]
    marks = [(place, one) for place, one in found if one]
    for place, one in found:
        if not one and _LOOKS_LIKE_TIMES.search(lines[place]):
            odd.at(place + 1, tr("looks like times but cannot be read; kept as text"))
    _say_what_is_before(lines, marks[0][0] if marks else len(lines), odd)
    short = _short_fractions([one for _, one in marks], odd)
    cues = []
    for nth, (place, one) in enumerate(marks):
        stop = marks[nth + 1][0] if nth + 1 < len(marks) else len(lines)
        body = [line.strip() for line in lines[place + 1 : stop]]
        if nth + 1 < len(marks):
            body = _without_number(body, nth + 2)
        times = (_time(one.groups()[:6], short), _time(one.groups()[6:12], short))
        rest = (one.group("rest") or "").strip()
        if _COORDINATES.fullmatch(rest):
            odd.left_out(tr("coordinates after times"))
        elif rest:
            odd.at(place + 1, tr("text after the times; read as the first line"))
            body.insert(0, rest)
        if max(times) > LATEST_MS:
            odd.at(place + 1, tr("a time beyond a hundred hours; that caption was left out"))
            continue
        cue = cue_of(times, body, place + 1, odd)
        if cue is not None:
            cues.append(cue)
    return in_order(cues, odd)


def _may_be(line: str) -> bool:
    return ":" in line and any(sign in line for sign in (">", "→", "＞"))


def _without_number(body: list[str], expected: int) -> list[str]:
    """The lines of a block without the number of the next cue, which may stand apart from its times."""
    said = list(body)
    while said and not said[-1]:
        said.pop()
    if not said or not said[-1].isdecimal():
        return body
    alone = len(said) < 2 or not said[-2]
    next_one = int(said[-1][:9]) in (expected, expected - 1)
    is_number = next_one if len(said) < len(body) and len(said) < 2 else alone or next_one
    return said[:-1] if is_number else body


def _say_what_is_before(lines: Sequence[str], stop: int, odd: Oddities) -> None:
    before = [place for place in range(stop) if lines[place].strip()]
    if before and lines[before[-1]].strip().isdecimal():
        before.pop()
    for place in before if stop < len(lines) else ():
        odd.at(place + 1, tr("not understood, before the first caption; left out"))


def _short_fractions(marks: Sequence[re.Match[str]], odd: Oddities) -> bool:
    """Whether fractions of fewer than three digits are milliseconds without their zeros.

    A program that leaves zeros out writes 1,5 for five milliseconds and 1,500
    for half a second in one file; one that counts hundredths always writes two digits.
    """
    parts = [(one.group(at), one.group(at + 1)) for one in marks for at in (5, 11) if one.group(at + 1)]
    if not any(len(fraction) < 3 for _, fraction in parts):
        return False
    commas = {len(fraction) for sign, fraction in parts if sign == ","}
    unpadded = 3 in commas and bool(commas & {1, 2})
    odd.say(
        tr("Fractions of fewer than three digits were read as milliseconds, as 1,005 for 1,5.")
        if unpadded
        else tr("Fractions of fewer than three digits were read as parts of a second, as 1,500 for 1,5.")
    )
    return unpadded


def _time(parts: Sequence[str | None], short: bool) -> int:
    minus, hours, minutes, seconds, sign, fraction = parts
    if fraction and short and sign == "," and len(fraction) < 3:
        ms = clock_ms(hours, minutes, seconds) + int(fraction)
    else:
        ms = clock_ms(hours, minutes, seconds, fraction)
    return -ms if minus else ms


FORM = caption_form(
    "srt",
    "SubRip",
    ".srt",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot("exact", speakers=True, language=True, look=DRAWN, looks=True, tags=True),
    seed=(
        b"1\n00:00:01,000 --> 00:00:02,000\n<i>ISOLDE: Slow &amp; water.</i>\n\n"
        b"2\n00:00:03,500 --> 00:00:04,000\n- Oak?\n- {\\an8}Oak.\\NYes.\n\n"
        b"3\n00:00:05,000 --> 00:00:06,000\nTOBIAH: Elm.\n"
    ),
)
