"""An index of a series at work: brought up to date in small steps, asked meanwhile; each in one thread."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Literal, TypeVar

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError, ProjectError
from dubrel.base.value import Value
from dubrel.jobs.series.meaningsearch import MeaningSearch, understand
from dubrel.jobs.series.overview import Episode, line_about, overview
from dubrel.jobs.series.searchindex import EpisodeRow, Said, SeriesIndex, Wanted
from dubrel.jobs.series.soundsearch import SoundSearch
from dubrel.jobs.series.standing import Standing, standing_in
from dubrel.model import Project
from dubrel.store.journal import identity
from dubrel.store.seriesfile import Series, arrived, read_series

T = TypeVar("T")
_STEP_S = 0.25
How = Literal["written", "sound", "meaning"]
"""As it is written, what sounds like it, what means it."""


class Seen(Value):
    """What a look at a series found.

    Attributes
    ----------
    series : Series or None
        As its file says now; ``None`` where it cannot be read.
    said : tuple of str
        What was wrong with its file.
    rows : dict of str to EpisodeRow
        By path.
    share : float
        How far the episodes have been read, 0 to 1.
    present : tuple of (Path, Standing) or None
        The open project as an episode.
    new : tuple of Path
        What arrived in the watched folder.
    episodes : tuple of Episode
        In order.
    about : str
        All of it in a line.
    """

    series: Series | None
    said: tuple[str, ...]
    rows: dict[str, EpisodeRow]
    share: float
    present: tuple[Path, Standing] | None
    new: tuple[Path, ...]
    episodes: tuple[Episode, ...] = ()
    about: str = ""


class Watching:
    """Follows a series; all of it is called in one thread.

    Parameters
    ----------
    path : Path
        The file of the series.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._index: SeriesIndex | None = None
        self._steps: Iterator[float] | None = None
        self._shown: dict[Path, tuple[object, Episode]] = {}
        self._arriving: dict[Path, tuple[int, int]] = {}
        self._known: tuple[object, Project, tuple[Path, Standing]] | None = None

    @property
    def index(self) -> SeriesIndex:
        """The index, opened at the first need."""
        if self._index is not None and not self._index.stands:
            self.close()
        if self._index is None:
            self._index = SeriesIndex(self.path)
        return self._index

    def look(self, here: tuple[Path, Project] | None = None) -> Seen:
        """Read on for a moment, and say how everything stands.

        Parameters
        ----------
        here : tuple of (Path, Project), optional
            The project that is open in the window.

        Raises
        ------
        DubrelError
            If the index cannot be used.
        """
        return _healed(partial(self._look, here), self.close)

    def _look(self, here: tuple[Path, Project] | None) -> Seen:
        try:
            series, said = read_series(self.path)
        except ProjectError as error:
            return Seen(None, (str(error),), {}, 1.0, None, ())
        home, index = self.path.parent, self.index
        paths = series.paths(home)
        if self._steps is None:
            self._steps = index.update(paths, series.languages)
        share, until = 0.0, time.monotonic() + _STEP_S
        while share < 1.0 and time.monotonic() < until:
            share = next(self._steps, 1.0)
        if share == 1.0:
            list(self._steps)  # it tidies up
            self._steps = None
        rows = {one.path: one for one in self.index.episodes()}
        new = self._settled(arrived(series, home))
        present = self._standing(here, series) if here is not None else None
        self._shown = overview(rows, paths, present, self._shown)
        episodes = tuple(one for _, one in self._shown.values())
        return Seen(series, tuple(said), rows, share, present, new, episodes, line_about(episodes))

    def _settled(self, new: Sequence[Path]) -> tuple[Path, ...]:
        """Of what arrived, what is no longer being written: it is as it was at the last look."""
        now = {path: identity(path) for path in new}
        settled = tuple(path for path in new if self._arriving.get(path) == now[path])
        self._arriving = now
        return settled

    def _standing(self, here: tuple[Path, Project], series: Series) -> tuple[Path, Standing]:
        key = (here[0], series.languages)
        if self._known is None or self._known[0] != key or self._known[1] is not here[1]:
            self._known = (key, here[1], (here[0], standing_in(here[1], series.languages)))
        return self._known[2]

    def close(self) -> None:
        """Let the index go; it is opened again when it is needed."""
        self._steps = None
        if self._index is not None:
            self._index.close()
            self._index = None


def _healed(act: Callable[[], T], close: Callable[[], object]) -> T:
    """Do something with an index; where it was damaged or removed meanwhile, with a new one.

    Raises
    ------
    DubrelError
        If that cannot be used either.
    """
    try:
        return act()
    except sqlite3.DatabaseError:
        close()
    try:
        return act()
    except sqlite3.DatabaseError as error:
        close()
        raise DubrelError(
            tr("The index of the series cannot be used: {error}. Try again later.").format(error=error)
        ) from error


class Answer(Value):
    """What was found.

    Attributes
    ----------
    found : tuple of Said
    said : str
        How much, in words.
    share : float
        How much of the series is known well enough to be searched so, 0 to 1.
    """

    found: tuple[Said, ...]
    said: str
    share: float = 1.0


class Asking:
    """Answers what is asked of a series; all of it is called in one thread.

    Parameters
    ----------
    path : Path
        The file of the series.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._index: SeriesIndex | None = None
        self._steps: Iterator[float] | None = None

    def answer(self, text: str, how: How, wanted: Wanted, most: int = 200) -> Answer:
        """Find something.

        Raises
        ------
        DubrelError
            If it cannot be looked for so.
        """
        return _healed(partial(self._answer, text, how, wanted, most), self.close)

    def _answer(self, text: str, how: How, wanted: Wanted, most: int) -> Answer:
        if self._index is not None and not self._index.stands:
            self.close()
        if self._index is None:
            self._index = SeriesIndex(self._path)
            self._sounds, self._meanings = SoundSearch(self._index), MeaningSearch(self._index)
        share = 1.0
        if how == "written":
            found = self._index.find(text, wanted, most)
        elif how == "sound":
            found = [one for _, one in self._sounds.find(text, wanted, most)]
        else:
            share = self._understood()
            found = [one for _, one in self._meanings.find(text, wanted, 40)]
        many = counted(len(found), "place", "places")
        if len(found) == most:
            many = tr("The first {most} places").format(most=most)
        if share < 1.0:
            many = tr("{many} so far: {share:.0%} of what is said has been looked at").format(
                many=many, share=share
            )
        return Answer(tuple(found), many, share)

    def _understood(self) -> float:
        """Find out for a moment what sentences mean; how much of the whole is known."""
        assert self._index is not None
        if self._steps is None:
            self._steps = understand(self._index)
        share, until = 1.0, time.monotonic() + 4 * _STEP_S
        for share in islice(self._steps, 10_000):
            if time.monotonic() > until:
                return min(share, 0.99)
        self._steps = None
        return 1.0

    def close(self) -> None:
        """Let the index go; it is opened again when it is needed."""
        self._steps = None
        if self._index is not None:
            self._index.close()
            self._index = None
