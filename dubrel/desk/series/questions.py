"""The questions about a series; a test answers them by replacing these methods."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.probe import SUFFIXES
from dubrel.store.seriesfile import PROJECT, SUFFIX, Series

if TYPE_CHECKING:
    from dubrel.finding.termspots import TermSpot
    from dubrel.jobs.series.learning import Change
    from dubrel.user.machines import Chosen

_FILES = tr("Series (*{suffix})").format(suffix=SUFFIX)


class SeriesQuestions:
    """Asks for files and names."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def series_to_open(self) -> Path | None:
        """The file of a series."""
        name, _ = QtWidgets.QFileDialog.getOpenFileName(self.host, tr("Open a series"), "", _FILES)
        return Path(name) if name else None

    def series_to_make(self, near: Path) -> Path | None:
        """Where the file of a new series is to be."""
        dialog = QtWidgets.QFileDialog(self.host, tr("Begin a series"), str(near))
        dialog.setAcceptMode(QtWidgets.QFileDialog.AcceptMode.AcceptSave)
        dialog.setNameFilter(_FILES)
        dialog.setDefaultSuffix(SUFFIX.removeprefix("."))
        dialog.selectFile(tr("Series{suffix}").format(suffix=SUFFIX))
        if not dialog.exec():
            return None
        path = Path(dialog.selectedFiles()[0])
        return path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)

    def episode_files(self) -> Sequence[Path]:
        """Projects and recordings."""
        known = " ".join(f"*{suffix}" for suffix in (PROJECT, *SUFFIXES))
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.host,
            tr("Add episodes"),
            "",
            tr("Projects and recordings ({known});;All files (*)").format(known=known),
        )
        return [Path(one) for one in found]

    def shared(self, series: Series, home: Path) -> Callable[[Series], Series] | None:
        """What is to be the same in all episodes: how to change a series so, or ``None``."""
        from dubrel.desk.series.dialogs.shared import SharedDialog  # late: the window opens without it

        dialog = SharedDialog(series, home, self.host)
        return dialog.changed if dialog.exec() else None

    def machines(self, now: Chosen) -> Chosen | None:
        """Which machines work on a series; ``None`` where it was cancelled."""
        from dubrel.desk.series.dialogs.machines import MachinesDialog  # late: as above

        dialog = MachinesDialog(now, self.host)
        return dialog.chosen() if dialog.exec() else None

    def differences(self, found: Sequence[str]) -> None:
        """Show what differs between episodes and should not."""
        from dubrel.desk.series.dialogs.differing import DifferingDialog  # late: as above

        DifferingDialog(found, self.host).exec()

    def term_places(self, changes: Sequence[Change], about: str) -> dict[Path, list[TermSpot]]:
        """Which of the places that terms would change are to be changed, by episode."""
        from dubrel.desk.series.dialogs.termplaces import TermPlacesDialog  # late: as above

        dialog = TermPlacesDialog(changes, about, self.host)
        return dialog.chosen() if dialog.exec() else {}

    def series_title(self, now: str) -> str:
        """What a series is called; empty for nothing."""
        return (ask_line(self.host, tr("Title of the series"), tr("Title"), tr("Set"), now) or "").strip()
