"""The window: rail, pages, booth, strip and footer around the rooms that it is given."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from pathlib import Path

from PySide6.QtCore import QPoint, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import counted, told, tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.core.collector import Collector
from dubrel.desk.shell.core.commands import Act, Command, Commands, Group
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.filing import Filing
from dubrel.desk.shell.core.listening import Listening
from dubrel.desk.shell.core.menus import main_menu
from dubrel.desk.shell.core.notify import Notifier
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.booth import Booth
from dubrel.desk.shell.frame.footer import Footer
from dubrel.desk.shell.frame.header import Header
from dubrel.desk.shell.frame.oneinstance import TOKEN
from dubrel.desk.shell.frame.panes import Panes
from dubrel.desk.shell.frame.placekeys import PlaceKeys
from dubrel.desk.shell.frame.preparing import Preparing
from dubrel.desk.shell.frame.rail import Rail
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.frame.sidepages import SidePages
from dubrel.desk.shell.frame.strip import Strip
from dubrel.desk.shell.frame.windowcommands import edit_group, file_group, play_group, view_group
from dubrel.desk.shell.kit.desktoplook import DesktopLook, other_theme, take_scale, theme_of
from dubrel.desk.shell.kit.guard import errors, guarded
from dubrel.desk.shell.kit.stack import Stack
from dubrel.desk.shell.kit.theme import Space, Theme, dress, wear
from dubrel.desk.shell.kit.widgets import show_menu
from dubrel.desk.shell.pages.readas import ReadAs
from dubrel.desk.shell.pages.starting import Starting
from dubrel.model import Media
from dubrel.project.changes import Change
from dubrel.project.reasons import not_found
from dubrel.user.settings import SETTINGS, Settings

_NO_LIMIT = (1 << 24) - 1  # pixels: Qt's own limit of a widget
_REST_S = 1.0
Rooms = Callable[[Desk], Sequence[Room]]


@guarded
class MainWindow(QMainWindow):
    """One window, one project.

    Parameters
    ----------
    theme : Theme
    rooms : callable
        Makes the rooms of the passes, in the order of the rail.
    """

    def __init__(self, theme: Theme, rooms: Rooms) -> None:
        dress(theme)  # first: a window that is there already would keep the font
        super().__init__()
        self.theme = theme
        self.desk = Desk(self, theme)
        self.session, self.player, self.jobs = self.desk.session, self.desk.player, self.desk.jobs
        self.ask = self.desk.ask
        self.filing = Filing(self.desk)
        made = rooms(self.desk)
        self.rooms = {room.id: room for room in made}
        self.current = made[0]
        self._preparing: Preparing | None = None
        self._source: Path | None = None  # what the player plays
        self._opened_at = 0.0
        self.starting = Starting(self.desk, lambda: [room.todo() for room in self.rooms.values()])
        self.read_as = ReadAs(self.desk)
        self.notifier = Notifier(self, self.jobs)
        errors().said.connect(self.say)
        self._build()
        self.panes = Panes(self)
        back = lambda: self.show_room(self.current.id)  # noqa: E731
        self.side_pages = SidePages(self.desk, self.pages, self._show_page, back, self.apply_settings)
        self._take_settings(SETTINGS.read())
        self.commands = self.desk.commands = Commands(self, self._groups(), self.desk.say)
        PlaceKeys(self, self.commands)
        self._connect()
        self.setAcceptDrops(True)
        self.desk.stopping.append(Collector(self).stop)
        self.set_theme(theme)
        self.show_counts()

    # -- building -------------------------------------------------------------

    def _build(self) -> None:
        self.pages = Stack()
        self.rail = Rail(self.theme, [room.name for room in self.rooms.values()])
        self.booth = Booth(self.desk)
        self.desk.picture = lambda: self.booth.picture
        self.desk.listening = Listening(self.desk, self.booth.loop)
        self.strip = Strip(self.desk)
        middle = QHBoxLayout()
        middle.setContentsMargins(Space.NEAR, 0, Space.WIDE, 0)
        middle.setSpacing(0)
        middle.addWidget(self.rail)
        self.drawers = Stack()
        self.drawers.hide()
        column = QVBoxLayout()
        column.setSpacing(0)
        column.addWidget(self.pages, 1)
        column.addWidget(self.drawers)
        middle.addLayout(column, 1)
        middle.addSpacing(Space.WIDE)
        middle.addWidget(self.booth)
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(Space.NEAR)
        self.header = Header()
        box.addWidget(self.header)
        for bar in self.desk.bars:
            box.addWidget(bar)
        box.addLayout(middle, 1)
        across = QHBoxLayout()
        across.setContentsMargins(Space.NEAR, 0, Space.WIDE, 0)
        across.addWidget(self.strip)
        box.addLayout(across)
        self.footer = Footer()
        self.message, self.numbers = self.footer.message, self.footer.numbers
        box.addWidget(self.footer)
        self.body = body  # each of its parts is in a dress of its own
        self.whole = Stack()
        self.whole.addWidget(body)
        self._stacks = (self.whole, self.pages, self.drawers, self.booth.panels)
        self.setCentralWidget(self.whole)
        self.whole.currentChanged.connect(lambda _place: self.commands.hold(None))

    def _groups(self) -> list[Group]:
        """All commands, in the order of the menu."""
        file, edit, view = file_group(self), edit_group(self.desk), view_group(self)
        play = play_group(self.desk, self.desk.listening)
        rooms = [Group(room.name, room.commands()) for room in self.rooms.values()]
        ways = [
            Command(
                f"go_{room.id}",
                tr("Go to {name}").format(name=room.name),
                f"Ctrl+{place}",
                self._way_to(room.id),
            )
            for place, room in enumerate(self.rooms.values(), 1)
        ]
        return [file, edit, play, *rooms, *self.desk.groups, Group(view.name, [*view.commands, *ways])]

    def _way_to(self, room_id: str) -> Callable[[], None]:
        return lambda: self.visit(room_id)

    def _connect(self) -> None:
        desk, session = self.desk, self.session
        desk.said.connect(self.say)
        desk.going.connect(self.show_room)
        desk.whole_wanted.connect(self.show_whole)
        desk.whole_left.connect(self.show_open)
        desk.drawer_changed.connect(lambda: self._show_drawer(self.current.drawer))
        desk.counted.connect(self.show_counts)
        desk.marked.connect(self.strip.update)
        self.rail.chosen.connect(lambda place: self.visit(list(self.rooms)[place]))
        self.header.find_button.clicked.connect(lambda: self.commands.run("find"))
        self.header.menu_button.clicked.connect(self.show_menu)
        session.changed.connect(self._on_changed)
        session.saved_changed.connect(self._show_saved)
        session.problem.connect(self.say)
        session.closing.connect(lambda: self.footer.say(""))  # what was said of another project is over
        session.opened.connect(self._on_opened)
        self.jobs.changed.connect(self._on_jobs)
        self.jobs.warned.connect(self.say)
        self.footer.cancel_wanted.connect(self.jobs.cancel_shown)
        self.player.failed.connect(
            lambda text: self.say(tr("The recording cannot be played: {text}.").format(text=text))
        )
        self.player.moved.connect(self.strip.set_position)
        self.strip.seek_wanted.connect(self.player.seek)
        DesktopLook(self, self.apply_settings)

    # -- showing --------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of everything."""
        self.theme = self.desk.theme = theme
        dress(theme)
        wear(self.desk.host, self.header, *self.desk.bars)
        wear(self.rail, self.booth.head, self.strip, self.footer)
        for stack in self._stacks:
            stack.dress()
        self.rail.set_theme(theme)
        self.booth.set_theme(theme)
        self.strip.set_theme(theme)
        if self.starting.page is not None:
            self.starting.page.set_theme(theme)
        self.side_pages.set_theme(theme)
        for room in self.rooms.values():
            room.set_theme(theme)
        self._show_drawer(self.current.drawer)  # its height may be another
        self.desk.themed.emit()
        if self._preparing is not None:
            self._preparing.first(step for stack in self._stacks for step in stack.dressing())

    def other_theme(self) -> None:
        """Change between day and night, until the settings say otherwise."""
        self.set_theme(other_theme(self.theme))

    def enlarge_picture(self) -> None:
        """Let the picture take the window, or give it back to the booth."""
        picture = self.booth.picture
        picture.large = not picture.large
        if picture.large:
            picture.setMinimumHeight(0)
            picture.setMaximumHeight(_NO_LIMIT)
            self.whole.addWidget(picture)
            self.whole.setCurrentWidget(picture)
        else:
            self.whole.removeWidget(picture)
            self.booth.take_picture()
            self.whole.setCurrentWidget(self.body)
        picture.show()
        self.show_focus()

    def show_safe_areas(self) -> None:
        """Show or hide the safe areas on the picture."""
        self.booth.picture.safe_areas = not self.booth.picture.safe_areas
        self.booth.picture.update()

    def _take_settings(self, settings: Settings) -> None:
        self.player.step_back_ms = settings.step_back_ms
        take_scale(settings)

    def apply_settings(self, settings: Settings) -> None:
        """Show what was set."""
        self._take_settings(settings)
        self.set_theme(theme_of(settings))

    def visit(self, room_id: str) -> None:
        """The user goes to a pass: what was said in another one is over, and the hints of this one show."""
        if self.rooms[room_id] is not self.current:
            self.footer.say("")
        self.show_room(room_id)

    def show_room(self, room_id: str) -> None:
        """Show a pass."""
        room = self.rooms[room_id]
        if self.booth.picture.large:
            self.enlarge_picture()
        self.whole.setCurrentWidget(self.body)
        if room is not self.current:
            self.current.leave()
        self.current, self.desk.room = room, room_id
        self.rail.choose(list(self.rooms).index(room_id))
        self.pages.show_page(room.page)
        self._show_drawer(room.drawer)
        self.booth.show_panel(room.panel)
        if room.layer is not None:
            self.strip.set_layer(room.layer)
        room.enter()
        self.show_focus()
        self._show_keys()

    def _show_drawer(self, drawer: QWidget | None) -> None:
        """Let a room's drawer stand under its page, if it has one that is pulled out."""
        if drawer is not None:
            self.drawers.show_page(drawer)
            self.drawers.setFixedHeight(drawer.maximumHeight())
        self.drawers.setVisible(drawer is not None)

    def show_focus(self) -> None:
        """Give the keys to the page that is shown."""
        page = (
            self.whole.currentWidget()
            if self.whole.currentWidget() is not self.body
            else self.pages.currentWidget()
        )
        if page is not None:
            page.setFocus()

    def show_start(self) -> None:
        """Show what was worked on last and unsaved work; nothing is open."""
        page = self.starting.made_page()
        self.whole.show_page(page)
        self.setWindowTitle("Dubrel")
        self.starting.refresh()
        page.setFocus()

    def show_whole(self, page: QWidget) -> None:
        """Let a page take the whole window."""
        if self.booth.picture.large:
            self.enlarge_picture()
        self.whole.show_page(page)
        self.commands.hold((tr("File"), tr("Series"), tr("View")))
        self.show_focus()

    def show_open(self) -> None:
        """Show the open project again; with none, what was worked on last."""
        project = self.session.project
        if self.session.path is None and project.media is None and not project.transcript.turns:
            self.show_start()
        else:
            self.show_room(self.current.id)

    def prepare(self, early: Future[None] | None = None) -> None:
        """Make the other pages ahead, while nothing is to do, and once what is loaded early is there."""
        at_rest = self._at_rest if early is None else lambda: early.done() and self._at_rest()
        self._preparing = Preparing(self, [*self.rooms.values()], self.pages, self.booth, at_rest)
        self.desk.stopping.append(self._preparing.stop)

    def _at_rest(self) -> bool:
        """Whether nobody has been typing or has opened a project for a moment."""
        return self.session.at_rest and time.monotonic() - self._opened_at > _REST_S

    def show_help(self) -> None:
        """Show the guide, at the page of the pass that one is in."""
        shown = self.whole.currentWidget()
        other = str((shown.property("guide") if shown is not None else "") or "everywhere")
        self.side_pages.show_help(self.current.id if shown is self.body else other)

    def _show_page(self, page: QWidget) -> None:
        self.whole.setCurrentWidget(self.body)
        self.rail.choose(None)
        self._show_drawer(None)
        self.pages.show_page(page)
        self.booth.show_panel(None)
        self.show_focus()

    def find_command(self) -> None:
        """Show the list of commands and carry out the chosen one."""
        from dubrel.desk.shell.frame.finder import Finder

        finder = Finder(self.commands, self.theme, self.desk.host, self.acts(), self.hints())
        wanted = finder.exec()
        self._show_keys()  # some may be others now
        if wanted:
            finder.carry_out()

    def hints(self) -> list[tuple[str, str]]:
        """What the footer calls commands, in every pass."""
        return [hint for room in self.rooms.values() for hint in room.hints]

    def acts(self) -> list[Act]:
        """The buttons in sight that no command stands for, and those of drawers."""
        found = [act for room in self.rooms.values() for act in room.acts()]
        known = {act.text for act in found} | {action.text() for action in self.commands.actions.values()}
        for one in self.findChildren(QPushButton):
            own = not (self.header.isAncestorOf(one) or self.rail.isAncestorOf(one))
            if own and one.isVisible() and one.isEnabled() and one.text() and one.text() not in known:
                found.append(Act(one.text(), self.current.name, one.click))
        return found

    def show_menu(self) -> None:
        """Show the menu with everything, under its button."""
        button = self.header.menu_button
        at = button.mapToGlobal(QPoint(0, button.height() + 2))
        show_menu(main_menu(self.commands, self.desk.host), at)

    def show_context(self) -> None:
        """Show the menu of what the keys go to, as its Menu key does."""
        from PySide6.QtGui import QContextMenuEvent

        widget = QApplication.focusWidget() or self
        middle = widget.rect().center()
        event = QContextMenuEvent(QContextMenuEvent.Reason.Keyboard, middle, widget.mapToGlobal(middle))
        QApplication.sendEvent(widget, event)

    def say(self, text: str) -> None:
        """Say something in the footer for a while."""
        self.footer.say(text)
        if self.starting.page is not None:
            self.starting.page.say(text)

    def _show_keys(self) -> None:
        hints = [(self.commands.keys(name), text) for name, text in self.current.hints]
        self.footer.keys.setText("      ".join(f"{keys}  {text}" for keys, text in hints if keys))
        self.header.show_keys(self.commands)

    def show_counts(self) -> None:
        """Show on the rail what is still to do."""
        todos: list[ToDo] = [room.todo() for room in self.rooms.values()]
        for button, todo in zip(self.rail.buttons, todos):
            button.show_state(told(todo.text), todo.done)
        project = self.session.project
        turns, track = project.transcript.turns, project.captions
        length = format_length(
            project.media.duration_ms if project.media else turns[-1].end_ms if turns else 0
        )
        captions = (
            tr(", {captions} captions").format(captions=len(track.captions))
            if track and track.captions
            else ""
        )
        count = project.transcript.word_count
        self.numbers.setText(f"{counted(count, 'word')}{captions}, {length}")

    def _on_jobs(self) -> None:
        running = self.jobs.shown
        self.footer.show_progress(running.progress if running else None, len(self.jobs.all))
        self.show_counts()

    def _show_saved(self) -> None:
        self.header.show_saved(self.session)
        self.setWindowModified(self.session.dirty)

    def _on_opened(self) -> None:
        session, media = self.session, self.session.project.media
        self._source, self._opened_at = session.media_path, time.monotonic()
        self.player.set_source(self._source)
        self.booth.picture.clear()
        if media is not None and session.media_path is None:
            self.say(not_found(media))
        if media is not None and media.has_video and session.media_path:
            QTimer.singleShot(0, self.booth.show_video)

    def _on_changed(self, change: Change) -> None:
        project = change.new
        self.header.show_project(project)
        self.setWindowTitle(tr("{title}[*] – Dubrel").format(title=project.title))
        path = self.session.media_path
        if path is not None and (path != self._source or _is_other(change.old.media, project.media)):
            self._source = path
            self.player.set_source(path)
            self.booth.picture.clear()
            if project.media is not None and project.media.has_video:
                QTimer.singleShot(0, self.booth.show_video)
        self.show_counts()

    # -- Qt -------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open a dropped file, or two caption files as a pair; of several, those rooms take that can."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.filing.open_many(paths)

    def come_to_front(self, leave: str = "") -> None:
        """Be seen and have the keys, as far as the desktop lets a window ask for it."""
        if leave:
            os.environ[TOKEN] = leave
        if self.isMinimized():
            self.showNormal()
        self.raise_()
        self.activateWindow()
        QApplication.alert(self)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fold what has no room."""
        super().resizeEvent(event)
        if hasattr(self, "panes"):
            self.panes.fit()

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask about unsaved work before closing."""
        if not self.filing.may_leave():
            event.ignore()
            return
        self.panes.keep_size()
        self.desk.stop()
        event.accept()


def _is_other(old: Media | None, new: Media | None) -> bool:
    """Whether another recording is to be played; what was learned of the same one is no reason."""
    facts = [(one.name, one.duration_ms, one.channels) if one else None for one in (old, new)]
    return facts[0] != facts[1]
