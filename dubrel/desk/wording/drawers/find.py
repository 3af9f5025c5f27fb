"""Find: as it is written, as it sounds, by what it means; and replace."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QToolButton

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.drawers.searchrows import MeaningRows, SoundRows, WrittenRows
from dubrel.desk.wording.rows import Row
from dubrel.edits.speakers.voices import shown_name
from dubrel.finding.elsewhere import TranslatedPlace, replaced_in_translations
from dubrel.finding.words import Found, Query, replaced
from dubrel.model import Project
from dubrel.project.queries import DOUBTFUL

_TYPING_MS = 180
_MODES = {
    "text": tr("As written"),
    "sound": tr("Sounds like"),
    "meaning": tr("By meaning"),
    "all": tr("In all projects"),
}
_WHERE = {
    "": tr("Everywhere"),
    "doubt": tr("Doubtful words"),
    "unproofed": tr("Not proofed"),
    "within": tr("In the selection"),
}


@guarded
class FindPage(DrawerPage):
    """Finds, lists, replaces."""

    id, name = "find", tr("Find")
    nothing = tr("Nothing found.")

    def __init__(self, desk: Desk, sheet: TypingSheet, meanings: Meanings) -> None:
        self.meanings = meanings
        self._within: frozenset[int] | None = None
        self._written, self._sounds = WrittenRows(), SoundRows()
        self._meant = MeaningRows(meanings, self.refresh)
        self._sought = ("", "")
        self._said = ""
        self._folded = False
        super().__init__(desk, sheet)
        self._typing = QTimer(self, singleShot=True, interval=_TYPING_MS)
        self._typing.timeout.connect(self.refresh)
        meanings.changed.connect(self._on_encoded)
        meanings.failed.connect(self._on_failed)
        self.session.opened.connect(self._start_over)

    def fill_top(self) -> None:
        """The field, what kind of search, and below it the replacement."""
        self.mode, self.who, self.where = QComboBox(), QComboBox(), QComboBox()
        for key, text in _MODES.items():
            self.mode.addItem(text, key)
        for key, text in _WHERE.items():
            self.where.addItem(text, key)
        for box, name in (
            (self.mode, tr("How to find")),
            (self.who, tr("Speaker")),
            (self.where, tr("Where")),
        ):
            box.setAccessibleName(name)
            box.activated.connect(lambda _place: self._changed())
            fixed(box.setMaximumWidth, 136)
        self.field = QLineEdit()
        self.field.setAccessibleName(tr("Find"))
        self.field.setPlaceholderText(tr("Find"))
        self.field.textChanged.connect(lambda _text: self._typing.start())
        self.field.returnPressed.connect(self._play_first)
        self.case, self.whole, self.pattern = (
            self._toggle("Aa", tr("Capitals count")),
            self._toggle(tr("Word"), tr("Whole words only")),
            self._toggle(".*", tr("The text is a pattern (a regular expression)")),
        )
        for widget in (self.mode, self.field):
            self.top.addWidget(widget, int(widget is self.field))
        self._filters = QHBoxLayout()
        self._filters.setSpacing(Space.NEAR)
        for one in (self.case, self.whole, self.pattern, self.who, self.where):
            self._filters.addWidget(one)
        self.top.addLayout(self._filters)
        self.top.addWidget(self.summary)
        self._fill_second()

    def _fill_second(self) -> None:
        """What is found becomes what, and the acts."""
        self._second = QHBoxLayout()
        self._second.setContentsMargins(Space.ROOM, 0, Space.ROOM, 0)
        self._second.setSpacing(Space.NEAR)
        self.becomes = QLineEdit()
        self.becomes.setPlaceholderText(tr("Replace with"))
        self.becomes.setAccessibleName(tr("Replace with"))
        self.becomes.textChanged.connect(lambda _text: self._typing.start())
        self.becomes.returnPressed.connect(self.replace_one)
        self.one, self.all, self.copy = (
            button(tr("Replace")),
            button(tr("Replace ticked"), True),
            button(tr("Copy the list")),
        )
        for act, run in (
            (self.one, self.replace_one),
            (self.all, self.replace_all),
            (self.copy, self.copy_list),
        ):
            act.clicked.connect(lambda _checked=False, run=run: run())
        for watched in (self.field, self.becomes, self.list):
            watched.installEventFilter(self)
        self.all.setToolTip(tr("Ctrl+Enter, from the fields and from the list"))
        self.becomes.setToolTip(
            tr("Down goes to the places; Space there leaves one out; Ctrl+Enter replaces the rest")
        )
        self._second.addWidget(self.becomes, 100)
        self._second.addStretch(1)
        for act in (self.one, self.all, self.copy):
            self._second.addWidget(act)
        self.box.addLayout(self._second)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Ctrl+Enter replaces, wherever in the page the keys are."""
        if isinstance(event, QKeyEvent) and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.all.isVisible()
            if enter and event.type() == QEvent.Type.ShortcutOverride:
                event.accept()
                return True
            if enter and event.type() == QEvent.Type.KeyPress:
                self.replace_all()
                return True
        return super().eventFilter(watched, event)

    def fold(self, narrow: bool) -> None:
        """The filters stand in a row of their own where there is little room."""
        if narrow == self._folded:
            return
        self._folded = narrow
        if narrow:
            self.top.removeItem(self._filters)
            self.box.insertLayout(1, self._filters)
        else:
            self.box.removeItem(self._filters)
            self.top.insertLayout(2, self._filters)
        self._filters.setContentsMargins(Space.ROOM * narrow, 0, Space.ROOM * narrow, 0)

    def _toggle(self, text: str, tip: str) -> QToolButton:
        made = QToolButton()
        made.setText(text)
        made.setToolTip(tip)
        made.setAccessibleName(tip)
        made.setCheckable(True)
        made.setProperty("role", "narrow")
        made.toggled.connect(lambda _on: self._changed())
        return made

    # -- what is asked -------------------------------------------------------------------

    def begin(self) -> None:
        """The keys go to the field, in which the selected word stands."""
        chosen = self.sheet.selected_text().strip()
        self._within = self._selected() if "\n" in chosen or len(chosen.split()) > 4 else None
        if chosen and self._within is None:
            self.field.setText(chosen)
        elif self._within is not None:
            self.where.setCurrentIndex(self.where.findData("within"))
        self._list_speakers()
        self.field.setFocus()
        self.field.selectAll()

    def start(self, mode: str) -> None:
        """Begin with a kind of search."""
        self.mode.setCurrentIndex(self.mode.findData(mode))
        self._changed()

    def _selected(self) -> frozenset[int]:
        turns = self.sheet.turns
        return frozenset(
            word.id for k, start, stop in self.sheet.selected_words() for word in turns[k].words[start:stop]
        )

    def _list_speakers(self) -> None:
        project, now = self.session.project, self.who.currentData()
        self.who.clear()
        self.who.addItem(tr("All speakers"), None)
        for speaker in project.transcript.speakers:
            self.who.addItem(shown_name(project, speaker.id), speaker.id)
        self.who.setCurrentIndex(max(0, self.who.findData(now)))

    def _start_over(self) -> None:
        self._within = None
        for one in (self._written, self._sounds, self._meant):
            one.start_over()
        self.who.setCurrentIndex(0)
        if self.where.currentData() == "within":
            self.where.setCurrentIndex(0)

    @property
    def _by_meaning(self) -> bool:
        return self.mode.currentData() in ("meaning", "all")

    def _changed(self) -> None:
        text = self.mode.currentData() == "text"
        for one in (
            self.case,
            self.whole,
            self.pattern,
            self.who,
            self.where,
            self.becomes,
            self.one,
            self.all,
        ):
            one.setVisible(text)
        self._written.start_over()
        self.refresh()

    def _query(self) -> Query:
        where = self.where.currentData()
        if where == "within" and self._within is None:
            self._within = self._selected() or None
        return Query(
            self.field.text(),
            self.case.isChecked(),
            self.whole.isChecked(),
            self.pattern.isChecked(),
            self.who.currentData(),
            DOUBTFUL if where == "doubt" else 0.0,
            where == "unproofed",
            self._within if where == "within" else None,
        )

    # -- what is found -------------------------------------------------------------------

    def rows(self, project: Project) -> Sequence[Row]:
        """The places of the present search."""
        self._said = ""
        try:
            return self._found(project)
        except DubrelError as error:
            self._said = str(error)
            return []

    def _found(self, project: Project) -> Sequence[Row]:
        mode, text = self.mode.currentData(), self.field.text()
        if self._sought != (mode, text):  # another question: its first answer is the current one
            self._sought = (mode, text)
            self.list.start_over()
        if mode == "text":
            return self._written.rows(project, self._query(), self.becomes.text())
        if not text.strip():
            return []
        if mode == "sound":
            return self._sounds.rows(project, text, self.row_of)
        rows, self._said = self._meant.rows(text, mode == "all")
        return rows

    def _on_encoded(self) -> None:
        if self._by_meaning:
            self.refresh_soon()

    def _on_failed(self, text: str) -> None:
        if self.isVisible():
            self.desk.say(text)

    def why_empty(self) -> str:
        """Why nothing is listed."""
        if reason := self.desk.without_words():
            return reason
        if self._said:
            return self._said
        if not self.field.text():
            return tr("Type what to find, or choose a speaker.")
        if self._by_meaning and self._meant.looking:
            return tr("Looking through what was said.")
        return self.nothing

    def say_how_many(self) -> None:
        """How many places there are, and which are ticked."""
        rows = self.list.rows
        replacing = any(row.ticked is not None for row in rows)
        ticked = self._written.take_ticks(rows)
        text = counted(len(rows), "place") if rows else ""
        if replacing and ticked < len(rows):
            text = tr("{some} of {places}").format(some=ticked, places=counted(len(rows), "place"))
        if self._said and rows:
            text = f"{text}, {self._said[0].lower()}{self._said[1:]}"
        self.summary.setText(text)
        for one in (self.one, self.all):
            one.setEnabled(replacing)
        self.copy.setEnabled(bool(rows))

    # -- what is done --------------------------------------------------------------------

    def _play_first(self) -> None:
        """Enter in the field goes to the first place after the caret and plays it."""
        self._typing.stop()
        self.refresh()
        if self.list.row is not None:
            self.show_row(self.list.row)
            self.list.setFocus()

    def show_row(self, row: Row) -> None:
        """Select the very letters that were found."""
        if isinstance(row.of, Found) and row.words:
            self.sheet.select_place(row.of.turn, row.of.start, row.of.end)
        else:
            super().show_row(row)

    def play_row(self, row: Row) -> None:
        """Play a place; one of another project is opened there."""
        if isinstance(row.of, Path):
            self.desk.opening.emit(row.of)
            if self.session.path == row.of:
                self.desk.player.seek(row.start_ms)
            return
        super().play_row(row)

    def replace_one(self) -> None:
        """Replace the current place and go to the next."""
        row = self.list.row
        if row is None or not isinstance(row.of, Found | TranslatedPlace) or row.becomes is None:
            return
        self._replace([row], tr("Replace “{text}”").format(text=row.text))

    def replace_all(self) -> None:
        """Replace every ticked place, as one step."""
        self._typing.stop()
        if self._stale or self._sought != (self.mode.currentData(), self.field.text()):
            self.refresh()  # Ctrl+Enter comes sooner than the list
        rows = self.list.ticked()
        if rows:
            self._replace(rows, tr("Replace {places}").format(places=counted(len(rows), "place")))
        elif self.mode.currentData() == "text":
            self.desk.say(tr("No place is ticked.") if self.list.rows else self.why_empty())

    def _replace(self, rows: Sequence[Row], label: str) -> None:
        places = [row.of._replace(becomes=row.becomes or "") for row in rows if isinstance(row.of, Found)]
        theirs = [row.of for row in rows if isinstance(row.of, TranslatedPlace)]

        def work(project: Project) -> Project:
            return replaced_in_translations(replaced(project, places), theirs, project)

        self.session.step(lambda project: beside(lambda: work(project)), label)
        self.desk.say(tr("Replaced: {places}.").format(places=counted(len(rows), "place")))
        self.refresh()

    def copy_list(self) -> None:
        """Copy what is listed: time, speaker, text."""
        from dubrel.base.timecode import format_clock

        project = self.session.project
        lines = []
        for row in self.list.rows:
            who = shown_name(project, row.speaker) if row.speaker else ""
            text = (
                row.of.text
                if isinstance(row.of, Found) and not row.named
                else row.lead + row.text + row.trail
            )
            lines.append("\t".join((format_clock(row.start_ms, digits=1), who, text)))
        QGuiApplication.clipboard().setText("\n".join(lines))
        self.desk.say(tr("Copied: {places}.").format(places=counted(len(lines), "place")))
