"""Which machines work on a series."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QDialog, QFormLayout, QLineEdit, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, closing_row, label, titled_box
from dubrel.jobs.machines.security import Certificates, refuse_in_the_clear
from dubrel.user.machines import Chosen


@guarded
class MachinesDialog(QDialog):
    """The address of a scheduler, and how the way there is kept from others."""

    def __init__(self, now: Chosen, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Machines"))
        self.resize(600, 360)
        box = titled_box(self, tr("Machines that work on a series"))
        about = label(
            tr(
                "Start a scheduler with “dask scheduler”, and “dubrel work” with its address on "
                "each machine. "
                "Without an address everything is done on this machine. The guide of several "
                "machines says more."
            )
        )
        about.setWordWrap(True)
        box.addWidget(about)
        form = QFormLayout()
        form.setVerticalSpacing(Space.NEAR)
        form.setHorizontalSpacing(Space.WIDE)
        box.addLayout(form)
        self.scheduler = QLineEdit(now.scheduler)
        self.scheduler.setPlaceholderText(tr("none, or such as tcp://10.0.0.5:8786"))
        self.ca, self.cert, self.key = (QLineEdit(one) for one in (now.ca, now.cert, now.key))
        for name, field in (
            (tr("Scheduler"), self.scheduler),
            (tr("Authority (PEM)"), self.ca),
            (tr("Certificate (PEM)"), self.cert),
            (tr("Key (PEM)"), self.key),
        ):
            form.addRow(name, field)
        self.clear = QCheckBox(tr("Allow another machine without certificates"))
        self.clear.setChecked(now.in_the_clear)
        box.addWidget(self.clear)
        self.wrong = label("", "look")
        self.wrong.setWordWrap(True)
        box.addWidget(self.wrong)
        box.addStretch(1)
        self.go, self.leave = button(tr("Set"), primary=True), button(tr("Cancel"))
        box.addLayout(closing_row(self, leave=self.leave, go=self.go))

    def chosen(self) -> Chosen:
        """What is in the fields."""
        address, *files = (one.text().strip() for one in (self.scheduler, self.ca, self.cert, self.key))
        return Chosen(address, files[0], files[1], files[2], self.clear.isChecked())

    def accept(self) -> None:
        """Take it, unless everybody could read what is sent."""
        made = self.chosen()
        files = Certificates(made.ca, made.cert, made.key) if made.ca else None
        try:
            if made.scheduler:
                advice = tr("Choose certificates, or allow it here.")
                refuse_in_the_clear(made.scheduler, files, made.in_the_clear, advice)
        except DubrelError as error:
            self.wrong.setText(str(error))
            return
        super().accept()
