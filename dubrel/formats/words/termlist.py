"""Lists of terms as CSV: term, transcribed as, note, how it is translated, and a column for each language.

A column for a language holds the translation and, behind semicolons, its other
forms; one that is called ``pt forbidden`` what must not be used. Lists with a
row for each translation and a column ``status``, as terminology programs write
them, are read too.
"""

from __future__ import annotations

import csv
import io
from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import FormatError
from dubrel.edits.words.terms import clashes, merged
from dubrel.formats.shared.common import read_text
from dubrel.formats.shared.tablecells import guarded, unguarded
from dubrel.model import Term

_MOST_ROWS = 50_000
_FIELD = 131_072
_RIGHT = ("term", "right", "word", "source", "name")
_HEARD = ("transcribed as", "heard", "wrong", "variants", "ways")
_NOTE = ("note", "notes", "comment", "definition")
_FORMS = ("forms", "inflections", "plural")
_KEEP = ("do not translate", "keep", "dnt")
_CASED = ("capitals matter", "case", "case sensitive")
_STATUS = ("status", "usage status", "administrative status")
_FORBIDDEN = "forbidden"
_BAD = ("forbidden", "deprecated", "deprecatedterm", "not recommended", "supersededterm", "obsolete")
_YES = ("yes", "true", "x", "1", "y")
_KINDS = (
    ("right", _RIGHT),
    ("heard", _HEARD),
    ("note", _NOTE),
    ("forms", _FORMS),
    ("keep", _KEEP),
    ("cased", _CASED),
    ("status", _STATUS),
)


def write_terms(terms: tuple[Term, ...]) -> str:
    """Terms as CSV (RFC 4180): several ways stand in one field, parted by ``;``."""
    languages = list(dict.fromkeys(language for one in terms for language, _ in one.translations))
    forbidden = list(dict.fromkeys(language for one in terms for language, _ in one.forbidden))
    more = [
        *(["forms"] * any(one.inflected("") for one in terms)),
        *(["do not translate"] * any(one.keep for one in terms)),
        *(["capitals matter"] * any(one.cased for one in terms)),
    ]
    out = io.StringIO()
    rows = csv.writer(out)
    heads = ["term", "transcribed as", "note", *more]
    rows.writerow([*heads, *languages, *(f"{language} {_FORBIDDEN}" for language in forbidden)])
    for one in terms:
        cells = {
            "term": one.right,
            "transcribed as": "; ".join(one.heard),
            "note": one.note,
            "forms": "; ".join(one.inflected("")),
            "do not translate": "yes" * one.keep,
            "capitals matter": "yes" * one.cased,
        }
        known = dict(one.translations)
        theirs = [
            "; ".join(filter(None, (known.get(language, ""), *one.inflected(language))))
            for language in languages
        ]
        bad = ["; ".join(form for tag, form in one.forbidden if tag == language) for language in forbidden]
        rows.writerow([guarded(cell) for cell in (*(cells[head] for head in heads), *theirs, *bad)])
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
            tr("“{name}” is not a readable CSV file: {error}. Save it again as CSV.").format(
                name=path.name, error=error
            )
        ) from error
    rows = [[unguarded(cell.strip()) for cell in row] for row in rows if any(cell.strip() for cell in row)]
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
            tr("“{name}” has no terms. The first row names its columns: term, transcribed as, note.").format(
                name=path.name
            )
        )
    if bare:
        said.append(counted(bare, "row without a term was left out.", "rows without a term were left out."))
    terms = merged((), found)
    if len(terms) < len(found):
        said.append(
            tr("{terms} stood there twice and became one.").format(
                terms=counted(len(found) - len(terms), "term")
            )
        )
    for way, ours, other in clashes(terms)[:5]:
        said.append(
            tr("“{way}” is given for both “{ours}” and “{other}”.").format(way=way, ours=ours, other=other)
        )
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
        for key, names in _KINDS:
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
    heard = _several(cell("heard"))
    bad = cell("status").casefold().replace("-", "") in _BAD
    translations, forms, forbidden = [], [("", form) for form in _several(cell("forms")) if form != right], []
    for place, head in enumerate(heads):
        text = row[place] if place < len(row) and place not in columns.values() else ""
        language = head.casefold().removesuffix(_FORBIDDEN).strip()
        if not text or not 0 < len(language) <= 12:
            continue
        if bad or head.casefold().endswith(_FORBIDDEN):
            forbidden += [(language, one) for one in _several(text)]
        else:
            first, *others = _several(text) or [""]
            translations += [(language, first)] * bool(first)
            forms += [(language, one) for one in others]
    ways = tuple(dict.fromkeys(one for one in heard if one and one != right))
    marks = [cell(name).casefold() in _YES for name in ("keep", "cased")]
    return Term(right, ways, cell("note"), tuple(translations), tuple(forms), tuple(forbidden), *marks)


def _several(text: str) -> list[str]:
    """What stands in one field, parted by ``;`` or ``|``."""
    found = (" ".join(one.split())[:200] for one in text.replace("|", ";").split(";"))
    return [one for one in found if one]
