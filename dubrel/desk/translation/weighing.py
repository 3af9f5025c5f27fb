"""Translations are weighed in the background: what they mean, what they say translated back."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.translation.findings import TranslationFindings
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.jobs.weighing import Weigher
    from dubrel.model import Weighed

_REST_MS = 700
_PIECE = 12  # pairs at once: what is seen is known soon
_RECALLED = 400  # the same of those that may be known from before


class Weighing(QObject):
    """Has unweighed translations of the watched track weighed, some at a time, while its room is shown."""

    def __init__(self, desk: Desk, findings: TranslationFindings) -> None:
        super().__init__()
        self.desk, self.findings = desk, findings
        self.on = False
        self._weigher: Weigher | None = None
        self._background = Background(self, until=desk.session.opened)
        self._recalled: set[tuple[str, str]] = set()
        self._tried: set[tuple[str, str]] = set()
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._next)
        findings.counted.connect(self._wait)
        desk.session.opened.connect(self._forget)

    @property
    def busy(self) -> bool:
        """Whether something is being weighed."""
        return self._background.busy

    def turn_on(self, on: bool) -> None:
        """Weigh what is not weighed yet, or rest."""
        self.on = on
        if on:
            self._next()

    def _wait(self) -> None:
        if self.on and not self.busy and not self._rest.isActive():
            self._rest.start()

    def _forget(self) -> None:
        self._tried.clear()
        self._recalled.clear()

    def _next(self) -> None:
        track, project = self.findings.track, self.desk.session.project
        fresh = [one for one in self.findings.unweighed if one not in self._recalled][:_RECALLED]
        pairs = fresh or [one for one in self.findings.unweighed if one not in self._tried][:_PIECE]
        if not self.on or self.busy or track is None or not pairs:
            return
        if self.desk.jobs.runs("translate"):  # it weighs what it translates, and needs both cores
            self._rest.start()
            return
        from dubrel.jobs.weighing import Weigher  # late: starting the desk does not need it
        from dubrel.translation.choosing import way_back

        if self._weigher is None:
            self._weigher = Weigher()
        source = project.transcript.language
        if fresh:
            self._recalled.update(fresh)
            future = self._weigher.recall(fresh, source, track.language)
        else:
            back = way_back(source, track.language, SETTINGS.read().translators)
            self._tried.update(pairs)
            future = self._weigher.submit(pairs, source, track.language, back)
        self._background.ask(future, partial(self._take, track.id), self._on_failed)

    def _on_failed(self, error: Exception) -> None:
        """A process that ended, or no encoder: nothing is said about the meaning."""
        logging.error("weighing translations", exc_info=error)
        self.close()

    def _take(self, track_id: int, found: Sequence[Weighed]) -> None:
        if track_id == self.findings.track_id:
            self.findings.weighed(found)
        self._next()

    def close(self) -> None:
        """Let the process go."""
        self._background.close()
        self._rest.stop()
        if self._weigher is not None:
            self._weigher.close()
            self._weigher = None
