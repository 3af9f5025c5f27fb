"""Notes: show notes, queries, chapters, clips; in order of time, each played, edited, answered."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.base.value import replace
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.edits.notes import (
    CHAPTER,
    CLIP,
    KINDS,
    PICTURE,
    QUERY,
    SHOW,
    note_changed,
    note_with,
    notes_in_order,
    phrase_of,
    span_of,
    with_note,
    without_note,
)
from dubrel.model import Note, Project
from dubrel.project.index import turn_of
from dubrel.user.settings import SETTINGS

_ALL = ""


@guarded
class NotesPage(DrawerPage):
    """Lists and edits notes."""

    id, name = "notes", tr("Notes")
    nothing = tr(
        "No notes yet. Ctrl+Alt+N adds a show note at the caret, Ctrl+Alt+Q a query, Ctrl+Alt+C a chapter."
    )

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        self._open = self._made = 0
        super().__init__(desk, sheet)
        self.list.chosen.connect(lambda _row: self._show_note())

    def fill_top(self) -> None:
        """Which kinds; below, the note that is chosen."""
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("Kind of note"))
        self.kind.addItem(tr("All notes"), _ALL)
        for kind in KINDS:
            self.kind.addItem(_many(kind), kind)
        self.kind.addItem(tr("Open queries"), "open")
        self.kind.activated.connect(lambda _place: self.refresh())
        self.top.addWidget(self.kind)
        self.top.addWidget(self.summary)
        self.top.addStretch(1)
        self.done = self.act(tr("Done"), self.toggle_done)
        self.remove = self.act(
            tr("Delete"), lambda: self.remove_row(self.list.row) if self.list.row else None
        )
        row = QHBoxLayout()
        row.setContentsMargins(Space.ROOM, 0, Space.ROOM, 0)
        row.setSpacing(Space.NEAR)
        self.text, self.answer, self.to = QLineEdit(), QLineEdit(), QLineEdit()
        self.to.setPlaceholderText(tr("For"))
        fixed(self.to.setMaximumWidth, 120)
        self.text.setPlaceholderText(tr("Text of the note"))
        self.answer.setPlaceholderText(tr("Answer"))
        self.save = button(tr("Keep"))
        fields = (
            (self.text, tr("Text of the note")),
            (self.to, tr("For whom the query is")),
            (self.answer, tr("Answer to the query")),
        )
        for field, name in fields:
            field.setAccessibleName(name)
            field.returnPressed.connect(self.keep)
            field.installEventFilter(self)
            row.addWidget(field, 0 if field is self.to else 1)
        self.save.clicked.connect(lambda _checked=False: self.keep())
        row.addWidget(self.save)
        self.box.addLayout(row)

    # -- listing ---------------------------------------------------------------------

    def rows(self, project: Project) -> Sequence[Row]:
        """The notes of the chosen kinds."""
        kind = self.kind.currentData()
        kinds = () if kind == _ALL else (QUERY,) if kind == "open" else (kind,)
        found = []
        for note in notes_in_order(project, kinds):
            if kind == "open" and note.done:
                continue
            start, end = span_of(project, note)
            turn = turn_of(project, note.words[0]) if note.words else None
            said = f"{note.text}  ↳ {note.answer}" if note.answer else note.text
            said += f" ({note.answered_by})" if note.answer and note.answered_by else ""
            about = (
                tr(note.kind) + (tr(", done") if note.done else "") + (tr(", moved") if note.moved else "")
            )
            about += tr(", by {by}").format(by=note.by) if note.by else ""
            about += tr(", for {to}").format(to=note.to) if note.to else ""
            if note.end_ms:
                about += tr(", to {end_ms}").format(end_ms=format_clock(note.end_ms, digits=1))
            who = turn.speaker if turn else None
            found.append(
                Row(start, end, note.words, who, said or tr("(empty)"), note=about, of=note.id, named=False)
            )
        return found

    def say_how_many(self) -> None:
        """How many there are, and how many queries are open."""
        notes = self.session.project.notes
        waiting = sum(one.kind == QUERY and not one.done for one in notes)
        said = counted(len(self.list.rows), "note") if self.list.rows else ""
        self.summary.setText(
            f"{said}, {counted(waiting, 'open query', 'open queries')}" if waiting and said else said
        )
        self._show_note()

    def _note(self) -> Note | None:
        return note_with(self.session.project, self.list.row.of) if self.list.row else None

    def _show_note(self) -> None:
        """Put the chosen note into the fields; what is being typed stays."""
        note = self._note()
        other = (note.id if note else 0) != self._open
        self._open = note.id if note else 0
        for field, text in (
            (self.text, note.text if note else ""),
            (self.answer, note.answer if note else ""),
            (self.to, note.to if note else ""),
        ):
            if other or not field.hasFocus():
                field.setText(text)
        for one in (self.text, self.save, self.remove):
            one.setEnabled(note is not None)
        query = note is not None and note.kind == QUERY
        self.answer.setVisible(query)
        self.to.setVisible(query)
        self.done.setVisible(query)
        self.done.setText(tr("Not done") if note is not None and note.done else tr("Done"))

    # -- doing -------------------------------------------------------------------------

    def add(self, kind: str, words: Sequence[int], text: str = "") -> None:
        """Add a note at some words and write its text."""
        base = self.session.project
        project, note_id = with_note(base, kind, text, words, SETTINGS.read().name)
        self.session.apply(project, _added(kind), base=base)
        self._made = note_id
        self.kind.setCurrentIndex(0)
        self.refresh()
        place = next((k for k, row in enumerate(self.list.rows) if row.of == note_id), 0)
        self.list.setCurrentIndex(self.list.model().index(place, 0))
        self._show_note()
        self.text.setFocus()
        self.text.selectAll()

    def keep(self) -> None:
        """Keep what stands in the fields, and go back to the sheet."""
        note = self._note()
        if note is None:
            return
        changed = self._answered(replace(note, text=self.text.text().strip(), moved=False))
        self.session.step(
            lambda project: note_changed(project, changed),
            tr("Change the {kind}").format(kind=tr(phrase_of(note.kind))),
        )
        self.refresh()
        self.sheet.setFocus()

    def _answered(self, note: Note) -> Note:
        """A note with the answer in the field and for whom it is; a new answer is that of the user."""
        answer, to = self.answer.text().strip(), self.to.text().strip()
        who = note.answered_by if answer == note.answer else SETTINGS.read().name
        return replace(note, answer=answer, to=to, answered_by=who if answer else "")

    def toggle_done(self) -> None:
        """Tick a query off, or open it again."""
        note = self._note()
        if note is not None:
            changed = self._answered(replace(note, done=not note.done))
            self.session.step(lambda project: note_changed(project, changed), tr("Tick off the query"))
            self.refresh()

    def remove_row(self, row: Row) -> None:
        """Delete a note."""
        note = note_with(self.session.project, row.of)
        if note is not None:
            note_id, label = note.id, tr("Delete the {kind}").format(kind=tr(phrase_of(note.kind)))
            self.session.step(lambda project: without_note(project, note_id), label)
            self.refresh()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Down in a field goes to the list, Escape takes an empty note away.

        Undo is that of the window where the field has nothing of its own to undo.
        """
        if not isinstance(event, QKeyEvent) or not isinstance(watched, QLineEdit):
            return super().eventFilter(watched, event)
        if event.type() == QEvent.Type.ShortcutOverride:
            if event.matches(QKeySequence.StandardKey.Undo) and not watched.isUndoAvailable():
                event.ignore()
                return True
        elif event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Down:
                self.list.setFocus()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self._drop_empty()
        return super().eventFilter(watched, event)

    def _drop_empty(self) -> None:
        """Take the note away that was made just now and has no text; the step that made it goes too."""
        note, history = self._note(), self.session.history
        if note is None or note.text or self.text.text().strip():
            return
        if history.undo_label == _added(note.kind) and self._made == note.id:
            self.session.undo()
        else:
            note_id = note.id
            self.session.step(
                lambda project: without_note(project, note_id),
                tr("Delete the {kind}").format(kind=tr(phrase_of(note.kind))),
            )
        self.refresh()


def _added(kind: str) -> str:
    return tr("Add a {kind}").format(kind=tr(phrase_of(kind)))


def _many(kind: str) -> str:
    return {
        SHOW: tr("Show notes"),
        QUERY: tr("Queries"),
        CHAPTER: tr("Chapters"),
        CLIP: tr("Clips"),
        PICTURE: tr("Pictures wanted"),
    }[kind]
