"""A series at work: opened, followed, searched, its episodes opened and put in order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QPushButton

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.series.questions import SeriesQuestions
from dubrel.desk.series.searching import Searching
from dubrel.desk.series.seriesrun import SeriesRun
from dubrel.desk.series.sharing import Sharing
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.commands import Command, Group
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.store.seriesfile import (
    PROJECT,
    SUFFIX,
    Series,
    can_be_episode,
    moved_episode,
    read_series,
    with_episodes,
    without_episodes,
    write_series,
)

if TYPE_CHECKING:
    from dubrel.desk.series.seriespage import SeriesPage
    from dubrel.jobs.series.overview import Episode
    from dubrel.jobs.series.searchindex import EpisodeRow, Said
    from dubrel.jobs.series.watching import Seen, Watching

_FOLLOW_MS = 2500
_NONE = tr("No series is open. Open one, or begin one.")


class SeriesDesk(QObject):
    """The series that is open, and its page.

    Attributes
    ----------
    path : Path or None
        Of its file.
    series : Series or None
    episodes : list of Episode
        As they are shown.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk, self.ask = desk, SeriesQuestions(desk)
        self.sharing = Sharing(desk, self.ask, self)
        self.running = SeriesRun(desk, self.ask, self)
        self.path: Path | None = None
        self.series: Series | None = None
        self.episodes: list[Episode] = []
        self._rows: dict[str, EpisodeRow] = {}
        self._seen: tuple[Episode, ...] = ()  # as they stand, whatever is being done with them
        self._about = ""
        self._reading = 1.0
        self.buttons: dict[str, QPushButton] = {}
        self.page: SeriesPage | None = None
        self.doing: Callable[[], dict[str, str]] = dict  # what the queue does, by path
        self._watching: Watching | None = None
        self.following = Background(self)
        self.searching = Searching(desk, self)
        self.stale = False  # something changed while it was being looked at
        self._again = QTimer(self, interval=_FOLLOW_MS)
        self._again.timeout.connect(self.follow)
        desk.openers[SUFFIX] = self.open
        desk.stopping.append(self.stop)
        desk.themed.connect(lambda: self.page and self.page.set_theme(desk.theme))
        desk.said.connect(lambda text: self.page and self.shown and self.page.say(text))

    def group(self) -> Group:
        """What can be done with a series."""
        chosen = first(self.without_series, self._without_chosen)
        return Group(
            tr("Series"),
            [
                Command("series_new", tr("Begin a series"), "", self.new),
                Command("series_open", tr("Open a series"), "", self.choose),
                Command("series_show", tr("Show the series"), "Ctrl+8", self.show, self._nothing_to_show),
                Command("series_add", tr("Add episodes to the series"), "", self.add, self.without_series),
                Command(
                    "series_here",
                    tr("Add this project to the series"),
                    "",
                    self.add_here,
                    self._not_an_episode,
                ),
                Command(
                    "series_remove", tr("Take the episode out of the series"), "", self.remove_chosen, chosen
                ),
                Command(
                    "series_title", tr("Change the title of the series"), "", self.rename, self.without_series
                ),
                Command("series_open_episode", tr("Open the episode"), "", self.open_chosen, chosen),
                *self.sharing.commands(),
                *self.running.commands(),
            ],
        )

    # -- why not ------------------------------------------------------------------------------

    def without_series(self) -> str:
        """Why nothing can be done with a series."""
        return "" if self.series is not None else _NONE

    def _nothing_to_show(self) -> str:
        from dubrel.user.recentseries import latest_series  # late: the window opens without it

        return "" if self.series is not None or latest_series() else _NONE

    def _without_chosen(self) -> str:
        chosen = self.page.episodes.chosen() if self.page is not None else None
        return "" if chosen is not None else tr("No episode is chosen. Choose one on the page of the series.")

    def _not_an_episode(self) -> str:
        path = self.desk.session.path
        if self.series is None:
            return _NONE
        if path is None:
            return tr("This project has no file yet. Save it first.")
        return tr("This project is in the series already.") if path in self.paths() else ""

    # -- opening ------------------------------------------------------------------------------

    def new(self) -> None:
        """Ask for a file, and begin a series there."""
        near = self.desk.session.path.parent if self.desk.session.path else Path.home()
        path = self.ask.series_to_make(near)
        if path is None:
            return
        if path.exists():
            raise DubrelError(
                tr("“{path}” is there already. Open it, or choose another name.").format(path=path)
            )
        write_series(Series(path.stem), path)
        self.open(path)

    def choose(self) -> None:
        """Ask for the file of a series, and open it."""
        path = self.ask.series_to_open()
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> None:
        """Open a series and show its page; a project that is open stays so.

        Raises
        ------
        ProjectError
            If it cannot be read; the series that was open stays so.
        """
        series, said = read_series(path)
        if path.absolute() == self.path:
            self.show()
            return
        if not self._may_close():
            return
        self.close()
        self.path, self.series = path.absolute(), series
        self.sharing.share()
        from dubrel.jobs.series.watching import Watching  # late: the window opens without it
        from dubrel.user.recentseries import remember_series

        self._watching = Watching(self.path)
        self._seen = self._still_there(series)
        self.episodes = list(self._seen)
        self.searching.begin(self.path)
        try:
            remember_series(self.path)
        except DubrelError as error:
            said = [*said, str(error)]
        self.show()
        if said:
            self.desk.say(" ".join(said))

    def show(self) -> None:
        """Show its page; where none is open, the one that was open last."""
        if self.series is None:
            from dubrel.user.recentseries import latest_series  # late: as above

            self.open(latest_series()[0])
            return
        page = self.made_page()
        self._show()
        self.desk.whole_wanted.emit(page)
        self.follow()
        self._again.start()

    def close(self) -> None:
        """Leave the series; nothing has to be saved."""
        self._again.stop()
        self.following.forget()
        if self._watching is not None:
            self.following.ask(self._watching.close, lambda _nothing: None)
            self._watching = None
        self.searching.end()
        self.path, self.series, self.episodes, self._rows, self._seen = None, None, [], {}, ()
        self.sharing.share()
        if self.page is not None:
            self.page.field.clear()
            self.page.show_all()
            self.page.say("")

    def leave(self) -> None:
        """Close the series, and show what is open otherwise."""
        if self._may_close():
            self.close()
            self.desk.whole_left.emit()

    def _may_close(self) -> bool:
        """Ask before what runs over all episodes is cancelled."""
        if not self.running.busy:
            return True
        question = tr("Episodes are being worked on. Cancel that and close the series?")
        if not self.desk.ask.yes(question, tr("Cancel it and close")):
            return False
        self.running.cancel()
        return True

    def stop(self) -> None:
        """The application ends."""
        self.close()

    @property
    def shown(self) -> bool:
        """Whether the page is seen."""
        return self.page is not None and self.page.isVisible()

    def made_page(self) -> SeriesPage:
        """The page, made when it is first wanted."""
        if self.page is None:
            from dubrel.desk.series.seriespage import SeriesPage  # late: most work is with one project

            page = self.page = SeriesPage(self.desk.theme)
            page.closed.connect(self.leave)
            page.asked.connect(self.searching.find)
            page.dropped.connect(self.take_in)
            page.episodes.opened.connect(self.open_episode)
            page.episodes.unwanted.connect(self.remove)
            page.episodes.moved.connect(self._move)
            page.found.played.connect(self.searching.play)
            page.found.opened.connect(self.open_said)
            self._button("series_run", page.add_act(tr("Do what is missing"), primary=True))
            self._button("series_release", page.add_act(tr("Release all that is ready")))
            self._button("series_cancel", page.add_act(tr("Cancel")))
            self._button("series_add", page.add_act(tr("Add episodes")))
            self._button("series_check", page.add_act(tr("Check all episodes")))
            self._button("series_terms", page.add_act(tr("Take terms to all episodes")))
            self._button("series_shared", page.add_act(tr("Change what is the same"), under=True))
            self._button("series_machines", page.add_act(tr("Choose machines"), under=True))
        return self.page

    def _button(self, name: str, button: QPushButton) -> None:
        self.buttons[name] = button
        button.clicked.connect(lambda: self.desk.commands.run(name))

    # -- following ----------------------------------------------------------------------------

    def paths(self) -> list[Path]:
        """Where the episodes are."""
        assert self.series is not None and self.path is not None
        return self.series.paths(self.path.parent)

    def rows(self) -> list[EpisodeRow]:
        """The episodes as the index knows them, in order."""
        return [self._rows[str(one)] for one in self.paths() if str(one) in self._rows]

    def follow(self) -> None:
        """Look, beside the interface, how everything stands now."""
        if self._watching is None:
            return
        if not self.shown:
            self._again.stop()
            return
        if self.following.busy:
            self.stale = True
            return
        session = self.desk.session
        here = (session.path, session.project) if session.path is not None else None
        self.following.ask(partial(self._watching.look, here), self._take, self._failed)

    def _failed(self, error: Exception) -> None:
        self._again.stop()
        if isinstance(error, DubrelError):
            self.desk.say(str(error))
        else:
            raise error

    def _take(self, seen: Seen) -> None:
        if seen.series is None:
            self.desk.say(" ".join(seen.said))
            return
        if seen.said and seen.series != self.series:
            self.desk.say(" ".join(seen.said))
        others = self._rows != seen.rows
        self.series, self._rows, self._seen, self._about = seen.series, seen.rows, seen.episodes, seen.about
        if self.page is not None:
            people = {name for row in seen.rows.values() if row.standing for name in row.standing.speakers}
            self.page.show_people(sorted(people))
            if others and self.page.field.text():
                self.searching.find()
            self._reading = seen.share
            self.show_doing()
        if seen.new:
            self._arrive(seen.new)
        if seen.share < 1 or self.stale:
            self.stale = False
            QTimer.singleShot(0, self.follow)

    def show_doing(self) -> None:
        """Show what is being done over all, and with each episode."""
        if self.page is None or self.series is None:
            return
        from dubrel.jobs.series.overview import with_doing  # late: as above

        self.episodes = with_doing(self._seen, {**self.doing(), **self.running.doing})
        self._show()
        running = self.running.progress
        self.page.show_machines(self.running.machines)
        if self.running.busy:
            share, text = (running.fraction, running.stage) if running else (0.0, tr("Beginning"))
            self.page.show_progress(share, text)
        elif self._reading < 1:
            self.page.show_progress(
                self._reading, tr("Reading the episodes: {reading:.0%}").format(reading=self._reading)
            )
        else:
            self.page.show_progress(None)
        for name in ("series_run", "series_release", "series_cancel"):
            self.buttons[name].setVisible((name == "series_cancel") == self.running.busy)

    def _arrive(self, new: Sequence[Path]) -> None:
        many = counted(len(new), "episode has", "episodes have")
        if self.change(lambda series, home: with_episodes(series, new, home)[0]):
            self.desk.say(tr("{many} arrived in the watched folder.").format(many=many))

    def _show(self) -> None:
        if self.page is None or self.series is None:
            return
        from dubrel.jobs.series.overview import shared_things  # late: as above

        self.page.show_episodes(self.series.title, self._about, self.episodes)
        self.page.show_things(shared_things(self.series))

    # -- changing -----------------------------------------------------------------------------

    def change(self, verb: Callable[[Series, Path], Series]) -> bool:
        """Change the series as its file says now, and write it; whether that could be. Why not is said."""
        assert self.path is not None
        try:
            series = verb(read_series(self.path)[0], self.path.parent)
            write_series(series, self.path)
        except DubrelError as error:
            self.desk.say(str(error))
            return False
        self.series = series
        self._seen = self._still_there(series)
        self.episodes = list(self._seen)
        self._show()
        self.stale = True
        self.follow()
        return True

    def _still_there(self, series: Series) -> tuple[Episode, ...]:
        """The episodes in their present order, as far as they are known."""
        from dubrel.jobs.series.overview import overview  # late: as above

        assert self.path is not None
        known = {one.path: one for one in self._seen}
        fresh = overview({}, series.paths(self.path.parent))
        return tuple(_numbered(known.get(one.path, one), one.number) for _, one in fresh.values())

    def add(self) -> None:
        """Ask for files, and make them episodes."""
        path = self.path
        found = list(self.ask.episode_files() or ())
        if found and path == self.path:
            self.take_in(found)

    def add_here(self) -> None:
        """Make the open project an episode."""
        path = self.desk.session.path
        if path is not None:
            self.take_in([path])

    def take_in(self, paths: Sequence[Path]) -> None:
        """Make projects and recordings episodes; say what cannot be one."""
        whole = [inner for one in paths for inner in _inside(one)]
        fit = [one for one in whole if can_be_episode(one)]
        twice = list[Path]()

        def add(series: Series, home: Path) -> Series:
            made, again = with_episodes(series, fit, home)
            twice.extend(again)
            return made

        if not self.change(add):
            return
        added = len(fit) - len(twice)
        said = [tr("{episodes} added.").format(episodes=counted(added, "episode"))] if added else []
        if twice:
            said.append(tr("{value} in the series already.").format(value=counted(len(twice), "is", "are")))
        if len(fit) < len(whole):
            other = next(one for one in whole if one not in fit)
            said.append(tr("“{name}” is neither a project nor a recording.").format(name=other.name))
        self.desk.say(" ".join(said))

    def remove(self, path: Path) -> None:
        """Take an episode out; its files stay."""
        if self.series is None:
            return
        title = next((one.title for one in self.episodes if one.path == path), path.stem)
        asked = self.path
        consent = self.desk.ask.yes(
            tr("Take “{title}” out of the series? Its files stay.").format(title=title), tr("Take it out")
        )
        if consent and self.path == asked:
            self.change(lambda series, home: without_episodes(series, [path], home))

    def remove_chosen(self) -> None:
        """Take the chosen episode out."""
        path = self.made_page().episodes.chosen()
        if path is not None:
            self.remove(path)

    def rename(self) -> None:
        """Ask for another title."""
        assert self.series is not None
        asked, title = self.path, self.ask.series_title(self.series.title)
        if title and self.path == asked:
            from dubrel.base.value import replace

            self.change(lambda series, home: replace(series, title=title))

    def _move(self, path: Path, by: int) -> None:
        if self.change(lambda series, home: moved_episode(series, path, by, home)):
            self.made_page().episodes.choose(path)

    # -- episodes -----------------------------------------------------------------------------

    def open_chosen(self) -> None:
        """Open the chosen episode."""
        path = self.made_page().episodes.chosen()
        if path is not None:
            self.open_episode(path)

    def open_episode(self, path: Path, at_ms: int | None = None) -> None:
        """Open an episode in the window; where it is open already, go there."""
        self.searching.silence()
        desk = self.desk
        if desk.session.path == path:
            desk.whole_left.emit()
        else:
            if not path.is_file():
                desk.say(
                    tr("“{path}” is not there. Put it there again, or take it out of the series.").format(
                        path=path
                    )
                )
                return
            desk.opening.emit(path)
            if desk.session.path != path and path.suffix.lower() == PROJECT:
                return
        if at_ms is not None:
            desk.go("wording")
            desk.player.seek(at_ms)

    def open_said(self, said: Said) -> None:
        """Open the episode of a sentence, at its time."""
        self.open_episode(Path(said.path), said.start_ms)


def _numbered(one: Episode, number: int) -> Episode:
    from dubrel.base.value import replace

    return replace(one, number=number)


def _inside(path: Path) -> list[Path]:
    """A file, or the projects and recordings in a folder."""
    if not path.is_dir():
        return [path]
    return sorted(one for one in path.iterdir() if can_be_episode(one))
