"""What both changed differently, side by side, to be decided by key, with its sound."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from dubrel.base.catalogue import counted, told, tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table, titled_box
from dubrel.edits.merging.merging import Conflict, Whose
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import text_of_words

_MINE, _THEIRS = 3, 4
_NOTHING = tr("(nothing)")
_AROUND, _WORDS = 44, 9  # pixels; words before and behind


@guarded
class _ConflictTable(QTableWidget):
    """Rows of conflicts: Left takes mine, Right takes theirs, Space plays."""

    def __init__(self, dialog: MergeDialog) -> None:
        super().__init__(0, 5)
        self._dialog = dialog

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Decide the row, and go to the next one."""
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._dialog.decide(self.currentRow(), "mine" if key == Qt.Key.Key_Left else "theirs")
        elif key == Qt.Key.Key_Space:
            self._dialog.play_row()
        else:
            super().keyPressEvent(event)


class MergeDialog(QDialog):
    """A colleague's changes before they are merged.

    Parameters
    ----------
    about : str
        What is taken without a question, in a sentence.
    conflicts : sequence of Conflict
    """

    def __init__(self, desk: Desk, name: str, about: str, conflicts: Sequence[Conflict]) -> None:
        super().__init__(desk.host)
        self.desk, self.conflicts = desk, list(conflicts)
        self.decisions: dict[str, Whose] = {one.key: "mine" for one in conflicts}
        self.setWindowTitle(tr("Merge a colleague's changes"))
        self.resize(1000, 580)
        box = titled_box(self, tr("Merge “{name}”").format(name=name))
        said = label(about)
        said.setWordWrap(True)
        box.addWidget(said)
        box.addWidget(self._made_table(), 1)
        self._add_hints(box)
        if not self.conflicts:
            box.addStretch(1)
        row = QHBoxLayout()
        self.play, self.all_mine, self.all_theirs = (
            button(tr("Play")),
            button(tr("All mine")),
            button(tr("All theirs")),
        )
        for one in (self.play, self.all_mine, self.all_theirs):
            row.addWidget(one)
            one.setVisible(bool(self.conflicts))
        row.addStretch(1)
        box.addLayout(row)
        self.play.clicked.connect(self.play_row)
        self.all_mine.clicked.connect(lambda: self.decide_all("mine"))
        self.all_theirs.clicked.connect(lambda: self.decide_all("theirs"))
        self.go, self.leave = button(tr("Merge"), primary=True), button(tr("Cancel"))
        self.go.setAutoDefault(False)
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        self.go.setDefault(not self.conflicts)
        if self.conflicts:
            self.table.setCurrentCell(0, _MINE)
            self.table.setFocus()

    def _made_table(self) -> QTableWidget:
        self.table = _ConflictTable(self)
        plain_table(
            self.table,
            tr("Changed by both"),
            [tr("Time"), tr("What"), tr("It was"), tr("Mine"), tr("Theirs")],
        )
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setWordWrap(True)
        header = self.table.horizontalHeader()
        for column, width in ((0, 70), (1, 150)):
            fixed(self.table.setColumnWidth, width, of=column)
        for column in (2, 3, 4):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
        self.table.cellClicked.connect(self._click)
        self._fill()
        self.table.setVisible(bool(self.conflicts))
        return self.table

    def _add_hints(self, box: QVBoxLayout) -> None:
        self.around = label("", "sentence")  # what is said where the chosen row is
        self.around.setProperty("small", True)
        self.around.setWordWrap(True)
        fixed(self.around.setMinimumHeight, _AROUND)
        self.around.setVisible(bool(self.conflicts))
        self.table.currentCellChanged.connect(lambda row, *_: self._show_around(row))
        box.addWidget(self.around)
        self.hint = label(
            tr("Left takes mine, Right takes theirs, Space plays. What is ticked is taken."), "quiet"
        )
        self.hint.setVisible(bool(self.conflicts))
        box.addWidget(self.hint)

    def _fill(self) -> None:
        self.table.setRowCount(len(self.conflicts))
        for row, one in enumerate(self.conflicts):
            when = format_length(one.start_ms) if one.end_ms else ""
            for column, text in enumerate((when, told(one.what), one.before, one.mine, one.theirs)):
                item = QTableWidgetItem(text or (_NOTHING if column > 1 else ""))
                item.setToolTip(text)
                self.table.setItem(row, column, item)
            self._show(row)
        self.table.resizeRowsToContents()

    def _show(self, row: int) -> None:
        whose = self.decisions[self.conflicts[row].key]
        for column, side in ((_MINE, "mine"), (_THEIRS, "theirs")):
            item = self.table.item(row, column)
            assert item is not None
            font = item.font()
            font.setBold(whose == side)
            item.setFont(font)
            item.setCheckState(Qt.CheckState.Checked if whose == side else Qt.CheckState.Unchecked)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)

    def _show_around(self, row: int) -> None:
        """Show the words around what was changed, with who says them."""
        one = self.conflicts[row] if 0 <= row < len(self.conflicts) else None
        turns = self.desk.session.project.transcript.turns
        turn = next((t for t in turns if one and one.end_ms and t.end_ms > one.start_ms), None)
        if one is None or turn is None:
            self.around.setText("")
            return
        at = next((n for n, word in enumerate(turn.words) if word.end_ms > one.start_ms), 0)
        words = turn.words[max(0, at - _WORDS) : at + 2 * _WORDS]
        name = shown_name(self.desk.session.project, turn.speaker)
        self.around.setText(f"{name + ': ' if name else ''}… {text_of_words(words)} …")

    def _click(self, row: int, column: int) -> None:
        if column in (_MINE, _THEIRS):
            self._decide(row, "mine" if column == _MINE else "theirs")

    def _decide(self, row: int, whose: Whose) -> None:
        self.decisions[self.conflicts[row].key] = whose
        self._show(row)

    def decide(self, row: int, whose: Whose) -> None:
        """Take a side of a row, and go to the next row."""
        if not 0 <= row < len(self.conflicts):
            return
        self._decide(row, whose)
        following = min(row + 1, len(self.conflicts) - 1)
        self.table.setCurrentCell(following, _MINE if whose == "mine" else _THEIRS)

    def decide_all(self, whose: Whose) -> None:
        """Take a side of all rows."""
        for row in range(len(self.conflicts)):
            self._decide(row, whose)

    def play_row(self) -> None:
        """Play the passage of the chosen row."""
        row = self.table.currentRow()
        if not 0 <= row < len(self.conflicts) or not self.conflicts[row].end_ms:
            return
        if reason := self.desk.without_recording():
            self.hint.setText(reason)
            return
        self.desk.play(self.conflicts[row].start_ms, self.conflicts[row].end_ms)


def about_merge(taken: str, conflicts: Sequence[Conflict]) -> str:
    """What a merge does, in sentences."""
    whole = (
        tr("New from the colleague: {taken}.").format(taken=taken)
        if taken
        else tr("The colleague changed nothing that is not here already.")
    )
    if not conflicts:
        return tr("{whole} Nothing was changed by both differently.").format(whole=whole)
    many = counted(len(conflicts), "thing was", "things were")
    return tr("{whole} {many} changed by both differently: decide below.").format(whole=whole, many=many)
