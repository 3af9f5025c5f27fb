"""What will be fetched from an address, and which episode of a feed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import counted, tr
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, plain_table, titled_box
from dubrel.jobs.addresses.feeds import FeedEpisode
from dubrel.jobs.addresses.fetching import Offered


def size_said(size: int | None) -> str:
    """Bytes as a person says them."""
    if size is None:
        return tr("not said")
    return f"{size / 1e9:,.1f} GB" if size >= 1e9 else f"{max(size, 100_000) / 1e6:,.1f} MB"


@guarded
class FetchDialog(QDialog):
    """What, from where, how large and where to; nothing is fetched before the button is pressed.

    Parameters
    ----------
    offered : Offered
    folder : Path
        Where it goes unless another one is chosen.
    choose : callable
        Asks for a folder.
    """

    def __init__(
        self, offered: Offered, folder: Path, choose: Callable[[str, str], Path | None], parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.folder, self._choose = folder, choose
        self.setWindowTitle(tr("Fetch from an address"))
        self.resize(640, 330)
        box = titled_box(self, tr("Fetch this recording?"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(Space.WIDE)
        grid.setColumnStretch(1, 1)
        self.into = label(str(folder))
        rows = (
            (tr("File"), label(offered.name)),
            (tr("Size"), label(size_said(offered.size))),
            (tr("From"), label(offered.shown)),
            (tr("Redirected through"), label(", ".join(offered.through))),
            (tr("Into"), self.into),
        )
        for row, (name, value) in enumerate(rows):
            if value.text():
                value.setWordWrap(True)
                value.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
                grid.addWidget(label(name, "quiet"), row, 0, Qt.AlignmentFlag.AlignTop)
                grid.addWidget(value, row, 1)
        box.addLayout(grid)
        said = tr("It is on this machine or this network. ") if offered.near else ""
        plain = offered.address.startswith("http://") and not offered.near
        said += tr("The line is not encrypted: others on the way can read along. ") if plain else ""
        said += tr("A checksum was given; the download is compared with it.") if offered.digest else ""
        self.about: QLabel = label(said.strip(), "look" if plain else "quiet")
        self.about.setWordWrap(True)
        self.about.setVisible(bool(said))
        box.addWidget(self.about)
        box.addStretch(1)
        self.other, self.leave = button(tr("Another folder")), button(tr("Cancel"))
        self.go = button(tr("Fetch it"), primary=True)
        self.other.clicked.connect(self._other)
        box.addLayout(closing_row(self, self.other, leave=self.leave, go=self.go))
        self.go.setFocus()

    def _other(self) -> None:
        found = self._choose(tr("Where the recording goes"), str(self.folder))
        if found:
            self.folder = Path(found)
            self.into.setText(str(self.folder))


@guarded
class EpisodesDialog(QDialog):
    """The episodes of a feed; typing finds.

    Parameters
    ----------
    episodes : sequence of FeedEpisode
    """

    def __init__(self, episodes: Sequence[FeedEpisode], parent: QWidget) -> None:
        super().__init__(parent)
        self._episodes, self.chosen = episodes, 0
        self.setWindowTitle(tr("A feed"))
        self.resize(760, 560)
        box = QVBoxLayout(self)
        box.setContentsMargins(Space.EDGE, Space.WIDE, Space.EDGE, Space.WIDE)
        box.setSpacing(Space.APART)
        box.addWidget(
            label(tr("A feed with {episodes}").format(episodes=counted(len(episodes), "episode")), "title")
        )
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Words of the title"))
        self.field.setAccessibleName(tr("Words of the title"))
        self.field.textChanged.connect(self._find)
        box.addWidget(self.field)
        self.table = QTableWidget(len(episodes), 3)
        plain_table(self.table, tr("Episodes"), [tr("Date"), tr("Title"), tr("Size")])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setTabKeyNavigation(False)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for row, one in enumerate(episodes):
            size = size_said(one.size) if one.size else ""
            for column, text in enumerate((one.date, one.title, size)):
                item = QTableWidgetItem(text)
                item.setToolTip(text if column == 1 else "")
                self.table.setItem(row, column, item)
        self.table.selectRow(0)
        self.table.cellActivated.connect(lambda _row, _column: self.accept())
        box.addWidget(self.table, 1)
        self.go, self.leave = button(tr("Look at this one"), primary=True), button(tr("Cancel"))
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))

    def _find(self, text: str) -> None:
        words = text.casefold().split()
        for row, one in enumerate(self._episodes):
            self.table.setRowHidden(row, not all(word in one.title.casefold() for word in words))
        shown = [row for row in range(len(self._episodes)) if not self.table.isRowHidden(row)]
        if shown and self.table.isRowHidden(self.table.currentRow()):
            self.table.selectRow(shown[0])
        self.go.setEnabled(bool(shown))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Down goes from the field to the list."""
        if event.key() == Qt.Key.Key_Down and self.field.hasFocus():
            self.table.setFocus()
        else:
            super().keyPressEvent(event)

    def accept(self) -> None:
        """Take the episode that is chosen."""
        row = self.table.currentRow()
        if row >= 0 and not self.table.isRowHidden(row):
            self.chosen = row
            super().accept()
