"""A cut out of the window and into it: lists, sound, film."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.cut.view import CutView
from dubrel.desk.shell.core.background import beside
from dubrel.model import Project

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event


class CutExport:
    """Writes the cut that is shown, and opens lists."""

    def __init__(self, room: CutView) -> None:
        self.room, self.session, self.desk = room, room.session, room.desk

    def write(self) -> None:
        """Ask where the cut goes, and write it; sound and film in a process of its own."""
        from dubrel.formats.cutlists.register import CUT_FORMS, write_cut_list  # late: as for all of this
        from dubrel.release.cutfiles import FILM_SUFFIXES, cut_order

        cut = self.room.cut_or_all
        if cut is None:
            return
        project = replace(self.session.project, media=self.session.recording)  # where it really is
        film = project.has_picture
        path = self.room.ask.file_to_write(f"{project.title} – {cut.name}".replace("/", "-"), film)
        if path is None:
            return
        if path.suffix.lower() in CUT_FORMS:
            lost = beside(lambda: write_cut_list(project, cut, path))
            self.desk.say(
                " ".join([tr("Written: {name}, read back, the same.").format(name=path.name), *lost])
            )
            return
        if self.desk.jobs.runs("film"):
            raise DubrelError(tr("A film is being made already. Wait until it is done, or cancel it first."))
        captions = self.room.ask.captions_in() if path.suffix.lower() in FILM_SUFFIXES else "none"
        if captions is None:
            return
        order = beside(lambda: cut_order(project, cut, path, captions))  # type: ignore[arg-type]
        said: list[Event] = []

        def ended(whole: bool) -> None:
            from dubrel.jobs.filming import forget_parts  # late: as above

            running = self.desk.jobs.running("film")
            failure = running.failure if running is not None else ""
            if failure:
                self.desk.say(failure)
            elif whole and said:
                self.desk.say(tr("Written: {name}, read back, the same.").format(name=path.name))
            else:
                forget_parts(path)

        self.desk.jobs.start("film", order, take=said.append, ended=ended)

    def conform(self) -> None:
        """Bring words and captions to the recording as it has become, in a project of its own."""
        project = replace(self.session.project, media=self.session.recording, index=None)
        own = self.session.path
        new = self.room.ask.edited_file()
        if new is None:
            return
        out = self.room.ask.conformed_file(new.with_suffix(".dubrel"))
        if out is None:
            return
        out = out if out.suffix.lower() == ".dubrel" else out.with_name(f"{out.name}.dubrel")
        if any(one is not None and out.absolute() == one.absolute() for one in (own, self.session.path)):
            raise DubrelError(tr("That is the project that is open. Choose another name for the new edit."))
        if self.desk.jobs.runs("conform"):
            raise DubrelError(
                tr("An edit is being compared already. Wait until it is done, or cancel it first.")
            )
        said: list[Event] = []

        def ended(whole: bool) -> None:
            from dubrel.jobs.machinery.events import Warning_  # late: the window opens without it

            running = self.desk.jobs.running("conform")
            failure = running.failure if running is not None else ""
            if failure:
                self.desk.say(failure)
            elif whole:
                text = " ".join(one.message for one in said if isinstance(one, Warning_))
                QTimer.singleShot(0, lambda: self._open(out, text))  # it ends what runs: this job too

        self.desk.jobs.start("conform", project, new, out, take=said.append, ended=ended)

    def _open(self, path: Path, text: str) -> None:
        self.desk.opening.emit(path)
        self.desk.say(text)

    def ask_for_list(self) -> None:
        """Ask for a cut list, and open it."""
        history = self.session.history
        path = self.room.ask.list_to_open()
        if path is not None and self.session.history is history:
            self.open_list(path)

    def open_list(self, path: Path) -> None:
        """Make a cut of what an editing program wrote of this recording."""
        from dubrel.edits.cameras.switching import shown_as  # late: as above
        from dubrel.edits.cuts.trimming import length_of, with_cut
        from dubrel.formats.cutlists.register import read_cut_list

        project, history = self.session.project, self.session.history
        if not length_of(project):
            raise DubrelError(
                tr("“{name}” is a cut of a recording. Open the recording first.").format(name=path.name)
            )
        found = beside(lambda: read_cut_list(path, project))
        made: list[int] = []

        def add(now: Project) -> Project:
            now, cut_id = with_cut(now, found.name, found.passages)
            made[:] = [cut_id]
            return shown_as(now, found.passages, found.switches)

        self.session.step(add, tr("Open “{name}”").format(name=path.name), within=history)
        self.desk.go(self.room.id)
        self.room.choose(made[0])
        self.desk.say(
            " ".join(
                [
                    tr("“{name}”: {passages} passages.").format(
                        name=found.name, passages=len(found.passages)
                    ),
                    *found.said,
                ]
            )
        )
