"""What every room stands on: the open project, its jobs, playing, questions, the way to other rooms."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QChildEvent, QEvent, QObject, QPoint, Signal
from PySide6.QtWidgets import QDialog, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.job_slots import JobSlots
from dubrel.desk.shell.core.player import Player
from dubrel.desk.shell.core.questions import Questions
from dubrel.desk.shell.core.session import Session
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.shell.kit.widgets import show_menu
from dubrel.project import reasons
from dubrel.project.queries import DOUBTFUL

if TYPE_CHECKING:
    from dubrel.desk.shell.core.commands import Commands, Group
    from dubrel.model import Project, Term
    from dubrel.store.seriesfile import Series
    from dubrel.user.voices import KeptVoice

T = TypeVar("T")
_LEAD_MS = 300


@guarded
class Host(QWidget):
    """What dialogs and menus open from, in what it wears; a dialog that was answered is gone."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.hide()

    def childEvent(self, event: QChildEvent) -> None:
        """Let a dialog end with its answer: what listens to it would keep it as long as the window."""
        dialog = event.child()
        if event.type() == QEvent.Type.ChildPolished and isinstance(dialog, QDialog):
            dialog.finished.connect(dialog.deleteLater)


class Desk(QObject):
    """The parts that rooms share.

    Signals
    -------
    said(str)
        A sentence for the footer.
    going(str)
        The room with this id is to be shown.
    drawer_changed()
        What is pulled out under the page is another, or nothing.
    marked()
        Other captions are marked on the strip.
    counted()
        What is still to do may be another.
    problem(str)
        What went wrong with a recording, or nothing.
    many_dropped(list of Path)
        Several files were dropped on the window.
    transcribed(str)
        A recording has been transcribed; how many speakers are to be told apart in it.
    recording(bool)
        A microphone is being recorded, or no longer.
    opening(Path)
        A file is to be opened.
    text_read(Path, str, tuple of str)
        A text was opened, in which encoding where that was only found out, and with which names of speakers.
    released(Project)
        Deliverables of this value have been written.
    whole_wanted(QWidget)
        A page is to take the whole window.
    whole_left()
        What is open is to be seen again.
    themed()
        The colours are others.
    """

    said = Signal(str)
    going = Signal(str)
    drawer_changed = Signal()
    counted = Signal()
    marked = Signal()
    problem = Signal(str)
    many_dropped = Signal(list)
    transcribed = Signal(str)
    recording = Signal(bool)
    opening = Signal(Path)
    text_read = Signal(Path, str, tuple)
    released = Signal(object)
    whole_wanted = Signal(object)
    whole_left = Signal()
    themed = Signal()

    def __init__(self, window: QWidget, theme: Theme) -> None:
        super().__init__(window)
        self.window, self.theme = window, theme
        self.host = Host(window)
        self.session = Session(self)  # what is connected goes with the window
        self.player = Player(self)
        self.jobs = JobSlots(self.session)
        self.jobs.failed.connect(lambda _kind, text: self.say(text))  # first: a room may know more
        self.ask = Questions(self.host)
        self.commands: Commands  # made when all rooms are there
        self.listening: Any  # Listening; made with the booth
        self.picture: Callable[[], Any]  # the picture in the booth, once it is made
        self.room = ""
        self.doubtful_from = DOUBTFUL  # how doubtful a word must be to be shown as such
        self.neighbours_follow = True  # whether the word beside an edge that is moved follows it
        self.follows = True  # whether what is played is kept in view
        self.span: tuple[int | None, int | None] = (None, None)  # the in and out points on the strip
        self.bars: list[QWidget] = []  # shown under the header
        self.controls: list[QWidget] = []  # shown under those for playing
        self.before_leaving: list[Callable[[], bool]] = []  # asks before what runs is ended; false to stay
        self.may_leave: Callable[[], bool] = lambda: True  # whether another project may be opened
        self.stopping: list[Callable[[], object]] = []  # what is ended with the application
        self._stopped = False
        self._apart: Any = None  # made where something slow is first computed
        self.shared: Series | None = None  # the series of which the open project is an episode
        self.groups: list[Group] = []  # commands of what is no pass
        self.openers: dict[str, Callable] = {}  # suffixes that a room opens by itself

    def say(self, text: str) -> None:
        """Say something in the footer for a while."""
        self.said.emit(text)

    def go(self, room: str) -> None:
        """Show a room."""
        self.going.emit(room)

    def apart(self, work: Callable[..., T], project: Project, *args: Any) -> T:
        """Compute something slow of a project in a process of its own; called in a thread, which waits."""
        if self._apart is None:
            from dubrel.jobs.machinery.apart import Apart  # late: the window opens without it

            self._apart = Apart()
        if self._stopped:
            self._apart.close()
        return self._apart.compute(work, project, *args)

    def stop(self) -> None:
        """End everything that runs."""
        self._stopped = True
        if self._apart is not None:
            self._apart.close()
        self.jobs.cancel_all()
        for end in self.stopping:
            end()
        self.jobs.cancel_all()
        self.player.pause()
        self.session.close()

    def play(self, start_ms: int, end_ms: int, around_ms: int = _LEAD_MS) -> None:
        """Play a passage with a little before and after."""
        self.player.seek(max(0, start_ms - around_ms))
        self.player.play(until=end_ms + around_ms)

    def menu_on(self, things: list[str], at: QPoint) -> None:
        """Show what can be done with some things, the nearest first."""
        from dubrel.desk.shell.core.menus import context_menu

        show_menu(context_menu(self.commands, things, self.host), at)

    def known_terms(self) -> tuple[Term, ...]:
        """The terms that are known beside those of the project: of its series, and of the user."""
        from dubrel.edits.words.terms import merged  # late: the window opens without it
        from dubrel.user.terms import TERMS

        return merged(self.shared.terms, TERMS.read()) if self.shared is not None else TERMS.read()

    def known_voices(self) -> list[KeptVoice]:
        """The voices that are known: of the series of the open project, and of the user."""
        from dubrel.user.voices import VOICES, KeptVoice  # late: the window opens without it

        own = [KeptVoice(*one) for one in self.shared.voices] if self.shared is not None else []
        names = {one.name for one in own}
        return [*own, *(one for one in VOICES.read() if one.name not in names)]

    # -- why a command cannot be done now -------------------------------------------

    def without_recording(self) -> str:
        """Why nothing can be done with the recording."""
        return reasons.no_recording(self.session.project, self.session.media_path is not None)

    def without_sound(self) -> str:
        """Why nothing can be transcribed."""
        return reasons.no_sound(self.session.project, self.session.media_path is not None)

    def without_words(self) -> str:
        """Why nothing can be done with words."""
        return reasons.no_words(self.session.project)

    def without_captions(self) -> str:
        """Why nothing can be done with captions."""
        return reasons.no_captions(self.session.project)

    def still_transcribing(self) -> str:
        """Why nothing that needs the whole transcript can be done."""
        if self.jobs.runs("transcribe", "live", "align"):
            return tr("The recording is still being transcribed. Wait until it is done, or cancel it first.")
        return ""


def first(*reasons: Callable[[], str]) -> Callable[[], str]:
    """The first of several reasons that holds."""
    return lambda: next((said for reason in reasons if (said := reason())), "")
