"""The questions the window asks; a test answers them by replacing these methods."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets  # its dialogs are made by the library only when one is asked for
from PySide6.QtCore import QStandardPaths

from dubrel.desk.hearingwords import engine_label
from dubrel.desk.recording import Microphone, StandInMicrophone, microphones
from dubrel.edits.paragraphs import USUAL_WORDS
from dubrel.formats.script import Piece
from dubrel.media.probe import SUFFIXES
from dubrel.settings import load_settings

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.edits.captions import Move
    from dubrel.edits.proposals import Proposal
    from dubrel.edits.readings import Difference
    from dubrel.jobs.compare import Comparison
    from dubrel.model import CaptionTrack, Project, Speaker
    from dubrel.speech.audit import Audit


_STAND_IN = "A recording, played as if live"


class Dialogs:
    """Asks for files, names and consent."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window

    def file_to_open(self) -> Path | None:
        """A project, a recording or a caption file."""
        known = " ".join(
            f"*{suffix}" for suffix in (".dubrel", *SUFFIXES, ".srt", ".vtt", ".json", ".ctm", ".rttm")
        )
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.window,
            "Open a recording or a project",
            "",
            f"Recordings, projects, captions ({known});;All files (*)",
        )
        return Path(found) if found else None

    def file_to_save(self, proposed: Path) -> Path | None:
        """Where to save the project."""
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.window, "Save the project", str(proposed), "Dubrel projects (*.dubrel)"
        )
        if not found:
            return None
        path = Path(found)
        return path if path.suffix == ".dubrel" else path.with_name(path.name + ".dubrel")

    def script(self) -> Path | None:
        """A script to be lined up."""
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.window,
            "Open a script",
            "",
            "Scripts (*.txt *.md *.docx *.srt *.vtt);;All files (*)",
        )
        return Path(found) if found else None

    def understood(self, name: str, pieces: list[Piece]) -> tuple[list[Piece], str] | None:
        """How a script was understood, and its language, as the user left both; ``None`` to leave it."""
        from dubrel.desk.scriptdialog import ScriptDialog

        dialog = ScriptDialog(name, pieces, self.window)
        return (dialog.pieces(), dialog.language()) if dialog.exec() else None

    def repair(self, report: Audit) -> str | None:
        """Show an audit; the repair that the user chose: ``course``, ``retime`` or none."""
        from dubrel.desk.auditdialog import AuditDialog

        dialog = AuditDialog(report, self.window.theme, self.window)
        dialog.seek_wanted.connect(self.window.player.seek)
        return dialog.repair if dialog.exec() else None

    def move(self, track: CaptionTrack, playhead_ms: int) -> Move | None:
        """Numbers by which the captions are to be shifted or stretched."""
        from dubrel.desk.movedialog import MoveDialog

        dialog = MoveDialog(track, playhead_ms, self.window)
        return dialog.move_wanted() if dialog.exec() else None

    def model_folder(self) -> Path | None:
        """A folder with a recogniser's model."""
        found = QtWidgets.QFileDialog.getExistingDirectory(self.window, "The folder with the model's files")
        return Path(found) if found else None

    def service_address(self) -> str | None:
        """The address of a recognition service."""
        text, given = QtWidgets.QInputDialog.getText(
            self.window, "Service", "Its address, for example http://127.0.0.1:8765", text="http://"
        )
        return text.strip() if given and text.strip() else None

    def speaker_files(self) -> list[Path]:
        """One recording for each speaker, begun at the same moment."""
        known = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.window, "One file for each speaker", "", f"Recordings ({known});;All files (*)"
        )
        return [Path(one) for one in found]

    def recordings(self) -> list[Path]:
        """Recordings for the queue."""
        known = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.window, "Recordings to be heard", "", f"Recordings ({known});;All files (*)"
        )
        return [Path(one) for one in found]

    def microphone(self) -> Microphone | StandInMicrophone | None:
        """What to record from."""
        names = [*microphones(), _STAND_IN]
        chosen, given = QtWidgets.QInputDialog.getItem(self.window, "Record", "Record from", names, 0, False)
        if not given:
            return None
        if chosen != _STAND_IN:
            return Microphone(names.index(chosen), self.window)
        path = self.recording("the recording to be played as if live")
        return StandInMicrophone(path, self.window) if path is not None else None

    def new_recording(self) -> Path | None:
        """Where to record to."""
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.MusicLocation)
        name = time.strftime("Recording %Y-%m-%d %H.%M.%S.wav")
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.window, "Record to", str(Path(folder) / name), "Sound (*.wav)"
        )
        return Path(found if found.endswith(".wav") else f"{found}.wav") if found else None

    def woven_file(self, proposed: Path) -> Path | None:
        """Where to write the recording made of several files."""
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.window, "One recording of all speakers", str(proposed), "Matroska sound (*.mka)"
        )
        return Path(found if found.endswith(".mka") else f"{found}.mka") if found else None

    def engine(self) -> str | None:
        """A recogniser to compare with."""
        names = ["builtin", *load_settings().engines]
        shown = [engine_label(name) for name in names]
        chosen, given = QtWidgets.QInputDialog.getItem(
            self.window, "Compare", "Read it with", shown, 0, False
        )
        return names[shown.index(chosen)] if given else None

    def compare(
        self,
        found: Comparison,
        names: tuple[str, str],
        reference: bool,
        texts: Callable[[Difference], tuple[str, str, str]],
        hear: Callable[[Difference], None],
        take: Callable[[list[Difference]], None],
    ) -> None:
        """Show two readings side by side."""
        from dubrel.desk.comparedialog import CompareDialog

        dialog = CompareDialog(found, names, reference, texts, self.window)
        dialog.hear_wanted.connect(hear)
        dialog.take_wanted.connect(take)
        dialog.exec()

    def recording(self, name: str) -> Path | None:
        """Where a recording that moved is now."""
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.window, f"Where is “{name}”?", "", "All files (*)"
        )
        return Path(found) if found else None

    def speaker_facts(self, speaker: Speaker, names: list[str]) -> tuple[str, str] | None:
        """A speaker's name and role; ``names`` are those of kept voices."""
        from dubrel.desk.voicedialogs import SpeakerDialog

        dialog = SpeakerDialog(speaker, names, self.window)
        return dialog.facts() if dialog.exec() and dialog.facts()[0] else None

    def proposals(
        self,
        present: Project,
        proposed: Project,
        changes: list[Proposal],
        hear: Callable[[Proposal], None],
    ) -> list[Proposal]:
        """Which of the changes of speakers the user takes."""
        from dubrel.desk.voicedialogs import ProposalDialog

        dialog = ProposalDialog(present, proposed, changes, hear, self.window)
        return dialog.chosen() if dialog.exec() else []

    def split(self, project: Project, both: tuple[str, str], hear: Callable[[int, int], None]) -> bool:
        """Whether a speaker is to be parted in two voices."""
        from dubrel.desk.voicedialogs import SplitDialog

        return bool(SplitDialog(project, both, hear, self.window).exec())

    def paragraph_length(self) -> int | None:
        """About how many words a paragraph should have."""
        count, given = QtWidgets.QInputDialog.getInt(
            self.window, "Paragraphs", "About how many words each", USUAL_WORDS, 10, 500, 10
        )
        return count if given else None

    def house_style(self, names: list[str], now: str) -> str | None:
        """One of the house styles."""
        chosen, given = QtWidgets.QInputDialog.getItem(
            self.window, "House style", "Set the captions by", names, names.index(now), False
        )
        return chosen if given else None

    def kept_voice(self, names: list[str]) -> str | None:
        """A kept voice to forget."""
        chosen, given = QtWidgets.QInputDialog.getItem(
            self.window, "Kept voices", "Forget the voice of", names, 0, False
        )
        return chosen if given else None

    def speaker_count(self) -> str | None:
        """How many people speak: ``auto``, a number, or bounds."""
        from dubrel.desk.voicedialogs import CountDialog

        turns = self.window.session.project.transcript.turns
        dialog = CountDialog(sum(turn.confirmed for turn in turns), self.window)
        return dialog.wanted() if dialog.exec() else None

    def speaker(self, question: str, choices: list[Speaker]) -> Speaker | None:
        """One of some speakers."""
        from dubrel.desk.persondialog import PersonDialog

        dialog = PersonDialog(question, choices, self.window.session, self.window.theme, self.window)
        return dialog.chosen() if dialog.exec() else None

    def yes(self, question: str) -> bool:
        """Consent to something."""
        buttons = QtWidgets.QMessageBox.StandardButton
        answer = QtWidgets.QMessageBox.question(self.window, "Dubrel", question, buttons.Yes | buttons.No)
        return answer == buttons.Yes

    def may_lose(self) -> bool:
        """What to do with unsaved work: save it, lose it, or stay. True if the window may go on."""
        title = self.window.session.project.title
        box = QtWidgets.QMessageBox(self.window)
        box.setText(f"“{title}” has work that is not saved.")
        save = box.addButton("Save", QtWidgets.QMessageBox.ButtonRole.AcceptRole)
        lose = box.addButton("Do not save", QtWidgets.QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QtWidgets.QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        if box.clickedButton() is save:
            return self.window.operations.save()
        return box.clickedButton() is lose
