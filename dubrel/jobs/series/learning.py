"""What is learned in one episode is known in all: terms, and what they would change elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.value import Value, replace
from dubrel.edits.words.terms import merged
from dubrel.finding.spelling import Spelling
from dubrel.finding.termspots import TermSpot, accepted, term_spots
from dubrel.jobs.series.searchindex import EpisodeRow
from dubrel.model import Project, Term
from dubrel.store.projectfile import read_project
from dubrel.store.seriesfile import PROJECT, Series


class Change(Value):
    """What terms would change in an episode.

    Attributes
    ----------
    path : Path
    title : str
    spots : tuple of TermSpot
        Where one may be meant, in order of time.
    project : Project
        As it was looked at.
    """

    path: Path
    title: str
    spots: tuple[TermSpot, ...]
    project: Project


def new_terms(series: Series, rows: Sequence[EpisodeRow]) -> dict[str, list[str]]:
    """Terms of episodes that the series does not have yet, and the titles of those episodes."""
    known, found = {one.right for one in series.terms}, dict[str, list[str]]()
    for row in rows:
        if row.standing is not None:
            for right in row.standing.terms:
                if right not in known:
                    found.setdefault(right, []).append(row.standing.title)
    return found


def learned(series: Series, rows: Sequence[EpisodeRow]) -> tuple[Series, list[str]]:
    """The series with the terms of all its episodes.

    Returns
    -------
    series : Series
    new : list of str
        The terms that are new in it, or of which it knows more now.
    """
    known = {one.right: one for one in series.terms}
    terms = series.terms
    for row in rows:
        if row.standing is None or not row.standing.terms:
            continue
        try:
            terms = merged(terms, read_project(Path(row.path)).project.terms)
        except ProjectError:
            continue  # its row says so
    return replace(series, terms=terms), [one.right for one in terms if known.get(one.right) != one]


def changes(
    paths: Sequence[Path], terms: Sequence[Term], present: Mapping[Path, Project] | None = None
) -> Iterator[tuple[float, Change | str]]:
    """What terms would change in episodes, one after the other; with how far it is.

    Parameters
    ----------
    present : mapping of Path to Project, optional
        Those that are open, as they are now.

    Yields
    ------
    share : float
    found : Change or str
        A sentence where an episode cannot be read. Of one in which nothing would change, nothing.
    """
    present = present or {}
    whole = [one for one in paths if one.suffix.lower() == PROJECT]
    for nth, path in enumerate(whole):
        share = (nth + 1) / len(whole)
        try:
            project = present[path] if path in present else read_project(path).project
        except DubrelError as error:
            yield share, str(error)
            continue
        spots = _spots(project, terms)
        if spots:
            yield share, Change(path, project.title, tuple(spots), project)


def _spots(project: Project, terms: Sequence[Term]) -> list[TermSpot]:
    """Where terms may be meant, in order; capitals and marks of the term are not proposed by themselves."""
    if not project.transcript.turns or not terms:
        return []
    own = [one.right for one in (*terms, *project.terms)]
    knows = Spelling(project.transcript.language, own).knows
    found = term_spots(project, merged(project.terms, terms), is_word=knows)
    return sorted(found, key=lambda one: one.words[0].start_ms)


def with_terms(project: Project, spots: Sequence[TermSpot], terms: Sequence[Term]) -> Project:
    """The project with terms put in at some places, and in its list; the same object where nothing is new."""
    project = accepted(project, spots)
    whole = merged(project.terms, terms)
    return project if whole == project.terms else replace(project, terms=whole)
