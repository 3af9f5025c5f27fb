"""Steps: everything that was done, by name; go back to any point, or forward again."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QListWidget, QListWidgetItem

from dubrel.base.text import counted
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.model import Project


class StepsPage(DrawerPage):
    """The history as a list."""

    id, name = "steps", "Steps"

    def fill_top(self) -> None:
        """The count, and how to go to a step."""
        super().fill_top()
        self.steps = QListWidget()
        self.steps.setAccessibleName("Steps")
        self.steps.itemActivated.connect(self._go)
        self.box.insertWidget(1, self.steps, 1)
        self.go = self.act("Go to this step", lambda: self._go(self.steps.currentItem()), True)

    def begin(self) -> None:
        """The keys go to the list."""
        self.steps.setFocus()

    def rows(self, project: Project) -> Sequence[Row]:
        """The steps stand in a list of their own."""
        past, future = self.session.history.labels()
        self.steps.clear()
        self.steps.addItem("As it was opened")
        for label in past:
            self.steps.addItem(label)
        for label in future:
            item = QListWidgetItem(f"{label}  (undone)")
            item.setForeground(self.desk.theme.colour("quiet"))
            self.steps.addItem(item)
        self.steps.setCurrentRow(len(past))
        self.summary.setText(f"{counted(len(past), 'step')} to undo, {len(future)} to redo")
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
            self.desk.say(f"{'Undone' if run == 'undo' else 'Redone'}: {counted(count, 'step')}.")
