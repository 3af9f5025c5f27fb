"""The questions of Captions."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.captions.times import Move
from dubrel.model import Audit, CaptionTrack, Project

if TYPE_CHECKING:
    from dubrel.edits.captions.soundcaptions import Proposal


class CaptionQuestions:
    """Asks for styles, numbers and fixes."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def fix(self, report: Audit) -> str | None:
        """Show an audit; the fix that the user chose: ``course``, ``retime`` or none."""
        from dubrel.desk.captions.dialogs.audit import AuditDialog

        dialog = AuditDialog(report, self.desk.theme, self.host)
        dialog.seek_wanted.connect(self.desk.player.seek)
        return dialog.fix if dialog.exec() else None

    def move(self, track: CaptionTrack, playhead_ms: int) -> Move | None:
        """Numbers by which the captions are to be shifted or stretched."""
        from dubrel.desk.captions.dialogs.move import MoveDialog

        dialog = MoveDialog(track, playhead_ms, self.host)
        return dialog.move_wanted() if dialog.exec() else None

    def preview(
        self, title: str, go: str, scopes: Sequence[tuple[str, str]], make: Callable[[str, bool], Project]
    ) -> Project | None:
        """Show old and new captions side by side; the new project, or nothing."""
        from dubrel.desk.captions.dialogs.preview import PreviewDialog

        project = self.desk.session.project
        dialog = PreviewDialog(project, self.desk.theme, title, go, scopes, make, self.host)
        return dialog.made if dialog.exec() else None

    def compared(self, one: Project, other: Project, first: str, second: str) -> None:
        """Show the captions of two values side by side."""
        from dubrel.desk.captions.dialogs.preview import PreviewDialog

        dialog = PreviewDialog(
            one,
            self.desk.theme,
            f"{first} and {second}",
            "",
            [],
            lambda _scope, _keep: other,
            self.host,
            heads=(first, second),
        )
        dialog.exec()

    def sounds(self, found: Sequence[Proposal]) -> list[Proposal]:
        """Sound descriptions to be played, accepted or skipped."""
        from dubrel.desk.captions.dialogs.sounds import SoundsDialog

        dialog = SoundsDialog(self.desk, found)
        return dialog.chosen if dialog.exec() else []

    def line(self, title: str, question: str, now: str = "") -> str:
        """A line of text; empty for none."""
        return (ask_line(self.host, title, question, title, now) or "").strip()

    def caption_file(self) -> Path | None:
        """A file of captions to compare with."""
        name, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host, tr("Compare with captions"), "", tr("Captions (*.srt *.vtt)")
        )
        return Path(name) if name else None

    def report_file(self, title: str) -> Path | None:
        """Where the report is to be written."""
        name, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host,
            tr("Write a report"),
            tr("{title}, captions.html").format(title=title),
            tr("Web page (*.html);;PDF (*.pdf)"),
        )
        return Path(name) if name else None

    def look_file(self, saving: str = "") -> Path | None:
        """A file of a look to read, or one to write."""
        if saving:
            name, _ = QtWidgets.QFileDialog.getSaveFileName(
                self.host, tr("Export the look"), f"{saving}.json", tr("Look (*.json)")
            )
        else:
            name, _ = QtWidgets.QFileDialog.getOpenFileName(
                self.host, tr("Import a look"), "", tr("Look (*.json)")
            )
        return Path(name) if name else None

    def style_file(self, saving: str = "") -> Path | None:
        """A file of a house style to read, or one to write."""
        if saving:
            name, _ = QtWidgets.QFileDialog.getSaveFileName(
                self.host, tr("Export the house style"), f"{saving}.json", tr("House style (*.json)")
            )
        else:
            name, _ = QtWidgets.QFileDialog.getOpenFileName(
                self.host, tr("Import a house style"), "", tr("House style (*.json)")
            )
        return Path(name) if name else None
