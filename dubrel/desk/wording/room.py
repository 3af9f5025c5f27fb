"""Wording: listen along and make the text right."""

from __future__ import annotations

from collections.abc import Callable

from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.sheet.turnsheet import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.commands import Command
from dubrel.desk.shell.desk import Desk, first
from dubrel.desk.shell.room import Room, ToDo
from dubrel.desk.shell.theme import Theme
from dubrel.desk.wording.doubts import Doubts
from dubrel.desk.wording.panel import WordPanel
from dubrel.desk.wording.questions import WordingQuestions
from dubrel.desk.wording.secondreading import SecondReading
from dubrel.desk.wording.typedwords import TypedWords
from dubrel.edits import permitted
from dubrel.edits.index import turn_of, turn_place
from dubrel.edits.queries import next_doubt
from dubrel.edits.unscripted import KIND, next_unscripted, take_in
from dubrel.edits.wording import accept_word, set_proofed
from dubrel.model import Note

_AROUND_MS = 550


class WordingRoom(Room):
    """The third pass.

    Parameters
    ----------
    may_use : callable
        Whether an engine may get the open recording.
    """

    id, name = "wording", "Wording"
    hints = (("play", "play"), ("next_look", "next doubt"), ("proofed", "proofed, next turn"))

    def __init__(
        self, desk: Desk, sheet: TypingSheet, layer: SpeechLayer, may_use: Callable[[str], bool]
    ) -> None:
        super().__init__(desk)
        self.sheet, self.session, self._layer = sheet, desk.session, layer
        self.ask = WordingQuestions(desk)
        self.second = SecondReading(desk, self.ask, sheet, may_use)
        self.doubts = Doubts(desk.session)
        self.typed = TypedWords(desk.session)
        self._panel = WordPanel()
        self._offered: Note | None = None
        self._panel.wanted.connect(lambda name: desk.commands.run(name))
        self._panel.threshold_chosen.connect(self.set_threshold)
        self.doubts.counted.connect(self._show_counts)
        sheet.caret_moved.connect(self._show_word)
        self.session.changed.connect(lambda _change: self._show_word())
        desk.lanes.changed.connect(self._say_when_empty)
        self.session.opened.connect(self._say_when_empty)
        desk.stopping.append(self.typed.close)
        self._say_when_empty()
        self._show_counts()
        self._show_word()

    @property
    def page(self) -> TypingSheet:
        """The sheet of turns."""
        return self.sheet

    @property
    def panel(self) -> WordPanel:
        """The selected word and the doubts."""
        return self._panel

    @property
    def layer(self) -> SpeechLayer:
        """Words and captions."""
        return self._layer

    def set_theme(self, theme: Theme) -> None:
        """Change the colours of the sheet, for all that share it."""
        self.sheet.set_theme(theme)

    def todo(self) -> ToDo:
        """How many doubts there are, or else how much is proofed."""
        words = self.session.project.transcript.word_count
        if not words:
            return ToDo()
        done = self.doubts.proofed / words
        count = self.doubts.count
        text = "1 doubt" if count == 1 else f"{count} doubts" if count else f"{done:.0%} proofed"
        return ToDo(text, done, count)

    def commands(self) -> list[Command]:
        """What can be done here."""
        words = self.desk.without_words
        sound = first(self.desk.without_recording, words)
        chosen = first(words, lambda: "" if self.sheet.anchor != self.sheet.caret else "Nothing is selected.")
        sheet = self.sheet
        return [
            Command("play_word", "Play the word again", "F7", self.play_word, sound, ("word",)),
            Command("accept", "Accept the word", "F9", self.accept, words, ("word",)),
            Command(
                "proofed",
                "Mark the turn as proofed, or not, and go on",
                "Ctrl+Return",
                self.proofed,
                words,
                ("turn",),
            ),
            Command("split_turn", "Split the turn here", "", sheet.split_here, words, ("turn",)),
            Command(
                "join_turn",
                "Join with the turn before",
                "",
                sheet.join_here,
                first(words, self._first_turn),
                ("turn",),
            ),
            Command("cut", "Cut", "Ctrl+X", sheet.cut, chosen, ("selection",)),
            Command("copy", "Copy", "Ctrl+C", sheet.copy, chosen, ("selection",)),
            Command("paste", "Paste", "Ctrl+V", sheet.paste, words, ("selection", "word")),
            Command(
                "take_in",
                "Go to the next unscripted speech; again to add it",
                "Ctrl+I",
                self.take_in,
                self._no_unscripted,
            ),
            *self.second.commands(),
        ]

    def _first_turn(self) -> str:
        return "" if self.sheet.caret.turn else "There is no turn before this one."

    def _no_unscripted(self) -> str:
        reason = permitted.no_notes(self.session.project, KIND)
        return "There is no unscripted speech." if reason else ""

    # -- showing --------------------------------------------------------------------

    def _show_word(self) -> None:
        found = self.sheet.word_at_caret()
        inside = found is not None and 0 <= found[1] < len(found[0].words)
        self._panel.show_word(found[0].words[found[1]] if found and inside else None)

    def _show_counts(self) -> None:
        words = self.session.project.transcript.word_count
        self._panel.show_doubts(self.doubts.count, words, self.doubts.threshold)
        self.desk.counted.emit()

    def _say_when_empty(self) -> None:
        """What an empty sheet says."""
        if self.desk.lanes.runs("transcribe", "live", "align"):
            hint = "The first words appear here in a moment. You can read while the rest is transcribed."
            self.sheet.say_when_empty("Transcribing", hint)
        elif self.session.project.media is None:
            hint = "Drop a recording on this window, or open one in Intake."
            self.sheet.say_when_empty("Nothing on the sheet yet", hint)
        else:
            self.sheet.say_when_empty("Not transcribed yet", "Press Ctrl+T to turn the speech into words.")

    # -- reading --------------------------------------------------------------------

    def play_word(self) -> None:
        """Play the selected word with a little before and after."""
        found = self.sheet.word_at_caret()
        if found and found[0].words:
            word = found[0].words[found[1]]
            self.desk.play(word.start_ms, word.end_ms, _AROUND_MS)

    def look(self, step: int) -> None:
        """Go to the next doubt, or to the one before."""
        sheet = self.sheet
        if not sheet.turns:
            self.desk.say("There are no words yet. Transcribe first.")
            return
        at = sheet.word_at_caret()
        word = at[1] if at else -1
        if sheet.anchor == sheet.caret == Spot(0, 0) and step > 0:
            word = -1
        found = next_doubt(sheet.turns, sheet.caret.turn, word, step, self.doubts.threshold)
        if found is None:
            self.desk.say("No doubts are left at this threshold.")
            return
        self.desk.go(self.id if self.desk.room not in (self.id, "voices") else self.desk.room)
        sheet.select_words(found[0], found[1], found[1] + 1)
        if self.desk.session.has_recording:
            self.play_word()

    def accept(self) -> None:
        """Say that the selected word is right, and go on to the next doubt."""
        found = self.sheet.word_at_caret()
        if found and found[0].words:
            turn, word = found[0], found[0].words[found[1]]
            project = accept_word(self.session.project, turn.id, word.id)
            self.session.apply(project, f"Accept “{word.text}”")
            self.look(1)

    def proofed(self) -> None:
        """Mark the turn as proofed, or no longer; go to the next one."""
        sheet = self.sheet
        turn = sheet.turns[sheet.caret.turn]
        project = set_proofed(self.session.project, turn.id, not turn.proofed)
        self.session.apply(project, "Mark as proofed" if not turn.proofed else "Mark as not proofed")
        if not turn.proofed and sheet.caret.turn + 1 < len(sheet.turns):
            sheet.move_caret(Spot(sheet.caret.turn + 1, 0))

    def set_threshold(self, threshold: float) -> None:
        """Show words as doubtful from a value on."""
        self.doubts.set_threshold(threshold)
        self.sheet.threshold = threshold
        self.sheet.lay_out_again()

    def take_in(self) -> None:
        """Go to speech that is not in the script and play it; once more adds it."""
        found = self.sheet.word_at_caret()
        here = found[0].words[found[1]].start_ms if found and found[0].words else 0
        note = next_unscripted(self.session.project, here)
        if note is None:
            return
        if self._offered is not note:
            self._offered = note
            self.desk.go(self.id)
            if self.session.has_recording:
                self.desk.player.seek(max(0, note.start_ms - _AROUND_MS))
                self.desk.player.play()
            keys = self.desk.commands.keys("take_in")
            self.desk.say(f"Not in the script: “{note.text}”. {keys} adds it to the text.")
            return
        self._offered = None
        project, word_id = take_in(self.session.project, note.id)
        self.session.apply(project, "Add unscripted speech")
        turn = turn_of(self.session.project, word_id)
        if turn is not None:
            word = turn.index_of[word_id]
            self.sheet.select_words(turn_place(self.session.project, turn.id), word, word + 1)
