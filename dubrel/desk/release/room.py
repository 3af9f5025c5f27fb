"""Release: write the deliverables."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.commands import Command
from dubrel.desk.shell.desk import Desk
from dubrel.desk.shell.room import Room, ToDo
from dubrel.edits.difference import Change
from dubrel.jobs.events import Event, NotWritten, Written
from dubrel.model import Project

if TYPE_CHECKING:
    from dubrel.desk.release.page import ReleasePage


class ReleaseRoom(Room):
    """The sixth pass."""

    id, name = "release", "Release"
    hints = (("release", "write"), ("menu", "menu"))

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self.session, self._layer = desk.session, layer
        self._page: ReleasePage | None = None
        self._released: Project | None = None
        self.session.opened.connect(self._forget)
        self.session.changed.connect(self._on_changed)

    def _forget(self) -> None:
        self._released = None

    def _on_changed(self, change: Change) -> None:
        if self._page is not None:
            self._page.show_state(self.changed)

    @property
    def page(self) -> ReleasePage:
        """What to write and where."""
        if self._page is None:
            from dubrel.desk.release.page import ReleasePage  # late: the window opens without it

            self._page = ReleasePage(self.desk)
            self._page.write_wanted.connect(lambda: self.desk.commands.run("release"))
        return self._page

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def enter(self) -> None:
        """Show what the files will hold."""
        self.page.refresh()

    @property
    def changed(self) -> bool:
        """Whether the project is another since the files were written."""
        return self._released is not None and self._released != self.session.project

    def todo(self) -> ToDo:
        """Whether the files are written, and still say what the project says."""
        if self._released is None:
            return ToDo("not written yet")
        return ToDo("changed since", 0.5) if self.changed else ToDo("written", 1.0)

    def commands(self) -> list[Command]:
        """What can be done here."""
        return [Command("release", "Write the deliverables", "Ctrl+E", self.release, self.desk.without_words)]

    def release(self) -> None:
        """Go to Release, or write when there already."""
        if self.desk.room != self.id:
            self.desk.go(self.id)
            return
        wanted = self.page.wanted()
        if not wanted:
            self.page.show_report("No deliverable is ticked.")
            return
        from dubrel.jobs.writing import write_deliverables  # late: starting the desk does not need it

        project, said = self.session.project, list[Event]()
        prepared = self.page.prepared()
        self.desk.lanes.start_thread(
            "write",
            write_deliverables(prepared, wanted),
            take=said.append,
            ended=lambda whole: self._written(project, said),
        )

    def _written(self, project: Project, said: list[Event]) -> None:
        done = [
            f"{Path(one.path).name}: written, read back, the same" for one in said if isinstance(one, Written)
        ]
        failed = [one.message for one in said if isinstance(one, NotWritten)]
        self.page.show_report("\n".join([*dict.fromkeys(failed), *done]))
        if done:
            self._released = project
            self.desk.released.emit(project)
        self.page.show_state(self.changed)
        self.desk.counted.emit()
