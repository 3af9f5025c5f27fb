"""The questions of Cut."""

from __future__ import annotations

from pathlib import Path

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_which
from dubrel.desk.shell.core.desk import Desk


class CutQuestions:
    """Asks for files and names."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def file_to_write(self, name: str, film: bool) -> Path | None:
        """Where a cut goes; its form follows the suffix."""
        from dubrel.formats.cutlists.register import CUT_FORMS
        from dubrel.release.cutfiles import FILM_SUFFIXES, MEDIA_SUFFIXES

        media = [one for one in MEDIA_SUFFIXES if film or one not in FILM_SUFFIXES]
        kinds = [f"{one.label} (*{one.suffix})" for one in CUT_FORMS.values()]
        kinds += [f"{tr('Film') if one in FILM_SUFFIXES else tr('Sound')} (*{one})" for one in media]
        suffix = media[-1] if film else ".wav"
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host, tr("Write the cut"), f"{name}{'.mp4' if film else suffix}", ";;".join(kinds)
        )
        return Path(found) if found else None

    def captions_in(self) -> str | None:
        """Whether the captions go into a film."""
        choices = {
            tr("No captions"): "none",
            tr("Burned in"): "burned",
            tr("As a track inside"): "inside",
        }
        found = ask_which(
            self.host, tr("Write the cut"), tr("Captions in the film:"), tr("Write"), list(choices)
        )
        return choices.get(found) if found else None

    def list_to_open(self) -> Path | None:
        """A cut list of an editing program."""
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("Open a cut list"),
            "",
            tr("Cut lists (*.otio *.otioz *.edl *.csv);;All files (*)"),
        )
        return Path(found) if found else None

    def edited_file(self) -> Path | None:
        """The edited recording, or a cut list of it."""
        from dubrel.media.probe import SUFFIXES  # late: the window opens without it

        known = " ".join(f"*{one}" for one in (*SUFFIXES, ".otio", ".otioz", ".edl"))
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("The recording as it is now"),
            "",
            tr("Recordings and cut lists ({known});;All files (*)").format(known=known),
        )
        return Path(found) if found else None

    def camera_files(self) -> list[Path]:
        """Films and recorders of the event."""
        from dubrel.media.probe import SUFFIXES  # late: as above

        known = " ".join(f"*{one}" for one in SUFFIXES)
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.host,
            tr("Add cameras and recorders"),
            "",
            tr("Films and recordings ({known});;All files (*)").format(known=known),
        )
        return [Path(one) for one in found]

    def conformed_file(self, proposed: Path) -> Path | None:
        """Where the project of the edited recording goes."""
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host, tr("Save the project of the new edit"), str(proposed), tr("Projects (*.dubrel)")
        )
        return Path(found) if found else None

    def clip_folder(self) -> Path | None:
        """The folder into which clips are released."""
        found = QtWidgets.QFileDialog.getExistingDirectory(self.host, tr("Release the clips into"))
        return Path(found) if found else None

    def cut_name(self, title: str, now: str) -> str | None:
        """A name of a cut, or of rules."""
        found, good = QtWidgets.QInputDialog.getText(self.host, title, tr("Name:"), text=now)
        return found.strip() if good and found.strip() else None

    def cut_choice(self, title: str, names: list[str]) -> str | None:
        """One of several names."""
        return ask_which(self.host, title, tr("Choose one:"), tr("Choose"), names)
