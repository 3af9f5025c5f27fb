"""The questions of working with others; a test answers them by replacing these methods."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.desk import Desk
from dubrel.store.handover import SUFFIX

if TYPE_CHECKING:
    from dubrel.edits.merging.merging import Conflict, Whose

_PROJECTS = tr("Dubrel projects (*.dubrel)")


class TogetherQuestions:
    """Asks for files and decisions."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def colleagues_project(self) -> Path | None:
        """The same project, as a colleague worked on it."""
        name, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host, tr("Merge a colleague's changes"), "", _PROJECTS
        )
        return Path(name) if name else None

    def base_project(self, name: str) -> Path | None:
        """The project that both began with, where that cannot be told."""
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("Which project did both start from, this one and “{name}”?").format(name=name),
            "",
            _PROJECTS,
        )
        return Path(found) if found else None

    def handover_file(self, proposed: Path) -> Path | None:
        """Where the archive for a colleague is to be."""
        name, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host,
            tr("Hand over to a colleague"),
            str(proposed),
            tr("To hand over (*{suffix})").format(suffix=SUFFIX),
        )
        path = Path(name) if name else None
        return path.with_name(path.name + SUFFIX) if path is not None and path.suffix != SUFFIX else path

    def merging(self, name: str, about: str, conflicts: Sequence[Conflict]) -> dict[str, Whose] | None:
        """Decisions on what both changed; ``None`` where it was cancelled."""
        from dubrel.desk.together.mergedialog import MergeDialog  # late: the window opens without it

        dialog = MergeDialog(self.desk, name, about, conflicts)
        return dialog.decisions if dialog.exec() else None
