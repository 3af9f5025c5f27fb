"""What is open: the project's history, its file, its sound, and who is told of changes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.edits.difference import change_between
from dubrel.edits.history import History, Mark
from dubrel.edits.talk import Talk, talk_of
from dubrel.media.cache import is_read, peaks_path
from dubrel.model import Media, Project
from dubrel.store.projectfile import find_media, save

if TYPE_CHECKING:
    from dubrel.media.peaks import Peaks

_FIRST_FRAME_MS = 40  # the sound is drawn after the text has been


class Session(QObject):
    """The open project.

    Signals
    -------
    changed(Change)
        After every step, undo and redo, and once when a project is opened.
    closing()
        Another project is about to be opened; this one is still there.
    opened()
        Another project is open; comes before its ``changed``.
    stepped_back()
        After an undo or a redo, before its ``changed``.
    sound_ready()
        The peaks can be drawn.
    saved_changed()
    """

    changed = Signal(object)
    closing = Signal()
    opened = Signal()
    stepped_back = Signal()
    sound_ready = Signal()
    saved_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.history = History(Project())
        self.path: Path | None = None
        self.media_path: Path | None = None
        self.saved_at: float | None = None
        self.peaks: Peaks | None = None
        self._saved: Project = self.history.present
        self._talk: tuple[object, dict[str, Talk]] = (None, {})

    @property
    def project(self) -> Project:
        """The present value."""
        return self.history.present

    @property
    def dirty(self) -> bool:
        """Whether there is something that is not in the file."""
        return self.project is not self._saved and self.project != self._saved

    @property
    def has_recording(self) -> bool:
        """Whether there is a recording that can be played."""
        return self.project.media is not None and self.media_path is not None

    def apply(self, project: Project, label: str, key: str | None = None) -> None:
        """Take a step that can be undone."""
        old = self.project
        self.history.apply(project, label, key)
        self._tell(old)

    def amend(self, arrival: Callable[[Project], Project], mark: Mark | None = None) -> None:
        """Take in what arrived by itself; see :meth:`History.amend`."""
        old = self.project
        self.history.amend(arrival, mark)
        self._tell(old)

    def undo(self) -> str | None:
        """Take the last step back."""
        return self._go(self.history.undo)

    def redo(self) -> str | None:
        """Take the step again that was taken back."""
        return self._go(self.history.redo)

    def _go(self, step: Callable[[], str | None]) -> str | None:
        old, label = self.project, step()
        if label is not None:
            self.stepped_back.emit()
        self._tell(old)
        return label

    def open(self, project: Project, path: Path | None, *, saved: bool) -> None:
        """Make another project the open one."""
        self.closing.emit()
        old = self.project
        self.history = History(project)
        self.path = path
        self._saved = project if saved else Project()
        self.saved_at = path.stat().st_mtime if path is not None and path.exists() else None
        self.media_path = find_media(project.media, path) if project.media else None
        self.peaks = None
        self.opened.emit()
        self._tell(old)
        self.saved_changed.emit()
        QTimer.singleShot(_FIRST_FRAME_MS, self.load_peaks)

    def save(self, path: Path) -> None:
        """Save to a file; raises ``DubrelError`` and changes nothing then."""
        written = save(self.project, path)
        if written.media != self.project.media:
            self.history.present = written
        self.path, self._saved = path, self.project
        self.saved_at = path.stat().st_mtime
        self.saved_changed.emit()

    def relink(self, media: Media) -> None:
        """Point the project to another recording, with all that is known of it."""
        self.media_path, self.peaks = Path(media.path), None
        self.apply(replace(self.project, media=media), "Find the recording")
        self.load_peaks()

    def attach(self, media: Media) -> None:
        """Give the project, and every earlier value of it, the recording that was made for it."""
        self.media_path = Path(media.path)
        self.amend(lambda project: replace(project, media=media))

    def talk(self) -> dict[str, Talk]:
        """How much each speaker speaks, counted again only when turns changed."""
        transcript = self.project.transcript
        if self._talk[0] is not transcript:
            self._talk = (transcript, talk_of(self.project))
        return self._talk[1]

    def load_peaks(self) -> None:
        """Load the peaks if the sound has been read."""
        media = self.project.media
        if media is not None and self.peaks is None and is_read(media):
            from dubrel.media.peaks import Peaks  # late: the first frame shows the text, the next the sound

            self.peaks = Peaks.load(peaks_path(media))
            self.sound_ready.emit()

    def _tell(self, old: Project) -> None:
        new = self.project
        if old is not new:
            self.changed.emit(change_between(old, new))
            self.saved_changed.emit()
