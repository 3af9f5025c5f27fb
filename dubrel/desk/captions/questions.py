"""The questions of Captions."""

from __future__ import annotations

from PySide6 import QtWidgets

from dubrel.desk.shell.desk import Desk
from dubrel.edits.captions import Move
from dubrel.model import Audit, CaptionTrack


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

    def house_style(self, names: list[str], now: str) -> str | None:
        """One of the house styles."""
        place = names.index(now) if now in names else 0
        chosen, given = QtWidgets.QInputDialog.getItem(
            self.window, "House style", "Set the captions by", names, place, False
        )
        return chosen if given else None
