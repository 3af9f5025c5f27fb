"""Captions as a table: CSV (RFC 4180) or TSV, a row each."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import clock_ms, format_clock
from dubrel.base.value import replace
from dubrel.formats.shared.common import Reading, cue_of, in_order, read_text, reading_of
from dubrel.formats.shared.form import Content, caption_form
from dubrel.formats.shared.inline import settings_of
from dubrel.formats.shared.losses import DRAWN, Cannot
from dubrel.formats.shared.oddities import Oddities
from dubrel.formats.shared.tablecells import guarded, guards_said, unguarded
from dubrel.model import Cue, Project
from dubrel.project.captiontext import shown_captions

_HEADS = ("n", "start", "end", "speaker", "text", "place")
_STARTS, _ENDS, _TEXTS = (
    ("start", "in", "begin", "from"),
    ("end", "out", "to"),
    ("text", "caption", "words", "line", "subtitle", "dialogue", "content"),
)
_OF_TIMES = {"time", "times", "timecode", "tc", "code", "point", "ms", "milliseconds", "s", "sec", "seconds"}
_FRAMES = re.compile(r"\s*(\d{1,4}):(\d{1,2}):(\d{1,2})[:;](\d{1,3})\s*")
_NAMES, _PLACES = ("speaker", "name", "who"), ("place", "position", "settings")


def write_csv(project: Project) -> str:
    """Parted by commas."""
    return _written(project, ",")


def write_tsv(project: Project) -> str:
    """Parted by tabs."""
    return _written(project, "\t")


def _written(project: Project, sign: str) -> str:
    out = io.StringIO()
    rows = csv.writer(out, delimiter=sign)
    rows.writerow(_HEADS)
    for nth, (caption, text) in enumerate(shown_captions(project, project.captions), 1):
        times = (format_clock(caption.start_ms), format_clock(caption.end_ms))
        names = [" ".join(one.split()) for one in text.speakers]
        who = "\n".join(names) if len(set(names)) > 1 else "".join(names[:1])
        rows.writerow([nth, *times, guarded(who), guarded("\n".join(text.lines)), caption.place])
    return out.getvalue()


def _warns(content: Content) -> str:
    project = content.project
    return guards_said("\n".join(text.lines) for _, text in shown_captions(project, project.captions))


def read(path: Path, names: Collection[str] = ()) -> Reading:
    """Read a table with columns for in time, out time and text."""
    cues, said = read_cues(path)
    return reading_of(path, cues, said, names)


def read_cues(path: Path) -> tuple[list[Cue], list[str]]:
    """The cues, and what is odd.

    Raises
    ------
    FormatError
        If no row names such columns.
    """
    text, said = read_text(path)
    rows = _rows(path, text)
    heads = [_head(cell) for cell in rows[0]] if rows else []
    columns = [
        next((nth for nth, head in enumerate(heads) if head[0] in names), -1)
        for names in (_STARTS, _ENDS, _TEXTS)
    ]
    if min(columns) < 0:
        raise FormatError(
            tr(
                "“{name}” has no columns for in time, out time and text. Name them start, end, text "
                "in its first row."
            ).format(name=path.name)
        )
    names, places = (
        next((nth for nth, head in enumerate(heads) if head[0] in known), -1) for known in (_NAMES, _PLACES)
    )
    in_ms = [heads[at][1] for at in columns[:2]]
    odd, cues = Oddities(), []
    frames = _frames_in(rows[1:], columns[:2], odd)
    for nth, row in enumerate(rows[1:], 2):
        row = _whole(row, len(heads), columns[2], nth, odd)
        cells = [unguarded(row[at]) if 0 <= at < len(row) else "" for at in (*columns, names, places)]
        times = [_time(cell, ms, frames) for cell, ms in zip(cells, in_ms)]
        if None in times or not cells[2].strip():
            if any(cell.strip() for cell in row):
                odd.at(nth, tr("a row without times or text; left out"))
            continue
        settings, others = settings_of(cells[4])
        odd.left_out(tr("places that are not known"), len(others))
        cue = cue_of((times[0] or 0, times[1] or 0), cells[2].split("\n"), nth, odd, settings)
        if cue is not None:
            cues.append(_spoken(cue, cells[3]))
    return in_order(cues, odd), said + odd.sentences()


def _spoken(cue: Cue, cell: str) -> Cue:
    """A cue with who speaks: one name, or one for each line."""
    if not cell.strip():
        return cue
    names: list[str | None] = [one.strip() or None for one in cell.split("\n")]
    if len(names) != len(cue.lines):
        return replace(cue, speaker=" ".join(cell.split()))
    changes = {nth: name for nth, name in enumerate(names) if nth and name != names[nth - 1]}
    return replace(cue, speaker=names[0], changes=changes)


def _rows(path: Path, text: str) -> list[list[str]]:
    first, _, rest = text.partition("\n")
    if said := re.fullmatch(r"\s*\"?sep=(.)\"?\s*", first, re.IGNORECASE):
        sign, text = said[1], rest
    else:
        sign = max("\t;,", key=first.count)
    try:
        return list(csv.reader(io.StringIO(text), delimiter=sign))
    except csv.Error as error:
        raise FormatError(
            tr("“{name}” is not a readable table: {error}. Save it again as CSV.").format(
                name=path.name, error=error
            )
        ) from error


def _head(cell: str) -> tuple[str, bool]:
    """What a column is called without what all say of times, and whether it counts milliseconds.

    Examples
    --------
    >>> _head("Start Time"), _head("TC In"), _head("end_ms"), _head("Text")
    (('start', False), ('in', False), ('end', True), ('text', False))
    """
    words = re.findall(r"[^\W_]+", cell.casefold())
    bare = [one for one in words if one not in _OF_TIMES]
    return " ".join(bare or words), bool({"ms", "milliseconds"} & set(words))


def _whole(row: list[str], width: int, text: int, number: int, odd: Oddities) -> list[str]:
    """A row in which the text has commas that nobody put in quotes."""
    more = len(row) - width
    if more <= 0 or not any(row[width:]):
        return row
    odd.at(number, tr("more cells than columns; read as commas of the text"))
    return [*row[:text], ",".join(row[text : text + more + 1]), *row[text + more + 1 :]]


def _frames_in(rows: list[list[str]], columns: list[int], odd: Oddities) -> int:
    """How many frames a second has where times count them; 0 where none does."""
    cells = [row[at] for row in rows for at in columns if 0 <= at < len(row)]
    frames = [int(found[4]) for cell in cells if (found := _FRAMES.fullmatch(cell))]
    if not frames:
        return 0
    rate = 25 if max(frames) < 25 else 30 if max(frames) < 30 else max(frames) + 1
    odd.say(tr("Times count frames; they were read as {rate} a second.").format(rate=rate))
    return rate


def _time(cell: str, in_ms: bool = False, frames: int = 0) -> int | None:
    if frames and (counted := _FRAMES.fullmatch(cell)):
        return clock_ms(*counted.groups()[:3]) + round(int(counted[4]) * 1000 / frames)
    found = re.fullmatch(r"\s*(?:(\d{1,4}):)?(\d{1,3}):(\d{1,2})(?:[.,](\d{1,9}))?\s*", cell)
    if found:
        return clock_ms(*found.groups())
    if in_ms and re.fullmatch(r"\s*\d{1,10}(?:[.,]\d*)?\s*", cell):
        return int(re.split("[.,]", cell.strip())[0])
    seconds = re.fullmatch(r"\s*(\d{1,7})(?:[.,](\d{1,9}))?\s*s?\s*", cell)
    return clock_ms(None, "0", seconds.group(1), seconds.group(2)) if seconds else None


_CANNOT = Cannot(styles="biu", language=True, look=DRAWN, looks=True, tags=True)
_ROWS = (
    "n,start,end,speaker,text,place",
    "1,00:00:01.000,00:00:02.000,Ann,Slow water.,",
    '2,3.5,4,,"Oak, elm",line:10%',
)
FORMS = (
    caption_form(
        "csv",
        "Table, commas",
        ".csv",
        write=write_csv,
        read=read,
        cues=read_cues,
        cannot=_CANNOT,
        warns=_warns,
        seed="\n".join(_ROWS).encode(),
    ),
    caption_form(
        "tsv",
        "Table, tabs",
        ".tsv",
        write=write_tsv,
        read=read,
        cues=read_cues,
        cannot=_CANNOT,
        warns=_warns,
        seed="\n".join(_ROWS[:2]).replace(",", "\t").encode(),
    ),
)
