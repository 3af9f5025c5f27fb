"""Sessions on the real window by chance: every command, jobs that bring things while dialogs are open, other
projects, saving, crashes and recoveries in between."""

from __future__ import annotations

import faulthandler
import os
import shutil
import sys
import traceback
from collections.abc import Callable
from pathlib import Path
from random import Random

from conftest import equipped, spoken
from dressed import undressed
from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from random_checks import check_project, check_saved, plain, words_of
from random_core import Finding
from random_cut_verbs import any_camera
from random_merges import worked_on
from random_projects import any_project
from random_verbs import heard_more
from recordings import hold

from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.sheet.spots import Spot
from dubrel.edits.cameras.gathering import with_cameras
from dubrel.edits.captions.times import Move
from dubrel.edits.captions.trackchecks import check_track
from dubrel.edits.translation.track import translated_tracks
from dubrel.jobs.machinery.events import Recognised, SentencesTranslated, SpeakersFound
from dubrel.jobs.machinery.fold import arrival
from dubrel.model import Project, Timing
from dubrel.project.history import Mark
from dubrel.release.kits import KITS
from dubrel.store.projectfile import open_project, save
from dubrel.store.recovery import look
from dubrel.store.seriesfile import Series, with_episodes, write_series
from dubrel.translation.choosing import missing_tasks
from dubrel.user.settings import SETTINGS, TEXT_SIZES

NOT_HERE = ("quit", "find", "menu", "context", "open", "save", "save_as", "record")
NEED_A_FILE = ("transcribe", "script", "script_paste", "audit", "compare", "speakers", "split", "keep_voice")
LOSES_CAPTIONS = ("delete_captions", "demo", "remove_translation")
DRAWER = (
    ("find", ("replace_one", "replace_all", "copy_list")),
    ("terms", ("accept_row", "accept_ticked", "skip_row", "add")),
    ("spelling", ("correct_row", "add_row")),
    ("cleanup", ("clean", "switch_reading", "_changed")),
    ("notes", ("keep", "toggle_done", "_drop_empty")),
    ("topics", ("accept_row", "accept_ticked", "copy_list")),
)


class WindowSession:
    """One session on a window.

    Parameters
    ----------
    window : MainWindow
        Equipped as the tests' are.
    seed : int
    folder : Path
        For files and deliverables.
    """

    def __init__(self, window, seed: int, folder: Path) -> None:
        self.window, self.seed, self.folder = window, seed, folder
        self.chance = Random(seed)
        self.uncaptioned: set[int] = set()
        self.arrived = False
        self.errors: list[BaseException] = []
        self.said: list[str] = []
        self.act = "begin"
        self._answer()

    # -- answers ------------------------------------------------------------------------

    def _answer(self) -> None:
        """The user answers by chance, and things arrive while the question stands."""
        ask, chance = self.window.dialogs, self.chance
        for one in ask.asks:
            for name in vars(type(one)):
                if not name.startswith("_") and name not in ("window", "yes", "unsaved"):
                    empty = [] if name in ("speaker_files", "recordings", "camera_files") else None
                    setattr(ask, name, self._asked(lambda *_, empty=empty, **__: empty))
        answers = {
            "yes": lambda question, go="": chance.random() < 0.8,
            "unsaved": lambda title: "discard",
            "changed_outside": lambda name: "save",
            "recording_of_words": lambda name, title: "open",
            "proposals": lambda now, then, changes, play: [one for one in changes if chance.random() < 0.6],
            "split": lambda project, both, play: chance.random() < 0.7,
            "speaker": lambda question, choices: chance.choice([*choices, None]) if choices else None,
            "paragraph_length": lambda: chance.choice((10, 20)),
            "speaker_facts": lambda speaker, names: (f"Name {chance.randrange(9)}", "Guest"),
            "preview": lambda title, go, scopes, make: make(
                chance.choice([key for key, _ in scopes] or [""]), chance.random() < 0.5
            ),
            "line": lambda title, question, now="": chance.choice(("", "Some words", "soft music / plays")),
            "language": lambda now: chance.choice(("", "English", "Welsh", "Elvish")),
            "suggestion": lambda word, offers, at: chance.choice([*offers, "", None]),
            "merging": lambda name, about, conflicts: (
                {one.key: chance.choice(("mine", "theirs")) for one in conflicts}
                if chance.random() < 0.8
                else None
            ),
            "move": lambda track, ms: Move(chance.choice((-500, 500, 3_600_000, -3_600_000))),
        }
        for name, answer in answers.items():
            setattr(ask, name, self._asked(answer))

    def _asked(self, answer: Callable) -> Callable:
        """A question that stands for a while: its answer may meet another project."""

        def asked(*args, **kwargs):
            luck = self.chance.random()
            if luck < 0.25:
                self.arrive()
            elif luck < 0.28:
                self.window.session.undo()
            elif luck < 0.30:
                self.open_another()
            return answer(*args, **kwargs)

        return asked

    # -- what happens ----------------------------------------------------------------------

    def open_another(self) -> None:
        """Another project is opened."""
        self.project = any_project(self.chance, f"Project {self.chance.randrange(99)}")
        self.window.session.open(self.project, None, saved=True)
        self.first, self.arrived = self.project, False
        self.uncaptioned, self.latest = set(), words_of(self.project)[-1].end_ms

    def arrive_cameras(self) -> None:
        """Cameras were found: a step, as their job takes it."""
        session, chance = self.window.session, self.chance
        long = session.project.length_ms
        if session.project.media is None or not long or session.read_only:
            return
        rows = [
            (any_camera(chance, long, nth), float(chance.uniform(-9000, long / 2)), 1.00002)
            for nth in range(chance.randint(1, 3))
        ]
        session.step(lambda now: with_cameras(now, rows), "Add cameras")

    def arrive(self) -> None:
        """What a job that runs brings."""
        session, chance = self.window.session, self.chance
        project, self.arrived = session.project, True
        kind = chance.choice(("heard", "speakers", "translations", "cameras"))
        if kind == "heard":
            self._see_latest()
            event = Recognised(heard_more(self.latest))
        elif kind == "cameras":
            self.arrive_cameras()
            return
        elif kind == "speakers":
            ids = tuple(word.id for word in words_of(project))
            labels = tuple(chance.randrange(2) for _ in ids)
            event = SpeakersFound(ids, labels, tuple(0.5 for _ in ids), tuple(-1 for _ in ids))
        else:
            tracks = translated_tracks(project)
            if not tracks:
                return
            track = chance.choice(tracks)
            tasks = missing_tasks(project, track)
            event = SentencesTranslated(track.id, tuple(task.made("Uma frase nova.") for task in tasks))
        session.amend(arrival(event, project.next_id), Mark(0))

    def _see_latest(self) -> None:
        values = self.window.session.history.earlier()
        self.latest = max([self.latest, *(word.end_ms for value in values for word in words_of(value)[-3:])])

    def type_something(self) -> None:
        """Write, delete, select over several turns."""
        sheet, chance = self.window.sheet, self.chance
        if not sheet.turns:
            return
        turn = chance.randrange(len(sheet.turns))
        sheet.move_caret(Spot(turn, chance.randrange(len(sheet.turns[turn].text) + 1)))
        if chance.random() < 0.4:
            last = min(len(sheet.turns) - 1, turn + chance.randrange(3))
            sheet.move_caret(Spot(last, chance.randrange(len(sheet.turns[last].text) + 1)), keep=True)
        if chance.random() < 0.5:
            QTest.keyClicks(sheet, chance.choice(("so ", " well", "x", " ", "two words ", ",")))
        else:
            key = chance.choice((Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Return))
            QTest.keyClick(sheet, key)

    def type_in_caption(self) -> None:
        """Write in the field over a caption."""
        window, chance = self.window, self.chance
        track = window.session.project.captions
        if track is None or not track.captions:
            return
        window.show_room("captions")
        window.stanzas.choose(chance.randrange(len(track.captions)))
        window.commands.run("edit_caption")
        field = window.rooms["captions"].field
        if field is not None and field.isVisible():
            field.insertPlainText(chance.choice(("more ", "x", "\n", "two words ")))
            if chance.random() < 0.3:
                self.arrive()
            if chance.random() < 0.3:
                window.commands.run("undo")
            field.close_field()

    def translate_something(self) -> None:
        """Choose a place of a translation, write in it, take a proposal."""
        window, chance = self.window, self.chance
        room, tracks = window.rooms["translation"], translated_tracks(window.session.project)
        if not tracks:
            return
        window.show_room("translation")
        room.show_track(chance.choice(tracks).id)
        sheet = room.page.sheet
        if not sheet.slots:
            return
        sheet.choose(chance.randrange(len(sheet.slots)))
        if chance.random() < 0.5:
            room.edit()
            if room.field.isVisible():
                room.field.insertPlainText(chance.choice(("mais ", "x", "duas linhas\n", "שלום")))
                if chance.random() < 0.3:
                    self.arrive()
        if chance.random() < 0.5:
            room.remembering.offered = []
            room.approving.take(
                chance.choice(("Sim.", "Uma frase que é bastante mais longa do que a outra, e mais."))
            )

    def use_the_drawer(self) -> None:
        """Do what a page of the drawer offers, wherever the caret is."""
        window, chance = self.window, self.chance
        if not window.sheet.turns:
            return
        name, acts = chance.choice(DRAWER)
        page = window.rooms["wording"].pull_out.open(name)
        if name == "find":
            page.field.setText(chance.choice(("oak", "it", "hull", "x", "")))
            page.becomes.setText(chance.choice(("elm", "two words", "", "x")))
        if name == "terms":
            page.field.setText(chance.choice(("hull", "plywood = ply would", "Isolde", "")))
        if name == "cleanup":
            page.kind.setCurrentIndex(chance.randrange(page.kind.count()))
        if name == "topics":
            page.start("terms")
        page.refresh()
        if page.list.rows:
            page.list.setCurrentIndex(page.list.model().index(chance.randrange(len(page.list.rows)), 0))
            if chance.random() < 0.3:
                page.list.tick_all(chance.random() < 0.5)
        if chance.random() < 0.2:
            self.arrive()  # the list is of a moment ago
        getattr(page, chance.choice(acts))()

    def release_something(self) -> None:
        """Write the files of a kit while the session goes on."""
        self.window.show_room("release")
        page = self.window.rooms["release"].page
        names = ("Captions for the web", "Transcript for a client", "Podcast episode")
        page.show_kit(KITS[self.chance.choice(names)])
        self.window.commands.run("release")

    def save_and_read(self) -> None:
        """Save to a file; what is opened from it is what is open."""
        session = self.window.session
        path = self.folder / f"{self.seed}-{self.chance.randrange(3)}.dubrel"
        session.save(path)
        assert plain(open_project(path)) == plain(session.project), "opened otherwise than saved"

    def look_at_the_series(self) -> None:
        """All files that were saved so far as a series: shown, searched, left, the open one added."""
        window, chance = self.window, self.chance
        self.save_and_read()
        file = self.folder / f"{self.seed}.dubrel-series"
        found = sorted(self.folder.glob(f"{self.seed}-*.dubrel"))
        write_series(with_episodes(Series("All"), found[: chance.randint(0, 3)], self.folder)[0], file)
        window.filing.open_path(file)
        page = window.series.page
        self._settle()
        if chance.random() < 0.5:
            page.field.setText(chance.choice(("oak", "it was", "x")))
            page.choose_way(chance.choice(("written", "sound")))
        window.commands.run(chance.choice(("series_here", "series_show", "series_check", "undo", "theme")))
        if chance.random() < 0.7:
            window.desk.whole_left.emit()

    def merge_something(self) -> None:
        """What a colleague did with the file meanwhile comes in, while things arrive here."""
        window, chance = self.window, self.chance
        self.save_and_read()
        mine = window.session.path
        theirs = self.folder / f"{self.seed}-theirs.dubrel"
        if mine is None or window.session.read_only or not words_of(window.session.project):
            return
        theirs.unlink(missing_ok=True)
        shutil.copy(mine, theirs)
        project = worked_on(open_project(theirs), chance, chance.randint(0, 8))
        save(project, theirs)
        self.type_something()
        self._allow_all()
        self.uncaptioned |= {word.id for word in words_of(project)}
        window.together.merging.merge_with(theirs)
        self._allow_all()

    def crash(self) -> None:
        """What stands in the journal is the present; sometimes it is brought back."""
        session = self.window.session
        assert session.keep_safe(), "the journal could not be written"
        folder = session.journal.folder
        if folder is None:
            return
        left = look(folder)
        assert left is not None and plain(left.project) == plain(session.project), "recovered otherwise"
        if self.chance.random() < 0.3:
            session.open(left.project, None, saved=False, base=left.base)
            self.first, self.arrived = left.project, True

    def look_otherwise(self) -> None:
        """Another text size, another theme, another size of the window: nothing of the work changes."""
        before = self.window.session.project
        settings = replace(
            SETTINGS.read(),
            text_size=self.chance.choice(TEXT_SIZES),
            theme=self.chance.choice(("day", "night", "day-sharp", "night-sharp")),
        )
        SETTINGS.write(settings)
        self.window.apply_settings(settings)
        self.window.resize(self.chance.randint(960, 1600), self.chance.randint(540, 1000))
        assert self.window.session.project is before

    def run_a_command(self) -> None:
        """Any command of the menu."""
        window = self.window
        names = [one for one in window.commands.actions if one not in (*NOT_HERE, *NEED_A_FILE)]
        name = self.chance.choice(names)
        self.act = name
        history = window.session.history
        window.commands.run(name)
        if name in LOSES_CAPTIONS:
            self._allow_all()
        if window.session.history is not history and window.session.project is not self.first:
            self.first, self.arrived = window.session.project, True
            self._allow_all()
            self.latest = 0

    def _allow_all(self) -> None:
        self.uncaptioned |= {
            word.id for one in self.window.session.history.earlier() for word in words_of(one)
        }

    # -- playing -------------------------------------------------------------------------

    def play(self, steps: int) -> None:
        """Some steps, each with all checks after it; then undo to the beginning.

        Raises
        ------
        AssertionError
            Where something does not hold.
        """
        window, chance = self.window, self.chance
        before = sys.excepthook
        sys.excepthook = lambda _kind, error, _trace: self.errors.append(error)
        window.desk.said.connect(self.said.append)
        try:
            self.latest = 0
            self.open_another()
            for step in range(steps):
                self._step(chance.random())
                self._settle()
                self.check(step)
            self.act = "undo to the first value"
            self._undo_all()
        finally:
            sys.excepthook = before
            window.desk.said.disconnect(self.said.append)

    def _step(self, luck: float) -> None:
        table = (
            (0.22, self.type_something),
            (0.32, self.arrive),
            (
                0.38,
                lambda: hold(self.window, self.chance.choice(("audit", "compare", "speakers", "translate"))),
            ),
            (0.47, self.use_the_drawer),
            (0.54, self.translate_something),
            (0.60, self.type_in_caption),
            (0.63, self.release_something),
            (0.66, self.open_another),
            (0.68, self.save_and_read),
            (0.70, self.look_at_the_series),
            (0.73, self.merge_something),
            (0.75, self.look_otherwise),
            (1.01, self.run_a_command),
        )
        act = next(act for limit, act in table if luck < limit)
        self.act = getattr(act, "__name__", "hold")
        try:
            act()
        except DubrelError as error:  # as a command would have said it
            self.said.append(str(error))

    def _settle(self) -> None:
        """Let what runs aside come back: captions that are being set, and what waits for a moment."""
        loop = QEventLoop()
        for _ in range(400):
            if not self.window.jobs.runs("captions", "write"):
                break
            QTimer.singleShot(25, loop.quit)
            loop.exec()
        QTimer.singleShot(0, loop.quit)
        loop.exec()

    def check(self, step: int) -> None:
        """What must hold after every step."""
        window = self.window
        project = window.session.project
        assert not self.errors, f"{self.errors[0]!r}"
        wrong = [text for text in self.said if "went wrong" in text]
        assert not wrong, wrong
        if words_of(project):
            check_project(project, self.uncaptioned)
        assert window.sheet.caret.turn < max(1, len(project.transcript.turns)), "the caret is nowhere"
        if step % 10 == 0:
            window.grab()
            assert undressed(window) == [], "in the colours of another theme"
            check_saved(project)
            track = project.captions
            window.findings.settle()
            full = {k: v for k, v in check_track(project, track).items() if k} if track else {}
            assert window.findings.by_caption == full, "findings of before"
        if step % 7 == 0:
            self.crash()

    def _undo_all(self) -> None:
        session = self.window.session
        self.window.desk.whole_left.emit()  # a series may be seen in its place
        while session.history.depth:
            self.window.commands.run("undo")
            if words_of(session.project):
                check_project(session.project, self.uncaptioned)
        if not self.arrived:
            assert _undoable(session.project) == _undoable(self.first), "undone to another value"
        known = {word.id: word for word in words_of(self.first)}
        for word in words_of(session.project):
            was = known.get(word.id)
            # typed ones are aligned later
            if was is not None and word.timing is was.timing is Timing.ALIGNED:
                assert (word.start_ms, word.end_ms) == (was.start_ms, was.end_ms), "a time moved by itself"


def _undoable(project: Project) -> Project:
    """A project without what saving and releasing note beside all steps."""
    media = project.media and replace(project.media, relative="")
    return replace(project, releases=(), media=media)


_APP: list[object] = []
_LONGEST_S = 120


def run_window(seed: int, steps: int, folder: Path) -> tuple[int, list[Finding]]:
    """A session on a window of its own: the steps that were done, and what did not hold."""
    from PySide6.QtWidgets import QApplication

    from dubrel.desk.shell.kit.theme import DAY, load_fonts
    from dubrel.user.settings import SETTINGS

    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    if not _APP:
        _APP.append(QApplication.instance() or QApplication(["sessions"]))
        QApplication.setStyle("Fusion")
        load_fonts()
    SETTINGS.write(replace(SETTINGS.read(), release_folder=str(folder / "out")))
    window = equipped(DAY)
    window.setMinimumSize(900, 640)
    window.resize(1280, 800)
    window.show_room("intake")
    window.show()
    window.prepare()  # pages are made while things are done, as after every start
    session, found = WindowSession(window, seed, folder), list[Finding]()
    faulthandler.dump_traceback_later(_LONGEST_S, exit=True)  # a dialog that nobody answers
    try:
        session.play(steps)
    except Exception as error:
        found.append(
            Finding(seed, steps, session.act, f"{type(error).__name__}: {error}", traceback.format_exc())
        )
    finally:
        faulthandler.cancel_dump_traceback_later()
        window.desk.stop()
        window.deleteLater()
        QApplication.clipboard().clear()  # offscreen, Qt would keep what is on it beyond Python
        QTest.qWait(20)
    return steps, found


__all__ = ["Project", "WindowSession", "run_window", "spoken"]
