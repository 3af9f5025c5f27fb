"""What is the same in all episodes: changed, and what is learned in one taken to the others."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import QObject

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.series.questions import SeriesQuestions
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.model import Project, Term
from dubrel.store.seriesfile import Series

if TYPE_CHECKING:
    from dubrel.finding.termspots import TermSpot
    from dubrel.jobs.series.learning import Change
    from dubrel.jobs.series.searchindex import EpisodeRow


class _Whole(Protocol):
    """What of the series is needed here."""

    path: Path | None
    series: Series | None

    def without_series(self) -> str: ...
    def paths(self) -> list[Path]: ...
    def rows(self) -> list[EpisodeRow]: ...
    def change(self, verb: Callable[[Series, Path], Series]) -> bool: ...
    def follow(self) -> None: ...


class Sharing(QObject):
    """The commands on what is the same in all episodes.

    Parameters
    ----------
    whole : SeriesDesk
        The series that is open.
    """

    def __init__(self, desk: Desk, ask: SeriesQuestions, whole: _Whole) -> None:
        super().__init__(desk)
        self.desk, self.ask, self.whole = desk, ask, whole
        self._background = Background(self, newest=True)
        desk.session.opened.connect(self.share)

    def commands(self) -> list[Command]:
        """What can be done."""
        none = self.whole.without_series
        return [
            Command("series_shared", tr("Change what is the same in all episodes"), "", self.change, none),
            Command("series_check", tr("Check all episodes"), "", self.check, none),
            Command("series_terms", tr("Take terms to all episodes"), "", self.take_terms, none),
        ]

    def share(self) -> None:
        """Let the open project know what the series knows, where it is an episode of it."""
        series, path = self.whole.series, self.desk.session.path
        own = series is not None and path is not None and path in self.whole.paths()
        self.desk.shared = series if own else None

    def change(self) -> None:
        """Ask what is to be the same, and keep it."""
        whole, path = self.whole, self.whole.path
        if whole.series is None or path is None:
            return
        changed = self.ask.shared(whole.series, path.parent)
        if changed is not None and whole.path == path:
            whole.change(lambda series, home: changed(series))
            self.share()

    def check(self) -> None:
        """Show what differs between episodes and should not."""
        from dubrel.jobs.series.differences import differences  # late: the window opens without it

        whole = self.whole
        if whole.series is None:
            return
        found = differences(whole.rows(), whole.series.languages, whole.series)
        if found:
            self.ask.differences(found)
        else:
            self.desk.say(tr("Nothing differs between the episodes that should not."))

    # -- terms ----------------------------------------------------------------------------------

    def take_terms(self) -> None:
        """Gather the terms of all episodes, show what they would change elsewhere, and change it."""
        from dubrel.jobs.series.learning import learned  # late: the window opens without it

        whole, session = self.whole, self.desk.session
        series, rows = whole.series, whole.rows()
        if series is None:
            return
        here = {session.path: session.project} if session.path in whole.paths() else {}
        self.desk.say(tr("Looking for the terms of all episodes in each of them."))

        def look() -> tuple[Series, list[str], list[Change], list[str]]:
            known, new = learned(series, rows)
            return known, new, *_looked(whole.paths(), known.terms, here)

        self._background.ask(look, partial(self._looked_for, whole.path))

    def _looked_for(
        self, path: Path | None, found: tuple[Series, list[str], list[Change], list[str]]
    ) -> None:
        known, new, changes, said = found
        whole = self.whole
        if path is None or whole.path != path:
            return
        if new:
            from dubrel.base.value import replace
            from dubrel.edits.words.terms import merged

            whole.change(lambda series, home: replace(series, terms=merged(series.terms, known.terms)))
            self.share()
        about = tr("New in the series: {listed}.").format(listed=", ".join(new)) if new else ""
        if not known.terms:
            self.desk.say(tr("No episode has terms yet. Add some in the drawer of Wording."))
            return
        if not changes:
            self.desk.say(
                " ".join([about, tr("They are written correctly in every episode."), *said]).strip()
            )
            return
        chosen = self.ask.term_places(changes, about)
        if chosen and whole.path == path:
            self._change_all(chosen, known.terms)
        elif said:
            self.desk.say(" ".join(said))

    def _change_all(self, chosen: Mapping[Path, Sequence[TermSpot]], terms: Sequence[Term]) -> None:
        from dubrel.jobs.series.changing import change_episode  # late: as above
        from dubrel.jobs.series.learning import with_terms

        session = self.desk.session
        own = list(terms)

        def verb(spots: Sequence[TermSpot], project: Project) -> Project:
            return with_terms(
                project, spots, [one for one in own if any(_is_of(spot, one) for spot in spots)]
            )

        rest = dict(chosen)
        spots = rest.pop(session.path, None) if session.path is not None else None
        if spots is not None:
            session.step(partial(verb, spots), tr("Accept {terms}").format(terms=counted(len(spots), "term")))

        def change() -> tuple[int, list[str]]:
            done, said = 0, list[str]()
            for path, some in rest.items():
                try:
                    done += change_episode(path, partial(verb, some))
                except DubrelError as error:
                    said.append(str(error))
            return done, said

        self._background.ask(change, partial(self._changed, spots is not None))

    def _changed(self, here: bool, found: tuple[int, list[str]]) -> None:
        done, said = found
        many = counted(done + here, "episode was", "episodes were")
        also = tr(" The open one is not saved yet.") if here else ""
        self.desk.say(" ".join([tr("{many} changed.{also}").format(many=many, also=also), *said]))
        self.whole.follow()


def _is_of(spot: TermSpot, term: Term) -> bool:
    return term.right in spot.becomes


def _looked(
    paths: Sequence[Path], terms: Sequence[Term], here: Mapping[Path, Project]
) -> tuple[list[Change], list[str]]:
    """What terms would change in all episodes, and what was said."""
    from dubrel.jobs.series.learning import Change, changes

    found, said = list[Change](), list[str]()
    for _, one in changes(paths, terms, here):
        if isinstance(one, Change):
            found.append(one)
        else:
            said.append(one)
    return found, said
