"""Find and replace in the translation, the original, or both."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QWidget,
)

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import format_clock
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.widgets import button, label, plain_table, titled_box
from dubrel.edits.translation.replacing import Sought, found_in, replaced_in
from dubrel.finding.words import Found, Query, find, replaced
from dubrel.model import Caption

_MOST = 200


@guarded
class ReplaceDialog(QDialog):
    """What is looked for, what it becomes, and where it stands."""

    def __init__(self, desk: Desk, track_id: int, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk, self.session, self.track_id = desk, desk.session, track_id
        self.setWindowTitle(tr("Find and replace"))
        self.resize(680, 460)
        box = titled_box(self, tr("Find and replace"))
        form = QFormLayout()
        self.field, self.becomes, self.where = QLineEdit(), QLineEdit(), QComboBox()
        for text, value in (
            (tr("in the translation"), "right"),
            (tr("in the original"), "left"),
            (tr("in both"), "both"),
        ):
            self.where.addItem(text, value)
        for name, one in (
            (tr("Find"), self.field),
            (tr("Replace with"), self.becomes),
            (tr("Where"), self.where),
        ):
            one.setAccessibleName(name)
            form.addRow(name, one)
        box.addLayout(form)
        row = QHBoxLayout()
        self.case, self.whole = QCheckBox(tr("Capitals matter")), QCheckBox(tr("Whole words"))
        row.addWidget(self.case)
        row.addWidget(self.whole)
        row.addStretch(1)
        box.addLayout(row)
        from PySide6.QtWidgets import QHeaderView, QTableWidget

        self.table = QTableWidget(0, 2)
        plain_table(self.table, tr("Places"), [tr("Time"), tr("Text")])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.cellActivated.connect(self._go)
        self.table.cellClicked.connect(self._go)
        box.addWidget(self.table, 1)
        self.says = label("", "quiet")
        box.addWidget(self.says)
        last = QHBoxLayout()
        self.go, close = button(tr("Replace all"), primary=True), button(tr("Close"))
        self.go.clicked.connect(self.replace_all)
        close.clicked.connect(self.accept)
        close.setAutoDefault(False)
        self.go.setDefault(True)
        last.addStretch(1)
        last.addWidget(close)
        last.addWidget(self.go)
        box.addLayout(last)
        self.field.textChanged.connect(self.refresh)
        self.where.currentIndexChanged.connect(self.refresh)
        self.case.toggled.connect(self.refresh)
        self.whole.toggled.connect(self.refresh)
        self.refresh()

    @property
    def _sought(self) -> Sought:
        return Sought(self.field.text(), self.case.isChecked(), self.whole.isChecked())

    def _places(self) -> tuple[list[Caption], list[Found]]:
        """Captions of the translation, and places of the original."""
        project, sought, where = self.session.project, self._sought, self.where.currentData()
        track = project.track(self.track_id)
        right = found_in(track, sought) if track and where in ("right", "both") else []
        left = []
        if where in ("left", "both") and sought.text.strip():
            query = Query(sought.text.strip(), case=sought.case, whole=sought.whole)
            left = find(project, query, self.becomes.text())
        return right, left

    def refresh(self) -> None:
        """List the places."""
        right, left = self._places()
        rows = [(one.start_ms, one.text.replace("\n", " / ")) for one in right]
        rows += [(one.start_ms, one.of.text[max(0, one.start - 40) : one.end + 40]) for one in left]
        rows.sort()
        self.table.setRowCount(min(_MOST, len(rows)))
        from PySide6.QtWidgets import QTableWidgetItem

        for nth, (ms, text) in enumerate(rows[:_MOST]):
            clock = QTableWidgetItem(format_clock(ms, digits=1))
            clock.setData(Qt.ItemDataRole.UserRole, ms)
            self.table.setItem(nth, 0, clock)
            self.table.setItem(nth, 1, QTableWidgetItem(text))
        found = len(right) + len(left)
        self.says.setText(
            counted(found, "place") if found or not self.field.text() else tr("Nothing was found.")
        )
        self.go.setEnabled(bool(found))

    def _go(self, row: int, _column: int) -> None:
        clock = self.table.item(row, 0)
        if clock is not None:
            self.desk.player.seek(int(clock.data(Qt.ItemDataRole.UserRole)))

    def replace_all(self) -> None:
        """Replace every place, as one step."""
        right, left = self._places()
        project, becomes = self.session.project, self.becomes.text()
        try:
            made = replaced_in(project, self.track_id, [one.id for one in right], self._sought, becomes)
            made = replaced(made, left)
            self.session.apply(made, tr("Replace “{field}”").format(field=self.field.text()), base=project)
        except DubrelError as error:
            self.says.setText(str(error))
            return
        self.refresh()
        self.says.setText(tr("Replaced: {places}.").format(places=counted(len(right) + len(left), "place")))
