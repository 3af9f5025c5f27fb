"""The glossary: the terms of the project with what they are in the other language."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.value import replace
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Space
from dubrel.desk.shell.kit.widgets import button, label, plain_table, titled_box
from dubrel.edits.words.terms import with_term, without_term
from dubrel.model import Project, Term
from dubrel.translation.glossary import glossary_clashes

_TERM, _TRANSLATION, _FORMS, _THEIR_FORMS, _FORBIDDEN, _KEEP, _CASED, _NOTE = range(8)
_TICKED, _EMPTY = Qt.CheckState.Checked, Qt.CheckState.Unchecked


@guarded
class GlossaryDialog(QDialog):
    """A table in which everything can be typed over; each change is a step that can be undone."""

    def __init__(self, desk: Desk, language: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.desk, self.session, self.language = desk, desk.session, language
        name = tr(language_name(language))
        self.setWindowTitle(tr("Glossary"))
        self.resize(1040, 520)
        box = titled_box(self, tr("Glossary"))
        about = label(
            tr(
                "Terms are put into translations as they stand here, and checked. Several forms are "
                "separated by semicolons; the first form of the translation belongs to the first of "
                "the term."
            ),
            "quiet",
        )
        about.setWordWrap(True)
        box.addWidget(about)
        self.table = QTableWidget(0, 8)
        heads = [
            tr("Term"),
            name,
            tr("Forms"),
            tr("{name} forms").format(name=name),
            tr("Never"),
            tr("Keep as is"),
            tr("Capitals"),
            tr("Note"),
        ]
        plain_table(self.table, tr("Glossary"), heads)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        for column in (_KEEP, _CASED):
            self.table.horizontalHeader().setSectionResizeMode(
                column, QHeaderView.ResizeMode.ResizeToContents
            )
        self.table.itemChanged.connect(self._typed)
        box.addWidget(self.table, 1)
        self.says = label("", "look")
        self.says.setWordWrap(True)
        box.addWidget(self.says)
        row = QHBoxLayout()
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Another term"))
        self.field.setAccessibleName(tr("Another term"))
        self.field.returnPressed.connect(self._add)
        self.add, self.remove = button(tr("Add")), button(tr("Remove"))
        self.add.clicked.connect(self._add)
        self.remove.clicked.connect(self._remove)
        close = button(tr("Close"), primary=True)
        close.clicked.connect(self.accept)
        for one in (self.add, self.remove, close):
            one.setAutoDefault(False)
        row.addWidget(self.field, 1)
        row.addWidget(self.add)
        row.addWidget(self.remove)
        row.addSpacing(Space.EDGE)
        row.addWidget(close)
        box.addLayout(row)
        self._fill()

    def _fill(self) -> None:
        terms = self.session.project.terms
        self.table.blockSignals(True)
        self.table.setRowCount(len(terms))
        for row, one in enumerate(terms):
            texts = {
                _TERM: one.right,
                _TRANSLATION: dict(one.translations).get(self.language, ""),
                _FORMS: "; ".join(one.inflected("")),
                _THEIR_FORMS: "; ".join(one.inflected(self.language)),
                _FORBIDDEN: "; ".join(form for tag, form in one.forbidden if tag == self.language),
                _NOTE: one.note,
            }
            for column, text in texts.items():
                self.table.setItem(row, column, QTableWidgetItem(text))
            for column, on in ((_KEEP, one.keep), (_CASED, one.cased)):
                tick = QTableWidgetItem("")
                tick.setFlags(Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEnabled)
                tick.setCheckState(_TICKED if on else _EMPTY)
                self.table.setItem(row, column, tick)
        self.table.blockSignals(False)
        self.says.setText(" ".join(glossary_clashes(terms)[:2]))
        if not terms:
            self.says.setText(tr("No terms yet. Add one below, or import a list in Wording."))

    def _typed(self, item: QTableWidgetItem) -> None:
        terms = self.session.project.terms
        row = item.row()
        if row >= len(terms):
            return
        made = self._read(row, terms[row])
        if not made.right:
            self._fill()
            return
        changed = tuple(
            made if nth == row else one
            for nth, one in enumerate(terms)
            if nth == row or one.right != made.right
        )
        self._apply(
            lambda project: replace(project, terms=changed),
            tr("Change the term “{right}”").format(right=made.right),
        )

    def _read(self, row: int, term: Term) -> Term:
        def text(column: int) -> str:
            found = self.table.item(row, column)
            return " ".join(found.text().split())[:200] if found else ""

        def several(column: int) -> list[str]:
            return [one.strip() for one in text(column).split(";") if one.strip()]

        def ticked(column: int) -> bool:
            found = self.table.item(row, column)
            return found is not None and found.checkState() == _TICKED

        language = self.language
        others = [pair for pair in term.translations if pair[0] != language]
        forms = [pair for pair in term.forms if pair[0] not in ("", language)]
        return replace(
            term,
            right=text(_TERM),
            note=text(_NOTE),
            translations=(*others, *([(language, text(_TRANSLATION))] if text(_TRANSLATION) else [])),
            forms=(
                *forms,
                *(("", one) for one in several(_FORMS)),
                *((language, one) for one in several(_THEIR_FORMS)),
            ),
            forbidden=(
                *(pair for pair in term.forbidden if pair[0] != language),
                *((language, one) for one in several(_FORBIDDEN)),
            ),
            keep=ticked(_KEEP),
            cased=ticked(_CASED),
        )

    def _add(self) -> None:
        right = " ".join(self.field.text().split())[:200]
        if right:
            self.field.clear()
            self._apply(
                lambda project: with_term(project, Term(right)),
                tr("Add the term “{right}”").format(right=right),
            )

    def _remove(self) -> None:
        row, terms = self.table.currentRow(), self.session.project.terms
        if 0 <= row < len(terms):
            right = terms[row].right
            self._apply(
                lambda project: without_term(project, right),
                tr("Remove the term “{right}”").format(right=right),
            )

    def _apply(self, verb: Callable[[Project], Project], label_: str) -> None:
        try:
            self.session.step(verb, label_)
        except DubrelError as error:
            self.says.setText(str(error))
            return
        self._fill()
