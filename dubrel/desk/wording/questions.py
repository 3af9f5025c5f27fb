"""The questions of Wording."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6 import QtWidgets
from PySide6.QtCore import QPoint

from dubrel.base.catalogue import tr
from dubrel.desk.intake.enginewords import added_engines, engine_label
from dubrel.desk.shell.core.asking import ask_which
from dubrel.desk.shell.core.desk import Desk
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.edits.words.readings import Difference

if TYPE_CHECKING:  # the window opens without what computes
    from dubrel.jobs.transcribing.secondreading import Comparison


class WordingQuestions:
    """Asks what to compare with."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def engine(self) -> str | None:
        """A recogniser to compare with."""
        names = ["builtin", *SETTINGS.read().engines, *added_engines()]
        shown = [engine_label(name) for name in names]
        chosen = ask_which(self.host, tr("Compare"), tr("Compare with"), tr("Compare"), shown)
        return names[shown.index(chosen)] if chosen is not None else None

    def reference(self) -> Path | None:
        """A reference text."""
        from dubrel.formats.scripts import SCRIPTS  # late: starting the desk does not need it

        found, _ = QtWidgets.QFileDialog.getOpenFileName(
            self.host,
            tr("Open a reference text"),
            "",
            tr("Texts ({scripts});;All files (*)").format(scripts=SCRIPTS),
        )
        return Path(found) if found else None

    def term_list(self) -> Path | None:
        """A list of terms to import."""
        kinds = tr("Lists of terms (*.csv *.tsv *.txt);;All files (*)")
        found, _ = QtWidgets.QFileDialog.getOpenFileName(self.host, tr("Import terms"), "", kinds)
        return Path(found) if found else None

    def term_list_to(self) -> Path | None:
        """Where to write a list of terms."""
        found, _ = QtWidgets.QFileDialog.getSaveFileName(
            self.host, tr("Save the terms"), "terms.csv", tr("Lists of terms (*.csv)")
        )
        return Path(found) if found else None

    def suggestion(self, word: str, offers: list[str], at: QPoint) -> str | None:
        """One of several spellings, from a menu at the word; "" to keep the word as a term."""
        from PySide6.QtGui import QAction

        menu = QtWidgets.QMenu(self.host)
        for text in offers:
            action = QAction(text, menu)
            action.setData(text)
            menu.addAction(action)
        if not offers:
            menu.addAction(tr("No suggestions")).setEnabled(False)
        menu.addSeparator()
        keep = QAction(tr("Add “{word}” to the terms").format(word=word), menu)
        keep.setData("")
        menu.addAction(keep)
        menu.setActiveAction(menu.actions()[0])
        chosen = menu.exec(at)
        menu.deleteLater()
        return None if chosen is None or chosen.data() is None else str(chosen.data())

    def compare(
        self,
        found: Comparison,
        names: tuple[str, str],
        reference: bool,
        texts: Callable[[Difference], tuple[str, str, str]],
        play: Callable[[Difference], None],
        accept: Callable[[list[Difference]], None],
    ) -> None:
        """Show two readings side by side."""
        from dubrel.desk.wording.dialogs.compare import CompareDialog

        dialog = CompareDialog(found, names, reference, texts, self.host)
        dialog.play_wanted.connect(play)
        dialog.accept_wanted.connect(accept)
        dialog.exec()
