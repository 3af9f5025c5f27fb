"""What the commands do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.captions.styles import STYLES
from dubrel.desk.aside import beside
from dubrel.desk.commands import Command
from dubrel.desk.comparing import Comparing
from dubrel.desk.hearing import HearingOperations
from dubrel.desk.keeping import KeepingOperations
from dubrel.desk.player import SPEEDS
from dubrel.desk.rail import PASSES
from dubrel.desk.sheet.wording import Spot
from dubrel.desk.voicing import VoiceOperations
from dubrel.edits.wording import accept_word, set_proofed
from dubrel.errors import DubrelError
from dubrel.formats.register import READERS, read_file
from dubrel.media.probe import fingerprint, probe
from dubrel.model import Project
from dubrel.projectfile import open_project

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow

_LEAD_MS, _TRAIL_MS = 600, 500


class Operations:
    """The actions of a window, each one method."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.hearing = HearingOperations(window)
        self.comparing = Comparing(window)
        self.voices = VoiceOperations(window)
        self.keeping = KeepingOperations(window)

    @property
    def _session(self):
        return self.window.session

    # -- files ----------------------------------------------------------------

    def open(self) -> None:
        """Ask for a file and open it."""
        path = self.window.dialogs.file_to_open()
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> bool:
        """Open a project, a recording, or captions; say why not where it cannot."""
        beside_text = path.suffix.lower() == ".rttm"  # it adds to what is open
        if not beside_text and not self.may_leave():
            return False
        try:
            self._open(path)
        except DubrelError as error:
            self.window.intake.show_problem(str(error))
            self.window.say(str(error))
            return False
        self.window.work.read_sound()
        self.window.sheet.say_when_empty(*self.hearing.empty_words(False))
        self.window.show_counts()
        return True

    def may_leave(self) -> bool:
        """End a recording, and ask what is to become of work that is not saved."""
        if self.window.work.running == "live":  # it may be heard for a while after it has ended
            self.window.work.cancel()
        session = self._session
        nothing = not session.dirty or not session.project.transcript.turns
        return nothing or self.window.dialogs.may_lose()

    def _open(self, path: Path) -> None:
        window, session = self.window, self._session
        suffix = path.suffix.lower()
        if suffix == ".dubrel":
            window.work.cancel()
            session.open(beside(partial(open_project, path)), path, saved=True)
            window.show_pass(2 if session.project.transcript.turns else 0)
        elif suffix == ".rttm":
            self.voices.take_stretches(path)
        elif suffix in READERS:
            reading = beside(partial(read_file, path))
            window.work.cancel()
            self._take_in(reading.project, path.name)
            window.show_pass(3 if session.project.captions else 2)
            if reading.warnings:
                window.say(" ".join(reading.warnings))
        else:
            media = beside(partial(probe, path))
            window.work.cancel()
            session.open(Project(title=path.stem, media=media), None, saved=False)
            window.show_pass(0)

    def _take_in(self, read: Project, name: str) -> None:
        """Make a caption or transcript file the text of the open recording, or a project of its own."""
        session, media = self._session, self._session.project.media
        question = f"Does “{name}” belong to the open recording “{media.name if media else ''}”?"
        if media is None or session.media_path is None or not self.window.dialogs.yes(question):
            session.open(read, None, saved=False)
            return
        present = session.project
        text = replace(read, title=present.title, subtitle=present.subtitle, media=media, notes=present.notes)
        session.apply(replace(text, next_id=max(text.next_id, present.next_id)), f"Take in {name}")

    def save(self) -> bool:
        """Save to the project's file, or ask for one."""
        return self._save(self._session.path) if self._session.path else self.save_as()

    def save_as(self) -> bool:
        """Ask where to save, and save there."""
        session = self._session
        beside = session.media_path.parent if session.media_path else Path.home()
        path = self.window.dialogs.file_to_save(session.path or beside / f"{session.project.title}.dubrel")
        return self._save(path) if path is not None else False

    def _save(self, path: Path) -> bool:
        try:
            self._session.save(path)
        except DubrelError as error:
            self.window.say(str(error))
            return False
        return True

    def find_media(self) -> None:
        """Point the project to its recording again; warn if it is another one."""
        media = self._session.project.media
        if media is None:
            return
        path = self.window.dialogs.recording(media.name)
        if path is None:
            return
        try:
            same = fingerprint(path) == media.fingerprint
        except DubrelError as error:
            self.window.say(str(error))
            return
        question = f"“{path.name}” is not the same recording as “{media.name}”. Use it all the same?"
        if same or self.window.dialogs.yes(question):
            self._session.relink(path)
            self.window.player.set_source(path)
            self.window.work.read_sound()
            self.window.intake.refresh()

    # -- playing --------------------------------------------------------------

    def faster(self) -> None:
        """The next higher speed."""
        self._speed(1)

    def slower(self) -> None:
        """The next lower speed."""
        self._speed(-1)

    def _speed(self, step: int) -> None:
        combo = self.window.booth.speed
        combo.setCurrentIndex(min(max(combo.currentIndex() + step, 0), len(SPEEDS) - 1))

    def hear_again(self) -> None:
        """Play the selected word with a little before and after."""
        found = self.window.sheet.word_at_caret()
        if found and found[0].words:
            word = found[0].words[found[1]]
            self.window.player.seek(max(0, word.start_ms - _LEAD_MS))
            self.window.player.play(until=word.end_ms + _TRAIL_MS)

    # -- reading --------------------------------------------------------------

    def next_look(self, step: int = 1) -> None:
        """Go to the next doubt, or in Captions to the next broken rule."""
        if self.window.current_pass == 3:
            if not self.window.stanzas.next_finding(step):
                self.window.say("No caption breaks a rule.")
            return
        if self.window.current_pass not in (1, 2):
            self.window.show_pass(2)
        found = self._doubt_from(step)
        if found is None:
            self.window.say("No doubts left at this threshold.")
            return
        turn, word = found
        self.window.sheet.select_words(turn, word, word + 1)
        self.hear_again()

    def _doubt_from(self, step: int) -> tuple[int, int] | None:
        sheet, findings = self.window.sheet, self.window.findings
        turns = sheet.turns
        if not turns:
            return None
        here, at = sheet.caret.turn, sheet.word_at_caret()
        word = at[1] if at else -1
        order = [(here + step * k) % len(turns) for k in range(len(turns) + 1)]
        for nth, place in enumerate(order):
            if not findings.doubts(turns[place]):
                continue
            words = range(len(turns[place].words))
            if nth == 0:
                at_caret = sheet.anchor == sheet.caret == Spot(0, 0)
                words = words[word + (not at_caret) :] if step > 0 else words[:word]
            for one in words if step > 0 else reversed(words):
                if turns[place].words[one].doubt >= findings.threshold:
                    return place, one
        return None

    def previous_look(self) -> None:
        """Go back to the doubt or the broken rule before."""
        self.next_look(-1)

    def accept(self) -> None:
        """Say that the selected word is right, and go on to the next doubt."""
        found = self.window.sheet.word_at_caret()
        if found and found[0].words:
            turn, word = found[0], found[0].words[found[1]]
            project = accept_word(self._session.project, turn.id, word.id)
            self._session.apply(project, f"Accept “{word.text}”")
            self.next_look()

    def proofed(self) -> None:
        """Tick the turn off, or take the tick away; go to the next one."""
        sheet = self.window.sheet
        if sheet.turns:
            turn = sheet.turns[sheet.caret.turn]
            project = set_proofed(self._session.project, turn.id, not turn.proofed)
            self._session.apply(project, "Proofed" if not turn.proofed else "Not proofed")
            if not turn.proofed and sheet.caret.turn + 1 < len(sheet.turns):
                sheet.move_caret(Spot(sheet.caret.turn + 1, 0))

    def set_threshold(self, value: int) -> None:
        """Show words as doubtful from a value (hundredths) on."""
        self.window.findings.set_threshold(value / 100)
        self.window.sheet.threshold = value / 100
        self.window.sheet.lay_out_again()

    # -- captions and release -------------------------------------------------

    def set_again(self) -> None:
        """Set the captions anew by the house style."""
        self.window.work.set_captions(self.window.findings.style, step=True)

    def choose_style(self) -> None:
        """Choose a house style and set the captions by it."""
        name = self.window.dialogs.house_style(list(STYLES), self.window.findings.style.name)
        if name is not None:
            self.window.work.set_captions(STYLES[name], step=True)

    def release(self) -> None:
        """Go to Release, or write when there already."""
        if self.window.current_pass == 5:
            self.window.release.write_now()
        else:
            self.window.show_pass(5)

    # -- history --------------------------------------------------------------

    def undo(self) -> None:
        """Take the last step back."""
        self.window.sheet.pending = None
        label = self._session.undo()
        self.window.say(f"Undone: {label}" if label else "Nothing to undo.")

    def redo(self) -> None:
        """Take the step again."""
        label = self._session.redo()
        self.window.say(f"Done again: {label}" if label else "Nothing to do again.")

    def find(self) -> None:
        """Show the list of commands and carry out the chosen one."""
        from dubrel.desk.finder import Finder

        finder = Finder(self.window.commands, self.window.theme, self.window)
        if finder.exec() and finder.chosen:
            self.window.commands.run(finder.chosen)


def command_table(do: Operations) -> list[Command]:
    """Every command with its first keys."""
    window = do.window
    player, strip = window.player, window.strip
    rows: list[tuple[str, str, str, Callable[[], object]]] = [
        ("find", "Find a command", "Ctrl+K", do.find),
        ("open", "Open a recording or a project", "Ctrl+O", do.open),
        ("save", "Save", "Ctrl+S", do.save),
        ("save_as", "Save under another name", "Ctrl+Shift+S", do.save_as),
        ("find_media", "Find the recording", "", do.find_media),
        *do.hearing.rows(),
        *do.comparing.rows(),
        *do.voices.rows(),
        *do.keeping.rows(),
        ("cancel", "Cancel the running work", "Ctrl+Shift+Backspace", window.work.cancel),
        ("undo", "Undo", "Ctrl+Z", do.undo),
        ("redo", "Redo", "Ctrl+Shift+Z", do.redo),
        ("play", "Play or pause", "Ctrl+Space", player.toggle),
        ("back", "Back 5 seconds", "Ctrl+,", lambda: player.step(-5000)),
        ("forward", "Forward 5 seconds", "Ctrl+.", lambda: player.step(5000)),
        ("slower", "Slower", "Ctrl+Shift+,", do.slower),
        ("faster", "Faster", "Ctrl+Shift+.", do.faster),
        ("loop", "Loop the turn", "Ctrl+L", window.booth.loop.toggle),
        ("hear_again", "Hear the word again", "F7", do.hear_again),
        ("next_look", "Next doubt, or next to mend", "F8", do.next_look),
        ("previous_look", "Doubt before, or one to mend before", "Shift+F8", do.previous_look),
        ("accept", "Accept the word", "F9", do.accept),
        ("proofed", "Proofed, next turn", "Ctrl+Return", do.proofed),
        ("set_again", "Set captions again", "Ctrl+Shift+R", do.set_again),
        ("style", "Choose the house style", "Ctrl+Shift+H", do.choose_style),
        ("release", "Release: write deliverables", "Ctrl+E", do.release),
        ("zoom_in", "Strip: show less, larger", "Ctrl+=", lambda: strip.zoom(0.6)),
        ("zoom_out", "Strip: show more", "Ctrl+-", lambda: strip.zoom(1 / 0.6)),
        ("zoom_all", "Strip: the whole recording", "Ctrl+0", strip.show_all),
        ("theme", "Day or night", "Ctrl+Shift+D", window.other_theme),
        ("quit", "Quit", "Ctrl+Q", window.close),
    ]
    for place, name in enumerate(PASSES):
        rows.append((f"pass_{place}", f"Go to {name}", f"Ctrl+{place + 1}", partial(window.show_pass, place)))
    booth = window.booth
    booth.next_doubt.clicked.connect(lambda: do.next_look())
    booth.accept.clicked.connect(do.accept)
    booth.hear_again.clicked.connect(do.hear_again)
    booth.next_finding.clicked.connect(lambda: do.next_look())
    booth.set_again.clicked.connect(do.set_again)
    booth.choose_style.clicked.connect(do.choose_style)
    booth.slider.valueChanged.connect(do.set_threshold)
    return [Command(*row) for row in rows]
