"""Captions as a table: CSV (RFC 4180) or TSV, a row each."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

from dubrel.base.errors import FormatError
from dubrel.base.timecode import clock_ms, format_clock
from dubrel.formats.shared.common import Reading, cue_of, in_order, read_text, reading_of
from dubrel.formats.shared.form import caption_form
from dubrel.formats.shared.inline import settings_of
from dubrel.formats.shared.losses import DRAWN, Cannot
from dubrel.formats.shared.oddities import Oddities
from dubrel.model import Cue, Project
from dubrel.project.captiontext import shown_captions

_HEADS = ("n", "start", "end", "speaker", "text", "place")
_STARTS, _ENDS, _TEXTS = (
    ("start", "in", "begin", "from"),
    ("end", "out", "to"),
    ("text", "caption", "words", "line"),
)
_NAMES, _PLACES = ("speaker", "name", "who"), ("place", "position", "settings")
_FORMULA = "=+-@\t\r"


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
        rows.writerow([nth, *times, _guarded(who), _guarded("\n".join(text.lines)), caption.place])
    return out.getvalue()


def _guarded(text: str) -> str:
    """A text that no program for tables takes for a formula."""
    return f"\u200b{text}" if text[:1] in _FORMULA and text else text


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
    first = text.split("\n", 1)[0]
    sign = max("\t;,", key=first.count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=sign))
    except csv.Error as error:
        raise FormatError(f"“{path.name}” is not a readable table: {error}. Save it again as CSV.") from error
    heads = [cell.strip().casefold() for cell in rows[0]] if rows else []
    columns = [
        next((nth for nth, head in enumerate(heads) if head in names), -1)
        for names in (_STARTS, _ENDS, _TEXTS)
    ]
    if min(columns) < 0:
        raise FormatError(
            f"“{path.name}” has no columns for in time, out time and text. Name them start, end, text in its"
            " first row."
        )
    names, places = (
        next((nth for nth, head in enumerate(heads) if head in known), -1) for known in (_NAMES, _PLACES)
    )
    odd, cues = Oddities(), []
    for nth, row in enumerate(rows[1:], 2):
        cells = [row[at].lstrip("\u200b") if 0 <= at < len(row) else "" for at in (*columns, names, places)]
        times = [_time(cell) for cell in cells[:2]]
        if None in times or not cells[2].strip():
            if any(cell.strip() for cell in row):
                odd.at(nth, "a row without times or text; left out")
            continue
        settings, others = settings_of(cells[4])
        odd.left_out("places that are not known", len(others))
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


def _time(cell: str) -> int | None:
    found = re.fullmatch(r"\s*(?:(\d{1,4}):)?(\d{1,3}):(\d{1,2})(?:[.,](\d{1,9}))?\s*", cell)
    if found:
        return clock_ms(*found.groups())
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
        seed="\n".join(_ROWS[:2]).replace(",", "\t").encode(),
    ),
)
