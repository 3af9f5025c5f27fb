"""The questions of Captions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6 import QtWidgets

from dubrel.desk.shell.desk import Desk
from dubrel.edits.captions import Move
from dubrel.model import Audit, CaptionTrack, Project


class CaptionQuestions:
    """Asks for styles, numbers and fixes."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.window = desk, desk.window

    def fix(self, report: Audit) -> str | None:
        """Show an audit; the fix that the user chose: ``course``, ``retime`` or none."""
        from dubrel.desk.captions.auditdialog import AuditDialog

        dialog = AuditDialog(report, self.desk.theme, self.window)
        dialog.seek_wanted.connect(self.desk.player.seek)
        return dialog.fix if dialog.exec() else None

    def move(self, track: CaptionTrack, playhead_ms: int) -> Move | None:
        """Numbers by which the captions are to be shifted or stretched."""
        from dubrel.desk.captions.movedialog import MoveDialog

        dialog = MoveDialog(track, playhead_ms, self.window)
        return dialog.move_wanted() if dialog.exec() else None

    def preview(
        self, title: str, go: str, scopes: Sequence[tuple[str, str]], make: Callable[[str, bool], Project]
    ) -> Project | None:
        """Show old and new captions side by side; the new project, or nothing."""
        from dubrel.desk.captions.previewdialog import PreviewDialog

        project = self.desk.session.project
        dialog = PreviewDialog(project, self.desk.theme, title, go, scopes, make, self.window)
        return dialog.made if dialog.exec() else None

    def line(self, title: str, question: str, now: str = "") -> str:
        """A line of text; empty for none."""
        text, given = QtWidgets.QInputDialog.getText(
            self.window, title, question, QtWidgets.QLineEdit.EchoMode.Normal, now
        )
        return text.strip() if given else ""

    def style_file(self, saving: str = "") -> Path | None:
        """A file of a house style to read, or one to write."""
        if saving:
            name, _ = QtWidgets.QFileDialog.getSaveFileName(
                self.window, "Export the house style", f"{saving}.json", "House style (*.json)"
            )
        else:
            name, _ = QtWidgets.QFileDialog.getOpenFileName(
                self.window, "Import a house style", "", "House style (*.json)"
            )
        return Path(name) if name else None
