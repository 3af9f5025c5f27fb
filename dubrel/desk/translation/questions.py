"""The questions of Translation; a test answers them by replacing these methods."""

from __future__ import annotations

from pathlib import Path

from PySide6 import QtWidgets

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_line
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.questions import caption_files


class TranslationQuestions:
    """Asks for files, addresses, terms."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def _open(self, title: str, forms: str) -> Path | None:
        name, _ = QtWidgets.QFileDialog.getOpenFileName(self.host, title, "", forms)
        return Path(name) if name else None

    def translation_file(self) -> Path | None:
        """Captions in the other language."""
        return self._open(tr("Captions in the other language"), caption_files())

    def memory_file(self, saving: str = "") -> Path | None:
        """A translation memory to read, or one to write."""
        if not saving:
            return self._open(tr("Import a translation memory"), tr("Translation memory (*.tmx)"))
        name, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host,
            tr("Export the translation memory"),
            f"{saving}.tmx",
            tr("Translation memory (*.tmx)"),
        )
        return Path(name if name.endswith(".tmx") else f"{name}.tmx") if name else None

    def translator_folder(self) -> Path | None:
        """A folder with a translation model."""
        return self.desk.ask.folder(tr("Folder with a translation model"), "")

    def translator_address(self) -> tuple[str, str] | None:
        """Address and key of a translation service."""
        title = tr("A translation service")
        text = ask_line(self.host, title, tr("Address, such as http://127.0.0.1:8766"), tr("Next"))
        if not text or not text.strip():
            return None
        key = ask_line(self.host, title, tr("Key, if it needs one"), tr("Add the service"), secret=True)
        return (text.strip(), key.strip()) if key is not None else None

    def glossary(self, language: str) -> None:
        """Show the terms with their translations."""
        from dubrel.desk.translation.dialogs.glossary import GlossaryDialog

        GlossaryDialog(self.desk, language, self.host).exec()

    def replacing(self, track_id: int) -> None:
        """Find and replace in the original and the translation."""
        from dubrel.desk.translation.dialogs.replace import ReplaceDialog

        ReplaceDialog(self.desk, track_id, self.host).exec()
