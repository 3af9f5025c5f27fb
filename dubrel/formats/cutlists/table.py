"""A plain table of a cut: in, out, where it plays, and what is said."""

from __future__ import annotations

import csv
import io
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.base.timecode import format_clock, parse_clock
from dubrel.edits.cuts.trimming import length_of
from dubrel.formats.cutlists.cutlist import CutContent, CutForm, CutReading
from dubrel.formats.shared.common import read_text
from dubrel.model import CutPassage, Project
from dubrel.project.timeline import placements

_HEAD = ("passage", "in", "out", "plays at", "length", "sound", "words")
_SOUND = {"all": "", "muted": "muted", "gap": "gap"}


def write(content: CutContent, file: BinaryIO) -> None:
    """Write the table, its times to the millisecond."""
    made = io.StringIO()
    rows = csv.writer(made, lineterminator="\r\n")
    rows.writerow(_HEAD)
    words = [word for turn in content.project.transcript.turns for word in turn.words if not word.struck]
    at = 0
    for number, one in enumerate(placements(content.cut, content.project.frame_rate), 1):
        plays = next(
            each.plays
            for each in content.cut.passages[number - 1 :]
            if (each.start_ms, each.end_ms) == (one.start_ms, one.end_ms)
        )
        while at and words[at - 1].start_ms >= one.start_ms:
            at -= 1
        while at < len(words) and (words[at].start_ms + words[at].end_ms) // 2 < one.start_ms:
            at += 1
        said = []
        nth = at
        while nth < len(words) and (words[nth].start_ms + words[nth].end_ms) // 2 < one.end_ms:
            said.append(words[nth].text)
            nth += 1
        times = (one.start_ms, one.end_ms, one.at_ms, one.until_ms - one.at_ms)
        rows.writerow([number, *map(format_clock, times), _SOUND[plays], " ".join(said)])
    file.write(made.getvalue().encode("utf-8-sig"))


def read(path: Path, project: Project, rate: Fraction | None) -> CutReading:
    """Read a table with a column for the in and one for the out time.

    Raises
    ------
    FormatError
        If it has no such columns, or no row with two times.
    """
    del rate
    text, said = read_text(path)
    try:
        dialect: type[csv.Dialect] | str = csv.Sniffer().sniff(text[:4000], delimiters=",;\t")
    except csv.Error:
        dialect = "excel"
    rows = [row for row in csv.reader(io.StringIO(text), dialect) if any(cell.strip() for cell in row)]
    head = [cell.strip().casefold() for cell in rows[0]] if rows else []
    if "in" not in head or "out" not in head:
        raise FormatError(
            tr("“{path}” has no columns “in” and “out”. Name them in the first row.").format(path=path)
        )
    at, until, sound = head.index("in"), head.index("out"), head.index("sound") if "sound" in head else -1
    passages, wrong, length = list[CutPassage](), 0, length_of(project)
    for row in rows[1:]:
        try:
            start, end = parse_clock(row[at]), parse_clock(row[until])
        except (ValueError, IndexError):
            wrong += 1
            continue
        end = min(end, length) if length else end
        if not 0 <= start < end:
            wrong += 1
            continue
        heard = row[sound].strip() if 0 <= sound < len(row) else ""
        passages.append(
            CutPassage(start, end, plays="muted" if heard == "muted" else "gap" if heard == "gap" else "all")
        )
    if not passages:
        raise FormatError(
            tr("“{path}” has no row with an in and an out time within the recording.").format(path=path)
        )
    if wrong:
        said.append(
            counted(
                wrong,
                "row was left out: no in and out time within the recording.",
                "rows were left out: no in and out time within the recording.",
            )
        )
    return CutReading("", passages, said)


def _loses(content: CutContent) -> list[str]:
    dressed = sum(one.cross_ms > 0 or one.lead_frames != 0 for one in content.cut.passages[:-1])
    cameras = [tr("A table cannot hold cameras.")] if content.shots else []
    return cameras + (
        [
            tr("A table cannot hold cross-fades or leads: {joins} became hard.").format(
                joins=counted(dressed, "join")
            )
        ]
        if dressed
        else []
    )


FORM = CutForm(
    id="cuttable",
    label="Table of passages",
    suffix=".csv",
    write=write,
    read=read,
    loses=_loses,
    cameras=False,
)
