"""Keep track: proofing and its rate, notes at the caret, spelling suggestions, terms that are offered."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from time import monotonic
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.wording.corrections import Corrections
from dubrel.desk.wording.questions import WordingQuestions
from dubrel.desk.wording.spellingmarks import SpellingMarks
from dubrel.edits.notes import CHAPTER, CLIP, PICTURE, QUERY, SHOW, phrase_of
from dubrel.edits.words.terms import Correction, bare, with_term
from dubrel.edits.words.wording import replace_text
from dubrel.model import Project, Term
from dubrel.project.index import turn_of

if TYPE_CHECKING:
    from dubrel.desk.wording.drawer import Drawer

_NOTE_KEYS = {
    SHOW: ("note_show", "Ctrl+Alt+N"),
    QUERY: ("note_query", "Ctrl+Alt+Q"),
    CHAPTER: ("note_chapter", "Ctrl+Alt+C"),
    CLIP: ("note_clip", "Ctrl+P"),
    PICTURE: ("note_picture", ""),
}


class Rate:
    """How fast turns are proofed: seconds of speech in a second of work, over the last ones."""

    def __init__(self) -> None:
        self._done: list[tuple[float, int]] = []

    def add(self, ms: int, at: float | None = None) -> None:
        """A turn was proofed."""
        self._done.append((monotonic() if at is None else at, ms))
        del self._done[:-12]

    def speed(self) -> float:
        """The present rate; 0 before it can be told, or after a long rest."""
        if len(self._done) < 3:
            return 0.0
        spent = self._done[-1][0] - self._done[0][0]
        speech = sum(ms for _, ms in self._done[1:]) / 1000
        return speech / spent if 1 <= spent <= 3600 else 0.0

    def forget(self) -> None:
        """Another project is open."""
        self._done.clear()


class ProofingTools:
    """Notes, spelling and terms at the caret."""

    def __init__(
        self,
        desk: Desk,
        sheet: TypingSheet,
        ask: WordingQuestions,
        marks: SpellingMarks,
        drawer: Callable[[], Drawer],
        chosen: Callable[[], list[int]],
    ) -> None:
        self.desk, self.sheet, self.session, self.ask = desk, sheet, desk.session, ask
        self.marks, self.drawer, self.chosen = marks, drawer, chosen
        self.corrections = Corrections(desk.session)
        self.corrections.offered.connect(self._offer)
        self._offered: Correction | None = None
        desk.session.opened.connect(self._forget)

    def commands(self) -> list[Command]:
        """What can be done, with the first keys."""
        words = self.desk.without_words
        notes = [
            Command(
                name,
                tr("Add a {kind}").format(kind=tr(phrase_of(kind))),
                keys,
                partial(self.add_note, kind),
                words,
                ("word", "selection"),
            )
            for kind, (name, keys) in _NOTE_KEYS.items()
        ]
        return [
            *notes,
            Command("spell", tr("Suggest spellings"), "Ctrl+;", self.suggest, words, ("word",)),
            Command(
                "learn",
                tr("Add the correction to the terms"),
                "Ctrl+Shift+N",
                self.learn,
                self._nothing_offered,
            ),
        ]

    def _forget(self) -> None:
        self._offered = None

    # -- notes -------------------------------------------------------------------------

    def add_note(self, kind: str) -> None:
        """Add a note at the chosen words, and write it."""
        ids = self.chosen()
        text = ""
        if kind == CLIP and ids:
            text = "Clip"
        self.drawer().open("notes").add(kind, ids, text)  # type: ignore[attr-defined]

    # -- spelling ----------------------------------------------------------------------

    def suggest(self) -> None:
        """Offer spellings of the word at the caret, in a menu beside it."""
        found = self.sheet.word_at_caret()
        if found is None or found[1] < 0:
            return
        turn, place = found
        word, history = turn.words[place], self.session.history
        at = self.sheet.viewport().mapToGlobal(self.sheet.caret_rect().bottomLeft().toPoint())
        chosen = self.ask.suggestion(bare(word.text), self.marks.suggestions(word.text), at)
        if chosen is None:
            return

        def corrected(project: Project) -> Project:  # words may have arrived meanwhile
            now = turn_of(project, word.id)
            here = now.index_of[word.id] if now is not None else 0
            if now is None or now.words[here].text != word.text:
                raise DubrelError(
                    tr("“{text}” is another word now. Nothing was changed.").format(text=bare(word.text))
                )
            start = now.offsets[here]
            return replace_text(project, now.id, start, start + len(word.text), chosen)

        if chosen:
            label = tr("Correct “{text}”").format(text=bare(word.text))
            self.session.step(corrected, label, within=history)
        else:
            term = Term(bare(word.text))
            label = tr("Add the term “{right}”").format(right=term.right)
            self.session.step(lambda project: with_term(project, term), label, within=history)

    # -- terms -------------------------------------------------------------------------

    def _nothing_offered(self) -> str:
        return "" if self._offered else tr("No correction was made twice.")

    def _offer(self, one: Correction) -> None:
        self._offered = one
        keys = self.desk.commands.keys("learn")
        self.desk.say(
            tr("“{was}” became “{becomes}” twice. {keys} adds it to the terms.").format(
                was=one.was, becomes=one.becomes, keys=keys
            )
        )

    def learn(self) -> None:
        """Make a term of the correction that was made twice, and list its other places."""
        one, self._offered = self._offered, None
        if one is None:
            return
        term = Term(one.becomes, (one.was,))
        self.session.step(
            lambda project: with_term(project, term), tr("Add the term “{right}”").format(right=term.right)
        )
        self.drawer().open("terms")
