"""Intake: bring recordings in, turn speech into words, align a script, record, the queue."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer

from dubrel.base.errors import DubrelError
from dubrel.captions.styles import style_of
from dubrel.desk.intake.engines import Engines
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.intake.queuework import QUEUE_ACTS, QueueWork
from dubrel.desk.intake.recording import RATE, RecordBar, Recorder
from dubrel.desk.intake.scripts import Scripts
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.edits.intake import clear_transcript
from dubrel.media.cache import is_read
from dubrel.media.probe import SUFFIXES, probe
from dubrel.model import HouseStyle, Project, Survey
from dubrel.model.choices import AS_USUAL, Choices, is_remote
from dubrel.project.changes import Change
from dubrel.project.history import Mark

if TYPE_CHECKING:
    from dubrel.desk.intake.page import IntakePage
    from dubrel.desk.intake.surveyview import SoundFacts
    from dubrel.jobs.machinery.events import Event

_FIRST_FRAME_MS = 200  # a process is begun after what was opened has been drawn
WORDS = ("transcribe", "live", "align")  # kinds of jobs that make the words


class IntakeRoom(Room):
    """The first pass."""

    id, name = "intake", "Intake"
    hints = (("open", "open"), ("transcribe", "transcribe"), ("menu", "menu"))
    ahead = (
        "dubrel.desk.intake.queuepanel",
        "dubrel.desk.intake.surveyview",
        "dubrel.desk.intake.page",
    )

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self.ask = IntakeQuestions(desk)
        self._read_soon = QTimer(singleShot=True, interval=_FIRST_FRAME_MS)
        self._read_soon.timeout.connect(self._read_sound)
        desk.stopping.append(self._read_soon.stop)
        self.queue = QueueWork(desk.jobs)
        self.recorder = Recorder(desk.window)
        self._layer = layer
        self._page: IntakePage | None = None
        self._facts: SoundFacts | None = None
        self._shown = False
        self._problem = ""
        self.scripts = Scripts(desk, self.ask, self.set_captions)
        self.engines = Engines(desk, self.ask, lambda: self.page)
        self.bar = RecordBar(self.recorder, desk.theme)
        self._recording: Path | None = None
        self._connect()

    def _connect(self) -> None:
        desk = self.desk
        desk.bars.append(self.bar)
        desk.session.opened.connect(self._on_opened)
        desk.session.changed.connect(self._on_changed)
        desk.session.another_recording.connect(self._on_another)
        desk.jobs.changed.connect(self._on_lanes)
        desk.jobs.failed.connect(self._on_failed)
        desk.problem.connect(self._show_problem)
        desk.many_dropped.connect(self.enqueue)
        desk.before_leaving.append(self._may_stop_recording)
        desk.stopping.append(self._stop)
        self.queue.changed.connect(desk.counted)
        self.queue.failed.connect(desk.say)
        self.recorder.stopped.connect(self._on_recorded)

    def _made_page(self) -> IntakePage:
        from dubrel.desk.intake.page import IntakePage  # late: the window opens without it

        desk, page = self.desk, IntakePage(self.desk.session, self.queue, self.desk.menu_on, self.desk.theme)
        for wanted, name in (
            (page.transcribe_wanted, "transcribe"),
            (page.script_wanted, "script"),
            (page.open_wanted, "open"),
            (page.find_wanted, "find_media"),
        ):
            wanted.connect(partial(self._run, name))
        page.cancel_wanted.connect(desk.jobs.cancel_shown)
        page.queue.settings_wanted.connect(self.transcribe_as_chosen)
        page.queue.open_wanted.connect(lambda path: desk.opening.emit(Path(path)))
        page.sound.seek_wanted.connect(desk.player.seek)
        page.show_problem(self._problem)
        return page

    def _run(self, name: str) -> None:
        self.desk.commands.run(name)

    @property
    def page(self) -> IntakePage:
        """What the recording is, how to transcribe it, the queue."""
        if self._page is None:
            self._page = self._made_page()
            self._on_lanes()
        return self._page

    @property
    def panel(self) -> SoundFacts:
        """Levels and the like."""
        if self._facts is None:
            from dubrel.desk.intake.surveyview import SoundFacts  # late: as above

            self._facts = SoundFacts()
        return self._facts

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def enter(self) -> None:
        """Show the recording as it is now."""
        self._shown = True
        self.queue.look_again()
        self.page.refresh()
        self._look_over()

    def leave(self) -> None:
        """A look over the recording is not worth waiting for."""
        self._shown = False
        self.desk.jobs.cancel("survey")

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.bar.set_theme(theme)
        if self._page is not None:
            self._page.set_theme(theme)

    def todo(self) -> ToDo:
        """How many recordings, or what is being done with them."""
        project, running = self.desk.session.project, self.desk.jobs.shown
        done = 1.0 if project.transcript.turns else 0.0
        if running is not None and running.kind in (*WORDS, "read"):
            return ToDo(f"working, {running.progress.fraction:.0%}", running.progress.fraction)
        if self.queue.left:
            return ToDo(f"{self.queue.left} in the queue", done)
        return ToDo("1 recording" if project.media else "no recording", done)

    def commands(self) -> list[Command]:
        """What can be done here."""
        sound, free = self.desk.without_sound, self.desk.still_transcribing
        chosen = self._nothing_queued
        return [
            Command("transcribe", "Transcribe", "Ctrl+T", self.transcribe, first(sound, free)),
            *self.scripts.commands(first(sound, free)),
            Command("record", "Record, or stop recording", "Ctrl+R", self.record),
            Command("queue", "Transcribe several recordings", "Ctrl+Shift+O", self.choose_for_queue),
            Command("weave", "Combine one file per speaker into a recording", "", self.weave),
            *self.engines.commands(),
            *(
                Command(f"queue_{act}", text, "", partial(self._act_in_queue, act), chosen, ("recording",))
                for act, text in QUEUE_ACTS.items()
            ),
        ]

    def _nothing_queued(self) -> str:
        chosen = self._page.queue.chosen() if self._page is not None else None
        return "" if chosen is not None else "No recording is chosen in the queue."

    def _act_in_queue(self, act: str) -> None:
        self.page.queue.act(act)

    # -- transcribing -----------------------------------------------------------

    def transcribe(self) -> None:
        """Turn the recording into words, as chosen on the page."""
        desk, project = self.desk, self.desk.session.project
        choices = self.page.choices()
        if not self._may_take_another() or not self.engines.may_use(choices.engine):
            return
        if project.transcript.turns and not desk.ask.yes(
            "Transcribe the recording again? The new words replace those on the sheet; undo brings them"
            " back.",
            "Transcribe again",
        ):
            return
        desk.jobs.after("read", "transcribe", partial(self._transcribe, choices))
        desk.go("wording")
        if desk.jobs.running("transcribe") is None:
            desk.say("Transcribing begins as soon as the file has been read.")

    def _may_take_another(self) -> bool:
        """Whether the recording may be transcribed.

        Another one than the project's only if it is to be the project's.
        """
        session = self.desk.session
        if not session.is_another or session.media_path is None:
            return True
        question = (
            f"“{session.media_path.name}” is another recording than the one this project was made with. "
            "Make it the recording of this project?"
        )
        if not self.desk.ask.yes(question, "Use it"):
            return False
        try:
            session.relink(beside(partial(probe, session.media_path)))
        except DubrelError as error:
            self.desk.say(str(error))
            return False
        return True

    def _transcribe(self, choices: Choices) -> None:
        session, style = self.desk.session, style_of(self.desk.session.project.captions)
        empty = partial(clear_transcript, language=choices.language or "en")
        if session.project.transcript.turns:
            session.step(empty, "Transcribe")
            mark = session.history.mark()
        else:
            session.amend(empty)
            mark = Mark(0)
        self.desk.jobs.start_on_recording(
            "transcribe",
            choices,
            mark=mark,
            take=partial(self._take, "transcribe"),
            ended=partial(self._transcribed, "transcribe", choices, style, mark),
        )

    def _take(self, kind: str, event: Event) -> None:
        from dubrel.jobs.machinery.fold import arrival  # late: starting the desk does not need it

        self.desk.jobs.arrive(kind, arrival(event, self.desk.session.project.next_id))

    def _transcribed(self, kind: str, choices: Choices, style: HouseStyle, mark: Mark, whole: bool) -> None:
        """What was transcribed, to its end or not, becomes captions."""
        from dubrel.jobs.machinery.events import TurnsComplete  # late: the window opens without it

        session = self.desk.session
        running = self.desk.jobs.running(kind)
        if running is None or running.history is not session.history or not session.history.holds(mark):
            return
        if choices.apart and not whole:
            self._take(kind, TurnsComplete())
        if session.project.transcript.turns:
            self.set_captions(style, mark)
            if whole and choices.speakers != "off":
                self.desk.transcribed.emit(choices.speakers)

    def set_captions(self, style: HouseStyle, mark: Mark) -> None:
        """Set captions in a thread; they arrive by themselves, with what they were set for."""
        from dubrel.jobs.setting import set_captions

        steps = set_captions(self.desk.session.project, style)
        self.desk.jobs.start_thread("captions", steps, mark=mark, take=partial(self._take, "captions"))

    # -- the queue ----------------------------------------------------------------

    def choose_for_queue(self) -> None:
        """Choose recordings and put them into the queue."""
        self.enqueue(self.ask.recordings())

    def enqueue(self, paths: list[Path]) -> None:
        """Put recordings into the queue, to be transcribed as chosen on the page."""
        recordings = [one for one in paths if one.suffix.lower() in SUFFIXES]
        choices = self.page.choices()
        others = len(paths) - len(recordings)
        if others:
            what = (
                "1 file is not a recording and was"
                if others == 1
                else f"{others} files are not recordings and were"
            )
            self.desk.say(f"{what} left out.")
        prices = self.engines.queue_prices(choices.engine, recordings) if recordings else None
        if prices is not None:
            self.queue.add(recordings, choices, prices)
            self.desk.go("intake")

    def transcribe_as_chosen(self, item_id: int) -> None:
        """Let a recording of the queue be transcribed as chosen on the page."""
        item, choices = self.queue.queue.item(item_id), self.page.choices()
        if item is None or not self.queue.can_change(item_id):
            return
        prices = self.engines.queue_prices(choices.engine, [Path(item.path)])
        if prices is not None:
            self.queue.change_choices(item_id, choices, prices[0] if prices else "")

    # -- recording ----------------------------------------------------------------

    def weave(self) -> None:
        """Choose a file for each speaker, make one recording of them and open it."""
        paths = self.ask.speaker_files()
        if len(paths) < 2:
            return
        target = self.ask.woven_file(paths[0].with_name(f"{paths[0].stem} and others.mka"))
        if target is None:
            return
        from dubrel.media.trackfile import write_track_file

        self.desk.say("The files are being combined.")
        try:
            beside(lambda: list(write_track_file(paths, target)))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.opening.emit(target)

    def record(self) -> None:
        """Begin to record, or stop."""
        desk, session = self.desk, self.desk.session
        if self.recorder.running:
            self.recorder.stop()
            return
        if not desk.may_leave():
            return
        source = self.ask.microphone()
        path = self.ask.new_recording() if source is not None else None
        if source is None or path is None:
            return
        choices = self.page.choices()
        if is_remote(choices.engine):
            choices = AS_USUAL  # a service takes whole recordings only
        try:
            self.recorder.start(path, source)
        except DubrelError as error:
            desk.say(str(error))
            return
        session.open(Project(title=path.stem), None, saved=False)
        session.recording_to(path)
        self._recording = path
        mark, style = Mark(0), style_of(None)
        desk.jobs.start(
            "live",
            str(path),
            RATE,
            choices,
            mark=mark,
            take=partial(self._take, "live"),
            ended=partial(self._transcribed, "live", choices, style, mark),
        )
        self.bar.show_running(True)
        desk.recording.emit(True)
        desk.go("wording")

    def _on_recorded(self, why: str) -> None:
        """The recording has ended, by whatever: it is the project's from now on."""
        if why:
            self.desk.say(why)
        path, self._recording = self._recording, None
        self.desk.recording.emit(False)
        if path is None:
            return
        try:
            media = beside(partial(probe, path))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.session.attach(media)
        self._refresh()
        self.desk.counted.emit()

    def _may_stop_recording(self) -> bool:
        """Ask before a recording ends because something else is opened."""
        if not self.recorder.running:
            return True
        question = "A recording is running. Stop it? What was recorded is kept."
        if not self.desk.ask.yes(question, "Stop recording"):
            return False
        self.recorder.stop()
        self.desk.jobs.cancel("live")
        return True

    def _stop(self) -> None:
        self.recorder.stop()
        self.queue.stop()

    # -- following ------------------------------------------------------------------

    def _refresh(self) -> None:
        if self._page is not None:
            self._page.refresh()

    def _show_problem(self, text: str) -> None:
        self._problem = text
        if self._page is not None:
            self._page.show_problem(text)

    def _on_opened(self) -> None:
        self._show_problem("")
        self._read_sound()
        if self._shown:
            self._look_over()

    def _on_another(self, name: str) -> None:
        """Say that the file at the project's path is not the recording it was made with."""
        text = (
            f"“{name}” is another recording than the one this project was made with: its content differs. "
            "Find the recording, or choose this one again to keep it."
        )
        self.desk.say(text)
        self._show_problem(text)
        self._refresh()

    def _on_changed(self, change: Change) -> None:
        if change.old.media is not change.new.media or not change.old.transcript.turns:
            self._refresh()
        if change.old.media is not change.new.media:
            self._read_soon.start()

    def _read_sound(self) -> None:
        """Read the file for the strip, if that has not been done."""
        jobs, recording = self.desk.jobs, self.desk.session.recording
        if recording is not None and recording.has_audio and not is_read(recording):
            jobs.start_on_recording("read", ended=self._when_read)

    def _when_read(self, whole: bool) -> None:
        self.desk.session.load_peaks()
        if whole and self._shown:
            QTimer.singleShot(0, self._look_over)

    def _look_over(self) -> None:
        """Show levels and kinds of sound; find them first if that has not been done."""
        from dubrel.jobs.survey import kept_survey  # late: as above

        jobs, recording = self.desk.jobs, self.desk.session.recording
        known = kept_survey(recording) if recording is not None and recording.has_audio else None
        self._show_survey(known)
        if known is not None or recording is None or not self._shown or jobs.runs("survey", "read", *WORDS):
            return
        if recording.has_audio and is_read(recording):
            jobs.start_on_recording("survey", take=self._take_survey)

    def _take_survey(self, event: Event) -> None:
        from dubrel.jobs.machinery.events import Surveyed  # late: the window opens without it

        running = self.desk.jobs.running("survey")
        if isinstance(event, Surveyed) and running and running.history is self.desk.session.history:
            self._show_survey(event.survey)

    def _show_survey(self, found: Survey | None) -> None:
        self.page.sound.show_survey(found)
        self.panel.show_survey(found)

    def _on_lanes(self) -> None:
        running = self.desk.jobs.shown
        mine = running if running is not None and running.kind in (*WORDS, "read") else None
        if self._page is not None:
            self._page.show_progress(mine.progress if mine else None)
        if self.desk.session.peaks is None:
            self.desk.session.load_peaks()

    def _on_failed(self, kind: str, text: str) -> None:
        if kind == "live" and self.recorder.running:
            self.desk.say(f"{text} The recording goes on; transcribe it when it has ended.")
        elif kind in (*WORDS, "read"):
            self._show_problem(text)
