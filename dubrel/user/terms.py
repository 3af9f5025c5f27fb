"""Names and terms for all projects: a small file in the user's data folder."""

from __future__ import annotations

from typing import Any

from dubrel.base.catalogue import Message
from dubrel.model import Term
from dubrel.user.kept import Kept

_MOST = 20_000


def _understood(value: Any) -> tuple[Term, ...]:
    if not isinstance(value, list):
        raise TypeError("no list")
    found = {}
    for right, heard, note, *more in value[:_MOST]:
        lists = [tuple((str(language), str(text)) for language, text in pairs) for pairs in more[:3]]
        marks = [one is True for one in more[3:5]]
        found[str(right)] = Term(str(right), tuple(map(str, heard)), str(note), *lists, *marks)  # type: ignore[arg-type]
    return tuple(found.values())


def _plain(terms: tuple[Term, ...]) -> list[list[Any]]:
    return [
        [
            one.right,
            list(one.heard),
            one.note,
            *(list(map(list, pairs)) for pairs in (one.translations, one.forms, one.forbidden)),
            one.keep,
            one.cased,
        ]
        for one in terms[:_MOST]
    ]


TERMS = Kept[tuple[Term, ...]]("terms.json", Message("The list of terms"), _understood, _plain, tuple)
