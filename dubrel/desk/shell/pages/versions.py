"""The saved states of a project: when, what has changed since, word by word; any can be restored."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import Value, replace
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.dates import dated
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.paperpage import PaperPage
from dubrel.desk.shell.kit.passagetable import PassageTable
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.widgets import button, label, plain_table
from dubrel.model import Project
from dubrel.project.passages import Passage, passages
from dubrel.project.summary import Summary, differ, summary
from dubrel.store.projectfile import read_project, read_version
from dubrel.store.versions import time_of, version_names

SAVED = ""  # the name of the state that was saved last


class _Looked(Value):
    """A version that was read: what it says, and what is different now."""

    project: Project
    since: Summary
    passages: list[Passage]


@guarded
class VersionsPage(PaperPage):
    """A list of saved states above, the passages in which the chosen one differs below.

    Signals
    -------
    closed()
    """

    closed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(tr("Versions"))
        self.desk = desk
        self.names: list[str] = []
        self.looked: dict[str, _Looked | str] = {}
        self._present: Project | None = None
        self._background = Background(self, until=desk.session.opened, newest=True)
        self.box.addWidget(label(tr("Versions"), "title"))
        self.hint = label("", "quiet")
        self.hint.setWordWrap(True)
        self.box.addWidget(self.hint)
        self.table = QTableWidget(0, 4)
        plain_table(
            self.table, tr("Versions"), [tr("Saved"), tr("By"), tr("Words"), tr("Changed since then")]
        )
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        fixed(self.table.setColumnWidth, 190, of=0)
        fixed(self.table.setColumnWidth, 110, of=1)
        fixed(self.table.setColumnWidth, 80, of=2)
        fixed(self.table.setMinimumHeight, 130)
        self.box.addWidget(self.table, 2)
        self.work = label("", "quiet")  # what was done from the version before to the chosen one
        self.work.setWordWrap(True)
        self.box.addWidget(self.work)
        self.passages = PassageTable((tr("Then"), tr("Now")))
        fixed(self.passages.setMinimumHeight, 140)
        self.box.addWidget(self.passages, 3)
        row = self.beside(8)
        self.back, self.close_button = button(tr("Restore this version"), primary=True), button(tr("Close"))
        row.addWidget(self.back)
        row.addWidget(self.close_button)
        row.addStretch(1)
        self.box.addLayout(row)
        self.back.clicked.connect(self.bring_back)
        self.close_button.clicked.connect(self.closed)
        self.table.currentCellChanged.connect(lambda *_places: self._show_chosen())
        self.setFocusProxy(self.table)

    def refresh(self) -> None:
        """Show what is in the file now."""
        path, self._present = self.desk.session.path, self.desk.session.project
        self.names = [SAVED, *version_names(path)] if path is not None and path.is_file() else []
        self.looked = {}
        self.hint.setText(
            tr(
                "Saving keeps the state before in the project file: the last six of an hour, one "
                "an hour for a "
                "day, then one a day. Restoring one is a step that can be undone."
            )
            if self.names
            else tr(
                "This project has not been saved yet. Each time it is saved, the state before is kept here."
            )
        )
        self.table.setRowCount(len(self.names))
        for place, name in enumerate(self.names):
            self._fill(place, name)
        self.table.setCurrentCell(0, 0)
        self._show_chosen()
        self._background.forget()
        self._read_next()

    def _fill(self, place: int, name: str) -> None:
        looked = self.looked.get(name)
        when = tr("The file as it is")
        if name != SAVED:
            then = time_of(name)
            assert then is not None
            when = dated(then.timestamp(), tr("ddd d MMMM, HH:mm:ss"))
        by, words, since = "", "", tr("Reading")
        if isinstance(looked, str):
            since = looked
        elif looked is not None:
            by = looked.project.by
            words = f"{looked.project.transcript.word_count:,}"
            since = str(looked.since) if looked.since else tr("nothing")
        for column, text in enumerate((when, by, words, since)):
            item = QTableWidgetItem(text)
            item.setToolTip(text)
            self.table.setItem(place, column, item)

    def _take(self, read: tuple[str, _Looked | str]) -> None:
        name, looked = read
        self.looked[name] = looked
        self._fill(self.names.index(name), name)
        if self.names.index(name) in (self.table.currentRow(), self.table.currentRow() + 1):
            self._show_chosen()
        self._read_next()

    def _read_next(self) -> None:
        """Read one version after the other beside the interface."""
        following = next((one for one in self.names if one not in self.looked), None)
        path, present = self.desk.session.path, self._present
        if following is None or path is None or present is None or not self.isVisible():
            return
        self._background.ask(partial(_look, path, following, present), self._take)

    def _show_chosen(self) -> None:
        looked = self.looked.get(self._chosen_name())
        found = looked.passages if isinstance(looked, _Looked) else []
        self.passages.show_passages(found)
        self.passages.setVisible(bool(self.names))
        self.work.setText(self._work_of(looked))
        differs = isinstance(looked, _Looked) and differ(
            replace(looked.project, releases=()), replace(self.desk.session.project, releases=())
        )
        self.back.setEnabled(differs)

    def _work_of(self, looked: _Looked | str | None) -> str:
        """What whoever saved the chosen version did since the one before it, in a sentence."""
        place = self.table.currentRow() + 1
        before = self.looked.get(self.names[place]) if 0 < place < len(self.names) else None
        if not isinstance(looked, _Looked) or not isinstance(before, _Looked):
            return ""
        if not differ(before.project, looked.project):
            return ""
        whose = tr("{by}’s pass").format(by=looked.project.by) if looked.project.by else tr("In this version")
        return f"{whose}: {summary(before.project, looked.project)}."

    def _chosen_name(self) -> str:
        place = self.table.currentRow()
        return self.names[place] if 0 <= place < len(self.names) else "none"

    def bring_back(self) -> None:
        """Make the chosen version the present state, as one step."""
        looked = self.looked.get(self._chosen_name())
        if not isinstance(looked, _Looked):
            return
        self.desk.jobs.cancel_changing()
        version = looked.project

        def back(present: Project) -> Project:
            first_free = max(version.next_id, present.next_id)
            return replace(version, media=present.media, releases=present.releases, next_id=first_free)

        self.desk.session.step(back, tr("Restore a version"))
        found = (
            tr(": {passages} as before").format(passages=counted(len(looked.passages), "passage"))
            if looked.passages
            else ""
        )
        self.desk.say(tr("The version is restored{found}. Undo takes that back.").format(found=found))
        self.closed.emit()

    def showEvent(self, event: QShowEvent) -> None:
        """Go on reading."""
        super().showEvent(event)
        self._read_next()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes the page."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)


def _look(path: Path, name: str, present: Project) -> tuple[str, _Looked | str]:
    """Read a version and compare it with the present."""
    try:
        read: Callable = partial(read_version, path, name) if name != SAVED else partial(read_project, path)
        project = read().project
    except DubrelError as error:
        return name, str(error)
    return name, _Looked(project, summary(project, present), passages(project, present))
