"""Release: write the deliverables."""

from __future__ import annotations

from concurrent.futures import Future
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QWidget

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.release.questions import ReleaseQuestions
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.background import Background, aside, beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.frame.shots import Shots
from dubrel.desk.shell.kit.theme import Theme
from dubrel.model import Project
from dubrel.project.changes import Change
from dubrel.project.history import History

if TYPE_CHECKING:
    from dubrel.desk.release.page import ReleasePage
    from dubrel.jobs.machinery.events import Event
    from dubrel.release.kits import Planned


class ReleaseRoom(Room):
    """The sixth pass."""

    id, name = "release", tr("Release")
    hints = (("release", tr("release")), ("menu", tr("menu")))
    ahead = (
        "dubrel.formats.register",
        "dubrel.release.forms",
        "dubrel.release.kits",
        "dubrel.release.preview",
        "dubrel.desk.release.docket",
        "dubrel.desk.release.panel",
        "dubrel.desk.release.page",
    )

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self.session, self._layer = desk.session, layer
        self.ask = ReleaseQuestions(desk)
        self._page: ReleasePage | None = None
        self._released: Project | None = None
        self.pictures = Shots(self.desk)
        self.desk.jobs.done.connect(lambda *_: QTimer.singleShot(0, self._look_later))
        self._background = Background(until=self.session.opened, slow=True)
        desk.stopping.append(self._background.close)
        desk.before_leaving.append(self._may_stop_film)
        self.session.opened.connect(self._forget)
        self.session.changed.connect(self._on_changed)

    def _may_stop_film(self) -> bool:
        """Ask before leaving cancels a film that is being made."""
        question = tr("A film is being made. Leaving the project cancels it.")
        return not self.desk.jobs.runs("film", "release-clips") or self.desk.ask.yes(
            question, tr("Cancel film")
        )

    def _forget(self) -> None:
        """Another project was opened.

        Its record says whether it was released, and a digest whether it has changed since.
        """
        self._released = None
        project = self.session.project
        if project.releases:
            from dubrel.release.writing import digest_of  # late: starting the desk does not need it

            self._background.ask(lambda: self.desk.apart(digest_of, project), partial(self._compare, project))

    def _compare(self, project: Project, digest: str) -> None:
        same = digest == project.releases[-1].digest
        self._released = project if same else _never_written(project)
        self.desk.counted.emit()

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
            self._page.going.connect(self.desk.go)
            self._page.wanted.connect(lambda name: self.desk.commands.run(name))
        return self._page

    @property
    def panel(self) -> QWidget:
        """What is not ready, and where the files go."""
        return self.page.panel

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._page is not None:
            self._page.set_theme(theme)

    def enter(self) -> None:
        """Show what the files will hold; a film is looked at for what its captions must not cover."""
        self.page.refresh()
        self.pictures.look_once()

    def _look_later(self) -> None:
        """Look at the film once what kept it waiting is done."""
        if self.desk.room == self.id:
            self.pictures.look_once()

    @property
    def changed(self) -> bool:
        """Whether the project is another since the files were written."""
        return self._released is not None and self._released != self.session.project

    def todo(self) -> ToDo:
        """Whether the files are written, and still say what the project says."""
        if self._released is None:
            return ToDo(tr("not written yet"))
        return ToDo(tr("changed since"), 0.5) if self.changed else ToDo(tr("written"), 1.0)

    def commands(self) -> list[Command]:
        """What can be done here."""
        words = self.desk.without_words
        return [
            Command("release", tr("Release the deliverables of the kit"), "Ctrl+E", self.release, words),
            Command("keep_kit", tr("Keep the kit under a name"), "", self.keep_kit),
            Command("delete_kit", tr("Delete the kit"), "", self.delete_kit, self._ships),
            Command("import_kit", tr("Import a kit"), "", self.import_kit),
            Command("export_kit", tr("Export the kit"), "", self.export_kit),
            Command(
                "copy_deliverable", tr("Copy the text of the deliverable"), "", self.copy_deliverable, words
            ),
            Command("import_answers", tr("Import the answers to queries"), "", self.import_answers, words),
            Command(
                "open_folder",
                tr("Open the folder of the deliverables"),
                "",
                self.open_folder,
                self._no_folder,
            ),
        ]

    # -- writing ------------------------------------------------------------------------

    def release(self) -> None:
        """Go to Release, or write when there already."""
        from dubrel.jobs.machinery.events import Event  # late: the window opens without it
        from dubrel.release.kits import wants_recording  # late: as above

        if self.desk.room != self.id:
            self.desk.go(self.id)
            return
        page = self.page
        if self.desk.jobs.runs("write", "film"):
            self.desk.say(tr("Files are being written already. Wait until that is done, or cancel it first."))
            return
        page.refresh()
        media = self.session.project.media
        if media is not None and media.shots is None and any(map(_moves_captions, page.plan)):
            self.pictures.find()
            self.desk.say(tr("The film is looked at for lettering first. Release again when that is done."))
            return
        if page.of.rendered_cut is not None and wants_recording(page.kit) and not page.of.make_recording():
            self.desk.say(tr("The recording of the cut is made first. Release again when that is done."))
            return
        if not page.plan:
            page.show_report(tr("The kit has nothing to write. Add a deliverable."))
            return
        from dubrel.jobs.releasing import release_files  # late: starting the desk does not need it
        from dubrel.release.writing import digest_of, existing

        folder = Path(page.folder.text()).expanduser()
        archive = folder.with_name(f"{folder.name}.zip") if page.zip.isChecked() else None
        there = existing(page.plan, folder) if archive is None else [archive.name] * archive.exists()
        if there and not self.desk.ask.yes(_replacing(there, folder), tr("Replace")):
            return
        project, plan, said = self.session.project, list(page.plan), list[Event]()
        kit = f"{page.kit.name} ({page.of.name})" if page.of.name else page.kit.name
        texts = [one for one in plan if not one.form.film]
        films = [one for one in plan if one.form.film]
        page.docket.written = {}
        digest = aside(lambda: digest_of(project))
        run = _Run(project, plan, kit, folder, said, self.session.history, digest, archive)

        def ended(whole: bool) -> None:
            self._written(run)
            if whole and films:
                QTimer.singleShot(0, lambda: self._film(run, films))

        at_once = None if films else archive  # films go into it too, once they are made
        self.desk.jobs.start_thread(
            "write", release_files(texts, folder, at_once), take=said.append, ended=ended
        )

    def _pack(self, run: _Run) -> None:
        """Put texts and films into the archive."""
        from dubrel.jobs.machinery.events import Event, NotWritten  # late: the window opens without it
        from dubrel.jobs.releasing import packed

        archive, before, found = run.archive, list(run.said), list[Event]()
        if archive is None:
            return

        def ended(whole: bool) -> None:
            if whole and found:
                run.said[:] = [*(one for one in before if isinstance(one, NotWritten)), *found]
                self.page.docket.written = {}
                self._written(run)

        self.desk.jobs.start_thread(
            "write", packed(before, run.folder, archive), take=found.append, ended=ended
        )

    def _film(self, run: _Run, films: list[Planned]) -> None:
        """Make one film after the other, each in a process of its own."""
        from dubrel.jobs.filming import forget_parts  # late: as above
        from dubrel.jobs.machinery.events import NotWritten  # late: the window opens without it
        from dubrel.release.films import order_of

        one, rest = films[0], films[1:]

        def ended(whole: bool) -> None:
            running = self.desk.jobs.running("film")
            failure = running.failure if running is not None else ""
            if not whole:
                forget_parts(run.folder / one.name)
            if failure:
                run.said.append(NotWritten(failure if one.name in failure else f"{one.name}: {failure}"))
            self._written(run)
            if whole or failure:  # one that fails keeps no other back
                QTimer.singleShot(0, lambda: self._film(run, rest) if rest else self._pack(run))

        try:
            order = beside(lambda: order_of(one, run.folder))
        except DubrelError as error:
            run.said.append(NotWritten(str(error)))
            ended(True)
            return
        self.desk.jobs.start("film", order, take=run.said.append, ended=ended)

    def _written(self, run: _Run) -> None:
        from dubrel.jobs.machinery.events import NotWritten, Written  # late: the window opens without it
        from dubrel.release.writing import Outcome, recorded  # late: as above

        project, said = run.project, run.said
        if self.session.history is not run.history:  # another project was opened meanwhile
            if failed := [one.message for one in said if isinstance(one, NotWritten)]:
                self.desk.say(" ".join(failed))
            return
        paths = [one.path for one in said if isinstance(one, Written)]
        done = [tr("{name}: written, read back, the same").format(name=Path(one).name) for one in paths]
        failed = [one.message for one in said if isinstance(one, NotWritten)]
        self.page.show_report("\n".join([*dict.fromkeys(failed), *done]))
        written = self.page.docket.written
        for one in run.plan:
            here = [path for path in paths if Path(path).name == one.name]
            written[one.form.id] = list(dict.fromkeys([*written.get(one.form.id, []), *here]))
        if done:
            self._released = project
            if not self.session.read_only:
                outcomes = [Outcome(Path(path).name, path) for path in paths]
                record = recorded(project, run.kit, outcomes, digest=run.digest.result()).releases
                self.session.amend(lambda value: replace(value, releases=record))
                self._released = replace(project, releases=record)
                self.page.panel.show_before(record)
            self.desk.released.emit(self.session.project if not self.changed else project)
        self.page.show_state(self.changed)
        self.desk.counted.emit()

    # -- kits ---------------------------------------------------------------------------

    def _ships(self) -> str:
        from dubrel.release.kits import KITS  # late: as above

        return tr("A kit that ships with Dubrel cannot be deleted.") if self.page.kit.name in KITS else ""

    def keep_kit(self) -> None:
        """Keep the kit as it is, under a name."""
        from dubrel.release.kits import KITS, keep_kit  # late: as above

        name = self.ask.kit_name(self.page.kit.name)
        if not name:
            return
        if name in KITS:
            raise DubrelError(
                tr("“{name}” ships with Dubrel and stays as it is. Choose another name.").format(name=name)
            )
        kit = replace(self.page.kit, name=name)
        keep_kit(kit)
        self.page.fill_kits(name)
        self.page.show_kit(kit)
        self.desk.say(tr("Kept: {name}.").format(name=name))

    def delete_kit(self) -> None:
        """Delete a kit of the user's own."""
        from dubrel.release.kits import KITS, forget_kit  # late: as above

        name = self.page.kit.name
        if self.desk.ask.yes(tr("Delete the kit “{name}”?").format(name=name), tr("Delete")):
            forget_kit(name)
            first = next(iter(KITS.values()))
            self.page.fill_kits(first.name)
            self.page.show_kit(first)

    def import_kit(self) -> None:
        """Take a kit from a file."""
        from dubrel.release.kits import keep_kit, kit_named  # late: as above

        path = self.ask.kit_file()
        if path is not None:
            kit = kit_named(str(path))
            keep_kit(kit)
            self.page.fill_kits(kit.name)
            self.page.show_kit(kit)
            self.desk.go(self.id)

    def export_kit(self) -> None:
        """Write the kit to be shared."""
        from dubrel.base.files import write_text
        from dubrel.release.kits import kit_json  # late: as above

        path = self.ask.kit_file(self.page.kit.name)
        if path is not None:
            write_text(path, kit_json(self.page.kit))
            self.desk.say(tr("Written: {path}.").format(path=path))

    # -- around -------------------------------------------------------------------------

    def import_answers(self) -> None:
        """Read the answers of a colleague back in."""
        from dubrel.formats.texts.shownotes import answers_read  # late: as above

        path = self.ask.answers_file()
        if path is None:
            return
        base = self.session.project
        project, count = answers_read(base, path)
        if count:
            self.session.apply(project, tr("Import answers"), base=base)
        self.desk.say(
            tr("{answers} from “{name}”.").format(answers=counted(count, "new answer"), name=path.name)
        )

    def copy_deliverable(self) -> None:
        """Copy the chosen deliverable as plain and rich text, to be put into a letter or a document."""
        planned = self.page.planned()
        if planned is None or planned.form.film:
            raise DubrelError(tr("That is not text. Choose a transcript or captions in the kit."))
        from PySide6.QtCore import QMimeData
        from PySide6.QtGui import QGuiApplication

        from dubrel.release.preview import text_of

        plain, rich = beside(lambda: text_of(planned))
        data = QMimeData()
        data.setText(plain)
        if rich:
            data.setHtml(rich)
        QGuiApplication.clipboard().setMimeData(data)
        self.desk.say(tr("Copied: {name}.").format(name=planned.name))

    def _no_folder(self) -> str:
        return "" if Path(self.page.folder.text()).is_dir() else tr("Nothing has been written there yet.")

    def open_folder(self) -> None:
        """Show the folder in the file manager."""
        from PySide6.QtCore import QUrl
        from PySide6.QtGui import QDesktopServices

        QDesktopServices.openUrl(QUrl.fromLocalFile(self.page.folder.text()))


@dataclass
class _Run:
    """A release that is under way.

    Of what, what it has said so far, and the digest of what the project said then.
    """

    project: Project
    plan: list[Planned]
    kit: str
    folder: Path
    said: list[Event]
    history: History
    digest: Future[str]
    archive: Path | None = None


def _never_written(project: Project) -> Project:
    """A value that no other is like: the state that was released is not the one that was opened."""
    return replace(project, title=f"{project.title} ")


def _moves_captions(planned: Planned) -> bool:
    """Whether a film is to be made whose captions keep off lettering."""
    return planned.form.film == "burn" and bool(planned.source.values.get("lettering"))


def _replacing(names: list[str], folder: Path) -> str:
    shown = ", ".join(f"“{name}”" for name in names[:3]) + (
        tr(" and {names} more").format(names=len(names) - 3) if len(names) > 3 else ""
    )
    return tr("{shown} in “{name}” will be replaced.").format(shown=shown, name=folder.name)
