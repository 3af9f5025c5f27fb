"""What is open: the project's history, its file, its sound, and who is told of changes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.edits.difference import Window, difference
from dubrel.edits.history import History
from dubrel.edits.talk import Talk, talk_of
from dubrel.media.cache import is_read, peaks_path
from dubrel.model import Media, Project, Word
from dubrel.projectfile import find_media, save

if TYPE_CHECKING:
    from dubrel.media.peaks import Peaks

_FIRST_FRAME_MS = 40  # the sound is drawn after the text has been


@dataclass(frozen=True)
class Change:
    """One step from a project to another, and where they differ."""

    old: Project
    new: Project
    turns: Window
    captions: Window


class Session(QObject):
    """The open project.

    Signals
    -------
    changed(Change)
        After every step, undo and redo, and once when a project is opened.
    opened()
        Another project is open; comes before its ``changed``.
    sound_ready()
        The peaks can be drawn.
    """

    changed = Signal(object)
    opened = Signal()
    sound_ready = Signal()
    saved_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.history = History(Project())
        self.path: Path | None = None
        self.media_path: Path | None = None
        self.peaks: Peaks | None = None
        self.words: dict[int, Word] = {}
        self.speaker_of: dict[int, str | None] = {}
        self._saved: Project = self.history.present
        self._talk: tuple[object, dict[str, Talk]] = (None, {})

    @property
    def project(self) -> Project:
        """The present value."""
        return self.history.present

    @property
    def dirty(self) -> bool:
        """Whether there is something that is not in the file."""
        return self.project is not self._saved

    def apply(self, project: Project, label: str, key: str | None = None) -> None:
        """Take a step that can be undone."""
        old = self.project
        self.history.apply(project, label, key)
        self._tell(old)

    def amend(self, change: Any, since: int) -> None:
        """Take in what arrived by itself; see :meth:`History.amend`."""
        old = self.project
        self.history.amend(change, since)
        self._tell(old)

    def undo(self) -> str | None:
        """Take the last step back."""
        old = self.project
        label = self.history.undo()
        self._tell(old)
        return label

    def redo(self) -> str | None:
        """Take the step again that was taken back."""
        old = self.project
        label = self.history.redo()
        self._tell(old)
        return label

    def open(self, project: Project, path: Path | None, *, saved: bool) -> None:
        """Make another project the open one."""
        old = self.project
        self.history = History(project)
        self.path = path
        self._saved = project if saved else Project()
        self.media_path = find_media(project.media, path) if project.media else None
        self.peaks = None
        self.opened.emit()
        self._tell(old)
        QTimer.singleShot(_FIRST_FRAME_MS, self.load_peaks)

    def save(self, path: Path) -> None:
        """Save to a file; raises ``DubrelError`` and changes nothing then."""
        written = save(self.project, path)
        if written.media != self.project.media:
            self.history.present = written
        self.path, self._saved = path, self.project
        self.saved_changed.emit()

    def relink(self, path: Path) -> None:
        """Point the project to where its recording is now."""
        media = self.project.media
        if media is not None:
            self.media_path = path
            moved = replace(media, path=str(path), name=path.name)
            self.apply(replace(self.project, media=moved), "Find the recording")

    def attach(self, media: Media) -> None:
        """Give the project, and every earlier value of it, the recording that was made for it."""
        self.media_path = Path(media.path)
        self.amend(lambda project: replace(project, media=media), 0)

    def name_of(self, word_id: int) -> str:
        """The name of who says a word; empty where it is not known."""
        speaker = self.project.transcript.speaker(self.speaker_of.get(word_id))
        return speaker.name if speaker else ""

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
            from dubrel.media.peaks import (
                Peaks,  # late: the first frame shows the text, the next one the sound
            )

            self.peaks = Peaks.load(peaks_path(media))
            self.sound_ready.emit()

    def _tell(self, old: Project) -> None:
        new = self.project
        if old is new:
            return
        old_captions = old.captions.captions if old.captions else ()
        new_captions = new.captions.captions if new.captions else ()
        change = Change(
            old,
            new,
            difference(old.transcript.turns, new.transcript.turns),
            difference(old_captions, new_captions),
        )
        window = change.turns
        for turn in old.transcript.turns[window.start : window.old_stop]:
            for word in turn.words:
                self.words.pop(word.id, None)
                self.speaker_of.pop(word.id, None)
        for turn in new.transcript.turns[window.start : window.new_stop]:
            for word in turn.words:
                self.words[word.id] = word
                self.speaker_of[word.id] = turn.speaker
        self.changed.emit(change)
        self.saved_changed.emit()
