"""What is open: the project's history, its file, its sound, and who is told of changes."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.recordingcheck import RecordingCheck
from dubrel.media.cache import is_read, peaks_path
from dubrel.model import Media, Project
from dubrel.project.changes import change_between
from dubrel.project.history import History, Mark
from dubrel.project.talk import Talk, talk_of
from dubrel.store.journal import Journal, identity
from dubrel.store.locks import Claim, claim
from dubrel.store.projectfile import cameras_found, find_media, save
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.media.peaks import Peaks

_PAUSE_S = 5.0  # after so long without a step the next one stands alone
_REST_S = 1.0  # after so long without a step nobody is typing
_TRIES = 5  # how often a step is made anew where something arrives meanwhile
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
    placed(object)
        After the ``changed`` of an undo or a redo: where the caret was before
        the step that was undone, or after the one that was redone.
    sound_ready()
        The sound has been read.
    traced()
        What is drawn of the sound is another.
    saved_changed()
    another_recording(str)
        The recording at the project's path is not the one it was made with; its name.
    problem(str)
        What is not saved cannot be kept safe.
    """

    changed = Signal(object)
    closing = Signal()
    opened = Signal()
    stepped_back = Signal()
    placed = Signal(object)
    sound_ready = Signal()
    traced = Signal()
    saved_changed = Signal()
    another_recording = Signal(str)
    problem = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(Project())
        self.path: Path | None = None
        self.media_path: Path | None = None
        self.saved_at: float | None = None
        self.peaks: Peaks | None = None
        self._trace: Peaks | None = None  # drawn in place of them
        self._merged: list[Path] = []  # files of which something was taken in since the last save
        self.read_only = False
        self._saved: Project = self.history.present
        self._claim: Claim | None = None
        self._file = (0, 0)
        self.journal = self._new_journal(self._saved, None)
        self.seen: Media | None = None
        self.is_another = False  # the file is not the recording that the project was made with
        self.recording_check = RecordingCheck()
        self.recording_check.found.connect(self._on_checked)
        self._talk: tuple[object, dict[str, Talk]] = (None, {})
        self._stepped_at = 0.0
        self.where: Callable[[], object] = lambda: None  # where the caret is; set by the sheet that has one

    @property
    def project(self) -> Project:
        """The present value."""
        return self.history.present

    @property
    def at_rest(self) -> bool:
        """Whether no step was taken for a moment."""
        return time.monotonic() - self._stepped_at > _REST_S

    @property
    def dirty(self) -> bool:
        """Whether there is something that is not in the file."""
        return self.project is not self._saved and self.project != self._saved

    @property
    def saved(self) -> Project:
        """The value that stands in the file."""
        return self._saved

    @property
    def has_recording(self) -> bool:
        """Whether there is a recording that can be played."""
        return self.project.media is not None and self.media_path is not None

    @property
    def recording(self) -> Media | None:
        """The recording where it really is; ``None`` where it is not there."""
        media = self.project.media
        if media is None or self.media_path is None:
            return None
        return replace(media, path=str(self.media_path))

    def apply(
        self, made: Project, label: str, *, base: Project, key: str | None = None, where: object = None
    ) -> None:
        """Take a step that can be undone.

        Parameters
        ----------
        made : Project
            What is to be present.
        base : Project
            The value that it was made from.
        key : str, optional
            Steps that follow each other with the same one are one.
        where : object, optional
            The caret before the step, unless it is there still.

        Raises
        ------
        DubrelError
            If the project is read-only, or ``base`` is no longer present: something
            arrived meanwhile, which ``made`` does not have.
        """
        self.refuse_if_read_only()
        if base is not self.project:
            raise DubrelError(
                tr("{label}: the project has changed in the meantime. Try again.").format(label=label)
            )
        now = time.monotonic()
        if now - self._stepped_at > _PAUSE_S:
            self.history.seal()  # what was typed before a pause is a step of its own
        self._stepped_at = now
        self.history.apply(made, label, key, where or self.where())
        self._tell(base)

    def step(
        self,
        verb: Callable[[Project], Project],
        label: str,
        *,
        key: str | None = None,
        within: History | None = None,
        where: object = None,
    ) -> None:
        """Take a step from what is present when its turn comes, whatever arrived before.

        Parameters
        ----------
        verb : callable
            ``Project -> Project``; called again where something arrives while it is at work.
        key, where
            See :meth:`apply`.
        within : History, optional
            The history that was there when a question was asked: once another
            project is open, nothing is done to that one.

        Raises
        ------
        DubrelError
            If the project is read-only or another one, or changes faster than ``verb`` can follow.
        """
        for _ in range(_TRIES):
            self.refuse_if_read_only()
            if within is not None and within is not self.history:
                raise DubrelError(
                    tr("{label}: another project was opened in the meantime. Nothing was changed.").format(
                        label=label
                    )
                )
            within = within or self.history
            base = self.project
            made = verb(base)
            if self.project is base:
                break
        self.apply(made, label, base=base, key=key, where=where)

    def amend(self, arrival: Callable[[Project], Project], mark: Mark | None = None) -> None:
        """Apply a background change; see :meth:`History.amend`."""
        if self.read_only:
            return
        old = self.project
        self.history.amend(arrival, mark)
        self._tell(old)

    def undo(self) -> str | None:
        """Take the last step back."""
        return self._go(self.history.undo)

    def redo(self) -> str | None:
        """Take the step again that was taken back."""
        return self._go(self.history.redo)

    def go_to_step(self, depth: int) -> None:
        """Undo or redo until so many steps can be undone; views are told once."""
        old, history = self.project, self.history
        moved = False
        while history.depth > depth and history.undo() is not None:
            moved = True
        while history.depth < depth and history.redo() is not None:
            moved = True
        if moved:
            self.stepped_back.emit()
            self._tell(old)

    def _go(self, step: Callable[[], str | None]) -> str | None:
        old, label = self.project, step()
        if label is not None:
            self.stepped_back.emit()
        self._tell(old)
        if label is not None and self.history.place is not None:
            self.placed.emit(self.history.place)
        return label

    def landed(self) -> None:
        """Say that the caret is now where the last step has put it."""
        self.history.landed(self.where())

    def refuse_if_read_only(self) -> None:
        """Say why nothing can be changed, where nothing can."""
        if self.read_only:
            name = self.path.name if self.path else self.project.title
            raise DubrelError(
                tr(
                    "“{name}” is open in another window, so it is read-only here. Save it as "
                    "another file to edit it."
                ).format(name=name)
            )

    def open(
        self,
        project: Project,
        path: Path | None,
        *,
        saved: bool,
        base: Project | None = None,
        exact: bool = True,
    ) -> None:
        """Make another project the open one; read-only where another window has its file.

        Parameters
        ----------
        project : Project
        path : Path or None
            Its file.
        saved : bool
            Whether ``project`` is what stands in the file.
        base : Project, optional
            What stands in the file where that is something else.
        exact : bool
            Whether nothing had to be fixed while it was read.
        """
        self.closing.emit()
        self._leave_file()
        old, project = self.project, cameras_found(project, path)
        self.history = History(project)
        self.path, self._merged = path, []
        self._claim = claim(path, SETTINGS.read().name) if path is not None else None
        self.read_only = path is not None and self._claim is None
        self._saved = project if saved else base or Project()
        self._file = identity(path) if path is not None else (0, 0)
        self.journal = self._new_journal(self._saved, path, exact)
        self.saved_at = path.stat().st_mtime if path is not None and path.exists() else None
        self.media_path = find_media(project.media, path) if project.media else None
        self.peaks = self._trace = None
        self._check_recording()
        self.opened.emit()
        self._tell(old)
        self.saved_changed.emit()
        QTimer.singleShot(0, self._load_after_first_frame)

    def save(self, path: Path) -> None:
        """Save to a file.

        Raises
        ------
        DubrelError
            If it cannot be written, or another window has that file; nothing changes then.
        """
        own = self.path is not None and path.resolve() == self.path.resolve() and not self.read_only
        claimed = self._claim if own else claim(path, SETTINGS.read().name)
        if claimed is None and not own:
            raise DubrelError(
                tr("“{name}” is open in another window. Save as another file.").format(name=path.name)
            )
        value = self._with_what_was_seen(self.project)
        present, merged = self.project, tuple(self._merged)
        earlier = () if own or self.path is None else (self.path,)
        try:
            written = beside(lambda: save(value, path, earlier, merged))
        except DubrelError:
            if claimed is not None and not own:
                claimed.give_up()
            raise
        if not own:
            self._leave_file(keep_journal=True)
        self._claim, self.read_only = claimed, False
        if self.project.media == present.media:
            cameras = written.cameras if self.project.cameras is value.cameras else self.project.cameras
            self.history.present = replace(self.project, media=written.media, cameras=cameras)
        unchanged = self.project.transcript is value.transcript and self.project == written
        self.history.seal()  # what is typed after a save is a step of its own
        self.path, self._saved = path, self.project if unchanged else written
        self._file = identity(path)
        self._merged = [one for one in self._merged if one not in merged]
        self.saved_at = path.stat().st_mtime
        self.journal.close()
        self.journal = self._new_journal(self._saved, path)
        if self.project is not self._saved:
            self.journal.offer(self.project)
        self.saved_changed.emit()

    def took_in(self, path: Path) -> None:
        """Say that what another file holds was merged: it is kept as a version at the next save."""
        self._merged.append(path)

    @property
    def changed_outside(self) -> bool:
        """Whether somebody else wrote the project's file since it was opened or saved here."""
        return self.path is not None and identity(self.path) not in (self._file, (0, 0))

    def keep_safe(self) -> bool:
        """Put everything that is not saved on the disk now; whether that went well."""
        self.journal.offer(self.project)
        return self.journal.flush()

    def recording_to(self, path: Path) -> None:
        """Say which recording is being made for the project, so that both are found again after a crash."""
        self.journal.recording_to(path)

    def _check_recording(self) -> None:
        """Look whether the recording is the one that the project was made with."""
        self.seen, self.is_another = None, False
        self.recording_check.stop()
        if self.recording is not None and self.media_path is not None:
            self.recording_check.begin(self.recording, self.media_path)

    def _on_checked(self, now: Media, same: bool) -> None:
        media = self.project.media
        if media is None:
            return
        self.is_another = not same
        if same and self.media_path is not None and now.path != str(self.media_path):
            self.attach(now)  # another file stood in for it, and it is back
        elif same:
            self.seen = now
        else:
            self.another_recording.emit(media.name)

    def _with_what_was_seen(self, project: Project) -> Project:
        """The project with what its recording really is and where it really is, to be saved."""
        recording, now = self.recording, self.seen
        if recording is None:
            return replace(project, by=SETTINGS.read().name)
        if now is not None and recording.path == now.path:
            recording = replace(
                recording, fingerprint=now.fingerprint, size=now.size, changed_ns=now.changed_ns
            )
        return replace(project, media=recording, by=SETTINGS.read().name)

    def close(self) -> None:
        """Nothing is open any more: what is not saved was not wanted."""
        self.recording_check.stop()
        self._leave_file()
        self.journal = self._new_journal(Project(), None)

    def _leave_file(self, *, keep_journal: bool = False) -> None:
        if not keep_journal:
            self.journal.close()
        if self._claim is not None:
            self._claim.give_up()
            self._claim = None

    def _new_journal(self, project: Project, path: Path | None, exact: bool = True) -> Journal:
        return Journal(project, path, problem=self.problem.emit, copies=exact)

    def relink(self, media: Media) -> None:
        """Point the project to another recording, with all that is known of it."""
        self.media_path, self.peaks = Path(media.path), None
        self.seen, self.is_another = None, False
        self.recording_check.begin(replace(media, fingerprint=""), self.media_path)
        self.step(lambda project: replace(project, media=media), tr("Find the recording"))
        self.load_peaks()

    def attach(self, media: Media) -> None:
        """Give the project, and every earlier value of it, the recording that was made for it."""
        self.media_path = Path(media.path)
        self.recording_check.begin(media, self.media_path)
        self.amend(lambda project: replace(project, media=media))

    def talk(self) -> dict[str, Talk]:
        """How much each speaker speaks, counted again only when turns changed."""
        transcript = self.project.transcript
        if self._talk[0] is not transcript:
            self._talk = (transcript, talk_of(self.project))
        return self._talk[1]

    def _load_after_first_frame(self) -> None:
        """At the start no events are handled yet: the time runs from the first one on."""
        QTimer.singleShot(_FIRST_FRAME_MS, self.load_peaks)

    def load_peaks(self) -> None:
        """Load the peaks if the sound has been read."""
        recording = self.recording
        if recording is not None and self.peaks is None and is_read(recording):
            from dubrel.media.peaks import Peaks  # late: the first frame shows the text, the next the sound

            self.peaks = Peaks.load(peaks_path(recording))
            self.sound_ready.emit()
            self.traced.emit()

    @property
    def trace(self) -> Peaks | None:
        """What is drawn of the sound."""
        return self._trace if self._trace is not None else self.peaks

    def draw(self, peaks: Peaks | None) -> None:
        """Draw something else in place of the recording's own sound, or that again."""
        if peaks is not self._trace:
            self._trace = peaks
            self.traced.emit()

    def _follow_recording(self, before: Media | None, now: Media | None) -> None:
        """Play the recording that the project has now, where a step or an undo gave it another one."""
        if before is not None and now is not None and before.sound != now.sound:
            self.peaks = self._trace = None  # other tracks of the same file
            QTimer.singleShot(0, self.load_peaks)
        if before is None or now is None or before.path == now.path or self.media_path is None:
            return
        path = find_media(now, self.path)
        if path is None or path == self.media_path:
            return
        self.media_path, self.peaks = path, None
        self.seen, self.is_another = None, False
        self.recording_check.begin(now, path)
        QTimer.singleShot(0, self.load_peaks)

    def _tell(self, old: Project) -> None:
        new = self.project
        if old is not new:
            self._follow_recording(old.media, new.media)
            if not self.read_only:
                self.journal.offer(new)
            self.changed.emit(change_between(old, new))
            self.saved_changed.emit()
