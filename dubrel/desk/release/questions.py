"""The questions of Release; a test answers them by replacing these methods."""

from __future__ import annotations

from pathlib import Path

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk


class ReleaseQuestions:
    """Asks for names and files."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def kit_name(self, now: str) -> str:
        """What a kit is to be called; empty for nothing."""
        return (ask_line(self.host, tr("Keep the kit"), tr("Name"), tr("Keep"), now) or "").strip()

    def kit_file(self, saving: str = "") -> Path | None:
        """A file of a kit to read, or one to write."""
        if saving:
            name, _ = QtWidgets.QFileDialog.getSaveFileName(
                self.host, tr("Export the kit"), f"{saving}.json", tr("Kit (*.json)")
            )
        else:
            name, _ = QtWidgets.QFileDialog.getOpenFileName(
                self.host, tr("Import a kit"), "", tr("Kit (*.json)")
            )
        return Path(name) if name else None

    def answers_file(self) -> Path | None:
        """A list of queries with answers."""
        name, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host, tr("Import the answers to queries"), "", tr("Queries (*.csv)")
        )
        return Path(name) if name else None
