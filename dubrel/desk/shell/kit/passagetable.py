"""A table of the passages in which two values of a project differ, and a dialog around it."""

from __future__ import annotations

import html
from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHeaderView,
    QLabel,
    QTableWidget,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table, titled_box
from dubrel.project.passages import Passage

_MOST, _LINE = 500, 46  # passages; letters that stand on one line
_NOTHING = "–"


class PassageTable(QTableWidget):
    """Time, what the one says, what the other says."""

    def __init__(self, names: tuple[str, str]) -> None:
        super().__init__(0, 3)
        plain_table(self, tr("Passages that differ"), [tr("Time"), *names])
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        header = self.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        fixed(self.setColumnWidth, 92, of=0)
        for column in (1, 2):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)

    def show_passages(self, passages: Sequence[Passage]) -> None:
        """Show them, the first five hundred."""
        self.clearContents()
        self.setRowCount(min(len(passages), _MOST))
        for place, one in enumerate(passages[:_MOST]):
            time = label(format_clock(one.start_ms, digits=1), "time")
            time.setContentsMargins(Space.CLOSE, 0, 0, 0)
            self.setCellWidget(place, 0, time)
            for column, said in ((1, one.before), (2, one.after)):
                self.setCellWidget(place, column, _cell(one, said))
            longest = max(len(one.before), len(one.after)) + len(one.lead) + len(one.trail)
            self.setRowHeight(place, 48 if longest > _LINE else 30)


def _cell(one: Passage, said: str) -> QLabel:
    shown = said if len(said) < 240 else said[:239] + "…"
    made = label()
    made.setTextFormat(Qt.TextFormat.RichText)
    made.setText(
        f"{html.escape(one.lead)} <b>{html.escape(shown) or _NOTHING}</b> {html.escape(one.trail)}".strip()
    )
    made.setWordWrap(True)
    made.setContentsMargins(Space.CLOSE, 0, Space.CLOSE, 0)
    made.setToolTip(f"{one.lead} [{said or _NOTHING}] {one.trail}".strip()[:2000])
    return made


class PassagesDialog(QDialog):
    """What is different, and whether to have it.

    Parameters
    ----------
    title, text : str
    passages : sequence of Passage
    names : tuple of str
        What the two values are called.
    go : str
        What the button says that takes the second value.
    """

    def __init__(
        self,
        title: str,
        text: str,
        passages: Sequence[Passage],
        names: tuple[str, str],
        go: str,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(900, 560)
        box = titled_box(self, title)
        about = label(text)
        about.setWordWrap(True)
        box.addWidget(about)
        self.table = PassageTable(names)
        self.table.show_passages(passages)
        box.addWidget(self.table, 1)
        self.go, self.leave = button(go, primary=True), button(tr("Cancel"))
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
