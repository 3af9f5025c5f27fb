"""The window: rail, sheet, booth and strip around one session."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from dubrel.desk.booth import Booth
from dubrel.desk.commands import Commands
from dubrel.desk.dialogs import Dialogs
from dubrel.desk.findings import Findings
from dubrel.desk.following import Following
from dubrel.desk.footer import Footer
from dubrel.desk.intakepage import IntakePage
from dubrel.desk.operations import Operations, command_table
from dubrel.desk.player import Player
from dubrel.desk.queuework import QueueWork
from dubrel.desk.rail import PASSES, Rail
from dubrel.desk.realigning import Realigning
from dubrel.desk.recording import RecordBar, Recorder
from dubrel.desk.releasepage import ReleasePage
from dubrel.desk.session import Change, Session
from dubrel.desk.sheet.stanzas import CaptionSheet
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.strip import Strip
from dubrel.desk.theme import THEMES, Theme, dress
from dubrel.desk.widgets import label
from dubrel.desk.work import Work
from dubrel.edits.talk import is_unsure
from dubrel.jobs.events import Progress
from dubrel.model import Project
from dubrel.timecode import format_length

INTAKE, VOICES, WORDING, CAPTIONS, TRANSLATION, RELEASE = range(6)
_SHEETS = {INTAKE: 0, VOICES: 1, WORDING: 1, CAPTIONS: 2, RELEASE: 3}


class MainWindow(QMainWindow):
    """One window, one project."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.session = Session()
        self.player = Player(self)
        self.findings = Findings(self.session)
        self.work = Work(self.session)
        self.queue = QueueWork(self.work)
        self.recorder = Recorder(self)
        self.realigning = Realigning(self.session)
        self.dialogs = Dialogs(self)
        self.current_pass = INTAKE
        self._progress: Progress | None = None
        dress(theme)  # before there are widgets: each is looked at once
        self._build()
        self.operations = Operations(self)
        self.commands = Commands(self, command_table(self.operations))
        self.following = Following(self)
        self._connect()
        self.setAcceptDrops(True)
        self.setMinimumSize(900, 640)
        self.resize(1280, 800)
        self.set_theme(theme)
        self.sheet.say_when_empty(*self.operations.hearing.empty_words(False))
        self.show_pass(INTAKE)
        self._show_keys()

    # -- building -------------------------------------------------------------

    def _build(self) -> None:
        self.sheet = TypingSheet(self.session, self.theme)
        self.stanzas = CaptionSheet(self.session, self.findings, self.theme)
        self.intake = IntakePage(self.session, self.queue)
        self.release = ReleasePage(self.session)
        self.sheets = QStackedWidget()
        for page in (self.intake, self.sheet, self.stanzas, self.release):
            self.sheets.addWidget(page)
        self.rail = Rail(self.theme)
        self.booth = Booth(self.session, self.player, self.findings, self.theme)
        self.strip = Strip(self.session, self.theme)
        middle = QHBoxLayout()
        middle.setContentsMargins(8, 0, 14, 0)
        middle.setSpacing(0)
        middle.addWidget(self.rail)
        middle.addWidget(self.sheets, 1)
        middle.addSpacing(14)
        middle.addWidget(self.booth)
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(8)
        box.addLayout(self._header())
        self.record_bar = RecordBar(self.recorder, self.theme)
        box.addWidget(self.record_bar)
        box.addLayout(middle, 1)
        across = QHBoxLayout()
        across.setContentsMargins(8, 0, 14, 0)
        across.addWidget(self.strip)
        box.addLayout(across)
        self.footer = Footer()
        self.message, self.numbers = self.footer.message, self.footer.numbers
        box.addWidget(self.footer)
        self.setCentralWidget(body)

    def _header(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(18, 8, 14, 0)
        self.title = label("", "project")
        self.subtitle = label("", "quiet")
        self.saved = label("", "quiet")
        self.find_button = QPushButton("Find a command")
        self.find_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        row.addWidget(self.title)
        row.addSpacing(10)
        row.addWidget(self.subtitle)
        row.addStretch(1)
        row.addWidget(self.saved)
        row.addSpacing(10)
        row.addWidget(self.find_button)
        return row

    def _connect(self) -> None:
        self.rail.chosen.connect(self.show_pass)
        self.find_button.clicked.connect(lambda: self.commands.run("find"))
        self.session.changed.connect(self._on_changed)
        self.session.saved_changed.connect(self._show_saved)
        self.session.opened.connect(self._on_opened)
        self.findings.counted.connect(self.show_counts)
        self.work.progressed.connect(self._on_progress)
        self.work.failed.connect(self._on_failed)
        self.work.warned.connect(self.say)
        self.work.audited.connect(self.operations.hearing.show_audit)
        self.intake.transcribe_wanted.connect(lambda: self.commands.run("transcribe"))
        self.intake.script_wanted.connect(lambda: self.commands.run("script"))
        self.intake.cancel_wanted.connect(self.work.cancel)
        self.footer.cancel_wanted.connect(self.work.cancel)
        self.intake.open_wanted.connect(lambda: self.commands.run("open"))
        self.intake.find_wanted.connect(lambda: self.commands.run("find_media"))
        self.intake.queue.settings_wanted.connect(self.operations.hearing.queue_as_chosen)
        self.intake.queue.open_wanted.connect(lambda path: self.operations.open_path(Path(path)))
        self.queue.failed.connect(self.say)
        self.booth.speaker_command.connect(lambda name: self.commands.run(name))
        self.booth.speakers_left.connect(self.show_focus)
        self.booth.speaker_sample.connect(self.operations.voices.hear_sample)
        self.queue.changed.connect(self.show_counts)
        self.recorder.stopped.connect(lambda why: self.say(why) if why else None)
        self.work.speakers_wanted.connect(self.operations.voices.find_as)
        self.work.read.connect(self.operations.comparing.show)
        self.work.recorded.connect(self.operations.hearing.take_recording)
        self.release.written.connect(lambda count: self.show_counts())
        self.player.failed.connect(lambda text: self.say(f"The recording cannot be played: {text}."))

    # -- showing --------------------------------------------------------------

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of everything."""
        self.theme = theme
        dress(theme)
        for part in (self.rail, self.sheet, self.stanzas, self.booth, self.strip, self.record_bar):
            part.set_theme(theme)

    def other_theme(self) -> None:
        """Change between day and night."""
        self.set_theme(THEMES["night" if self.theme.name == "day" else "day"])

    def show_pass(self, place: int) -> None:
        """Go to a pass."""
        if place not in _SHEETS:
            self.rail.choose(self.current_pass)
            self.say("Translation is not in this version yet.")
            return
        self.current_pass = place
        self.rail.choose(place)
        self.sheets.setCurrentIndex(_SHEETS[place])
        self.booth.show_details({WORDING: "word", CAPTIONS: "captions", VOICES: "speakers"}.get(place, ""))
        self.strip.show_lanes(place == VOICES)
        self.sheet.show_voices(place == VOICES)
        self.show_focus()
        if place == VOICES:
            self.following.show_selected()
        if place == INTAKE:
            self.intake.refresh()
        if place == CAPTIONS and self.stanzas.current < 0:
            self.following.choose_caption_at_playhead()
        self._show_keys()

    def show_focus(self) -> None:
        """Let the keys go to the sheet."""
        page = self.sheets.currentWidget()
        if page is not None:
            page.setFocus()

    def say(self, text: str) -> None:
        """Say something in the footer for a while."""
        self.footer.say(text)

    def _show_keys(self) -> None:
        hints = {
            VOICES: (
                ("play", "play"),
                ("speaker_1", "speaker"),
                ("next_uncertain", "next unsure"),
                ("proofed", "proofed, next turn"),
            ),
            WORDING: (("play", "play"), ("next_look", "next doubt"), ("proofed", "proofed, next turn")),
            CAPTIONS: (("play", "play"), ("next_look", "next to mend"), ("set_again", "set again")),
            INTAKE: (("open", "open"), ("transcribe", "transcribe")),
            RELEASE: (("release", "write"),),
        }[self.current_pass]
        rows = [f"{self.commands.keys(name)}  {text}" for name, text in hints if self.commands.keys(name)]
        self.footer.keys.setText("      ".join(rows))
        self.find_button.setText(f"Find a command   {self.commands.keys('find')}")

    def show_counts(self) -> None:
        """Show on the rail what is still to do."""
        project = self.session.project
        turns = project.transcript.turns
        heard = bool(turns)
        voices, voices_done = _voices_state(project)
        proofed = sum(len(turn.words) for turn in turns if turn.proofed)
        words = project.transcript.word_count
        share = proofed / words if words else 0.0
        doubts = self.findings.doubt_count
        broken = len(self.findings.by_caption)
        count = len(project.captions.captions) if project.captions else 0
        read = f"{doubts} doubts" if doubts else f"{share:.0%} proofed"
        set_ = f"{broken} to mend" if broken else f"{count} in order"
        states = (
            self._intake_state(),
            (voices, voices_done),
            (read if heard else "", share),
            (set_ if count else "", 1 - broken / count if count else 0.0),
            ("not in this version", 0.0),
            ("written" if self.release.report.text() else "not written yet", 0.0),
        )
        for one, (todo, done) in zip(self.rail.buttons, states):
            one.show_state(todo, done)
        self.booth.show_counts()
        length = format_length(
            project.media.duration_ms if project.media else turns[-1].end_ms if turns else 0
        )
        captions = f", {count} captions" if count else ""
        self.numbers.setText(f"{words} words{captions}, {length}")

    def _intake_state(self) -> tuple[str, float]:
        if self._progress is not None:
            return f"working, {self._progress.fraction:.0%}", self._progress.fraction
        done = 1.0 if self.session.project.transcript.turns else 0.0
        if self.queue.left:
            return f"{self.queue.left} in the queue", done
        return ("1 recording" if self.session.project.media else "no recording"), done

    def _show_saved(self) -> None:
        if self.session.dirty:
            self.saved.setText("Not saved")
        elif self.session.path:
            self.saved.setText(f"Saved {time.strftime('%H:%M')}")
        else:
            self.saved.setText("")
        self.setWindowModified(self.session.dirty)

    def _on_opened(self) -> None:
        self.player.set_source(self.session.media_path)
        self.booth.picture.clear()
        self.stanzas.current = self.stanzas.playing = -1
        self.sheet.spoken = None
        self.sheet.start_over()
        self.intake.show_problem("")
        self.sheet.say_when_empty(*self.operations.hearing.empty_words(False))
        missing = self.session.project.media is not None and self.session.media_path is None
        if missing:
            self.say("The recording is not where it was. Go to Intake and find it.")
        media = self.session.project.media
        if media is not None and media.has_video and self.session.media_path:
            QTimer.singleShot(0, self.following.show_video)

    def _on_changed(self, change: Change) -> None:
        project = change.new
        self.title.setText(project.title if len(project.title) < 48 else project.title[:46] + "…")
        self.subtitle.setText(project.subtitle)
        self.setWindowTitle(f"{project.title}[*] – Dubrel")
        if change.old.media is not change.new.media or not change.old.transcript.turns:
            self.intake.refresh()

    def _on_progress(self, progress: Progress | None) -> None:
        self._progress = progress
        self.intake.show_progress(progress)
        self.footer.show_progress(progress)
        if progress is None:
            self.intake.refresh()
            self.show_counts()
        else:
            self.rail.buttons[INTAKE].show_state(*self._intake_state())
        self.sheet.say_when_empty(*self.operations.hearing.empty_words(progress is not None))

    def _on_failed(self, text: str) -> None:
        self.intake.show_problem(text)
        self.say(text)

    # -- Qt -------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take files."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Open a dropped file; several recordings go into the queue."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if len(paths) > 1:
            self.operations.hearing.enqueue(paths)
        elif paths:
            self.operations.open_path(paths[0])

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask about unsaved work before closing."""
        if not self.operations.may_leave():
            event.ignore()
            return
        self.work.cancel()
        self.recorder.stop()
        self.realigning.close()
        self.queue.stop()
        self.player.pause()
        event.accept()


def _voices_state(project: Project) -> tuple[str, float]:
    """What is still to do in Voices, the first thing first, and the share of the turns that is done."""
    turns, people = project.transcript.turns, {one.id: one.name for one in project.transcript.speakers}
    if not turns:
        return "", 0.0
    nobody = sum(turn.speaker not in people for turn in turns)
    nameless = {turn.speaker for turn in turns if turn.speaker in people and not people[turn.speaker]}
    unsure = sum(is_unsure(turn) for turn in turns)
    done = sum(bool(people.get(turn.speaker or "")) for turn in turns) / len(turns)
    if nameless:
        return f"{len(nameless)} unnamed", done
    if nobody:
        return ("1 turn is nobody's" if nobody == 1 else f"{nobody} turns nobody's"), done
    return (f"all named, {unsure} unsure" if unsure else "all named"), done


__all__ = ["CAPTIONS", "INTAKE", "PASSES", "RELEASE", "VOICES", "WORDING", "MainWindow"]
