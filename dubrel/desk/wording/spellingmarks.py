"""Spelling while typing: words that the dictionary does not know are marked, beside the interface."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.desk.shell.core.background import Background, beside
from dubrel.desk.shell.core.session import Session
from dubrel.model import Turn
from dubrel.project.changes import Change
from dubrel.user.terms import TERMS

if TYPE_CHECKING:
    from dubrel.finding.spelling import Spelling

_REST_MS = 250  # the first frame shows the text, a later one the marks


def _loaded(language: str, own: tuple[str, ...]) -> Spelling:
    from dubrel.finding.spelling import Spelling  # late: beside the interface

    made = Spelling(language, own)
    made.knows("boat")
    return made


class SpellingMarks(QObject):
    """Knows which words are spelt right.

    The dictionary is loaded in the background; until then every word is.

    Signals
    -------
    changed()
        What is marked may be another.
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.on = True
        self._spelling: Spelling | None = None
        self._language: str | None = None
        self._marks: dict[int, tuple[Turn, frozenset[int]]] = {}
        self._background = Background(self, newest=True)
        self._suggesting = Background(self, newest=True)
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._load)
        session.changed.connect(self._on_changed)

    def _on_changed(self, change: Change) -> None:
        project = change.new
        if not project.transcript.turns:
            return
        if project.transcript.language != self._language:
            self._language = project.transcript.language
            self._rest.start()
        elif change.old.terms is not change.new.terms or change.speakers:
            self.terms_changed()

    def _own(self) -> list[str]:
        """Names and terms are right."""
        project = self.session.project
        terms = [one.right for one in (*project.terms, *TERMS.read())]
        return [*terms, *(one.name for one in project.transcript.speakers if one.name)]

    def _load(self) -> None:
        language = self._language = self.session.project.transcript.language
        self._background.ask(partial(_loaded, language, tuple(self._own())), self._take)

    def _take(self, spelling: Spelling) -> None:
        """Have the dictionary once it is loaded; nothing of this object is touched by the thread."""
        self._spelling = spelling
        self._marks.clear()
        self.changed.emit()

    def terms_changed(self) -> None:
        """Names or terms are others."""
        if self._language is not None:
            self._rest.start()

    def close(self) -> None:
        """Wait for nothing any more."""
        self._rest.stop()
        self._background.close()
        self._suggesting.close()

    @property
    def there(self) -> bool:
        """Whether there is a dictionary of the project's language."""
        return self._spelling is not None and self._spelling.there

    def knows(self, text: str) -> bool:
        """Whether a word is spelt right, as far as is known."""
        return self._spelling is None or self._spelling.knows(text)

    def marked(self, turn: Turn) -> frozenset[int]:
        """Places of the words of a turn that are not spelt right."""
        if not self.on or self._spelling is None:
            return frozenset()
        known = self._marks.get(turn.id)
        if known is not None and known[0] is turn:
            return known[1]
        found = frozenset(
            place for place, word in enumerate(turn.words) if not word.struck and not self.knows(word.text)
        )
        if len(self._marks) > 4000:
            self._marks.clear()
        self._marks[turn.id] = (turn, found)
        return found

    def suggestions(self, text: str) -> list[str]:
        """What may have been meant; the user waits, while painting goes on."""
        spelling = self._spelling
        return beside(lambda: spelling.suggestions(text)) if spelling is not None else []

    def suggest(self, text: str, then: Callable[[list[str]], object], ahead: str = "") -> None:
        """Have what may have been meant told, and nothing that was asked for before.

        Parameters
        ----------
        text : str
        then : callable
            Gets the suggestions.
        ahead : str
            A word that is likely to be asked for next.
        """
        spelling = self._spelling
        if spelling is None:
            self._suggesting.forget()
            then([])
            return

        def told(found: list[str]) -> None:
            then(found)
            if ahead and not self._suggesting.busy:
                self._suggesting.ask(lambda: spelling.suggestions(ahead), lambda _: None)

        self._suggesting.ask(lambda: spelling.suggestions(text), told)
