"""Two readings side by side where they differ: play the passage, accept the other reading or skip it."""

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
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.widgets import button, label, plain_table, titled_box
from dubrel.edits.words.readings import Difference
from dubrel.jobs.transcribing.secondreading import Comparison

_NOTHING = "–"


@guarded
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
    play_wanted(Difference)
    accept_wanted(list of Difference)
    """

    play_wanted = Signal(object)
    accept_wanted = Signal(list)

    def __init__(
        self,
        comparison: Comparison,
        names: tuple[str, str],
        reference: bool,
        texts: Callable[[Difference], tuple[str, str, str]],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Compare"))
        self.resize(900, 600)
        self.comparison = comparison
        self._accepted: set[int] = set()
        box = titled_box(self, tr("Compare"))
        self.count = label(counted(comparison, reference))
        box.addWidget(self.count)
        self.table = QTableWidget(len(comparison.differences), 3)
        plain_table(self.table, tr("Differences"), [tr("Time"), *names])
        self._fill(texts)
        box.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.hint = label(tr("Enter plays the passage, Space accepts the other reading."), "quiet")
        row.addWidget(self.hint)
        row.addStretch(1)
        self.play, self.accept_one = button(tr("Play")), button(tr("Accept the other reading"), primary=True)
        self.accept_all, self.leave = button(tr("Accept all")), button(tr("Close"))
        for one in (self.leave, self.accept_all, self.play, self.accept_one):
            row.addWidget(one)
        box.addLayout(row)
        self.play.clicked.connect(self.play_chosen)
        self.accept_one.clicked.connect(self.accept_chosen)
        self.accept_all.clicked.connect(self.accept_rest)
        self.leave.clicked.connect(self.accept)
        self.table.itemClicked.connect(lambda _item: self.play_chosen())
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
        fixed(table.setColumnWidth, 96, of=0)
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
        """Enter plays, Space accepts."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.play_chosen()
        elif event.key() == Qt.Key.Key_Space:
            self.accept_chosen()
        else:
            super().keyPressEvent(event)

    def play_chosen(self) -> None:
        """Play the chosen passage."""
        place = self.table.currentRow()
        if place >= 0:
            self.play_wanted.emit(self.comparison.differences[place])

    def accept_chosen(self) -> None:
        """Accept the other reading of the chosen passage and go to the next."""
        place = self.table.currentRow()
        if place >= 0 and place not in self._accepted:
            self._accept([place])
            self.table.setCurrentCell(min(place + 1, self.table.rowCount() - 1), 0)

    def accept_rest(self) -> None:
        """Accept the other reading everywhere."""
        self._accept([k for k in range(self.table.rowCount()) if k not in self._accepted])

    def _accept(self, places: list[int]) -> None:
        self.accept_wanted.emit([self.comparison.differences[place] for place in places])
        for place in places:
            self._accepted.add(place)
            time = self.table.item(place, 0)
            if time is not None:
                time.setText(tr("accepted"))
        self._show_state()

    def _show_state(self) -> None:
        left = self.table.rowCount() - len(self._accepted)
        for one in (self.accept_one, self.accept_all):
            one.setEnabled(left > 0)
        self.play.setEnabled(self.table.rowCount() > 0)
        if not self.table.rowCount():
            self.hint.setText(tr("Both readings are the same."))


def counted(comparison: Comparison, reference: bool) -> str:
    """How much agrees, in one line."""
    if reference:
        return tr(
            "Word error rate {word_error_rate:.1%} of {words} words: {substitutions} "
            "substitutions, {insertions} insertions, {deletions} deletions"
        ).format(
            word_error_rate=comparison.word_error_rate,
            words=comparison.words,
            substitutions=comparison.substitutions,
            insertions=comparison.insertions,
            deletions=comparison.deletions,
        )
    longer = max(comparison.words, comparison.agreed + comparison.substitutions + comparison.insertions)
    return tr("{agreed:.1%} of the words agree; they differ in {differences} places").format(
        agreed=comparison.agreed / max(1, longer), differences=len(comparison.differences)
    )
