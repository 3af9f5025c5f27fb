"""Checks over all episodes of a series: what differs between them and should not."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterator, Sequence
from itertools import combinations
from pathlib import PurePath

from dubrel.base.catalogue import counted, tr
from dubrel.base.languages import language_name
from dubrel.jobs.series.searchindex import EpisodeRow
from dubrel.store.seriesfile import Series

_LEAST = 4  # letters: shorter names are too easily alike


def differences(
    rows: Sequence[EpisodeRow], languages: Sequence[str] = (), series: Series | None = None
) -> list[str]:
    """What is wrong over all, in sentences.

    Parameters
    ----------
    rows : sequence of EpisodeRow
    languages : sequence of str
        Those into which every episode is to be translated.
    series : Series, optional
        Whose house styles they are to have; else that which most have.
    """
    found = [one.problem for one in rows if one.problem]
    found += _spelt_in_two_ways(rows, "speakers", tr("speaker"))
    found += _spelt_in_two_ways(rows, "terms", tr("term"))
    found += _other_styles(rows, series)
    for language in languages:
        lacking = [
            PurePath(one.path).stem
            for one in rows
            if one.standing is not None and one.standing.words and language not in one.standing.languages
        ]
        if lacking:
            found.append(
                counted(
                    len(lacking),
                    "episode has no {language}: {shown}.",
                    "episodes have no {language}: {shown}.",
                    language=tr(language_name(language)),
                    shown=_first(lacking),
                )
            )
    return found


def _first(names: Sequence[str]) -> str:
    return ", ".join([*names[:5], *(["…"] if len(names) > 5 else [])])


def _other_styles(rows: Sequence[EpisodeRow], series: Series | None) -> Iterator[str]:
    """House styles that are not those of the series, or of most."""
    where: dict[str, dict[str, list[str]]] = {}
    for row in rows:
        for one in getattr(row.standing, "styles", ()):
            language, _, name = one.partition(": ")
            where.setdefault(language, {}).setdefault(name, []).append(PurePath(row.path).stem)
    for language, names in where.items():
        wished = series.style_for(language) if series is not None else None
        usual = wished.name if wished is not None else max(names, key=lambda name: len(names[name]))
        for name, episodes in names.items():
            if name != usual:
                yield tr("Captions in {language} by “{name}”, not by “{usual}”: {shown}.").format(
                    language=tr(language_name(language)), name=name, usual=usual, shown=_first(episodes)
                )


def _spelt_in_two_ways(rows: Sequence[EpisodeRow], kind: str, called: str) -> Iterator[str]:
    """Names that differ by capitals, accents or one letter between episodes."""
    where: dict[str, list[str]] = {}
    for row in rows:
        for name in getattr(row.standing, kind, ()):
            where.setdefault(name, []).append(PurePath(row.path).stem)
    names = sorted(where)
    for one, other in combinations(names, 2):
        if _alike(_plain(one), _plain(other)):
            yield (
                tr("One {kind}, two spellings? “{one}” in {here}; “{other}” in {there}.").format(
                    kind=called,
                    one=one,
                    here=", ".join(where[one][:3]),
                    other=other,
                    there=", ".join(where[other][:3]),
                )
            )


def _plain(name: str) -> str:
    """A name without capitals, accents and signs."""
    parts = unicodedata.normalize("NFD", name.casefold())
    return "".join(sign for sign in parts if sign.isalnum())


def _alike(one: str, other: str) -> bool:
    """Whether two plain names are the same, or a letter apart."""
    if one == other:
        return True
    if min(len(one), len(other)) < _LEAST or abs(len(one) - len(other)) > 1:
        return False
    short, long = sorted((one, other), key=len)
    at = next((nth for nth, (a, b) in enumerate(zip(short, long)) if a != b), len(short))
    return short[at + (len(short) == len(long)) :] == long[at + 1 :]
