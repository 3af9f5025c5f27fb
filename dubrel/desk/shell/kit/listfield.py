"""A field over a list: typing narrows the list, arrows move in it, Enter takes a row."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget

from dubrel.desk.shell.kit.guard import guarded


@guarded
class ListField(QLineEdit):
    """The keys that belong to the list go there; what is typed stays here.

    Signals
    -------
    taken()
        Enter was pressed while a row is chosen.
    """

    taken = Signal()

    def __init__(self, rows: QListWidget, name: str) -> None:
        super().__init__()
        self._rows = rows
        self.setPlaceholderText(name)
        self.setAccessibleName(name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows and Enter for the list, all else for the field."""
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step is not None:
            self._rows.setCurrentRow((self._rows.currentRow() + step) % max(1, self._rows.count()))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self._rows.currentItem() is not None:
                self.taken.emit()
        else:
            super().keyPressEvent(event)
