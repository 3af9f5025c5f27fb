"""What a recording is like: its levels and kinds of sound, looked over in the background."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from dubrel.desk.shell.core.desk import Desk
from dubrel.media.cache import is_read
from dubrel.model import Survey

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event

_FIRST_FRAME_MS = 200  # a process is begun after what was opened has been drawn
WORDS = ("transcribe", "live", "align")  # kinds of jobs that make the words


class LookingOver:
    """Reads the file for the strip, and surveys it while the pass is shown.

    Parameters
    ----------
    desk : Desk
    show : callable
        Gets what was found, or ``None``.
    """

    def __init__(self, desk: Desk, show: Callable[[Survey | None], None]) -> None:
        self.desk, self._show, self._wanted = desk, show, False
        self._soon = QTimer(singleShot=True, interval=_FIRST_FRAME_MS)
        self._soon.timeout.connect(self.read)
        desk.stopping.append(self._soon.stop)

    def read_soon(self) -> None:
        """Read the file after the next frame."""
        self._soon.start()

    def begin(self) -> None:
        """The pass is shown: look the recording over."""
        self._wanted = True
        self._look_over()

    def end(self) -> None:
        """A look over the recording is not worth waiting for."""
        self._wanted = False
        self.desk.jobs.cancel("survey")

    def on_opened(self) -> None:
        """Another recording is there: it is read when what was opened has been drawn."""
        self.read_soon()
        if self._wanted:
            self._look_over()

    def read(self) -> None:
        """Read the file for the strip, if that has not been done."""
        jobs, recording = self.desk.jobs, self.desk.session.recording
        if recording is not None and recording.has_audio and not is_read(recording):
            jobs.start_on_recording("read", ended=self._when_read)

    def _when_read(self, whole: bool) -> None:
        self.desk.session.load_peaks()
        if whole and self._wanted:
            QTimer.singleShot(0, self._look_over)

    def _look_over(self) -> None:
        """Show levels and kinds of sound; find them first if that has not been done."""
        from dubrel.jobs.survey import kept_survey  # late: as above

        jobs, recording = self.desk.jobs, self.desk.session.recording
        known = kept_survey(recording) if recording is not None and recording.has_audio else None
        self._show(known)
        if known is not None or recording is None or not self._wanted or jobs.runs("survey", "read", *WORDS):
            return
        if recording.has_audio and is_read(recording):
            jobs.start_on_recording("survey", take=self._take_survey)

    def _take_survey(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import Surveyed  # late: the window opens without it

        running = self.desk.jobs.running("survey")
        if isinstance(event, Surveyed) and running and running.history is self.desk.session.history:
            self._show(event.survey)
