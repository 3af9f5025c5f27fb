"""Translations are weighed in the background: what they mean, what they say translated back."""

from __future__ import annotations

import logging
from concurrent.futures import Future
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from dubrel.desk.shell.desk import Desk
from dubrel.desk.translation.watch import Watch
from dubrel.user.settings import load_settings

if TYPE_CHECKING:
    from dubrel.jobs.weighing import Weigher
    from dubrel.model import Weighed

_POLL_MS, _REST_MS = 80, 700
_PIECE = 12  # pairs at once: what is seen is known soon
_RECALLED = 400  # the same of those that may be known from before


class Weighing(QObject):
    """Has unweighed translations of the watched track weighed, some at a time, while its room is shown."""

    def __init__(self, desk: Desk, watch: Watch) -> None:
        super().__init__()
        self.desk, self.watch = desk, watch
        self.on = False
        self._weigher: Weigher | None = None
        self._work: tuple[Future[list[Weighed]], int] | None = None
        self._recalled: set[tuple[str, str]] = set()
        self._tried: set[tuple[str, str]] = set()
        self._poll = QTimer(self, interval=_POLL_MS)
        self._poll.timeout.connect(self._take)
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._next)
        watch.counted.connect(self._wait)
        desk.session.opened.connect(self._forget)

    @property
    def busy(self) -> bool:
        """Whether something is being weighed."""
        return self._work is not None

    def turn_on(self, on: bool) -> None:
        """Weigh what is not weighed yet, or rest."""
        self.on = on
        if on:
            self._next()

    def _wait(self) -> None:
        if self.on and self._work is None and not self._rest.isActive():
            self._rest.start()

    def _forget(self) -> None:
        self._tried.clear()
        self._recalled.clear()

    def _next(self) -> None:
        track, project = self.watch.track, self.desk.session.project
        fresh = [one for one in self.watch.unweighed if one not in self._recalled][:_RECALLED]
        pairs = fresh or [one for one in self.watch.unweighed if one not in self._tried][:_PIECE]
        if not self.on or self._work is not None or track is None or not pairs:
            return
        if self.desk.lanes.runs("translate"):  # it weighs what it translates, and needs both cores
            self._rest.start()
            return
        from dubrel.jobs.weighing import Weigher  # late: starting the desk does not need it
        from dubrel.translation.choosing import way_back

        if self._weigher is None:
            self._weigher = Weigher()
        source = project.transcript.language
        if fresh:
            self._recalled.update(fresh)
            self._work = (self._weigher.recall(fresh, source, track.language), track.id)
        else:
            back = way_back("", source, track.language, load_settings().translators)
            self._tried.update(pairs)
            self._work = (self._weigher.submit(pairs, source, track.language, back), track.id)
        self._poll.start()

    def _take(self) -> None:
        if self._work is None or not self._work[0].done():
            return
        (future, track_id), self._work = self._work, None
        self._poll.stop()
        try:
            found = future.result()
        except Exception:  # a process that ended, or no encoder: nothing is said about the meaning
            logging.exception("weighing translations")
            self.close()
            return
        if track_id == self.watch.track_id:
            self.watch.weighed(found)
        self._next()

    def close(self) -> None:
        """Let the process go."""
        self._poll.stop()
        self._rest.stop()
        self._work = None
        if self._weigher is not None:
            self._weigher.close()
            self._weigher = None
