"""Who speaks by where it stands: in a column of a table, in bold at the start of a paragraph."""

from __future__ import annotations

import re
from collections.abc import Sequence

from dubrel.base.text import tidied, tokens

_CLOCK = re.compile(r"^[\[(]?\d{1,3}(?::\d{1,2}){1,3}(?:[.,;:]\d{1,3})?[\])]?(?:\s*[-–—>→]+\s*[\d:.,;]+)?$")
_NUMBER = re.compile(r"^\d{1,5}[.)]?$")
_HEADS = frozenset(
    "speaker speakers name who voice character text words dialogue dialog spoken said time timecode tc in out"
    " start end nr no # scene shot picture sound audio video".split()
)
_MOST_NAME = 40
BOLD = "\ue001"
"""Stands behind each run of a paragraph that is bold."""
_LED = re.compile(f"^((?:[^{BOLD}\n]*{BOLD})+)([^{BOLD}]*)$", re.DOTALL)


def led_by_bold(text: str) -> str:
    r"""A paragraph with a tab behind what is bold at its start, where the rest is not; without marks.

    Examples
    --------
    >>> led_by_bold(f"Ann{BOLD} Hello."), led_by_bold(f"All of it{BOLD}"), led_by_bold(f"Not {BOLD}at")
    ('Ann\tHello.', 'All of it', 'Not\tat')
    """
    led = _LED.match(text)
    name = led.group(1).replace(BOLD, "").strip() if led else ""
    if led and name and led.group(2).strip() and name[-1] != ":":
        return f"{name}\t{led.group(2).lstrip()}"
    return text.replace(BOLD, "")


def lines_of_table(rows: Sequence[Sequence[str]]) -> list[str]:
    """The lines of a table; where a column names who speaks, each row is a speech of that person.

    Cells that hold nothing but a time or a number are left out, and so is a row of column heads.

    Parameters
    ----------
    rows : sequence of sequence of str
        Paragraphs of a cell are parted by line feeds.

    Examples
    --------
    >>> lines_of_table([["Time", "Who", "Text"], ["00:01", "Ann", "Hello."], ["00:05", "", "And so on."]])
    ['Ann: Hello.', 'And so on.']
    """
    if rows and _is_head(rows[0]):
        rows = rows[1:]
    kept = [[cell.strip() for cell in row] for row in rows]
    width = max(map(len, kept), default=0)
    kept = [[*row, *[""] * (width - len(row))] for row in kept]
    columns = [nth for nth in range(width) if any(_speaks(row[nth]) for row in kept)]
    names = _names_column(kept, columns)
    return [line for row in kept for line in _lines(row, columns, names)]


def _is_head(row: Sequence[str]) -> bool:
    words = [word.casefold().strip(".:") for cell in row for word in tokens(cell)]
    return len(row) > 1 and bool(words) and sum(word in _HEADS for word in words) * 2 >= len(words)


def _speaks(cell: str) -> bool:
    """Whether a cell is more than a time or a number."""
    return bool(cell) and not _CLOCK.match(cell) and not _NUMBER.match(cell)


def _names_column(rows: Sequence[Sequence[str]], columns: Sequence[int]) -> int | None:
    """The first column if it holds names, and the next one what they say."""
    if len(columns) < 2:
        return None
    cells = [row[columns[0]] for row in rows if row[columns[0]]]
    short = sum(len(one) <= _MOST_NAME and len(tokens(one)) <= 4 and one[-1] not in ".!?…" for one in cells)
    return columns[0] if short * 4 >= len(cells) * 3 else None


def _lines(row: Sequence[str], columns: Sequence[int], names: int | None) -> list[str]:
    said = [line for nth in columns if nth != names for line in row[nth].split("\n") if line.strip()]
    name = tidied(row[names]).rstrip(":").strip() if names is not None else ""
    if not said or not name:
        return said or [name]
    return [f"{name}: {said[0]}", *said[1:]]
