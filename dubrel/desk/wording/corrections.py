"""Watches what is corrected: a correction made twice is offered as a term."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.desk.shell.core.session import Session
from dubrel.edits.words.terms import Correction, corrections
from dubrel.model import Project
from dubrel.project.changes import Change, change_between
from dubrel.user.terms import TERMS

_REST_MS = 1200
_TWICE = 2


class Corrections(QObject):
    """Counts corrections of single words.

    Signals
    -------
    offered(Correction)
        One was made for the second time, and is not a term yet.
    """

    offered = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._base: Project | None = None
        self._counts: Counter[Correction] = Counter()
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self.count)
        session.changed.connect(self._on_changed)
        session.opened.connect(self._forget)
        session.stepped_back.connect(self._drop)

    def _forget(self) -> None:
        self._base = None
        self._counts.clear()
        self._rest.stop()

    def _drop(self) -> None:
        """What is undone was not a correction."""
        self._base = None
        self._rest.stop()

    def _on_changed(self, change: Change) -> None:
        if change.turns and change.old.media is change.new.media and change.old.transcript.turns:
            if self._base is None:
                self._base = change.old
            self._rest.start()

    def count(self) -> None:
        """Count what was corrected since the hands last rested."""
        base, self._base = self._base, None
        if base is None:
            return
        project = self.session.project
        change = change_between(base, project)
        if len(change.turns) > 3:
            return  # a paste or a replacement, not a correction by hand
        for one in dict.fromkeys(corrections(change)):
            self._counts[one] += 1
            known = any(
                one.becomes == term.right and one.was in term.heard
                for term in (*project.terms, *TERMS.read())
            )
            if self._counts[one] == _TWICE and not known:
                self.offered.emit(one)
