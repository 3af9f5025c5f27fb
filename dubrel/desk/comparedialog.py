"""Two readings side by side where they differ: hear the spot, take one or the other."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.desk.widgets import button, label, plain_table
from dubrel.edits.readings import Difference
from dubrel.jobs.compare import Comparison
from dubrel.timecode import format_clock

_NOTHING = "–"


class CompareDialog(QDialog):
    """The differences of a comparison.

    Parameters
    ----------
    comparison : Comparison
    names : tuple of str
        What the two readings are called.
    reference : bool
        Whether the other reading is the truth, so that errors can be counted.
    texts : callable
        ``Difference -> (before, ours, after)``: the words on the sheet and around.

    Signals
    -------
    hear_wanted(Difference)
    take_wanted(list of Difference)
    """

    hear_wanted = Signal(object)
    take_wanted = Signal(list)

    def __init__(
        self,
        comparison: Comparison,
        names: tuple[str, str],
        reference: bool,
        texts: Callable[[Difference], tuple[str, str, str]],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Compare")
        self.resize(900, 600)
        self.comparison = comparison
        self._taken: set[int] = set()
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 16, 20, 16)
        box.setSpacing(10)
        box.addWidget(label("Compare", "title"))
        self.count = label(counted(comparison, reference))
        box.addWidget(self.count)
        self.table = QTableWidget(len(comparison.differences), 3)
        plain_table(self.table, "Differences", ["Time", *names])
        self._fill(texts)
        box.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.hint = label("Enter hears the spot, Space takes the other reading.", "quiet")
        row.addWidget(self.hint)
        row.addStretch(1)
        self.hear, self.take = button("Hear it"), button("Take the other reading", primary=True)
        self.take_all, self.leave = button("Take all"), button("Close")
        for one in (self.leave, self.take_all, self.hear, self.take):
            row.addWidget(one)
        box.addLayout(row)
        self.hear.clicked.connect(self.hear_chosen)
        self.take.clicked.connect(self.take_chosen)
        self.take_all.clicked.connect(self.take_rest)
        self.leave.clicked.connect(self.accept)
        self.table.itemClicked.connect(lambda _item: self.hear_chosen())
        if comparison.differences:
            self.table.setCurrentCell(0, 0)
        self._show_state()
        self.table.setFocus()

    def _fill(self, texts: Callable[[Difference], tuple[str, str, str]]) -> None:
        table = self.table
        table.setWordWrap(False)
        table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        header = table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        table.setColumnWidth(0, 96)
        for column in (1, 2):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
        for place, one in enumerate(self.comparison.differences):
            before, ours, after = texts(one)
            cells = (
                format_clock(one.start_ms, digits=1),
                f"{before} [{ours or _NOTHING}] {after}".strip(),
                f"{before} [{one.text or _NOTHING}] {after}".strip(),
            )
            for column, text in enumerate(cells):
                cell = QTableWidgetItem(text)
                cell.setToolTip(text)
                table.setItem(place, column, cell)
            table.setRowHeight(place, 32)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter hears, Space takes."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.hear_chosen()
        elif event.key() == Qt.Key.Key_Space:
            self.take_chosen()
        else:
            super().keyPressEvent(event)

    def hear_chosen(self) -> None:
        """Play the chosen spot."""
        place = self.table.currentRow()
        if place >= 0:
            self.hear_wanted.emit(self.comparison.differences[place])

    def take_chosen(self) -> None:
        """Take the other reading of the chosen spot and go to the next."""
        place = self.table.currentRow()
        if place >= 0 and place not in self._taken:
            self._take([place])
            self.table.setCurrentCell(min(place + 1, self.table.rowCount() - 1), 0)

    def take_rest(self) -> None:
        """Take the other reading everywhere."""
        self._take([k for k in range(self.table.rowCount()) if k not in self._taken])

    def _take(self, places: list[int]) -> None:
        self.take_wanted.emit([self.comparison.differences[place] for place in places])
        for place in places:
            self._taken.add(place)
            time = self.table.item(place, 0)
            if time is not None:
                time.setText("taken")
        self._show_state()

    def _show_state(self) -> None:
        left = self.table.rowCount() - len(self._taken)
        for one in (self.take, self.take_all):
            one.setEnabled(left > 0)
        self.hear.setEnabled(self.table.rowCount() > 0)
        if not self.table.rowCount():
            self.hint.setText("Both say the same.")


def counted(comparison: Comparison, reference: bool) -> str:
    """How much agrees, in one line."""
    if reference:
        return (
            f"Word error rate {comparison.word_error_rate:.1%} of {comparison.words} words: "
            f"{comparison.substitutions} substitutions, {comparison.insertions} insertions, "
            f"{comparison.deletions} deletions"
        )
    longer = max(comparison.words, comparison.agreed + comparison.substitutions + comparison.insertions)
    return (
        f"{comparison.agreed / max(1, longer):.1%} of the words agree; "
        f"they differ in {len(comparison.differences)} places"
    )
