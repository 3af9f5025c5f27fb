"""Intake: bring recordings in, turn speech into words, align a script, record, the queue."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.value import replace
from dubrel.desk.intake.addresses import Addresses
from dubrel.desk.intake.engines import Engines
from dubrel.desk.intake.liverecording import LiveRecording
from dubrel.desk.intake.lookingover import WORDS, LookingOver
from dubrel.desk.intake.questions import IntakeQuestions
from dubrel.desk.intake.queuework import QUEUE_ACTS, QueueWork
from dubrel.desk.intake.scripts import Scripts
from dubrel.desk.intake.transcribing import Transcribing
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.media.probe import SUFFIXES, sound_tracks
from dubrel.model import Project, Survey
from dubrel.model.choices import Choices
from dubrel.project.changes import Change

if TYPE_CHECKING:
    from dubrel.desk.intake.page import IntakePage
    from dubrel.desk.intake.surveyview import SoundFacts


class IntakeRoom(Room):
    """The first pass."""

    id, name = "intake", tr("Intake")
    hints = (("open", tr("open")), ("transcribe", tr("transcribe")), ("menu", tr("menu")))
    ahead = (
        "dubrel.desk.intake.queuepanel",
        "dubrel.desk.intake.surveyview",
        "dubrel.desk.intake.page",
    )

    def __init__(self, desk: Desk, layer: SpeechLayer) -> None:
        super().__init__(desk)
        self.ask = IntakeQuestions(desk)
        self.queue = QueueWork(desk.jobs)
        self._layer = layer
        self._page: IntakePage | None = None
        self._facts: SoundFacts | None = None
        self._problem = ""
        self.engines = Engines(desk, self.ask, lambda: self.page)
        self.transcribing = Transcribing(desk, self.engines, self._choices)
        self.scripts = Scripts(desk, self.ask, self.transcribing.set_captions)
        self.live = LiveRecording(desk, self.ask, self.transcribing, self._choices, self._refresh)
        self.addresses = Addresses(desk, self.ask)
        self.looking = LookingOver(desk, self._show_survey)
        self._connect()

    def _connect(self) -> None:
        desk = self.desk
        desk.session.opened.connect(self._on_opened)
        desk.session.changed.connect(self._on_changed)
        desk.session.another_recording.connect(self._on_another)
        desk.jobs.changed.connect(self._on_jobs)
        desk.jobs.failed.connect(self._on_failed)
        desk.problem.connect(self._show_problem)
        desk.many_dropped.connect(self.enqueue)
        desk.stopping.append(self.queue.stop)
        self.queue.changed.connect(desk.counted)
        self.queue.failed.connect(desk.say)

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

    def _choices(self) -> Choices:
        return self.page.choices()

    @property
    def page(self) -> IntakePage:
        """What the recording is, how to transcribe it, the queue."""
        if self._page is None:
            self._page = self._made_page()
            self._on_jobs()
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
        self.queue.look_again()
        self.page.refresh()
        self.looking.begin()

    def leave(self) -> None:
        """A look over the recording is not worth waiting for."""
        self.looking.end()

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.live.bar.set_theme(theme)
        if self._page is not None:
            self._page.set_theme(theme)

    def todo(self) -> ToDo:
        """How many recordings, or what is being done with them."""
        project, running = self.desk.session.project, self.desk.jobs.shown
        done = 1.0 if project.transcript.turns else 0.0
        if running is not None and running.kind in (*WORDS, "read"):
            return ToDo(
                tr("working, {fraction:.0%}").format(fraction=running.progress.fraction),
                running.progress.fraction,
            )
        if self.queue.left:
            return ToDo(tr("{left} in the queue").format(left=self.queue.left), done)
        return ToDo(tr("1 recording") if project.media else tr("no recording"), done)

    def commands(self) -> list[Command]:
        """What can be done here."""
        sound, free = self.desk.without_sound, self.desk.still_transcribing
        chosen = self._nothing_queued
        return [
            Command(
                "transcribe", tr("Transcribe"), "Ctrl+T", self.transcribing.transcribe, first(sound, free)
            ),
            *self.scripts.commands(first(sound, free)),
            Command("record", tr("Record, or stop recording"), "Ctrl+R", self.live.record),
            Command("queue", tr("Transcribe several recordings"), "Ctrl+Shift+O", self.choose_for_queue),
            Command("weave", tr("Combine one file per speaker into a recording"), "", self.weave),
            Command(
                "sound_tracks",
                tr("Choose the sound tracks of the recording"),
                "",
                self.choose_sound,
                first(sound, self._one_track, free),
                words=tr("audio language commentary"),
            ),
            *self.addresses.commands(),
            *self.engines.commands(),
            *(
                Command(f"queue_{act}", text, "", partial(self._act_in_queue, act), chosen, ("recording",))
                for act, text in QUEUE_ACTS.items()
            ),
        ]

    def _one_track(self) -> str:
        media = self.desk.session.project.media
        return "" if media is not None and media.tracks else tr("The recording has one sound track.")

    def choose_sound(self) -> None:
        """Choose which sound tracks are heard, drawn and transcribed."""
        session, path = self.desk.session, self.desk.session.media_path
        if path is None or session.project.media is None:
            return
        history, tracks = session.history, sound_tracks(path)
        chosen = self.ask.sound_tracks(tracks, session.project.media.sound)
        if chosen is None or chosen == session.project.media.sound:
            return

        def verb(project: Project) -> Project:
            return replace(project, media=replace(project.media, sound=chosen) if project.media else None)

        session.step(verb, tr("Choose the sound tracks"), within=history)
        names = "; ".join(tracks[one].said(one + 1) for one in chosen or (0,))
        said = tr(" Transcribe it again to have its words.") if session.project.transcript.turns else ""
        self.desk.say(f"{names}.{said}")

    def _nothing_queued(self) -> str:
        chosen = self._page.queue.chosen() if self._page is not None else None
        return "" if chosen is not None else tr("No recording is chosen in the queue.")

    def _act_in_queue(self, act: str) -> None:
        self.page.queue.act(act)

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
                tr("1 file is not a recording and was")
                if others == 1
                else tr("{others} files are not recordings and were").format(others=others)
            )
            self.desk.say(tr("{what} left out.").format(what=what))
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

    def weave(self) -> None:
        """Choose a file for each speaker, make one recording of them and open it."""
        paths = self.ask.speaker_files()
        if len(paths) < 2:
            return
        target = self.ask.woven_file(
            paths[0].with_name(tr("{stem} and others.mka").format(stem=paths[0].stem))
        )
        if target is None:
            return
        from dubrel.media.trackfile import write_track_file

        self.desk.say(tr("The files are being combined."))
        try:
            beside(lambda: list(write_track_file(paths, target)))
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.opening.emit(target)

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
        self.looking.on_opened()

    def _on_another(self, name: str) -> None:
        """Say that the file at the project's path is not the recording it was made with."""
        text = tr(
            "“{name}” is another recording than the one this project was made with: "
            "its content differs. Find the recording, or choose this one again to "
            "keep it."
        ).format(name=name)
        self.desk.say(text)
        self._show_problem(text)
        self._refresh()

    def _on_changed(self, change: Change) -> None:
        if change.old.media is not change.new.media or not change.old.transcript.turns:
            self._refresh()
        if change.old.media is not change.new.media:
            self.looking.read_soon()

    def _show_survey(self, found: Survey | None) -> None:
        self.page.sound.show_survey(found)
        self.panel.show_survey(found)

    def _on_jobs(self) -> None:
        running = self.desk.jobs.shown
        mine = running if running is not None and running.kind in (*WORDS, "read") else None
        if self._page is not None:
            self._page.show_progress(mine.progress if mine else None)
        if self.desk.session.peaks is None:
            self.desk.session.load_peaks()

    def _on_failed(self, kind: str, text: str) -> None:
        if kind == "live" and self.live.recorder.running:
            self.desk.say(
                tr("{text} The recording goes on; transcribe it when it has ended.").format(text=text)
            )
        elif kind in (*WORDS, "read"):
            self._show_problem(text)
