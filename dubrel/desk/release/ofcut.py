"""Of what Release writes: of the whole recording, or of a cut; its recording is made where a kit wants it."""

from __future__ import annotations

import hashlib
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.cache import cache_folder
from dubrel.model import Cut, Project
from dubrel.release.cutfiles import as_the_cameras_show_it, camera_cut, cut_order


class OfCut(QObject):
    """The project that is released.

    Signals
    -------
    changed()
        Another value is there.
    """

    changed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk, self.session = desk, desk.session
        self.cut_id = 0
        self._key: tuple[object, object] | None = None
        self._made: Project | None = None
        self._seen: tuple[Project, Cut | None] | None = None
        self._making = Background(self, until=self.session.opened, newest=True)
        self.session.opened.connect(self._opened)

    def _opened(self) -> None:
        self.cut_id, self._key, self._made = 0, None, None

    @property
    def cut(self) -> Cut | None:
        """The cut that is released; nothing for the whole recording."""
        return self.session.project.cut(self.cut_id)

    @property
    def name(self) -> str:
        """Its name; empty for the whole recording."""
        return self.cut.name if self.cut else ""

    @property
    def rendered_cut(self) -> Cut | None:
        """What a recording of its own is made of: the cut, or all that several cameras show."""
        project = self.session.project
        if self._seen is None or self._seen[0] is not project:
            self._seen = (project, camera_cut(project))
        return self.cut or self._seen[1]

    def choose(self, cut_id: int) -> None:
        """Release a cut, or with 0 the whole recording."""
        self.cut_id = cut_id
        self.changed.emit()

    def project(self) -> Project | None:
        """What is released, its recording where it really is; nothing while a cut is being made."""
        whole, recording, cut = self.session.project, self.session.recording, self.cut
        whole = replace(whole, media=recording) if recording else whole
        if cut is None:
            shown = self.rendered_cut
            return whole if shown is None else self._with_recording(as_the_cameras_show_it(whole), shown)
        key = (self.session.project, cut)
        if self._key is None or self._key[0] is not key[0] or self._key[1] is not cut:
            from dubrel.edits.cuts.cutting import cut_project  # late: arrays

            self._key, self._made = key, None
            self._making.ask(lambda: cut_project(whole, cut), self._take)
        return self._with_recording(self._made, cut) if self._made is not None else None

    def _with_recording(self, made: Project, cut: Cut) -> Project:
        path = self._rendered(cut)
        if made.media is None or path is None or not path.is_file():
            return made
        return replace(made, media=replace(made.media, path=str(path)))

    def _take(self, made: Project) -> None:
        self._made = made
        self.changed.emit()

    def _rendered(self, cut: Cut) -> Path | None:
        """Where the recording of a cut is kept once it is made."""
        recording = self.session.recording
        if recording is None:
            return None
        try:
            folder = cache_folder(recording)
        except DubrelError:
            return None
        project = self.session.project
        said = repr((cut.passages, project.frame_rate, project.cameras)).encode()
        suffix = ".mkv" if project.has_picture else ".flac"
        return folder / f"cut-{hashlib.sha256(said).hexdigest()[:16]}{suffix}"

    def make_recording(self) -> bool:
        """Begin to make the recording of the cut, unless it is there or being made; whether it is there."""
        cut, recording = self.rendered_cut, self.session.recording
        if cut is None or recording is None:
            return True
        path = self._rendered(cut)
        if path is None or path.is_file():
            return True
        if not self.desk.jobs.runs("film"):
            project = replace(self.session.project, media=recording)
            order = cut_order(project, cut, path, crf=14)

            def ended(whole: bool) -> None:
                from dubrel.jobs.filming import forget_parts  # late: the window opens without it

                if whole:
                    self.changed.emit()
                else:
                    forget_parts(path)

            self.desk.jobs.start("film", order, ended=ended)
        return False
