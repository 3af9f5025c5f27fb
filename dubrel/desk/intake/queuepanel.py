"""The queue on the Intake page: one row a recording, and what can be done with it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.timecode import format_length
from dubrel.desk.intake.enginewords import choices_in_words
from dubrel.desk.intake.queuework import QueueWork
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label, plain_table
from dubrel.user.queue import Item, State

_WORDS = {
    State.WAITING: "waiting",
    State.PAUSED: "paused",
    State.RUNNING: "transcribing",
    State.DONE: "done",
    State.FAILED: "failed",
}


@guarded
class _Table(QTableWidget):
    """The rows; keys act on the chosen one."""

    key = Signal(str)

    def event(self, event: QEvent) -> bool:
        """Alt with an arrow is ours while the table has the focus, whatever command has these keys."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            arrows = (Qt.Key.Key_Up, Qt.Key.Key_Down)
            if event.modifiers() == Qt.KeyboardModifier.AltModifier and event.key() in arrows:
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter opens, Space pauses, Delete removes, Alt with an arrow moves."""
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        names = {
            Qt.Key.Key_Return: "open",
            Qt.Key.Key_Enter: "open",
            Qt.Key.Key_Space: "pause",
            Qt.Key.Key_Delete: "remove",
        }
        moves = {Qt.Key.Key_Up: "earlier", Qt.Key.Key_Down: "later"}
        name = moves.get(Qt.Key(event.key())) if alt else names.get(Qt.Key(event.key()))
        if name is None:
            super().keyPressEvent(event)
        else:
            self.key.emit(name)


class QueuePanel(QWidget):
    """The queue.

    Parameters
    ----------
    work : QueueWork
    menu_on : callable
        Shows the menu of some things at a place of the screen.

    Signals
    -------
    open_wanted(str)
        The path of a project that is done.
    settings_wanted(int)
        The recording with this id is to be transcribed as chosen above.
    """

    open_wanted = Signal(str)
    settings_wanted = Signal(int)

    def __init__(self, work: QueueWork, menu_on: Callable[[list[str], QPoint], object]) -> None:
        super().__init__()
        self.work = work
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.NEAR, 0, 0)
        box.setSpacing(Space.NEAR)
        self.heading = label(tr("Queue"), "section")
        box.addWidget(self.heading)
        self.table = _Table(0, 4)
        plain_table(self.table, tr("Queue of recordings"), [])
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column, width in ((1, 190), (2, 76)):
            header.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            fixed(self.table.setColumnWidth, width, of=column)
        header.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        box.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.buttons = {
            "open": button(tr("Open")),
            "pause": button(tr("Pause")),
            "earlier": button(tr("Earlier")),
            "later": button(tr("Later")),
            "remove": button(tr("Remove")),
            "settings": button(tr("Transcribe as chosen above")),
        }
        for name, one in self.buttons.items():
            row.addWidget(one)
            one.clicked.connect(lambda _checked=False, name=name: self.act(name))
        row.addStretch(1)
        box.addLayout(row)
        self.table.key.connect(self.act)
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(
            lambda at: menu_on(["recording"], self.table.viewport().mapToGlobal(at))
        )
        self.table.itemDoubleClicked.connect(lambda _item: self.act("open"))
        self.table.itemSelectionChanged.connect(self._show_buttons)
        work.changed.connect(self.refresh)
        work.progressed.connect(self._show_progress)
        self.refresh()

    def chosen(self) -> Item | None:
        """The recording of the chosen row."""
        row = self.table.currentRow()
        items = self.work.queue.items
        return items[row] if 0 <= row < len(items) else None

    def act(self, name: str) -> None:
        """Do something with the chosen recording."""
        item = self.chosen()
        if item is None:
            return
        row = self.table.currentRow()
        if name == "open":
            if item.state is State.DONE:
                self.open_wanted.emit(item.output)
        elif name == "pause":
            self.work.pause_or_go_on(item.id)
        elif name == "remove":
            self.work.remove(item.id)
        elif name == "settings":
            self.settings_wanted.emit(item.id)
        else:
            step = -1 if name == "earlier" else 1
            self.work.move(item.id, step)
            row = min(max(row + step, 0), self.table.rowCount() - 1)
        self.table.setCurrentCell(min(row, self.table.rowCount() - 1), 0)

    def refresh(self) -> None:
        """Show the queue as it is."""
        items = self.work.queue.items
        self.setVisible(bool(items))
        row = max(0, self.table.currentRow())
        self.table.setRowCount(len(items))
        for place, item in enumerate(items):
            self._fill(place, item)
        self.table.setCurrentCell(min(row, len(items) - 1), 0)
        left = self.work.left
        self.heading.setText(
            tr("Queue: {left} of {items} still to transcribe").format(left=left, items=len(items))
            if left
            else tr("Queue: all transcribed")
        )
        self._show_buttons()

    def _fill(self, row: int, item: Item) -> None:
        state = _WORDS[item.state]
        texts = (Path(item.path).name, choices_in_words(item.choices), state, self._said(item))
        for column, text in enumerate(texts):
            cell = self.table.item(row, column)
            if cell is None:
                cell = QTableWidgetItem()
                self.table.setItem(row, column, cell)
            cell.setText(text)
            cell.setToolTip(item.path if column == 0 else text)
        self.table.setRowHeight(row, 30)

    def _said(self, item: Item) -> str:
        progress = self.work.progress.get(item.id)
        if item.state is State.DONE:
            return Path(item.output).name + (f". {item.reason}" if item.reason else "")
        if item.state is State.WAITING and item.price and not item.reason:
            return tr("costs {price}").format(price=item.price)
        if progress is None or item.state is State.FAILED:
            return item.reason
        left = (
            ""
            if progress.left_s is None
            else tr(", {left_s} left").format(left_s=format_length(round(progress.left_s) * 1000))
        )
        return f"{progress.stage}, {progress.fraction:.0%}{left}"

    def _show_progress(self, item_id: int) -> None:
        for row, item in enumerate(self.work.queue.items):
            if item.id == item_id and (cell := self.table.item(row, 3)) is not None:
                cell.setText(self._said(item))

    def _show_buttons(self) -> None:
        item = self.chosen()
        state = item.state if item is not None else None
        self.buttons["open"].setEnabled(state is State.DONE)
        self.buttons["pause"].setEnabled(state not in (None, State.DONE))
        again = {State.PAUSED: tr("Resume"), State.FAILED: tr("Try again")}
        self.buttons["pause"].setText(again.get(state, tr("Pause")) if state is not None else tr("Pause"))
        self.buttons["settings"].setEnabled(state in (State.WAITING, State.PAUSED, State.FAILED))
        for name in ("earlier", "later", "remove"):
            self.buttons[name].setEnabled(item is not None)
