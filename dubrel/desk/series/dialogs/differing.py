"""What differs between the episodes of a series and should not."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.desk.shell.kit.widgets import button, label, titled_box


class DifferingDialog(QDialog):
    """Sentences, one a row."""

    def __init__(self, found: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Check all episodes"))
        self.resize(760, 420)
        box = titled_box(self, tr("Check all episodes"))
        many = counted(len(found), "thing differs", "things differ")
        box.addWidget(
            label(tr("{many} between the episodes, perhaps by mistake.").format(many=many), "quiet")
        )
        self.list = QListWidget()
        self.list.setAccessibleName(tr("What differs between the episodes"))
        self.list.setWordWrap(True)
        self.list.addItems(list(found))
        self.list.setCurrentRow(0)
        box.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        self.close_button = button(tr("Close"), primary=True)
        self.close_button.setDefault(True)
        self.close_button.clicked.connect(self.accept)
        row.addWidget(self.close_button)
        box.addLayout(row)
