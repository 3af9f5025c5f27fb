"""In the booth: what is not ready, where the files go, what was written, what was released before."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from dubrel.base.catalogue import counted, shipped, told, tr
from dubrel.desk.shell.kit.dates import dated
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import WrappedCheckBox, button, label
from dubrel.model import Released
from dubrel.release.kits import FIELDS, KITS
from dubrel.release.readiness import NotReady

_RELEASES = 4


class ReleasePanel(QWidget):
    """Fields, buttons, lists.

    Signals
    -------
    write_wanted()
    going(str)
        A pass where something is still to do.
    choosing()
        Another folder is to be chosen.
    """

    write_wanted = Signal()
    going = Signal(str)
    choosing = Signal()

    def __init__(self) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, Space.TIGHT, 0, 0)
        box.setSpacing(Space.NEAR)
        self.write = button(tr("Release"), primary=True)
        self.write.clicked.connect(self.write_wanted)
        box.addWidget(self.write)
        self.state, self.report = label("", "look"), label("", "")
        for part in (self.state, self.report):
            part.setWordWrap(True)
            part.hide()
            box.addWidget(part)
        self.report.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.unready = self._section(box)
        box.addWidget(label(tr("Names and folder"), "section"))
        self.pattern, self.folder = QLineEdit(), QLineEdit()
        self.pattern.setAccessibleName(tr("Pattern of the names"))
        self.pattern.setToolTip(tr("Fields: ") + ", ".join(f"{{{one}}}" for one in FIELDS))
        self.folder.setAccessibleName(tr("Folder"))
        self.example = label("", "quiet")
        self.example.setWordWrap(True)
        choose = button(tr("Choose"))
        choose.clicked.connect(self.choosing)
        line = QHBoxLayout()
        line.addWidget(self.folder, 1)
        line.addWidget(choose)
        self.zip = WrappedCheckBox(tr("As one archive with checksums"))
        box.addWidget(self.pattern)
        box.addWidget(self.example)
        box.addLayout(line)
        box.addWidget(self.zip)
        self.before = self._section(box)
        box.addStretch(1)

    def _section(self, box: QVBoxLayout) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(Space.TIGHT)
        box.addLayout(made)
        return made

    def show_unready(self, found: Sequence[NotReady]) -> None:
        """What is still to do, each with a way to it."""
        _clear(self.unready)
        if found:
            self.unready.addWidget(label(tr("Not ready"), "section"))
        for one in found:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 0, 0, 0)
            text = label(told(one.text))
            text.setWordWrap(True)
            go = button(tr("Go to"))
            go.setAccessibleName(tr("Go to: {text}").format(text=told(one.text)))
            go.clicked.connect(partial(self.going.emit, one.room))
            line.addWidget(text, 1)
            line.addWidget(go, 0, Qt.AlignmentFlag.AlignTop)
            self.unready.addWidget(row)
        self.write.setText(tr("Release anyway") if found else tr("Release"))

    def show_before(self, releases: Sequence[Released]) -> None:
        """What was released before, the latest first."""
        _clear(self.before)
        if releases:
            self.before.addWidget(label(tr("Released before"), "section"))
        for one in releases[: -_RELEASES - 1 : -1]:
            row = label(f"{_when(one.at)}, “{shipped(one.kit, KITS)}”: {counted(len(one.files), 'file')}")
            row.setWordWrap(True)
            row.setToolTip("\n".join(one.files))
            self.before.addWidget(row)

    def say(self, where: str, text: str) -> None:
        """Show a text in ``state`` or ``report``."""
        widget = self.state if where == "state" else self.report
        widget.setText(text)
        widget.setVisible(bool(text))


def _clear(box: QVBoxLayout) -> None:
    while (item := box.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            widget.hide()
            widget.deleteLater()


def _when(at: str) -> str:
    """A time of the record as a day and a clock, here."""
    try:
        then = datetime.fromisoformat(at.replace("Z", "+00:00"))
    except ValueError:
        return at
    return dated(then.timestamp(), tr("d MMMM, HH:mm"))
