"""The questions about a series; a test answers them by replacing these methods."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6 import QtWidgets

from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.probe import SUFFIXES
from dubrel.store.seriesfile import PROJECT, SUFFIX

_FILES = f"Series (*{SUFFIX})"


class SeriesQuestions:
    """Asks for files and names."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.window = desk, desk.window

    def series_to_open(self) -> Path | None:
        """The file of a series."""
        name, _ = QtWidgets.QFileDialog.getOpenFileName(self.window, "Open a series", "", _FILES)
        return Path(name) if name else None

    def series_to_make(self, near: Path) -> Path | None:
        """Where the file of a new series is to be."""
        dialog = QtWidgets.QFileDialog(self.window, "Begin a series", str(near))
        dialog.setAcceptMode(QtWidgets.QFileDialog.AcceptMode.AcceptSave)
        dialog.setNameFilter(_FILES)
        dialog.setDefaultSuffix(SUFFIX.removeprefix("."))
        dialog.selectFile(f"Series{SUFFIX}")
        if not dialog.exec():
            return None
        path = Path(dialog.selectedFiles()[0])
        return path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)

    def episode_files(self) -> Sequence[Path]:
        """Projects and recordings."""
        known = " ".join(f"*{suffix}" for suffix in (PROJECT, *SUFFIXES))
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.window, "Add episodes", "", f"Projects and recordings ({known});;All files (*)"
        )
        return [Path(one) for one in found]

    def series_title(self, now: str) -> str:
        """What a series is called; empty for nothing."""
        return (ask_line(self.window, "Title of the series", "Title", "Set", now) or "").strip()
