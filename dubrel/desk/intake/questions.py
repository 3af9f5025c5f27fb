"""The questions of Intake."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets
from PySide6.QtCore import QStandardPaths

from dubrel.base.catalogue import tr
from dubrel.desk.intake.recording import Microphone, StandInMicrophone, microphones
from dubrel.desk.shell.core.asking import ask_line, ask_which
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.probe import SUFFIXES, SoundTrackFacts
from dubrel.user.settings import SETTINGS

_STAND_IN = tr("A recording, played as if live")

if TYPE_CHECKING:
    from collections.abc import Sequence

    from dubrel.formats.scripts.script import Piece
    from dubrel.jobs.addresses.feeds import FeedEpisode
    from dubrel.jobs.addresses.fetching import Offered


class IntakeQuestions:
    """Asks for recordings, scripts, engines and microphones."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def script(self) -> Path | None:
        """A script to be aligned."""
        from dubrel.formats.scripts import SCRIPTS  # late: starting the desk does not need it

        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("Open a script"),
            "",
            tr("Scripts ({scripts});;All files (*)").format(scripts=SCRIPTS),
        )
        return Path(found) if found else None

    def understood(self, name: str, pieces: list[Piece]) -> tuple[list[Piece], str] | None:
        """How a script was understood, and its language, as the user left both; ``None`` to cancel."""
        from dubrel.desk.intake.dialogs.script import ScriptDialog

        dialog = ScriptDialog(name, pieces, self.host)
        return (dialog.pieces(), dialog.language()) if dialog.exec() else None

    def address(self) -> str | None:
        """The address of a recording or a feed."""
        question = tr("The address of a recording, or of a feed of episodes")
        text = ask_line(self.host, tr("Open an address"), question, tr("Look there"), "https://")
        return text.strip() if text and text.strip() not in ("", "https://") else None

    def episode(self, episodes: Sequence[FeedEpisode]) -> int | None:
        """Which episode of a feed; its place."""
        from dubrel.desk.intake.dialogs.fetch import EpisodesDialog  # late: the window opens without it

        dialog = EpisodesDialog(episodes, self.host)
        return dialog.chosen if dialog.exec() else None

    def fetching(self, offered: Offered, folder: Path) -> Path | None:
        """Whether something is fetched, and into which folder; ``None`` where it is not."""
        from dubrel.desk.intake.dialogs.fetch import FetchDialog  # late: as above

        dialog = FetchDialog(offered, folder, self.desk.ask.folder, self.host)
        return dialog.folder if dialog.exec() else None

    def sound_tracks(
        self, tracks: Sequence[SoundTrackFacts], chosen: Sequence[int]
    ) -> tuple[int, ...] | None:
        """Which sound tracks are the sound of the recording; ``None`` for no change."""
        from dubrel.desk.intake.dialogs.soundtracks import SoundTracksDialog  # late: as above

        dialog = SoundTracksDialog(tracks, chosen, self.host)
        return dialog.chosen if dialog.exec() else None

    def model_folder(self) -> Path | None:
        """A folder with a recogniser's model."""
        return self.desk.ask.folder(tr("The folder with the model's files"), "")

    def service_address(self) -> tuple[str, str] | None:
        """The address of a recognition service, and its key if it wants one."""
        question = tr("Its address, for example http://127.0.0.1:8765")
        text = ask_line(self.host, tr("Service"), question, tr("Next"), "https://")
        if not text or not text.strip():
            return None
        question = tr("Its key, if it needs one; it is kept in the system’s keyring")
        key = ask_line(self.host, tr("Service"), question, tr("Add the service"), secret=True)
        return (text.strip(), key.strip()) if key is not None else None

    def speaker_files(self) -> list[Path]:
        """One recording for each speaker, begun at the same moment."""
        return self._files(tr("One file for each speaker"))

    def recordings(self) -> list[Path]:
        """Recordings for the queue."""
        return self._files(tr("Recordings to transcribe"))

    def _files(self, title: str) -> list[Path]:
        known = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.host, title, "", tr("Recordings ({known});;All files (*)").format(known=known)
        )
        return [Path(one) for one in found]

    def microphone(self) -> Microphone | StandInMicrophone | None:
        """What to record from."""
        names = [*microphones(), _STAND_IN]
        chosen = ask_which(self.host, tr("Record"), tr("Record from"), tr("Record"), names)
        if chosen is None:
            return None
        if chosen != _STAND_IN:
            return Microphone(names.index(chosen), self.host)
        path = self.desk.ask.recording(tr("the recording to be played as if live"))
        return StandInMicrophone(path, self.host) if path is not None else None

    def new_recording(self) -> Path | None:
        """Where to record to."""
        usual = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.MusicLocation)
        folder = SETTINGS.read().recordings_folder or usual
        name = time.strftime("Recording %Y-%m-%d %H.%M.%S.wav")
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host, tr("Record to"), str(Path(folder) / name), tr("Sound (*.wav)")
        )
        return Path(found if found.endswith(".wav") else f"{found}.wav") if found else None

    def woven_file(self, proposed: Path) -> Path | None:
        """Where to write the recording made of several files."""
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host, tr("One recording of all speakers"), str(proposed), tr("Matroska sound (*.mka)")
        )
        return Path(found if found.endswith(".mka") else f"{found}.mka") if found else None
