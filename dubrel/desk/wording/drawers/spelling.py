"""Spelling: every word that the dictionary does not know, once, with where it stands."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QComboBox

from dubrel.base.catalogue import counted, tr
from dubrel.base.languages import language_name
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.desk.wording.spellingmarks import SpellingMarks
from dubrel.edits.words.terms import bare, with_term
from dubrel.edits.words.wording import replace_text
from dubrel.model import Project, Term
from dubrel.project.index import turn_of


class SpellingPage(DrawerPage):
    """Lists, corrects, and adds to the terms."""

    id, name = "spelling", tr("Spelling")

    def __init__(self, desk: Desk, sheet: TypingSheet, marks: SpellingMarks) -> None:
        self.marks, self._offered = marks, ""
        super().__init__(desk, sheet)
        marks.changed.connect(self.refresh_soon)

    def fill_top(self) -> None:
        """Suggestions for the current word, and what can be done."""
        self.top.addWidget(self.summary)
        self.top.addStretch(1)
        self.offers = QComboBox()
        self.offers.setAccessibleName(tr("Suggestions"))
        fixed(self.offers.setMinimumWidth, 180)
        self.top.addWidget(self.offers)
        self.correct = self.act(tr("Correct"), self.correct_row, True)
        self.correct_all = self.act(tr("Correct everywhere"), lambda: self.correct_row(everywhere=True))
        self.add = self.act(tr("Add to the terms"), self.add_row)
        self.list.chosen.connect(lambda _row: self._offer())

    def rows(self, project: Project) -> Sequence[Row]:
        """One row a place, in order."""
        found = []
        for turn in project.transcript.turns:
            for place in sorted(self.marks.marked(turn)):
                row = self.row_of([turn.words[place].id], of=bare(turn.words[place].text))
                found += [row] if row else []
        return found

    def why_empty(self) -> str:
        """What an empty list says."""
        if reason := self.desk.without_words():
            return reason
        if not self.marks.there:
            language = self.session.project.transcript.language
            return tr(
                "There is no dictionary of {language} on this machine. Install the "
                "package hunspell-{split}, or put its .aff and .dic file into the folder "
                "of your own dictionaries."
            ).format(language=tr(language_name(language)), split=language.split("-")[0])
        return tr("Every word is in the dictionary or in the terms.")

    def say_how_many(self) -> None:
        """How many places there are."""
        rows = self.list.rows
        self.summary.setText(counted(len(rows), "place") if rows else "")
        self.add.setEnabled(bool(rows))
        self._offer()

    def _offer(self) -> None:
        """Look for what may have been meant; it takes up to half a second."""
        row = self.list.row
        text = row.text if row is not None else ""
        if text != self._offered:
            self._show_offers([])
        self._offered = text
        self.offers.setPlaceholderText(tr("Looking…") if text else "")
        after = self.list.rows[self.list.rows.index(row) + 1 :] if row is not None else []
        ahead = next((one.text for one in after if row is not None and one.of != row.of), "")
        self.marks.suggest(text, self._show_found, ahead)

    def _show_found(self, found: Sequence[str]) -> None:
        self.offers.setPlaceholderText(tr("No suggestions") if self._offered else "")
        self._show_offers(found)

    def _show_offers(self, found: Sequence[str]) -> None:
        if list(found) != [self.offers.itemText(nth) for nth in range(self.offers.count())]:
            self.offers.clear()  # else the one that was chosen stays chosen
            self.offers.addItems(found)
            self.offers.setCurrentIndex(0 if found else -1)
        for one in (self.correct, self.correct_all, self.offers):
            one.setEnabled(bool(found))

    def correct_row(self, *, everywhere: bool = False) -> None:
        """Write the chosen suggestion at the current place, or wherever the word stands."""
        row, becomes = self.list.row, self.offers.currentText()
        if row is None or not becomes:
            return
        rows = [one for one in self.list.rows if one.of == row.of] if everywhere else [row]
        was, now = bare(row.text), bare(becomes)
        project = before = self.session.project
        for one in reversed(rows):
            turn = turn_of(project, one.words[0])
            if turn is not None:
                place = turn.index_of[one.words[0]]
                text = turn.words[place].text.replace(was, now, 1)
                start = turn.offsets[place]
                project = replace_text(project, turn.id, start, start + len(turn.words[place].text), text)
        self.session.apply(project, tr("Correct “{was}”").format(was=was), base=before)
        self.refresh()

    def add_row(self) -> None:
        """Say that the current word is right: it becomes a term of the project."""
        row = self.list.row
        if row is not None:
            term = Term(row.of)
            self.session.step(
                lambda project: with_term(project, term), tr("Add the term “{of}”").format(of=row.of)
            )
            self.refresh()
