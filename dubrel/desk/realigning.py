"""After an edit, only what changed is lined up again, in the background, without being asked."""

from __future__ import annotations

import logging
from concurrent.futures import Future
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from dubrel.desk.session import Change, Session
from dubrel.edits.realign import Run, typed_runs, with_times
from dubrel.media.cache import is_read, sound_path

if TYPE_CHECKING:
    from dubrel.edits.intake import HeardWord
    from dubrel.jobs.realign import Realigner

_REST_MS = 900
_POLL_MS = 120


class Realigning(QObject):
    """Watches the session for typed words and finds their times."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._turns: set[int] = set()
        self._tried: set[tuple[int, tuple[str, ...]]] = set()
        self._waiting: list[tuple[Run, Future[list[HeardWord]]]] = []
        self._realigner: Realigner | None = None
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._begin)
        self._poll = QTimer(self, interval=_POLL_MS)
        self._poll.timeout.connect(self._take)
        session.changed.connect(self._on_changed)
        session.opened.connect(self._forget)

    @property
    def busy(self) -> bool:
        """Whether words are being lined up."""
        return bool(self._waiting) or self._rest.isActive()

    def close(self) -> None:
        """Let the process go."""
        self._rest.stop()
        self._poll.stop()
        if self._realigner is not None:
            self._realigner.close()
            self._realigner = None

    def _forget(self) -> None:
        self._turns.clear()
        self._tried.clear()
        self._waiting.clear()

    def _on_changed(self, change: Change) -> None:
        window = change.turns
        if change.old.media is not change.new.media or window.new_stop - window.start > 8:
            return  # another project, or words that were heard
        self._turns.update(turn.id for turn in change.new.transcript.turns[window.start : window.new_stop])
        if self._turns:
            self._rest.start()

    def _begin(self) -> None:
        media = self.session.project.media
        if media is None or not is_read(media):
            self._turns.clear()
            return
        transcript = self.session.project.transcript
        wanted = [turn for turn in transcript.turns if turn.id in self._turns]
        self._turns.clear()
        for run in (run for turn in wanted for run in typed_runs(turn)):
            if (run.ids[0], run.texts) not in self._tried:
                self._tried.add((run.ids[0], run.texts))
                self._waiting.append(
                    (run, self._worker().submit(sound_path(media), transcript.language, run))
                )
        if self._waiting:
            self._poll.start()

    def _worker(self) -> Realigner:
        if self._realigner is None:
            from dubrel.jobs.realign import Realigner  # late: starting the desk does not need it

            self._realigner = Realigner()
        return self._realigner

    def _take(self) -> None:
        for run, future in [one for one in self._waiting if one[1].done()]:
            self._waiting.remove((run, future))
            try:
                heard = future.result()
            except Exception:
                logging.exception("lining up typed words")
                self.close()
                continue
            self.session.amend(partial(with_times, run=run, heard=heard), self.session.history.depth)
        if not self._waiting:
            self._poll.stop()
