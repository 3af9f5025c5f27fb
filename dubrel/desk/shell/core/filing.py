"""The window's own commands: files, undo, playing, views."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Protocol, TypeVar

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError, ProjectError
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.questions import ATTACH, CANCEL, SAVE, SAVE_AS
from dubrel.desk.shell.kit.dates import dated
from dubrel.edits.words.importing import with_text_of
from dubrel.media.fingerprint import is_same_recording
from dubrel.media.probe import probe, recording_beside
from dubrel.model import Media, Project
from dubrel.project.index import index_of
from dubrel.project.summary import is_work
from dubrel.store.projectfile import latest_version, read_project
from dubrel.store.sharedlocks import holder_of
from dubrel.store.versions import time_of


class Filing:
    """Opens and saves."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.session = desk, desk.session
        self._named = ""  # the recording that a text file says it belongs to
        self._read_as: tuple[Path, str, tuple[str, ...]] | None = None
        desk.may_leave = self.may_leave
        desk.opening.connect(self.open_path)

    def commands(self) -> list[Command]:
        """The commands of the file menu."""
        return [
            Command("open", tr("Open a recording or a project"), "Ctrl+O", self.open),
            Command("open_pair", tr("Open captions in two languages"), "", self.open_captions),
            Command("save", tr("Save"), "Ctrl+S", self.save, self._nothing_to_save),
            Command("save_as", tr("Save as"), "Ctrl+Shift+S", self.save_as, self._nothing_to_save),
            Command("find_media", tr("Find the recording"), "", self.find_media, self._no_media),
        ]

    def _nothing_to_save(self) -> str:
        project = self.session.project
        empty = project.media is None and not project.transcript.turns
        return tr("There is nothing to save yet.") if empty else ""

    def _no_media(self) -> str:
        return "" if self.session.project.media else tr("Bring in a recording first.")

    def open(self) -> None:
        """Ask for a file and open it."""
        path = self.desk.ask.file_to_open()
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path, media: Path | None = None) -> bool:
        """Open a project, a recording, or captions; say why not where it cannot.

        ``media`` is the recording that it belongs to; one that lies beside it is offered otherwise.

        The file is read first: what cannot be read ends nothing that runs.
        """
        suffix = path.suffix.lower()
        try:
            if suffix in self.desk.openers:  # it adds to what is open
                self.desk.openers[suffix](path)
                return True
            project, saved, warnings = self._read(path)
        except DubrelError as error:
            self.desk.problem.emit(str(error))
            self.desk.say(str(error))
            return False
        if not saved and project.media is not None and not project.transcript.turns:
            attached = self._attached(project.media)
            if attached is not None:
                return attached
        if not saved and self._is_text(suffix) and self._takes_text(path):
            self._take_in(project, path.name)
        elif not self.may_leave():
            return False
        else:
            self.session.open(project, path if saved else None, saved=saved, exact=not warnings)
        self.desk.go("wording" if project.transcript.turns else "intake")
        if project.captions is not None and not saved:
            self.desk.go("captions")
        if self._read_as is not None:
            self.desk.text_read.emit(*self._read_as)
        if media is not None:
            self._relink(media)
        elif not saved and self._is_text(suffix):
            self._find_recording(path, self._named)
        if self.session.read_only:
            held = holder_of(path)
            where = (
                tr("open elsewhere ({held})").format(held=held)
                if held is not None
                else tr("open in another window")
            )
            self.desk.say(
                tr("“{name}” is {where}, so it is read-only here.").format(name=path.name, where=where)
            )
        elif warnings:
            self.desk.say(" ".join(warnings))
        self.desk.counted.emit()
        return True

    def open_captions(self) -> None:
        """Ask for two caption files and open them as a pair."""
        paths = self.desk.ask.caption_pair() or []
        if self.is_pair(paths):
            self.open_pair(paths[0], paths[1])
        elif paths:
            raise DubrelError(tr("Those are not two caption files. Choose both files at once."))

    def open_many(self, paths: Sequence[Path]) -> bool:
        """Open what was given or dropped together; whether something was opened here.

        Two caption files are a pair; of several projects the first is opened and the
        others are named, for a window holds one; recordings beside them are queued.
        """
        if self.is_pair(paths):
            return self.open_pair(paths[0], paths[1])
        projects = [one for one in paths if one.suffix.lower() == ".dubrel"]
        others = [one for one in paths if one not in projects]
        if len(paths) == 1:
            return self.open_path(paths[0])
        opened = bool(projects) and self.open_path(projects[0])
        if others:
            self.desk.many_dropped.emit(others)
        if opened and projects[1:]:
            named = ", ".join(f"“{one.name}”" for one in projects[1:])
            self.desk.say(tr("A window holds one project. Not opened: {named}.").format(named=named))
        return opened or bool(others)

    def is_pair(self, paths: Sequence[Path]) -> bool:
        """Whether files are captions in two languages, as it seems."""
        from dubrel.formats.register import CAPTION_READERS  # late: starting the desk does not need it

        return len(paths) == 2 and all(one.suffix.lower() in CAPTION_READERS for one in paths)

    def open_pair(self, first: Path, second: Path) -> bool:
        """Open two caption files as an original and its translation; say why not where they are none."""
        from dubrel.translation.fromfile import two_languages  # late: as above

        try:
            project, said = beside(partial(two_languages, first, second))
        except DubrelError as error:
            self.desk.problem.emit(str(error))
            self.desk.say(str(error))
            return False
        if not self.may_leave():
            return False
        self.session.open(project, None, saved=False)
        self.desk.go("translation")
        self.desk.say(" ".join(said))
        self.desk.counted.emit()
        return True

    def _is_text(self, suffix: str) -> bool:
        from dubrel.formats.register import READERS  # late: starting the desk does not need it

        return suffix in READERS

    def _read(self, path: Path) -> tuple[Project, bool, tuple[str, ...]]:
        """What is in a file, whether it is a project's own, and warnings."""
        suffix, self._read_as = path.suffix.lower(), None
        if suffix == ".dubrel":
            return self._read_project(path)
        if self._is_text(suffix):
            from dubrel.formats.register import read_file  # late: starting the desk does not need it

            reading = beside(lambda: _indexed(read_file(path)))
            names: Sequence[str] = ()
            if reading.doubtful and self._are_names(reading.doubtful):
                names = reading.doubtful
                reading = beside(lambda: _indexed(read_file(path, names)))
            self._named, self._read_as = reading.recording, (path, reading.encoding, tuple(names))
            return reading.project, False, tuple(reading.warnings)
        return Project(title=path.stem, media=beside(partial(probe, path))), False, ()

    def _read_project(self, path: Path) -> tuple[Project, bool, tuple[str, ...]]:
        """A project; where it is damaged, the latest version that can be read, if it is wanted."""
        try:
            read = beside(lambda: _indexed(read_project(path)))
            return read.project, True, read.fixed
        except ProjectError as error:
            found = beside(partial(latest_version, path))
            then = time_of(found[0]) if found is not None else None
            if found is None or then is None:
                raise
            when = dated(then.timestamp(), tr("dddd d MMMM, HH:mm"))
            question = tr("{error} Its version of {when} can be read. Open that one?").format(
                error=error, when=when
            )
            if not self.desk.ask.yes(question, tr("Open the version")):
                raise
            return found[1].project, False, found[1].fixed

    def _are_names(self, doubtful: Sequence[str]) -> bool:
        """Ask whether what stands before a colon is who speaks."""
        shown = ", ".join(f"“{one}”" for one in doubtful[:5])
        what = tr("Is it the name of a speaker") if len(doubtful) == 1 else tr("Are they names of speakers")
        return self.desk.ask.yes(
            tr("Before a colon in the captions: {shown}. {what}?").format(shown=shown, what=what),
            tr("Take as names"),
        )

    def _takes_text(self, path: Path) -> bool:
        """Whether a caption or transcript file is to become the text of the open recording."""
        media = self.session.project.media
        if media is None or self.session.media_path is None:
            return False
        question = tr("Does “{name}” belong to the open recording “{name2}”?").format(
            name=path.name, name2=media.name
        )
        return self.desk.ask.yes(question, tr("It belongs"))

    def _attached(self, media: Media) -> bool | None:
        """Ask whether a recording is that of the open words, which have none.

        Returns whether it is theirs now; ``None`` where it is not to be opened either.
        """
        project, history = self.session.project, self.session.history
        if project.media is not None or not project.transcript.turns or self.session.read_only:
            return None
        answer = self.desk.ask.recording_of_words(media.name, project.title)
        if answer == CANCEL:
            return False
        if answer != ATTACH or self.session.history is not history:
            return None
        self.session.relink(media)
        self.desk.say(tr("“{name}” is the recording of these words now.").format(name=media.name))
        self.desk.counted.emit()
        return True

    def _find_recording(self, path: Path, named: str) -> None:
        """Offer the recording that lies beside a text file: by the name that it gives, or by its own."""
        if self.session.project.media is not None:
            return
        found = recording_beside(path, named)
        if found is None:
            return
        question = tr("“{name}” lies beside “{name2}”. Is it the recording of these words?").format(
            name=found.name, name2=path.name
        )
        if self.desk.ask.yes(question, tr("Use it")):
            self._relink(found)

    def _relink(self, media: Path) -> None:
        try:
            self.session.relink(beside(partial(probe, media)))
        except DubrelError as error:
            self.desk.say(str(error))

    def _take_in(self, read: Project, name: str) -> None:
        self.desk.jobs.cancel_changing()
        self.session.step(lambda present: with_text_of(present, read), tr("Import {name}").format(name=name))

    def may_leave(self) -> bool:
        """Ask what is to become of what runs and of work that is not saved; false to stay."""
        session = self.session
        if not all(may() for may in self.desk.before_leaving):
            return False
        if not session.dirty or not is_work(session.saved, session.project):
            return True
        answer = self.desk.ask.unsaved(session.project.title)
        return answer != CANCEL and (answer != SAVE or self.save())

    def save(self) -> bool:
        """Save to the project's file, or ask for one."""
        session = self.session
        if session.path is None or session.read_only:
            return self.save_as()
        if session.changed_outside:
            answer = self.desk.ask.changed_outside(session.path.name)
            if answer != SAVE:
                return answer == SAVE_AS and self.save_as()
        return self._save(session.path)

    def save_as(self) -> bool:
        """Ask where to save, and save there."""
        session = self.session
        folder = session.media_path.parent if session.media_path else Path.home()
        path = self.desk.ask.file_to_save(session.path or folder / f"{session.project.title}.dubrel")
        return self._save(path) if path is not None else False

    def _save(self, path: Path) -> bool:
        try:
            self.session.save(path)
        except DubrelError as error:
            self.desk.say(str(error))
            return False
        return True

    def find_media(self) -> None:
        """Point the project to its recording again; warn if it is another one."""
        media = self.session.project.media
        path = self.desk.ask.recording(media.name) if media is not None else None
        if media is None or path is None:
            return
        known = bool(media.fingerprint or media.size)
        try:
            found = beside(partial(probe, path))
            same = known and beside(partial(is_same_recording, media, path))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        question = tr("“{name}” is not the same recording as “{name2}”. Use it anyway?").format(
            name=path.name, name2=media.name
        )
        if same or self.desk.ask.yes(question, tr("Use it")):
            self.session.relink(found)


class _Read(Protocol):
    @property
    def project(self) -> Project: ...


R = TypeVar("R", bound=_Read)


def _indexed(read: R) -> R:
    """What was read, with what the first frame needs of it known already, while nothing waits for it."""
    index_of(read.project)
    for turn in read.project.transcript.turns:
        _ = turn.text, turn.sureness, turn.doubts, turn.said
    if (track := read.project.captions) is not None:
        _ = track.held
    return read
