"""Merge what a colleague did with the open project, as one step."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.together.questions import TogetherQuestions
from dubrel.model import Project


class Merging:
    """The command and what it does."""

    def __init__(self, desk: Desk, ask: TogetherQuestions) -> None:
        self.desk, self.session, self.ask = desk, desk.session, ask

    def commands(self) -> list[Command]:
        """What can be done."""
        ready = first(self._without_file, self.desk.still_transcribing)
        return [Command("merge_project", tr("Merge a colleague's changes"), "", self.merge, ready)]

    def _without_file(self) -> str:
        if self.session.path is None:
            return tr("This project has no file yet. Save it first.")
        if self.session.read_only:
            return tr("This project is read-only here. Save it as another file first.")
        return ""

    def merge(self) -> None:
        """Ask for the colleague's file and decide what both changed differently."""
        path = self.ask.colleagues_project()
        if path is not None:
            self.merge_with(path)

    def merge_with(self, path: Path) -> None:
        """Merge what stands in a file into the open project.

        Raises
        ------
        DubrelError
            If it cannot be read, is of another recording, or nothing tells what both began with.
        """
        session, history = self.session, self.session.history
        own = session.path
        if own is None:
            return
        if path.resolve() == own.resolve():
            raise DubrelError(tr("That is the file of this project. Choose the colleague's."))
        theirs = beside(partial(_read, path))
        base = self._base(own, path)
        if base is None or session.history is not history:
            return
        from dubrel.desk.together.mergedialog import about_merge  # late: the window opens without it
        from dubrel.edits.merging.merging import merge
        from dubrel.project.summary import differ, summary

        present = session.project
        found = beside(partial(merge, base, present, theirs))
        if not found.conflicts and not differ(present, found.project):
            self.desk.say(tr("“{name}” has nothing that is not here already.").format(name=path.name))
            return
        taken = str(summary(present, found.project)) if differ(present, found.project) else ""
        decisions = self.ask.merging(path.name, about_merge(taken, found.conflicts), found.conflicts)
        if decisions is None:
            return
        made: list[int] = []

        def take(now: Project) -> Project:
            whole = merge(base, now, theirs, decisions)
            made.append(len(whole.conflicts))
            return whole.project

        self.desk.jobs.cancel_changing()
        session.step(take, tr("Merge {name}").format(name=path.name), within=history)
        if made and session.history is history:
            session.took_in(path)
            many = f", {counted(made[0], 'decision')}" if made[0] else ""
            self.desk.say(
                tr("Merged: “{name}”{many}. Its state is kept as a version when you save.").format(
                    name=path.name, many=many
                )
            )

    def _base(self, own: Path, path: Path) -> Project | None:
        from dubrel.store.commonbase import common_state  # late: as above

        found = beside(partial(common_state, own, path))
        if found is not None:
            return found.project
        chosen = self.ask.base_project(path.name)
        return beside(partial(_read, chosen)) if chosen is not None else None


def _read(path: Path) -> Project:
    from dubrel.store.projectfile import read_project

    return read_project(path).project
