"""What it is about: chapters proposed, key sentences, quotes, key terms; each plays, and becomes a note."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QSpinBox

from dubrel.base.catalogue import counted, tr
from dubrel.base.timecode import format_clock
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.wording.drawerpage import DrawerPage
from dubrel.desk.wording.rows import Row
from dubrel.edits.notes import CHAPTER, CLIP, PICTURE, SHOW, phrase_of, with_notes_added
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Project
from dubrel.project.index import words_with

if TYPE_CHECKING:
    from dubrel.project.sentences import Sentence

_VIEWS = {
    "chapters": tr("Chapters"),
    "summary": tr("Key sentences"),
    "quotes": tr("Quotes"),
    "terms": tr("Key terms"),
    "pictures": tr("Pictures wanted"),
}
_NOTES = {"chapters": CHAPTER, "summary": SHOW, "quotes": CLIP, "terms": SHOW, "pictures": PICTURE}
_BY_WORDS = ("terms", "pictures")  # for which nothing has to be encoded
_WORDS_A_STEP = 25


class TopicsPage(DrawerPage):
    """Proposes from what was said; nothing is invented."""

    id, name = "topics", tr("What it is about")

    def __init__(self, desk: Desk, sheet: TypingSheet, meanings: Meanings) -> None:
        self.meanings = meanings
        self._counted_for: object = None
        super().__init__(desk, sheet)
        meanings.changed.connect(self.refresh_soon)
        meanings.failed.connect(self._on_failed)

    def fill_top(self) -> None:
        """What is listed and how much of it."""
        self.view = self.choice(tr("What is listed"), _VIEWS, self._changed)
        self.count = QSpinBox()
        self.count.setAccessibleName(tr("How many"))
        self.count.valueChanged.connect(lambda _value: self._rest.start())
        self.top.addWidget(self.count)
        self.top.addWidget(self.summary)
        self.top.addStretch(1)
        self.copy = self.act(tr("Copy"), self.copy_list)
        self.accept_one = self.act(tr("Accept"), self.accept_row)
        self.accept_all = self.act(tr("Accept ticked"), self.accept_ticked, True)
        self._limits()

    def _on_failed(self, text: str) -> None:
        if self.isVisible():
            self.desk.say(text)

    def start(self, view: str) -> None:
        """Begin with a list."""
        self.view.setCurrentIndex(self.view.findData(view))
        self._changed()

    def _changed(self) -> None:
        self._counted_for = None
        self.list.show_rows([])
        self.refresh()

    def _limits(self) -> None:
        """How much can be asked for, and how much is asked for first."""
        from dubrel.finding.topics import usual_count

        view, media = self.view.currentData(), self.session.project.media
        turns = self.session.project.transcript.turns
        length = media.duration_ms if media else turns[-1].end_ms if turns else 0
        low, high, first, step, suffix = {
            "chapters": (2, 40, usual_count(length), 1, tr(" chapters")),
            "summary": (25, 2000, 150, _WORDS_A_STEP, tr(" words")),
            "quotes": (1, 60, 12, 1, tr(" quotes")),
            "terms": (1, 100, 20, 1, tr(" terms")),
            "pictures": (1, 200, 20, 1, tr(" pictures")),
        }[view]
        self.count.blockSignals(True)
        self.count.setRange(low, high)
        self.count.setSingleStep(step)
        self.count.setSuffix(suffix)
        self.count.setValue(first)
        self.count.blockSignals(False)

    def rows(self, project: Project) -> Sequence[Row]:
        """The chosen list."""
        key = (self.view.currentData(), id(self.session.history))
        if self._counted_for != key:
            self._counted_for = key
            self._limits()
        sentences = self.meanings.sentences()
        if not sentences or (self.view.currentData() not in _BY_WORDS and self.meanings.prepare(sentences)):
            return []
        return beside(lambda: self._listed(project, sentences))

    def _listed(self, project: Project, sentences: Sequence[Sentence]) -> list[Row]:
        from dubrel.finding import topics

        view, count, language = self.view.currentData(), self.count.value(), project.transcript.language
        if view == "terms":
            return [
                self._row(sentences[place], text, counted(times, "time"))
                for text, times, place in topics.key_terms(sentences, language, count)
            ]
        if view == "pictures":
            return self._pictures(project, sentences)
        vectors = self.meanings.index.matrix(sentences)
        if view == "chapters":
            found = topics.chapters(sentences, vectors, count, language)
            known = {one.start_ms for one in project.notes if one.kind == CHAPTER}
            return [
                self._row(
                    sentences[one.first],
                    one.title,
                    "" if one.start_ms not in known else tr("there already"),
                    one.start_ms not in known,
                )
                for one in found
            ]
        if view == "summary":
            return [self._row(sentences[k]) for k in topics.key_sentences(sentences, vectors, count)]
        doubts = [max((w.doubt for w in words_with(project, one.words)), default=0.0) for one in sentences]
        return [self._row(sentences[k]) for k in topics.quotes(sentences, vectors, doubts, count)]

    def _pictures(self, project: Project, sentences: Sequence[Sentence]) -> list[Row]:
        """Sentences that name what could be shown; those with such a note already are not ticked."""
        from dubrel.finding.clips.showable import showable

        known = {one.start_ms for one in project.notes if one.kind == PICTURE}
        found = showable(sentences, project.transcript.language, self.count.value())
        return [
            self._row(
                sentences[one.place],
                ", ".join(one.things),
                tr("there already") if sentences[one.place].start_ms in known else "",
                sentences[one.place].start_ms not in known,
            )
            for one in found
        ]

    @staticmethod
    def _row(one: Sentence, title: str = "", note: str = "", ticked: bool = True) -> Row:
        return Row(
            one.start_ms,
            one.end_ms,
            one.words,
            one.speaker,
            title or one.text,
            trail=f"  {one.text}" if title else "",
            note=note,
            ticked=ticked,
            of=title or one.text,
            named=bool(title),
        )

    def why_empty(self) -> str:
        """What an empty list says."""
        if reason := self.desk.without_words():
            return reason
        return (
            tr("Looking through what was said.")
            if self.meanings.busy
            else tr("There is too little to choose from.")
        )

    def say_how_many(self) -> None:
        """How many are ticked."""
        rows, view = self.list.rows, self.view.currentData()
        words = sum(len(row.text.split()) for row in self.list.ticked())
        said = tr("{some:,} of {all:,}").format(some=len(self.list.ticked()), all=len(rows)) if rows else ""
        self.summary.setText(f"{said}, {counted(words, 'word')}" if rows and view == "summary" else said)
        for one in (self.copy, self.accept_one, self.accept_all):
            one.setEnabled(bool(rows))
        kind = tr(phrase_of(_NOTES[view]))
        self.accept_all.setToolTip(tr("Make a {kind} of each").format(kind=kind))

    def accept_row(self) -> None:
        """Make a note of the current row and go to the next."""
        if self.list.row is not None:
            self._accept([self.list.row])

    def accept_ticked(self) -> None:
        """Make a note of each ticked row, as one step."""
        self._accept(self.list.ticked())

    def _accept(self, rows: Sequence[Row]) -> None:
        kind = _NOTES[self.view.currentData()]
        new = [(kind, row.of, row.words) for row in rows]
        if new:
            label = tr("Accept {new}").format(new=counted(len(new), tr(phrase_of(kind))))
            self.session.step(lambda project: with_notes_added(project, new), label)
            self.desk.say(tr("Added: {new}.").format(new=counted(len(new), tr(phrase_of(kind)))))

    def copy_list(self) -> None:
        """Copy what is ticked, with speaker and time."""
        project = self.session.project
        lines = []
        for row in self.list.ticked():
            who = shown_name(project, row.speaker) if row.speaker else ""
            time = format_clock(row.start_ms, digits=0)
            quote = self.view.currentData() in ("summary", "quotes")
            lines.append(f"“{row.text}” – {who}, {time}" if quote and who else f"{time}  {row.text}")
        QGuiApplication.clipboard().setText("\n".join(lines))
        self.desk.say(tr("Copied: {lines}.").format(lines=counted(len(lines), "line")))
