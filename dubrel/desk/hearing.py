"""What the commands of Intake do: hear a recording, line a script up, audit times."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from dubrel.captions.checks import caption_lines
from dubrel.desk.aside import beside
from dubrel.desk.recording import RATE
from dubrel.edits.captions import moved, retimed
from dubrel.edits.unscripted import next_unscripted, take_in
from dubrel.errors import DubrelError
from dubrel.formats.script import Piece, read_script, understand
from dubrel.jobs.hearing import AS_USUAL
from dubrel.media.probe import SUFFIXES, probe
from dubrel.model import Media, Note, Project
from dubrel.settings import load_settings, save_settings
from dubrel.speech.engines import engine_named, is_remote

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.speech.audit import Audit


def _probed(path: Path) -> Media | None:
    try:
        return probe(path)
    except DubrelError:
        return None


class HearingOperations:
    """The actions of Intake, each one method."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self._offered: Note | None = None

    @property
    def _session(self):
        return self.window.session

    def rows(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        """Names, texts and first keys of the commands."""
        return [
            ("transcribe", "Transcribe", "Ctrl+T", self.transcribe),
            ("script", "Line up a script", "Ctrl+Shift+T", self.line_up),
            ("script_paste", "Line up the text on the clipboard", "", self.line_up_pasted),
            ("take_in", "Next speech that is not in the script; take it in", "Ctrl+I", self.take_in),
            ("audit", "Audit the times against the sound", "Ctrl+Shift+A", self.audit),
            ("record", "Record, or stop recording", "Ctrl+R", self.record),
            ("queue", "Hear many recordings, one after the other", "Ctrl+Shift+O", self.queue),
            ("move", "Shift or stretch the captions", "", self.move_captions),
            ("weave", "Make one recording of a file for each speaker", "", self.weave),
            ("add_folder", "Add a recogniser: a model folder", "", self.add_folder),
            ("add_service", "Add a recogniser: a service elsewhere", "", self.add_service),
            ("remove_engine", "Remove the chosen recogniser", "", self.remove_engine),
        ]

    # -- transcribing -----------------------------------------------------------

    def transcribe(self) -> None:
        """Turn the recording into words, as chosen in Intake."""
        project = self._session.project
        if project.media is None:
            self.window.say("Bring in a recording first.")
            return
        hearing = self.window.intake.hearing()
        if not self.may_use(hearing.engine):
            return
        if project.transcript.turns and not self.window.dialogs.yes(
            "Hear the recording again? Its words replace those on the sheet; undo brings them back."
        ):
            return
        self.window.work.transcribe(hearing)
        self.window.show_pass(2)

    def may_use(self, engine: str) -> bool:
        """Whether an engine may hear the open recording: one elsewhere only with consent."""
        media = self._session.project.media
        return not is_remote(engine) or bool(media and self._prices(engine, [media]))

    def _prices(self, engine: str, recordings: Sequence[Media]) -> list[str]:
        """What a service asks for each recording; empty where it may not be used.

        The price is shown before anything is sent, and once for each service it
        is asked whether recordings may go there at all.
        """
        settings, lengths = load_settings(), [one.duration_ms for one in recordings]
        try:
            service = beside(partial(engine_named, engine))
            asked = [sum(lengths), *lengths]
            total, *each = beside(lambda: [service.price(one) for one in asked])  # type: ignore[union-attr]
        except DubrelError as error:
            self.window.say(str(error))
            self.window.intake.show_problem(str(error))
            return []
        what = f"“{recordings[0].name}”" if len(recordings) == 1 else f"{len(recordings)} recordings"
        question = f"Hearing {what} elsewhere costs {total}."
        if engine not in settings.consented:
            question = (
                f"The sound of {what} leaves this machine and goes to {engine.partition(':')[2]}. "
                f"{question} May recordings be sent there?"
            )
        else:
            question += " Send it?" if len(recordings) == 1 else " Send them?"
        if not self.window.dialogs.yes(question):
            return []
        save_settings(settings.with_consent(engine))
        return each

    def queue(self) -> None:
        """Choose recordings and put them into the queue."""
        self.enqueue(self.window.dialogs.recordings())

    def enqueue(self, paths: list[Path]) -> None:
        """Put recordings into the queue, to be heard as chosen in Intake."""
        recordings = [one for one in paths if one.suffix.lower() in SUFFIXES]
        hearing = self.window.intake.hearing()
        if len(recordings) < len(paths):
            self.window.say(f"{len(paths) - len(recordings)} files are no recordings and were left out.")
        prices = self._queue_prices(hearing.engine, recordings) if recordings else None
        if prices is not None:
            self.window.queue.add(recordings, hearing, prices)
            self.window.show_pass(0)

    def _queue_prices(self, engine: str, recordings: list[Path]) -> list[str] | None:
        """Prices of recordings for the queue, empty for an engine here; ``None`` where they may not go.

        A recording that cannot be read has no price; the queue will say why.
        """
        if not is_remote(engine):
            return []
        found = beside(lambda: [_probed(one) for one in recordings])
        prices = self._prices(engine, [one for one in found if one is not None])
        if not prices:
            return None
        following = iter(prices)
        return ["" if one is None else next(following) for one in found]

    def queue_as_chosen(self, item_id: int) -> None:
        """Let a recording of the queue be heard as chosen in Intake."""
        item, hearing = self.window.queue.queue.item(item_id), self.window.intake.hearing()
        prices = self._queue_prices(hearing.engine, [Path(item.path)]) if item is not None else None
        if prices is not None:
            self.window.queue.hear_as(item_id, hearing, prices[0] if prices else "")

    def add_folder(self) -> None:
        """Add a model folder to the recognisers."""
        folder = self.window.dialogs.model_folder()
        if folder is not None:
            self._add(f"folder:{folder}")

    def add_service(self) -> None:
        """Add a service to the recognisers."""
        address = self.window.dialogs.service_address()
        if address is not None:
            self._add(f"remote:{address}")

    def _add(self, engine: str) -> None:
        try:
            beside(partial(engine_named, engine))
            save_settings(load_settings().with_engine(engine))
        except DubrelError as error:
            self.window.say(str(error))
            self.window.intake.show_problem(str(error))
            return
        self.window.intake.show_problem("")
        self.window.intake.fill_engines(engine)
        self.window.show_pass(0)

    def remove_engine(self) -> None:
        """Take the chosen recogniser out of the list; nothing on the disk is touched."""
        engine = self.window.intake.hearing().engine
        if engine == "builtin":
            self.window.say("The built-in recogniser stays.")
            return
        save_settings(load_settings().without_engine(engine))
        self.window.intake.fill_engines("builtin")

    def weave(self) -> None:
        """Choose a file for each speaker, make one recording of them and open it."""
        paths = self.window.dialogs.speaker_files()
        if len(paths) < 2:
            return
        target = self.window.dialogs.woven_file(paths[0].with_name(f"{paths[0].stem} and others.mka"))
        if target is None:
            return
        from dubrel.media.trackfile import write_track_file

        self.window.say("The files are being put together.")
        try:
            beside(lambda: list(write_track_file(paths, target)))
        except DubrelError as error:
            self.window.say(str(error))
            return
        self.window.operations.open_path(target)

    # -- recording --------------------------------------------------------------

    def record(self) -> None:
        """Begin to record, or stop."""
        window, session = self.window, self._session
        if window.recorder.running:
            window.recorder.stop()
            return
        if not window.operations.may_leave():
            return
        source = window.dialogs.microphone()
        path = window.dialogs.new_recording() if source is not None else None
        if source is None or path is None:
            return
        hearing = window.intake.hearing()
        if is_remote(hearing.engine):
            hearing = AS_USUAL  # a service hears whole recordings only
        try:
            window.recorder.start(path, source)
        except DubrelError as error:
            window.say(str(error))
            return
        window.work.cancel()
        session.open(Project(title=path.stem), None, saved=False)
        window.work.listen_live(path, RATE, hearing)
        window.record_bar.show_running(True)
        window.strip.recording = True
        window.show_pass(2)

    def take_recording(self, name: str) -> None:
        """Make what was recorded the recording of the open project."""
        self.window.recorder.stop()
        try:
            media = beside(partial(probe, Path(name)))
        except DubrelError as error:
            self.window.say(str(error))
            return
        self._session.attach(media)
        self.window.strip.recording = False
        self.window.player.set_source(Path(name))
        self.window.work.read_sound()
        self.window.intake.refresh()
        self.window.show_counts()

    # -- scripts and audits -----------------------------------------------------

    def line_up(self) -> None:
        """Choose a script, see how it was understood, and line it up with the sound."""
        path = self.window.dialogs.script() if self._has_sound() else None
        if path is not None:
            self._line_up(path.name, partial(read_script, path))

    def line_up_pasted(self) -> None:
        """Line the text on the clipboard up with the sound."""
        text = QGuiApplication.clipboard().text()
        if not text.strip():
            self.window.say("There is no text on the clipboard. Copy the script first.")
        elif self._has_sound():
            self._line_up("Text from the clipboard", partial(understand, text))

    def _has_sound(self) -> bool:
        media = self._session.project.media
        if media is None or not media.has_audio:
            self.window.say("Bring in a recording with sound first.")
            return False
        return True

    def _line_up(self, name: str, read: Callable[[], list[Piece]]) -> None:
        try:
            pieces = beside(read)
        except DubrelError as error:
            self.window.say(str(error))
            return
        chosen = self.window.dialogs.understood(name, pieces)
        if chosen is not None:
            self.window.work.line_up(*chosen)

    def take_in(self) -> None:
        """Go to speech that is not in the script and play it; once more takes it in."""
        session, sheet = self._session, self.window.sheet
        found = sheet.word_at_caret()
        here = found[0].words[found[1]].start_ms if found and found[0].words else 0
        note = next_unscripted(session.project, here)
        if note is None:
            self.window.say("Nothing was heard that is not in the script.")
            return
        if self._offered is not note:
            self._offered = note
            self.window.show_pass(2)
            self.window.player.seek(max(0, note.start_ms - 600))
            self.window.player.play()
            key = self.window.commands.keys("take_in")
            self.window.say(f"Not in the script: “{note.text}”. {key} takes it in.")
            return
        self._offered = None
        project, turn, word = take_in(session.project, note.id)
        session.apply(project, "Take in what was said")
        sheet.select_words(turn, word, word + 1)

    def audit(self) -> None:
        """Compare the captions' times with the sound."""
        project = self._session.project
        if project.captions is None or project.media is None or self._session.media_path is None:
            self.window.say("An audit needs captions and their recording. Open both first.")
            return
        self.window.say("The recording is being heard for the audit; you can go on meanwhile.")
        self.window.work.audit()

    def move_captions(self) -> None:
        """Shift or stretch the captions by the user's own numbers."""
        track = self._session.project.captions
        if track is None or not track.captions:
            self.window.say("There are no captions to move. Set or open some first.")
            return
        wanted = self.window.dialogs.move(track, self.window.player.position)
        if wanted is not None:
            self._session.apply(moved(self._session.project, wanted), "Move the captions")

    def show_audit(self, report: Audit) -> None:
        """Show what an audit found, and repair what the user chooses."""
        wanted = self.window.dialogs.repair(report)
        if wanted is None:
            return
        project = self.window.work.asked_project
        if self._session.project.captions is not project.captions or project.captions is None:
            self.window.say("The captions were changed since the audit began. Audit them again.")
            return
        from dubrel.jobs.audit import cues_of  # late: starting the desk does not need it
        from dubrel.speech.audit import follow_course, retime

        cues = cues_of(project)
        made = retime(cues, report) if wanted == "retime" else follow_course(cues, report.course)
        ordered = sorted(project.captions.captions, key=lambda one: one.start_ms)
        shown = [one for one in ordered if caption_lines(one, project.transcript.words_by_id)]
        times = {one.id: (cue.start_ms, cue.end_ms) for one, cue in zip(shown, made)}
        self._session.apply(retimed(self._session.project, times), "Repair the times")

    def empty_words(self, running: bool) -> tuple[str, str]:
        """What an empty sheet says."""
        if running:
            return (
                "Listening",
                "The first words appear here in a moment. You can begin to read while the rest is heard.",
            )
        if self._session.project.media is None:
            return "Nothing on the sheet yet", "Drop a recording on this window, or open one in Intake."
        return "Not heard yet", "Press Ctrl+T to turn the speech into words."
