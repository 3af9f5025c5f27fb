"""The questions that the window itself asks; a test answers them by replacing these methods.

Each room has questions of its own, in the same way.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets  # its dialogs are made by the library only when one is asked for

from dubrel.base.catalogue import tr
from dubrel.base.languages import LANGUAGES
from dubrel.desk.shell.core.asking import ask_which
from dubrel.media.probe import SUFFIXES
from dubrel.store.handover import SUFFIX as HANDED
from dubrel.store.seriesfile import SUFFIX as SERIES

if TYPE_CHECKING:
    from dubrel.project.passages import Passage

SAVE, SAVE_AS, DISCARD, CANCEL = "save", tr("save as"), "discard", "cancel"
ATTACH, OPEN = "attach", "open"


def caption_files() -> str:
    """Caption files that can be read, for a dialog."""
    from dubrel.formats.register import CAPTION_READERS  # late: starting the desk does not need it

    return tr("Captions ({listed})").format(listed=" ".join(f"*{suffix}" for suffix in CAPTION_READERS))


class Questions:
    """Asks for files and for consent."""

    def __init__(self, host: QtWidgets.QWidget) -> None:
        self.host = host

    def file_to_open(self) -> Path | None:
        """A project, a recording or a caption file."""
        from dubrel.formats.register import READERS  # late: starting the desk does not need it

        known = " ".join(f"*{suffix}" for suffix in (".dubrel", SERIES, HANDED, *SUFFIXES, *READERS))
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("Open a recording or a project"),
            "",
            tr("Recordings, projects, captions ({known});;All files (*)").format(known=known),
        )
        return Path(found) if found else None

    def caption_pair(self) -> list[Path]:
        """Two caption files of one film, in two languages."""
        found, _ = QtWidgets.QFileDialog.getOpenFileNames(
            self.host,
            tr("Captions in two languages: choose both files"),
            "",
            tr("{caption_files};;All files (*)").format(caption_files=caption_files()),
        )
        return [Path(one) for one in found]

    def file_to_save(self, proposed: Path) -> Path | None:
        """Where to save the project; the suffix is there before the question about overwriting."""
        dialog = QtWidgets.QFileDialog(self.host, tr("Save the project"), str(proposed.parent))
        dialog.setAcceptMode(QtWidgets.QFileDialog.AcceptMode.AcceptSave)
        dialog.setNameFilter(tr("Dubrel projects (*.dubrel)"))
        dialog.setDefaultSuffix("dubrel")
        dialog.selectFile(proposed.name)
        if not dialog.exec():
            return None
        path = Path(dialog.selectedFiles()[0])
        if path.suffix == ".dubrel":
            return path
        path = path.with_name(path.name + ".dubrel")  # another suffix was typed
        question = tr("“{name}” already exists. Replace it?").format(name=path.name)
        return path if not path.exists() or self.yes(question, tr("Replace")) else None

    def recording(self, name: str) -> Path | None:
        """Where a recording that moved is now."""
        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host, tr("Where is “{name}”?").format(name=name), "", tr("All files (*)")
        )
        return Path(found) if found else None

    def folder(self, title: str, now: str) -> Path | None:
        """A folder."""
        found = QtWidgets.QFileDialog.getExistingDirectory(self.host, title, now)
        return Path(found) if found else None

    def yes(self, question: str, go: str = tr("Yes")) -> bool:
        """Consent to something; ``go`` is what the button says that gives it."""
        box = QtWidgets.QMessageBox(self.host)
        box.setText(question)
        yes = box.addButton(go, QtWidgets.QMessageBox.ButtonRole.AcceptRole)
        box.addButton(tr("Cancel"), QtWidgets.QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(yes)
        box.exec()
        return box.clickedButton() is yes

    def one_of(self, title: str, question: str, names: Sequence[str], go: str = tr("Choose")) -> str:
        """One of several names, or empty for none; ``go`` is what the button says."""
        return ask_which(self.host, title, question, go, names) or ""

    def language(self, now: str) -> str:
        """The language of the words by its name or code, or empty for none; ``now`` is what it is."""
        question = tr("The words are in (choose, or type a language or its code):")
        names = list(dict.fromkeys([now, *map(tr, LANGUAGES.values())]))
        return ask_which(self.host, tr("Language"), question, tr("Set"), names, now=now, typed=True) or ""

    def changed_outside(self, name: str) -> str:
        """What to do where somebody else wrote the project's file: ``save``, ``save as`` or ``cancel``."""
        return self._choice(
            tr("“{name}” was changed outside this window since it was opened.").format(name=name),
            {SAVE: tr("Save"), SAVE_AS: tr("Save as")},
            SAVE_AS,
            tr(
                "Save puts your state into it and keeps the other one among its versions. "
                "Save as writes another file."
            ),
        )

    def unsaved_work(self, text: str, found: list[Passage]) -> bool:
        """Show unsaved work beside the file; whether it is to be recovered."""
        from dubrel.desk.shell.kit.passagetable import (
            PassagesDialog,  # late: most starts leave nothing behind
        )

        names = (tr("In the file"), tr("Unsaved work"))
        return bool(PassagesDialog(tr("Unsaved work"), text, found, names, tr("Recover"), self.host).exec())

    def recording_of_words(self, name: str, title: str) -> str:
        """Whether a recording is that of the open words: ``attach``, ``open`` or ``cancel``."""
        return self._choice(
            tr("Is “{name}” the recording of “{title}”?").format(name=name, title=title),
            {ATTACH: tr("Use it for these words"), OPEN: tr("Open it by itself")},
            ATTACH,
            tr("The open words have no recording yet."),
        )

    def unsaved(self, title: str) -> str:
        """What is to become of unsaved work: ``save``, ``discard`` or ``cancel``."""
        return self._choice(
            tr("“{title}” has unsaved changes.").format(title=title),
            {SAVE: tr("Save"), DISCARD: tr("Do not save")},
            SAVE,
        )

    def _choice(self, text: str, ways: dict[str, str], usual: str, more: str = "") -> str:
        """One of several ways, by its name, or ``cancel``."""
        box = QtWidgets.QMessageBox(self.host)
        box.setText(text)
        box.setInformativeText(more)
        role = QtWidgets.QMessageBox.ButtonRole
        buttons = {
            name: box.addButton(said, role.DestructiveRole if name == DISCARD else role.AcceptRole)
            for name, said in ways.items()
        }
        box.addButton(tr("Cancel"), role.RejectRole)
        box.setDefaultButton(buttons[usual])
        box.exec()
        return next((name for name, button in buttons.items() if box.clickedButton() is button), CANCEL)
