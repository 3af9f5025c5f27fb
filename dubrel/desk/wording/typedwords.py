"""After an edit, only the words that were typed are aligned, in the background, without being asked."""

from __future__ import annotations

import logging
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.session import Session
from dubrel.media.cache import is_read, sound_path
from dubrel.model import RecognisedWord
from dubrel.project.changes import Change
from dubrel.project.index import turn_with

if TYPE_CHECKING:
    from dubrel.edits.words.typedtimes import Run
    from dubrel.jobs.typedwords import Realigner

_REST_MS = 900


class TypedWords(QObject):
    """Watches the session for typed words and finds their times."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._turns: set[int] = set()
        self._tried: set[tuple[int, tuple[str, ...]]] = set()
        self._background = Background(self, until=session.opened)
        self._realigner: Realigner | None = None
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._begin)
        session.changed.connect(self._on_changed)
        session.opened.connect(self._forget)

    @property
    def busy(self) -> bool:
        """Whether words are being aligned."""
        return self._background.busy or self._rest.isActive()

    def close(self) -> None:
        """Let the process go."""
        self._rest.stop()
        self._background.close()
        if self._realigner is not None:
            self._realigner.close()
            self._realigner = None

    def _forget(self) -> None:
        self._turns.clear()
        self._tried.clear()

    def _on_changed(self, change: Change) -> None:
        if change.old.media is change.new.media and change.turns:
            self._turns |= change.turns
            self._rest.start()

    def _begin(self) -> None:
        from dubrel.edits.words.typedtimes import typed_runs_over  # late: the window opens without it

        project = self.session.project
        turns, self._turns = self._turns, set()
        recording = self.session.recording
        if recording is None or not is_read(recording):
            return
        there = [one for one in turns if turn_with(project, one) is not None]
        for run in typed_runs_over(project, there):
            if (run.ids[0], run.texts) not in self._tried:
                self._tried.add((run.ids[0], run.texts))
                language = project.transcript.language
                future = self._worker().submit(sound_path(recording), language, run)
                self._background.ask(future, partial(self._take, run), self._on_failed)

    def _worker(self) -> Realigner:
        if self._realigner is None:
            from dubrel.jobs.typedwords import Realigner  # late: starting the desk does not need it

            self._realigner = Realigner()
        return self._realigner

    def _take(self, run: Run, heard: list[RecognisedWord]) -> None:
        from dubrel.edits.words.typedtimes import with_times  # late: the window opens without it

        self.session.amend(partial(with_times, run=run, heard=heard))

    def _on_failed(self, error: Exception) -> None:
        logging.error("aligning typed words", exc_info=error)
        self.close()
