"""Sung words as LRC: a time before each line, stanzas kept; widely read, nowhere standardised."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.text import spaced_units, tidied
from dubrel.base.timecode import clock_ms
from dubrel.base.value import replace
from dubrel.formats.shared.common import Reading, cue_of, in_order, read_text, reading_of
from dubrel.formats.shared.form import Content, caption_form
from dubrel.formats.shared.losses import DRAWN, Cannot, without_tags
from dubrel.formats.shared.oddities import Oddities
from dubrel.formats.shared.states import with_times
from dubrel.model import Caption, Cue, Project
from dubrel.project.captiontext import CaptionText, look_of, pieces_of, rows_of, shown_captions, word_times

_STANZA_MS = 2500
_LAST_MS = 4000
_TIME = re.compile(r"\[(?:(\d{1,2}):(?=\d{1,2}:\d{1,2}[.,]))?(\d{1,3}):(\d{1,2})(?:[.:,](\d{1,3}))?\]")
_TAG = re.compile(r"^\[(ti|ar|al|by|offset|length|la|re|ve|au):(.*)\]\s*$", re.IGNORECASE)
_WORD = re.compile(r"<(?:(\d{1,2}):(?=\d{1,2}:\d{1,2}[.,]))?(\d{1,3}):(\d{1,2})(?:[.:,](\d{1,3}))?>")


def write(project: Project) -> str:
    """The caption track: a line for each line, an empty one where nothing is sung for long."""
    found = [f"[ti:{sung(project.title)}]"]
    last = 0
    for caption, text in shown_captions(project, project.captions):
        if found[1:] and caption.start_ms - last >= _STANZA_MS:
            found.append(f"[{_clock(last)}]")
        begun = starts(project, caption, len(text.lines))
        for nth, (start, line) in enumerate(zip(begun, text.lines)):
            found.append(f"[{_clock(start)}]{_timed(project, caption, text, nth, start) or sung(line)}")
        last = caption.end_ms
    if last:
        found.append(f"[{_clock(last)}]")
    return "\n".join(found) + "\n"


def _timed(project: Project, caption: Caption, text: CaptionText, nth: int, start_ms: int) -> str:
    """A line with the time of each word before it, where the look moves by them; else nothing."""
    track = project.captions
    if track is None or not look_of(project, track, caption).motion.by_words:
        return ""
    times = word_times(project, caption, text)
    if not times:
        return ""
    said = ""
    for (piece, _), (start, _) in zip(pieces_of(project, caption, text)[nth], times[nth]):
        word = piece.lstrip(" ")
        said += f"{piece[: len(piece) - len(word)]}<{_clock(max(start, start_ms))}>{sung(word)}"
    return said


def starts(project: Project, caption: Caption, lines: int) -> list[int]:
    """When each line begins: with its first word; where words do not tell, in equal parts of the caption."""
    rows = rows_of(project, caption) if caption.words and not caption.hidden else []
    if len(rows) == lines and all(rows):
        return [caption.start_ms, *(max(caption.start_ms, row[0].start_ms) for row in rows[1:])]
    span = (caption.end_ms - caption.start_ms) // max(1, lines)
    return [caption.start_ms + nth * span for nth in range(lines)]


def sung(text: str) -> str:
    """A line as it stands in a file: what looks like a time is put in round brackets."""
    return _TIME.sub(lambda one: f"({one.group()[1:-1]})", tidied(text))


def _clock(ms: int) -> str:
    hundredths = (ms + 5) // 10
    return f"{hundredths // 6000:02}:{hundredths // 100 % 60:02}.{hundredths % 100:02}"


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read lines with times; a line ends where the next one begins."""
    cues, said = read_cues(path)
    return reading_of(path, cues, said, names)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues, and what is odd."""
    text, said = read_text(path)
    odd, shift = Oddities(), 0
    rows: list[tuple[int, int, str]] = []  # when, in which line of the file, what
    for number, line in enumerate(text.split("\n"), 1):
        if tag := _TAG.match(line.strip()):
            if tag.group(1).lower() == "offset" and re.fullmatch(r"\s*[+-]?\d{1,7}\s*", tag.group(2)):
                shift = -int(tag.group(2))
            continue
        times = list(_head(line))
        body = line[times[-1].end() :] if times else line
        rows += [(_ms(one), number, body) for one in times]
        if not times and line.strip():
            odd.at(number, tr("a line without a time; left out"))
    rows.sort(key=lambda row: row[0])
    cues = []
    for (start, number, body), following in zip(rows, [*rows[1:], None]):
        end = following[0] if following else start + _LAST_MS
        times_ms = (max(0, start + shift), max(1, end + shift))
        plain, begins = _with_word_times(body, start)
        cue = cue_of(times_ms, [plain], number, odd) if plain else None
        if cue is not None:
            begun = {key: max(0, ms + shift) for key, ms in begins.items()}
            cues.append(replace(with_times(cue, begun), verse=True))
    return in_order(cues, odd), said + odd.sentences()


def _head(line: str) -> Iterator[re.Match[str]]:
    """The times that a line begins with: several where it is sung again."""
    at = len(line) - len(line.lstrip())
    while found := _TIME.match(line, at):
        yield found
        at = found.end() + len(line[found.end() :]) - len(line[found.end() :].lstrip())


def _ms(found: re.Match[str]) -> int:
    return clock_ms(found[1], found[2], found[3], found[4] or None)


def _with_word_times(body: str, start: int) -> tuple[str, dict[tuple[int, int], int]]:
    """A line without the times inside it, and when its words begin.

    Those times stand in square or in pointed brackets; of a line that was first sung
    earlier they would be another's, so they count only where they are not before it.
    """
    plain, begins = "", dict[tuple[int, int], int]()
    at = 0
    marks = sorted((*_WORD.finditer(body), *_TIME.finditer(body)), key=lambda one: one.start())
    for mark in marks:
        plain += body[at : mark.start()]
        at = mark.end()
        if plain[-1:] in tuple(".,;:!?…") and body[at : at + 1].isalnum():
            plain += " "
        if _ms(mark) >= start and body[at:].strip():
            begins[0, len(spaced_units(plain.strip()))] = _ms(mark)
    plain += body[at:]
    return tidied(plain), begins


def _agrees(content: Content, path: Path) -> bool:
    """Lines and when each begins, in hundredths of a second."""
    project = content.project
    wanted = [
        ((start + 5) // 10 * 10, row)
        for caption, text in shown_captions(project, project.captions)
        for start, line in zip(starts(project, caption, len(text.lines)), text.lines)
        for row in without_tags([sung(line)])
    ]
    found = [(cue.start_ms, line) for cue in read_cues(path)[0] for line in cue.lines]
    return found == sorted(wanted, key=lambda one: one[0])


FORM = caption_form(
    "lrc",
    "LRC, for sung words",
    ".lrc",
    write=write,
    read=read,
    cues=read_cues,
    cannot=Cannot("all", speakers=True, styles="biu", language=True, look=DRAWN, looks=True, tags=True),
    agrees=_agrees,
    seed=b"[ti:A song]\n[offset:0]\n[00:01.00]Slow <00:01.50>water\n[00:03.50][00:09.00]Oak\n[00:12.00]\n",
)
