"""What terms would change in all episodes: places to tick, by episode."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHeaderView, QTreeWidget, QTreeWidgetItem, QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.finding.termspots import SURE, TermSpot
from dubrel.jobs.series.learning import Change
from dubrel.model import Project
from dubrel.project.index import turn_with

_AROUND = 4  # words before and behind a place
_SPOT = Qt.ItemDataRole.UserRole
_CHECKED, _EMPTY = Qt.CheckState.Checked, Qt.CheckState.Unchecked


class TermPlacesDialog(QDialog):
    """Places of terms in all episodes; those with a tick are changed.

    Parameters
    ----------
    changes : sequence of Change
    about : str
        Which terms.
    """

    def __init__(self, changes: Sequence[Change], about: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.changes = list(changes)
        self.setWindowTitle(tr("Terms in all episodes"))
        self.resize(940, 600)
        box = titled_box(self, tr("Terms in all episodes"))
        said = label(
            tr(
                "{about} Space ticks a place or a whole episode. Each episode is changed "
                "in one step; the state before stays among its versions."
            ).format(about=about)
        )
        said.setWordWrap(True)
        box.addWidget(said)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName(tr("Places of terms, by episode"))
        self.tree.setColumnCount(4)
        self.tree.setHeaderLabels([tr("Place"), tr("As it is"), tr("Then"), tr("How sure")])
        self.tree.setRootIsDecorated(False)
        header = self.tree.header()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for column, width in ((0, 230), (2, 190), (3, 80)):
            fixed(self.tree.setColumnWidth, width, of=column)
        self._fill()
        box.addWidget(self.tree, 1)
        self.go, self.leave = button(tr("Change"), primary=True), button(tr("Cancel"))
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        self.tree.itemChanged.connect(lambda *_: self._count())
        self._count()

    def _fill(self) -> None:
        for change in self.changes:
            head = QTreeWidgetItem([change.title, str(change.path.name)])
            head.setFlags(head.flags() | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsAutoTristate)
            font = head.font(0)
            font.setBold(True)
            head.setFont(0, font)
            self.tree.addTopLevelItem(head)
            for spot in change.spots:
                row = QTreeWidgetItem(
                    [
                        format_length(spot.words[0].start_ms),
                        _around(change.project, spot),
                        spot.becomes,
                        f"{spot.certainty:.0%}",
                    ]
                )
                row.setToolTip(1, row.text(1))
                row.setData(0, _SPOT, spot)
                row.setFlags(row.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                row.setCheckState(0, _CHECKED if spot.certainty >= SURE else _EMPTY)
                head.addChild(row)
            head.setExpanded(True)
        first = self.tree.topLevelItem(0)
        if first is not None:
            self.tree.setCurrentItem(first)

    def chosen(self) -> dict[Path, list[TermSpot]]:
        """The places with a tick, by episode."""
        found: dict[Path, list[TermSpot]] = {}
        for nth, change in enumerate(self.changes):
            head = self.tree.topLevelItem(nth)
            rows = [head.child(k) for k in range(head.childCount())] if head is not None else []
            spots = [row.data(0, _SPOT) for row in rows if row is not None and row.checkState(0) == _CHECKED]
            if spots:
                found[change.path] = spots
        return found

    def _count(self) -> None:
        chosen = self.chosen()
        places = sum(map(len, chosen.values()))
        in_all = counted(len(chosen), "episode", "episodes")
        self.go.setText(
            tr("Change {places} in {in_all}").format(places=counted(places, "place"), in_all=in_all)
        )
        self.go.setEnabled(places > 0)


def _around(project: Project, spot: TermSpot) -> str:
    """A place with the words around it."""
    turn = turn_with(project, spot.turn)
    if turn is None:
        return " ".join(word.text for word in spot.words)
    first = turn.index_of[spot.words[0].id]
    last = first + len(spot.words)
    before = " ".join(word.text for word in turn.words[max(0, first - _AROUND) : first])
    after = " ".join(word.text for word in turn.words[last : last + _AROUND])
    return f"{before} [{' '.join(word.text for word in spot.words)}] {after}".strip()
