"""Proposed sound descriptions, to be played, accepted or skipped."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.edits.captions.soundcaptions import Proposal


class SoundsDialog(QDialog):
    """Sound descriptions to be played, accepted or skipped."""

    def __init__(self, desk: Desk, found: Sequence[Proposal]) -> None:
        super().__init__(desk.host)
        self.desk, self.found = desk, list(found)
        self.setWindowTitle(tr("Sound descriptions"))
        self.resize(560, 420)
        box = titled_box(self, tr("Sound descriptions"))
        box.addWidget(label(tr("Space ticks one, Enter plays it. Those that are ticked are added."), "quiet"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Proposed sound descriptions"))
        for one in self.found:
            item = QListWidgetItem(
                f"{format_clock(one.start_ms, digits=1)}    {one.text}    {one.spot.sureness:.0%} sure"
            )
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.list.itemActivated.connect(lambda _item: self._play())
        box.addWidget(self.list, 1)
        self.play = button(tr("Play"))
        self.play.clicked.connect(self._play)
        row = QHBoxLayout()
        row.addWidget(self.play)
        row.addStretch(1)
        box.addLayout(row)
        self.leave, self.go = button(tr("Cancel")), button(tr("Accept"), primary=True)
        self.go.setAutoDefault(False)
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))
        self.go.setDefault(False)

    @property
    def chosen(self) -> list[Proposal]:
        """Those with a tick."""
        ticked = (
            self.list.item(nth).checkState() == Qt.CheckState.Checked for nth in range(self.list.count())
        )
        return [one for one, on in zip(self.found, ticked) if on]

    def _play(self) -> None:
        one = self.found[max(0, self.list.currentRow())]
        self.desk.play(one.spot.start_ms, min(one.spot.end_ms, one.spot.start_ms + 5000))
