"""Lists of terms as CSV: term, transcribed as, note, and a column for each language."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from dubrel.edits.terms import clashes, merged
from dubrel.errors import FormatError
from dubrel.formats.common import read_text
from dubrel.model import Term
from dubrel.text import counted

_MOST_ROWS = 50_000
_FIELD = 131_072
_RIGHT = ("term", "right", "word", "source", "name")
_HEARD = ("transcribed as", "heard", "wrong", "variants", "ways")
_NOTE = ("note", "notes", "comment", "definition")


def write_terms(terms: tuple[Term, ...]) -> str:
    """Terms as CSV (RFC 4180): several ways stand in one field, parted by ``;``."""
    languages = list(dict.fromkeys(language for one in terms for language, _ in one.translations))
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(["term", "transcribed as", "note", *languages])
    for one in terms:
        known = dict(one.translations)
        rows.writerow(
            [one.right, "; ".join(one.heard), one.note, *(known.get(language, "") for language in languages)]
        )
    return out.getvalue()


def read_terms(path: Path) -> tuple[tuple[Term, ...], list[str]]:
    """Terms from a CSV or TSV file, of this or of another program.

    Returns
    -------
    terms : tuple of Term
        Each right form once.
    said : list of str
        What was left out, and ways that two terms share.

    Raises
    ------
    FormatError
        If the file cannot be read, or has no terms.
    """
    text, warned = read_text(path)
    try:
        rows = list(csv.reader(io.StringIO(text), _dialect(text)))[: _MOST_ROWS + 1]
    except csv.Error as error:
        raise FormatError(
            f"“{path.name}” is not a readable CSV file: {error}. Save it again as CSV."
        ) from error
    rows = [[cell.strip() for cell in row] for row in rows if any(cell.strip() for cell in row)]
    columns = _columns(rows[0]) if rows else {}
    body = rows[1:] if "right" in columns else rows
    columns = columns if "right" in columns else {"right": 0, "heard": 1, "note": 2}
    heads = rows[0] if body is not rows else []
    found: list[Term] = []
    said = list(warned)
    bare = 0
    for row in body:
        one = _term(row, columns, heads)
        bare += one is None
        if one is not None:
            found.append(one)
    if not found:
        raise FormatError(
            f"“{path.name}” has no terms. The first row names its columns: term, transcribed as, note."
        )
    if bare:
        said.append(f"{counted(bare, 'row')} without a term {'was' if bare == 1 else 'were'} left out.")
    terms = merged((), found)
    if len(terms) < len(found):
        said.append(f"{counted(len(found) - len(terms), 'term')} stood there twice and became one.")
    for way, ours, other in clashes(terms)[:5]:
        said.append(f"“{way}” is given for both “{ours}” and “{other}”.")
    return terms, said


def _dialect(text: str) -> type[csv.Dialect]:
    first = text.split("\n", 1)[0]
    sign = max("\t;,", key=first.count)

    class Form(csv.excel):
        delimiter = sign

    csv.field_size_limit(_FIELD)
    return Form


def _columns(row: list[str]) -> dict[str, int]:
    """Which column is which, by its heading."""
    found: dict[str, int] = {}
    for place, cell in enumerate(row):
        name = cell.casefold()
        for key, names in (("right", _RIGHT), ("heard", _HEARD), ("note", _NOTE)):
            if name in names and key not in found:
                found[key] = place
    return found


def _term(row: list[str], columns: dict[str, int], heads: list[str]) -> Term | None:
    def cell(name: str) -> str:
        place = columns.get(name, -1)
        return row[place] if 0 <= place < len(row) else ""

    right = " ".join(cell("right").split())[:200]
    if not right:
        return None
    heard = [" ".join(one.split())[:200] for one in cell("heard").replace("|", ";").split(";")]
    others = [k for k in range(len(heads)) if k not in columns.values() and 0 < len(heads[k]) <= 12]
    translations = tuple((heads[k], row[k]) for k in others if k < len(row) and row[k])
    return Term(
        right, tuple(dict.fromkeys(one for one in heard if one and one != right)), cell("note"), translations
    )
