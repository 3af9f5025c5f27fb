"""The page of a series: search over all, the episodes and how they stand, what is the same for all."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Literal

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.desk.series.episodelist import EpisodeList, PassNames
from dubrel.desk.series.foundlist import FoundList
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import Facts, button, label, paper, scrolled
from dubrel.jobs.series.overview import Episode
from dubrel.jobs.series.searchindex import Said

How = Literal["written", "sound", "meaning"]
WAYS: dict[How, str] = {"written": tr("As written"), "sound": tr("By sound"), "meaning": tr("By meaning")}
_SIDE, _PAUSE_MS = 264, 180
_ANYBODY = tr("said by anybody")
THINGS = (
    tr("Terms"),
    tr("Voices"),
    tr("House styles"),
    tr("Look"),
    tr("Languages"),
    tr("Kit"),
    tr("Published at"),
    tr("Watched folder"),
)
_HINTS = tr(
    "Up, Down  choose      Enter  open      Alt+Up, Alt+Down  move      Delete  take out      letters  search"
)
_FOUND_HINTS = tr("Enter  play or pause      Ctrl+Enter  open it there      Escape  back to the episodes")


@guarded
class SeriesPage(QWidget):
    """A series.

    Signals
    -------
    closed()
    asked()
        What is to be found, or how, is another.
    dropped(list of Path)
    """

    closed = Signal()
    asked = Signal()
    dropped = Signal(list)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setAccessibleName(tr("Series"))
        self.setAcceptDrops(True)
        self.setProperty("guide", "series")  # the page of the guide about it
        self.theme = theme
        self.title, self.about = label("", "title"), label("", "quiet")
        self.back = button(tr("Close the series"))
        self.episodes, self.found = EpisodeList(theme), FoundList(theme)
        self.names = PassNames(theme)
        self.names.rows = self.episodes.viewport()
        self._pause = QTimer(self, interval=_PAUSE_MS, singleShot=True)
        self._pause.timeout.connect(self.asked)
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.FAR, Space.EDGE, Space.FAR, Space.ROOM)
        box.setSpacing(0)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.back)
        box.addLayout(head)
        box.addWidget(self.about)
        box.addSpacing(Space.ROOM)
        row = QHBoxLayout()
        row.setSpacing(Space.FAR)
        row.addWidget(self._paper(), 1)
        row.addWidget(self._side())
        box.addLayout(row, 1)
        box.addSpacing(Space.NEAR)
        self.hint, self.message = label(_HINTS, "quiet"), label("", "look")
        self.message.setWordWrap(True)
        self.message.hide()
        box.addWidget(self.hint)
        box.addWidget(self.message)
        self.back.clicked.connect(self.closed)
        self.episodes.typed.connect(self._type)
        self.episodes.resized.connect(self.names.update)

    # -- building -------------------------------------------------------------------------

    def _paper(self) -> QWidget:
        sheet = paper(tr("Episodes"))
        box = QVBoxLayout(sheet)
        box.setContentsMargins(Space.NEAR, Space.ROOM, Space.NEAR, Space.NEAR)
        box.setSpacing(Space.TIGHT)
        box.addLayout(self._search_row())
        self.empty = label(
            tr(
                "No episode is in this series yet. Add projects or recordings, drop them here, "
                "or name a folder "
                "in which they arrive."
            )
        )
        self.empty.setWordWrap(True)
        self.empty.setContentsMargins(Space.WIDE, Space.APART, Space.WIDE, Space.APART)
        listed = QWidget()
        inner = QVBoxLayout(listed)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        inner.addWidget(self.names)
        inner.addWidget(self.empty, 0, Qt.AlignmentFlag.AlignTop)
        inner.addWidget(self.episodes, 1)
        inner.addStretch(0)
        results = QWidget()
        inner = QVBoxLayout(results)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(0)
        self.how_many = label("", "quiet")
        self.how_many.setContentsMargins(Space.ROOM, Space.TIGHT, 0, Space.TIGHT)
        inner.addWidget(self.how_many)
        inner.addWidget(self.found, 1)
        self.lists = QStackedWidget()
        self.lists.addWidget(listed)
        self.lists.addWidget(results)
        box.addWidget(self.lists, 1)
        return sheet

    def _search_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(Space.ROOM, 0, Space.ROOM, Space.NEAR)
        row.setSpacing(Space.CLOSE)
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Find in all episodes"))
        self.field.setAccessibleName(tr("Find in all episodes"))
        row.addWidget(self.field, 1)
        self.ways = QButtonGroup(self)
        self.way_buttons: dict[How, QToolButton] = {}
        for how, text in WAYS.items():
            one = QToolButton()
            one.setText(text)
            one.setCheckable(True)
            one.setProperty("role", "tab")
            one.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.ways.addButton(one)
            self.way_buttons[how] = one
            row.addWidget(one)
        self.way_buttons["written"].setChecked(True)
        self.by = QComboBox()
        self.by.setAccessibleName(tr("Who says it"))
        self.by.addItem(_ANYBODY)
        fixed(self.by.setMinimumWidth, 150)
        row.addWidget(self.by)
        self.field.textChanged.connect(lambda _text: self._pause.start())
        self.field.returnPressed.connect(self._enter)
        self.ways.buttonClicked.connect(lambda _button: self.asked.emit())
        self.by.activated.connect(lambda _place: self.asked.emit())
        return row

    def _side(self) -> QWidget:
        inner = QWidget()
        self.side = QVBoxLayout(inner)
        self.side.setContentsMargins(0, 0, 0, 0)
        self.side.setSpacing(Space.NEAR)
        self.acts = QVBoxLayout()
        self.acts.setSpacing(Space.NEAR)
        self.side.addLayout(self.acts)
        self.progress, self.doing = QProgressBar(), label("", "live")
        self.doing.setWordWrap(True)
        self.progress.setRange(0, 1000)
        self.progress.setTextVisible(False)
        self.progress.hide()
        self.doing.hide()
        self.side.addWidget(self.progress)
        self.side.addWidget(self.doing)
        self.machines = label("", "quiet")
        self.machines.setWordWrap(True)
        self.machines.hide()
        self.side.addWidget(self.machines)
        self.side.addSpacing(Space.ROOM)
        self.things = Facts(tr("The same in all episodes"), list(THINGS))
        self.side.addWidget(self.things)
        self.under_things = QVBoxLayout()
        self.side.addLayout(self.under_things)
        self.side.addStretch(1)
        area = scrolled(inner)
        fixed(area.setFixedWidth, _SIDE)
        return area

    def add_act(self, text: str, *, primary: bool = False, under: bool = False) -> QPushButton:
        """A button at the right; ``under`` stands below what is the same in all."""
        made = button(text, primary)
        made.setProperty("kind", "tall")
        made.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        (self.under_things if under else self.acts).addWidget(made)
        return made

    # -- showing ----------------------------------------------------------------------------

    def show_episodes(self, title: str, about: str, episodes: Sequence[Episode]) -> None:
        """Show how they stand."""
        self.title.setText(title)
        self.about.setText(about)
        self.episodes.show_episodes(episodes)
        for one in (self.names, self.episodes):
            one.setVisible(bool(episodes))
        self.empty.setVisible(not episodes)

    def show_people(self, names: Sequence[str]) -> None:
        """Who speaks in them."""
        now = self.who
        if [self.by.itemData(k) for k in range(1, self.by.count())] == list(names):
            return
        self.by.clear()
        self.by.addItem(_ANYBODY, "")
        for name in names:
            self.by.addItem(tr("said by {name}").format(name=name), name)
        self.by.setCurrentIndex(max(0, self.by.findData(now)))

    def show_things(self, things: Sequence[tuple[str, str, str]]) -> None:
        """What is the same in all: name, value, all of it."""
        for name, value, whole in things:
            self.things.set(name, value, whole)

    def show_found(self, found: Sequence[Said], titles: Mapping[str, str], said: str) -> None:
        """Show what was found in place of the episodes."""
        self.found.show_found(found, titles)
        self.how_many.setText(said)
        self._show_list(True)

    def show_all(self) -> None:
        """Show the episodes again."""
        self._show_list(False)

    def _show_list(self, found: bool) -> None:
        had = self.lists.isAncestorOf(self.focusWidget() or self)
        self.lists.setCurrentIndex(int(found))
        self.hint.setText(_FOUND_HINTS if found else _HINTS)
        if had:
            (self.found if found else self.episodes).setFocus()
        self.setFocusProxy(self.found if found else self.episodes)

    def show_progress(self, share: float | None, text: str = "") -> None:
        """Show what is being done over all, or nothing."""
        self.progress.setVisible(share is not None)
        self.doing.setVisible(share is not None and bool(text))
        self.progress.setValue(round(1000 * (share or 0.0)))
        self.doing.setText(text)

    def show_machines(self, machines: Mapping[str, str]) -> None:
        """What each machine does, by its name."""
        self.machines.setText("\n".join(f"{name}: {what}" for name, what in sorted(machines.items())))
        self.machines.setVisible(bool(machines))

    def say(self, text: str) -> None:
        """Say something in place of the hints."""
        self.message.setText(text)
        self.message.setVisible(bool(text))
        self.hint.setVisible(not text)

    # -- asked ---------------------------------------------------------------------------------

    @property
    def how(self) -> How:
        """How is to be found."""
        return next(how for how, one in self.way_buttons.items() if one.isChecked())

    @property
    def who(self) -> str:
        """Who is to say it; empty for anybody."""
        return str(self.by.currentData() or "")

    def choose_way(self, how: How) -> None:
        """Find in another way."""
        self.way_buttons[how].setChecked(True)
        self.asked.emit()

    def _type(self, letter: str) -> None:
        self.field.setFocus()
        self.field.setText(letter)

    def _enter(self) -> None:
        """Ask now; where there is an answer already, go to it."""
        waiting = self._pause.isActive()
        self._pause.stop()
        if waiting:
            self.asked.emit()
        elif self.lists.currentIndex() == 1:
            self.found.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape leads from what was found to the episodes, and from them away."""
        if event.key() == Qt.Key.Key_Escape:
            if self.field.text():
                self.field.clear()
                self.show_all()
                self.episodes.setFocus()
            else:
                self.closed.emit()
        elif event.key() == Qt.Key.Key_Down and self.field.hasFocus():
            (self.found if self.lists.currentIndex() else self.episodes).setFocus()
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files and folders."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """They become episodes."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths:
            self.dropped.emit(paths)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of what is drawn."""
        self.theme = self.names.theme = theme
        self.episodes.delegate.theme = self.found.delegate.theme = theme
        self.update()
