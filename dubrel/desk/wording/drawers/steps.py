"""Steps: everything that was done, by name; go back to any point, or forward again."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QListWidget, QListWidgetItem

from dubrel.base.catalogue import counted, tr
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.model import Project


class StepsPage(DrawerPage):
    """The history as a list."""

    id, name = "steps", tr("Steps")

    def fill_top(self) -> None:
        """The count, and how to go to a step."""
        super().fill_top()
        self.steps = QListWidget()
        self.steps.setAccessibleName(tr("Steps"))
        self.steps.itemActivated.connect(self._go)
        self.box.insertWidget(1, self.steps, 1)
        self.go = self.act(tr("Go to this step"), lambda: self._go(self.steps.currentItem()), True)

    def begin(self) -> None:
        """The keys go to the list."""
        self.steps.setFocus()

    def rows(self, project: Project) -> Sequence[Row]:
        """The steps stand in a list of their own."""
        past, future = self.session.history.labels()
        self.steps.clear()
        self.steps.addItem(tr("As it was opened"))
        for label in past:
            self.steps.addItem(label)
        for label in future:
            item = QListWidgetItem(tr("{label}  (undone)").format(label=label))
            item.setForeground(self.desk.theme.colour("quiet"))
            self.steps.addItem(item)
        self.steps.setCurrentRow(len(past))
        self.summary.setText(
            tr("{steps} to undo, {future} to redo").format(
                steps=counted(len(past), "step"), future=len(future)
            )
        )
        return []

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Nothing but the steps."""
        self.list.hide()
        self.empty.hide()

    def _go(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        target, now = self.steps.row(item), self.session.history.depth
        run = "undo" if target < now else "redo"
        self.session.go_to_step(target)
        self.refresh()
        count = abs(target - now)
        if count:
            self.desk.say(
                (tr("Undone: {steps}.") if run == "undo" else tr("Redone: {steps}.")).format(
                    steps=counted(count, "step")
                )
            )
