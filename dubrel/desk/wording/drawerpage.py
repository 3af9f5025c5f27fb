"""A page of the drawer: what is asked, a list of places, what can be done with them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget
from shiboken6 import isValid

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.buttonrow import ButtonRow
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label
from dubrel.desk.wording.rows import Row, RowList
from dubrel.model import Project, text_of_words
from dubrel.project.index import turn_of, turn_place, word_with

_AROUND_MS = 400
_REST_MS = 300
_AROUND_WORDS = 8


@guarded
class DrawerPage(QWidget):
    """What the pages share.

    Attributes
    ----------
    id, name : str
        ``name`` stands on the drawer's tab.
    nothing : str
        What an empty list says.
    """

    id = ""
    name = ""
    nothing = tr("Nothing here.")

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        super().__init__()
        self.desk, self.sheet, self.session = desk, sheet, desk.session
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(Space.TIGHT)
        self.top = QHBoxLayout()
        self.top.setContentsMargins(Space.ROOM, 0, Space.ROOM, 0)
        self.top.setSpacing(Space.NEAR)
        box.addLayout(self.top)
        self.list = RowList(desk, self.name)
        self.empty = label("", "quiet")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        self.empty.setContentsMargins(Space.ROOM, Space.WIDE, Space.ROOM, 0)
        self.empty.setWordWrap(True)
        box.addWidget(self.list, 1)
        box.addWidget(self.empty, 1)
        self.box = box
        self.summary: QLabel = label("", "quiet")
        self.acts: ButtonRow | None = None
        self.list.chosen.connect(self.show_row)
        self.list.played.connect(self.play_row)
        self.list.removed.connect(self.remove_row)
        self.list.ticks_changed.connect(self.say_how_many)
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._refresh_now)
        self._stale, self._listing = True, False
        self.session.changed.connect(self._on_changed)
        self.fill_top()
        self.show_rows([])

    # -- for the pages ---------------------------------------------------------------

    def fill_top(self) -> None:
        """Put the page's own controls above the list."""
        self.top.addWidget(self.summary)
        self.top.addStretch(1)

    def rows(self, project: Project) -> Sequence[Row]:
        """What is listed of a value."""
        return []

    def start(self, what: str) -> None:
        """Begin with one of the page's lists."""

    def say_how_many(self) -> None:
        """Say how much is listed or ticked."""

    def fold(self, narrow: bool) -> None:
        """Stack controls where there is little room."""

    def remove_row(self, row: Row) -> None:
        """Delete was pressed on a row."""

    def begin(self) -> None:
        """The page was asked for by a command: where the keys go first."""
        self.list.setFocus()

    def _refresh_now(self) -> None:
        if self.isVisible():
            self.refresh()

    def choice(self, name: str, options: Mapping[str, str], chosen: Callable[[], object]) -> QComboBox:
        """A list above the rows; ``chosen`` is called when the user chose another entry."""
        made = QComboBox()
        made.setAccessibleName(name)
        made.setMinimumContentsLength(8)  # it gives way before buttons do
        for key, text in options.items():
            made.addItem(text, key)
        made.activated.connect(lambda _place: chosen())
        self.top.addWidget(made)
        return made

    def _on_changed(self, _change: object) -> None:
        self.refresh_soon()

    # -- shared ------------------------------------------------------------------------

    def act(self, text: str, run: Callable[[], object], primary: bool = False) -> QPushButton:
        """A button above the list."""
        made = button(text, primary)
        made.clicked.connect(lambda _checked=False: run())
        if self.acts is None:
            self.acts = ButtonRow([])
            self.top.addWidget(self.acts, 0, Qt.AlignmentFlag.AlignTop)
        self.acts.add(made)
        return made

    def refresh_soon(self) -> None:
        """List what holds in a moment, if it is looked at."""
        self._stale = True
        if self.isVisible():
            self._rest.start()

    def showEvent(self, event: QShowEvent) -> None:
        """List what holds now."""
        super().showEvent(event)
        if self._stale:
            self.refresh()

    def refresh(self) -> None:
        """List what holds now; what is asked meanwhile is listed after it."""
        if self._listing:
            self._rest.start()
            return
        self._stale, self._listing = False, True
        try:
            rows = self.rows(self.session.project)
            if isValid(self):  # the window may have been closed while they were looked for
                self.show_rows(rows)
        finally:
            self._listing = False

    def show_rows(self, rows: Sequence[Row]) -> None:
        """List rows; say what holds where there are none."""
        self.list.show_rows(rows)
        self.list.setVisible(bool(rows))
        self.empty.setVisible(not rows)
        self.empty.setText("" if rows else self.why_empty())
        self.say_how_many()

    def why_empty(self) -> str:
        """What an empty list says."""
        return self.desk.without_words() or self.nothing

    def row_of(self, words: Sequence[int], **known: Any) -> Row | None:
        """A row about some words, with what stands around them; ``None`` where they are gone."""
        turn = turn_of(self.session.project, words[0]) if words else None
        if turn is None:
            return None
        places = [turn.index_of[one] for one in words if one in turn.index_of]
        first, last = min(places), max(places)
        text = text_of_words(turn.words[first : last + 1])
        lead = "".join(f"{word.text} " for word in turn.words[max(0, first - _AROUND_WORDS) : first])
        trail = "".join(f" {word.text}" for word in turn.words[last + 1 : last + 1 + 2 * _AROUND_WORDS])
        row = {"text": text, "lead": lead, "trail": trail}
        start, end = turn.words[first].start_ms, turn.words[last].end_ms
        return Row(start, end, tuple(words), turn.speaker, **{**row, **known})

    def show_row(self, row: Row) -> None:
        """Select a row's words on the sheet; the keys stay in the list."""
        project = self.session.project
        present = [one for one in row.words if word_with(project, one) is not None]
        turn = turn_of(project, present[0]) if present else None
        if turn is None:
            return
        places = [turn.index_of[one] for one in present if one in turn.index_of]
        self.sheet.select_words(turn_place(project, turn.id), min(places), max(places) + 1)

    def play_row(self, row: Row) -> None:
        """Play a row's passage."""
        if reason := self.desk.without_recording():
            self.desk.say(reason)
            return
        self.desk.play(row.start_ms, row.end_ms, _AROUND_MS)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Down goes from a field into the list."""
        if event.key() == Qt.Key.Key_Down and not self.list.hasFocus() and self.list.rows:
            self.list.setFocus()
            if self.list.row is not None:
                self.show_row(self.list.row)
        else:
            super().keyPressEvent(event)
