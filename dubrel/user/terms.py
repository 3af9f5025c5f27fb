"""Names and terms for all projects: a small file in the user's data folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dubrel.base.folders import data_folder
from dubrel.model import Term
from dubrel.user.kept import keep_json, kept_json

_MOST = 20_000


def terms_path() -> Path:
    """Where they are kept."""
    return data_folder() / "terms.json"


def kept_terms() -> tuple[Term, ...]:
    """The terms for all projects; none where there is no list."""
    return kept_json(terms_path(), _understood, "The list of terms") or ()


def keep_terms(terms: tuple[Term, ...]) -> None:
    """Keep the terms for all projects.

    Raises
    ------
    DubrelError
        If they cannot be written.
    """
    rows = [
        [
            one.right,
            list(one.heard),
            one.note,
            *(list(map(list, pairs)) for pairs in (one.translations, one.forms, one.forbidden)),
            one.keep,
            one.cased,
        ]
        for one in terms
    ]
    keep_json(terms_path(), rows[:_MOST])


def _understood(value: Any) -> tuple[Term, ...]:
    if not isinstance(value, list):
        raise TypeError("no list")
    found = {}
    for right, heard, note, *more in value[:_MOST]:
        lists = [tuple((str(language), str(text)) for language, text in pairs) for pairs in more[:3]]
        marks = [one is True for one in more[3:5]]
        found[str(right)] = Term(str(right), tuple(map(str, heard)), str(note), *lists, *marks)  # type: ignore[arg-type]
    return tuple(found.values())
