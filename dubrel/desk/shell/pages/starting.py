"""The start page at work: what is shown on it, and what its buttons do."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.background import Background, aside, beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.model import Project

if TYPE_CHECKING:
    from dubrel.desk.shell.pages.startpage import StartPage
    from dubrel.media.peaks import Peaks
    from dubrel.store.recovery import Leftover
    from dubrel.user.recents import Recent

_SETTLED_MS = 900


class RecoveryBar(QWidget):
    """The bar under the header that offers unsaved work while something else is open."""

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(Space.EDGE, Space.HAIR, Space.WIDE, Space.HAIR)
        row.setSpacing(Space.APART)
        self.text = label("", "look")
        self.text.setWordWrap(True)
        self.look, self.later = button(tr("Look at it"), primary=True), button(tr("Later"))
        row.addWidget(self.text, 1)
        row.addWidget(self.look)
        row.addWidget(self.later)
        self.later.clicked.connect(self.hide)
        self.hide()


class Starting(QObject):
    """Shows the start page and keeps the list of recent projects.

    Signals
    -------
    shown()
        Nothing is open: the start page is to be seen.
    """

    shown = Signal()

    def __init__(self, desk: Desk, todos: Callable[[], Sequence[ToDo]]) -> None:
        super().__init__(desk)
        self.desk, self.session, self._todos = desk, desk.session, todos
        self.page: StartPage | None = None
        self.bar = RecoveryBar()
        desk.bars.append(self.bar)
        self._offered: Leftover | None = None
        self._background = Background(self, newest=True)
        self._released: tuple[Project, float] | None = None  # of the open project: of what value, and when
        self.settled = QTimer(self, interval=_SETTLED_MS, singleShot=True)
        self.settled.timeout.connect(self._remember)
        self.bar.look.clicked.connect(lambda: self._offered and self.look(self._offered))
        self.session.saved_changed.connect(self._on_saved)
        self.session.sound_ready.connect(self.settled.start)
        self.session.closing.connect(self._on_closing)
        self.session.opened.connect(self._on_opened)
        desk.released.connect(self._on_released)

    # -- the page -------------------------------------------------------------------

    def made_page(self) -> StartPage:
        """The page, made when it is first wanted."""
        from dubrel.desk.shell.pages.startpage import StartPage  # late: a project is opened without it

        if self.page is None:
            page = self.page = StartPage(self.desk.theme)
            page.open_wanted.connect(lambda: self.desk.commands.run("open"))
            page.record_wanted.connect(lambda: self.desk.commands.run("record"))
            page.demo_wanted.connect(lambda: self.desk.commands.run("demo"))
            page.project_wanted.connect(self.desk.opening)
            page.series_wanted.connect(self.desk.opening)
            page.back_wanted.connect(self.bring_back)
            page.look_wanted.connect(self.look)
            page.delete_wanted.connect(self.delete)
            page.show_state([], [])
        return self.page

    def refresh(self) -> None:
        """Look, beside the interface, what there is."""
        self._background.ask(_what_there_is, self._show)

    def _show(self, there_is: tuple[list[Recent], list[Leftover], list[Path]]) -> None:
        projects, left, series = there_is
        if self.page is not None:
            had_keys = self.page.isAncestorOf(self.page.window().focusWidget() or self.page)
            self.page.show_state(projects, left, series)
            if had_keys:
                self.page.setFocus()
        self._offer(left)

    def _offer(self, left: Sequence[Leftover]) -> None:
        """In the bar: what belongs to the open project, or else the latest."""
        own = [one for one in left if one.path is not None and one.path == self.session.path]
        self._offered = next(iter([*own, *left]), None)
        self.bar.setVisible(self._offered is not None)
        if self._offered is not None:
            from dubrel.desk.shell.pages.startpage import leftover_in_words  # late: as above

            self.bar.text.setText(
                tr("Unsaved work: {offered}").format(offered=leftover_in_words(self._offered))
            )

    # -- unsaved work ------------------------------------------------------------------

    def bring_back(self, left: Leftover) -> None:
        """Open unsaved work; it stays in the journal until it is saved."""
        if not self.desk.may_leave():
            return
        session = self.session
        session.open(left.project, left.path, saved=False, base=left.base)
        if session.read_only:
            session.open(left.project, None, saved=False)
        from dubrel.store.recovery import discard  # late: as above

        if session.keep_safe():
            discard(left.folder)
        self.bar.hide()
        self.desk.go("wording" if left.project.transcript.turns else "intake")
        self.desk.say(
            tr("The unsaved work is recovered. Save it to keep it in its file.")
            if session.path is not None
            else tr("The unsaved work is recovered. Save it as a file of its own.")
        )

    def look(self, left: Leftover) -> None:
        """Show unsaved work, word by word beside the file."""
        from dubrel.desk.shell.pages.startpage import leftover_in_words  # late: as above
        from dubrel.project.passages import passages

        found = beside(lambda: passages(left.base, left.project))
        if self.desk.ask.unsaved_work(leftover_in_words(left), found):
            self.bring_back(left)

    def delete(self, left: Leftover) -> None:
        """Remove unsaved work, if the user says so."""
        from dubrel.desk.shell.pages.startpage import leftover_in_words  # late: as above
        from dubrel.store.recovery import discard

        if self.desk.ask.yes(
            tr("Delete for good? {left}").format(left=leftover_in_words(left)), tr("Delete")
        ):
            discard(left.folder)
            self.refresh()

    # -- recent projects ----------------------------------------------------------------

    def _on_saved(self) -> None:
        if self.session.path is not None and not self.session.dirty:
            self.settled.start()

    def _on_closing(self) -> None:
        if self.settled.isActive():
            self.settled.stop()
            self._remember()

    def _on_opened(self) -> None:
        self._released = None

    def _on_released(self, project: Project) -> None:
        self._released = (project, time.time())
        self._remember()

    def _remember(self) -> None:
        """Put the open project at the top of the list, as it stands in its file."""
        session, project = self.session, self.session.saved
        if session.path is None or session.read_only:
            return
        to_do = [one.text for one in self._todos() if one.left]
        peaks, media = session.peaks, project.media
        length = media.duration_ms if media else 0
        aside(partial(_remembered, project, session.path, to_do, peaks, length, self._released))


def _what_there_is() -> tuple[list[Recent], list[Leftover], list[Path]]:
    from dubrel.store.recovery import leftovers
    from dubrel.user.recents import recents  # late: as above
    from dubrel.user.recentseries import latest_series

    return recents(), leftovers(), latest_series()


def _remembered(
    project: Project,
    path: Path,
    to_do: Sequence[str],
    peaks: Peaks | None,
    length_ms: int,
    released: tuple[Project, float] | None,
) -> None:
    from dubrel.user.recents import remember, trace_of  # late: as above

    trace = trace_of(peaks, length_ms) if peaks is not None and length_ms else []
    try:
        remember(project, path, to_do, trace, released=released)
    except DubrelError:  # a list that cannot be written is no reason to interrupt anybody
        return
