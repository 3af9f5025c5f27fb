"""Terms: what is written how, and the likely places where one was transcribed as something else."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QLineEdit

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import write_text
from dubrel.base.value import replace
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.questions import WordingQuestions
from dubrel.desk.wording.rows import Row
from dubrel.desk.wording.spellingmarks import SpellingMarks
from dubrel.edits.words.terms import bare, clashes, merged, with_term, without_term
from dubrel.finding.termspots import TermSpot, accepted, term_spots
from dubrel.formats.words.termlist import read_terms, write_terms
from dubrel.model import Project, Term
from dubrel.user.terms import TERMS

_VIEWS = {
    "places": tr("Likely places"),
    "list": tr("This project’s terms"),
    "kept": tr("Terms for all projects"),
}


class TermsPage(DrawerPage):
    """Proposes terms at places, and keeps the list."""

    id, name = "terms", tr("Terms")

    def __init__(
        self, desk: Desk, sheet: TypingSheet, ask: WordingQuestions, spelling: SpellingMarks
    ) -> None:
        self.ask, self.spelling = ask, spelling
        self._skipped: set[tuple[int, ...]] = set()
        super().__init__(desk, sheet)
        self.session.opened.connect(self._skipped.clear)

    def fill_top(self) -> None:
        """What is listed, a field for a new term, and what can be done."""
        self.view = self.choice(tr("What is listed"), _VIEWS, self._changed)
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("New term, or Term = way it was transcribed"))
        self.field.setAccessibleName(tr("New term"))
        self.field.returnPressed.connect(self.add)
        self.top.addWidget(self.field, 1)
        self.top.addWidget(self.summary)
        self.skip = self.act(tr("Skip"), self.skip_row)
        self.accept_one = self.act(tr("Accept"), self.accept_row)
        self.accept_all = self.act(tr("Accept ticked"), self.accept_ticked, True)
        self.remove = self.act(
            tr("Remove"), lambda: self.remove_row(self.list.row) if self.list.row else None
        )
        self.open_file, self.save_file = (
            self.act(tr("Import"), self.import_list),
            self.act(tr("Save as CSV"), self.save_list),
        )
        self._changed()

    def _changed(self) -> None:
        places = self.view.currentData() == "places"
        for one in (self.skip, self.accept_one, self.accept_all):
            one.setVisible(places)
        for one in (self.remove, self.open_file, self.save_file):
            one.setVisible(not places)
        if hasattr(self, "empty"):
            self.refresh()

    def begin(self) -> None:
        """The selected word stands in the field."""
        chosen = self.sheet.selected_text().strip()
        if chosen and len(chosen.split()) <= 3:
            self.field.setText(bare(chosen))
        (self.list if self.list.rows and not chosen else self.field).setFocus()

    # -- listing -------------------------------------------------------------------------

    def terms(self) -> tuple[Term, ...]:
        """The project's terms and those for all projects."""
        return merged(self.session.project.terms, self.desk.known_terms())

    def rows(self, project: Project) -> Sequence[Row]:
        """Likely places, the most certain first; or a list of terms."""
        view = self.view.currentData()
        if view == "places":
            return self._places(project)
        terms = project.terms if view == "list" else TERMS.read()
        return [
            Row(
                0,
                0,
                (),
                None,
                one.right,
                trail=f"  {self._about(one)}",
                of=one,
                note=self._count(project, one),
            )
            for one in terms
        ]

    @staticmethod
    def _about(one: Term) -> str:
        ways = tr("transcribed as {listed}").format(listed=", ".join(one.heard)) if one.heard else ""
        others = ", ".join(f"{language}: {text}" for language, text in one.translations)
        return "; ".join(part for part in (ways, one.note, others) if part)

    @staticmethod
    def _count(project: Project, one: Term) -> str:
        from dubrel.finding.words import Query, find

        count = len(find(project, Query(one.right, whole=True)))
        return counted(count, "time") if count else tr("not said")

    def _places(self, project: Project) -> list[Row]:
        terms = self.terms()
        if not terms:
            return []
        spots = beside(partial(term_spots, project, terms, None, self.spelling.knows))
        rows = []
        for spot in spots:
            ids = tuple(word.id for word in spot.words)
            if ids not in self._skipped:
                sure = spot.certainty >= 0.6
                row = self.row_of(
                    ids, becomes=spot.becomes, note=f"{spot.certainty:.0%}", ticked=sure, of=spot
                )
                rows += [row] if row else []
        return rows

    def why_empty(self) -> str:
        """What an empty list says."""
        if self.view.currentData() == "places":
            if not self.terms():
                return tr(
                    "No terms yet. Type a name or a trade term above; every place where it was transcribed as"
                    " something else is listed here."
                )
            return self.desk.without_words() or tr("No likely places are left.")
        return tr("No terms yet. Type one above, or import a CSV file.")

    def say_how_many(self) -> None:
        """How many places are ticked."""
        rows = self.list.rows
        if self.view.currentData() == "places":
            self.summary.setText(
                tr("{some} of {places}").format(
                    some=len(self.list.ticked()), places=counted(len(rows), "place")
                )
                if rows
                else ""
            )
        else:
            self.summary.setText(counted(len(rows), "term") if rows else "")
        for one in (self.skip, self.accept_one, self.accept_all, self.remove):
            one.setEnabled(bool(rows))

    # -- places --------------------------------------------------------------------------

    def accept_row(self) -> None:
        """Put the term in at the current place."""
        if self.list.row is not None and isinstance(self.list.row.of, TermSpot):
            self._accept([self.list.row.of])

    def accept_ticked(self) -> None:
        """Put terms in at every ticked place, as one step."""
        self._accept([row.of for row in self.list.ticked()])

    def _accept(self, spots: Sequence[TermSpot]) -> None:
        if not spots:
            return
        self.session.step(
            lambda project: accepted(project, spots),
            tr("Accept {terms}").format(terms=counted(len(spots), "term")),
        )
        self.desk.say(tr("Accepted: {places}.").format(places=counted(len(spots), "place")))
        self.refresh()

    def skip_row(self) -> None:
        """Leave the current place as it is and propose it no more."""
        if self.list.row is not None:
            self._skipped.add(self.list.row.words)
            self.refresh()

    # -- the list ------------------------------------------------------------------------

    def add(self) -> None:
        """Add what is typed to the list that is shown (or to the project's)."""
        right, _, way = (part.strip() for part in self.field.text().partition("="))
        if not right:
            return
        if not self.learn(Term(" ".join(right.split())[:200], (way,) if way and way != right else ())):
            return
        self.field.clear()
        self.refresh()

    def learn(self, term: Term) -> bool:
        """Take a term into the list that is shown; whether that could be."""
        clash = clashes(merged(self.terms(), [term]))
        if self.view.currentData() == "kept":
            TERMS.write(merged(TERMS.read(), [term]))
        else:
            self.session.step(
                lambda project: with_term(project, term),
                tr("Add the term “{right}”").format(right=term.right),
            )
        said = tr("Added: {right}.").format(right=term.right)
        if clash:
            way, one, other = clash[0]
            said += tr(" “{way}” is given for both “{one}” and “{other}”.").format(
                way=way, one=one, other=other
            )
        self.spelling.terms_changed()
        self.desk.say(said)
        return True

    def remove_row(self, row: Row) -> None:
        """Take a term off the list that is shown."""
        if not isinstance(row.of, Term):
            return
        if self.view.currentData() == "kept":
            TERMS.write(tuple(one for one in TERMS.read() if one.right != row.of.right))
        else:
            right = row.of.right
            self.session.step(
                lambda project: without_term(project, right),
                tr("Remove the term “{right}”").format(right=right),
            )
        self.spelling.terms_changed()
        self.refresh()

    def import_list(self) -> None:
        """Add the terms of a CSV file."""
        path = self.ask.term_list()
        if path is None:
            return
        try:
            terms, said = beside(partial(read_terms, path))
            if self.view.currentData() == "kept":
                TERMS.write(merged(TERMS.read(), terms))
            else:
                self.session.step(
                    lambda project: replace(project, terms=merged(project.terms, terms)), tr("Import terms")
                )
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.spelling.terms_changed()
        self.desk.say(
            " ".join(
                [
                    tr("{terms} from “{name}”.").format(terms=counted(len(terms), "term"), name=path.name),
                    *said,
                ]
            )
        )
        self.refresh()

    def save_list(self) -> None:
        """Write the list that is shown as CSV."""
        path: Path | None = self.ask.term_list_to()
        if path is None:
            return
        terms = TERMS.read() if self.view.currentData() == "kept" else self.session.project.terms
        try:
            write_text(path, write_terms(terms))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.say(tr("Written: {path}.").format(path=path))
