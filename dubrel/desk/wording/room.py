"""Wording: listen along and make the text right."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from functools import partial
from types import ModuleType
from typing import TYPE_CHECKING

from dubrel.base.catalogue import Message, amount, counted, tr
from dubrel.base.timecode import format_length
from dubrel.desk.sheet.copying import copy_named, copy_quote
from dubrel.desk.sheet.meanings import Meanings
from dubrel.desk.sheet.speechlayer import SpeechLayer
from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.background import beside
from dubrel.desk.shell.core.commands import Act, Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.wording.doubts import Doubts
from dubrel.desk.wording.editing import Editing
from dubrel.desk.wording.panel import WordPanel
from dubrel.desk.wording.proofing import ProofingTools, Rate
from dubrel.desk.wording.questions import WordingQuestions
from dubrel.desk.wording.secondreading import SecondReading
from dubrel.desk.wording.spellingmarks import SpellingMarks
from dubrel.desk.wording.typedwords import TypedWords
from dubrel.edits.words.wording import accept_word, set_proofed
from dubrel.model import Note
from dubrel.project import reasons
from dubrel.project.index import turn_of, turn_place, word_with
from dubrel.project.quality import left_ms
from dubrel.project.queries import next_doubt, word_at

_AROUND_MS = 550


if TYPE_CHECKING:
    from dubrel.desk.wording.drawer import Drawer
    from dubrel.desk.wording.drawerpage import DrawerPage


def _drawer(name: str) -> ModuleType:
    """The file of a page; loaded when it is first wanted."""
    return importlib.import_module(f"dubrel.desk.wording.drawers.{name}")


class WordingRoom(Room):
    """The third pass.

    Parameters
    ----------
    may_use : callable
        Whether an engine may get the open recording.
    """

    id, name = "wording", tr("Wording")
    hints = (("play", tr("play")), ("next_look", tr("next doubt")), ("proofed", tr("proofed, next turn")))

    def __init__(
        self,
        desk: Desk,
        sheet: TypingSheet,
        layer: SpeechLayer,
        meanings: Meanings,
        may_use: Callable[[str], bool],
    ) -> None:
        super().__init__(desk)
        self.sheet, self.session, self._layer = sheet, desk.session, layer
        self.ask = WordingQuestions(desk)
        self.second = SecondReading(desk, self.ask, sheet, may_use)
        self.doubts = Doubts(desk.session)
        self.typed = TypedWords(desk.session)
        self.meanings = meanings
        self.marks = SpellingMarks(desk.session)
        self.editing = Editing(desk, sheet)
        self._pull_out: Drawer | None = None
        self.keeping = ProofingTools(
            desk, sheet, self.ask, self.marks, lambda: self.pull_out, self.editing.chosen
        )
        self.rate = Rate()
        self._panel = WordPanel()
        self._offered: Note | None = None
        self._panel.wanted.connect(lambda name: desk.commands.run(name))
        self._panel.threshold_chosen.connect(self.set_threshold)
        self.doubts.counted.connect(self._show_counts)
        sheet.caret_moved.connect(self._show_word)
        self.session.changed.connect(lambda _change: self._show_word())
        desk.jobs.changed.connect(self._say_when_empty)
        self.session.opened.connect(self._say_when_empty)
        desk.stopping += [self.typed.close, self.marks.close]
        self._join_up()
        self._say_when_empty()
        self._show_counts()
        self._show_word()

    def _pages(self) -> dict[str, tuple[str, Callable[[], DrawerPage]]]:
        """The drawer's pages; to add one is a file and a line here."""
        desk, sheet = self.desk, self.sheet
        return {
            "find": (tr("Find"), lambda: _drawer("find").FindPage(desk, sheet, self.meanings)),
            "terms": (tr("Terms"), lambda: _drawer("terms").TermsPage(desk, sheet, self.ask, self.marks)),
            "spelling": (tr("Spelling"), lambda: _drawer("spelling").SpellingPage(desk, sheet, self.marks)),
            "cleanup": (tr("Clean up"), lambda: _drawer("cleanup").CleanUpPage(desk, sheet)),
            "notes": (tr("Notes"), lambda: _drawer("notes").NotesPage(desk, sheet)),
            "topics": (
                tr("What it is about"),
                lambda: _drawer("topics").TopicsPage(desk, sheet, self.meanings),
            ),
            "sure": (tr("How sure"), lambda: _drawer("sure").SurePage(desk, sheet)),
            "steps": (tr("Steps"), lambda: _drawer("steps").StepsPage(desk, sheet)),
        }

    def _join_up(self) -> None:
        """What hangs on the drawer, the spelling and the player."""
        desk = self.desk
        self.sheet.misspelt = self.marks.marked
        self.marks.changed.connect(self.sheet.viewport().update)
        desk.session.opened.connect(self.rate.forget)
        desk.transcribed.connect(lambda _speakers: self._say_terms())

    def _drawer_out(self) -> None:
        if self.desk.room != self.id:
            self.desk.go(self.id)
        self.desk.drawer_changed.emit()

    def _drawer_in(self) -> None:
        self.desk.drawer_changed.emit()
        self.sheet.setFocus()

    def _say_terms(self) -> None:
        """After a new recording: how many places of terms are likely."""
        from dubrel.finding.termspots import term_spots  # late: starting the desk does not need it

        project = self.session.project
        terms = (*project.terms, *self.desk.known_terms())
        if terms and project.transcript.turns:
            count = len(beside(lambda: term_spots(project, terms, None, self.marks.knows)))
            keys = self.desk.commands.keys("terms")
            if count:
                self.desk.say(
                    tr("{places} of your terms. {keys} lists them.").format(
                        places=counted(count, "likely place"), keys=keys
                    )
                )

    @property
    def pull_out(self) -> Drawer:
        """The drawer, made when it is first wanted."""
        if self._pull_out is None:
            from dubrel.desk.wording.drawer import Drawer  # late: the window opens without it

            self._pull_out = Drawer(self.desk, self._pages())
            self._pull_out.opened.connect(self._drawer_out)
            self._pull_out.closed.connect(self._drawer_in)
        return self._pull_out

    def acts(self) -> list[Act]:
        """The buttons of the drawer."""
        return self.pull_out.acts()

    @property
    def drawer(self) -> Drawer | None:
        """Lists of places, pulled out under the sheet."""
        return self._pull_out if self._pull_out is not None and self._pull_out.now else None

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
        proofing, count = self.doubts.proofing, self.doubts.count
        rate = self.rate.speed()
        said = amount(count, "doubt") if count else Message("{share:.0%} proofed", share=proofing.share)
        if rate and proofing.share < 1:
            said = Message("{said}, {time} left", said=said, time=format_length(left_ms(proofing, rate)))
        return ToDo(said, proofing.share, count)

    def commands(self) -> list[Command]:
        """What can be done here."""
        words = self.desk.without_words
        sound = first(self.desk.without_recording, words)
        chosen = first(
            words, lambda: "" if self.sheet.anchor != self.sheet.caret else tr("Nothing is selected.")
        )
        sheet = self.sheet
        return [
            Command("play_word", tr("Play the word again"), "F7", self.play_word, sound, ("word",)),
            Command("accept", tr("Accept the word"), "F9", self.accept, words, ("word",)),
            Command(
                "proofed",
                tr("Mark the turn as proofed, or not, and go on"),
                "Ctrl+Return",
                self.proofed,
                words,
                ("turn",),
            ),
            Command("split_turn", tr("Split the turn here"), "", sheet.split_here, words, ("turn",)),
            Command(
                "join_turn",
                tr("Join with the turn before"),
                "",
                sheet.join_here,
                first(words, self._first_turn),
                ("turn",),
            ),
            Command("cut", tr("Cut"), "Ctrl+X", sheet.cut, chosen, ("selection",)),
            Command("copy", tr("Copy"), "Ctrl+C", sheet.copy, chosen, ("selection",)),
            Command("paste", tr("Paste"), "Ctrl+V", sheet.paste, words, ("selection", "word")),
            Command(
                "take_in",
                tr("Go to the next unscripted speech; again to add it"),
                "Ctrl+I",
                self.take_in,
                self._no_unscripted,
            ),
            *self.second.commands(),
            *self.editing.commands(),
            *self.keeping.commands(),
            *self._drawer_commands(),
            *self._listening_commands(),
        ]

    def _drawer_commands(self) -> list[Command]:
        """Every page of the drawer, some at what is listed first."""
        words = self.desk.without_words
        table = (
            ("find_words", tr("Find in the words, and replace"), "Ctrl+F", "find", "text"),
            ("sounds_like", tr("Find what sounds like a name"), "Ctrl+Shift+F", "find", "sound"),
            ("meaning", tr("Find by meaning"), "Ctrl+Alt+M", "find", "meaning"),
            ("meaning_all", tr("Find by meaning in recent projects"), "", "find", "all"),
            ("terms", tr("Terms and their likely places"), "Ctrl+Alt+E", "terms", ""),
            ("spelling", tr("Check the spelling"), "Ctrl+Alt+Y", "spelling", ""),
            ("clean_up", tr("Clean up fillers, repeats and marks"), "Ctrl+Alt+U", "cleanup", ""),
            ("notes", tr("List the notes"), "Ctrl+Alt+O", "notes", ""),
            ("chapters", tr("Propose chapters"), "Ctrl+Alt+B", "topics", "chapters"),
            ("summary", tr("Sum up in key sentences"), "", "topics", "summary"),
            ("quotes", tr("Propose quotes"), "", "topics", "quotes"),
            ("key_terms", tr("List the key terms"), "", "topics", "terms"),
            ("how_sure", tr("How sure the transcript is"), "Ctrl+Alt+H", "sure", "doubts"),
            ("not_proofed", tr("List what is not proofed yet"), "Ctrl+Alt+J", "sure", "left"),
            ("steps", tr("List the steps"), "Ctrl+Alt+Z", "steps", ""),
        )
        return [
            Command(name, text, keys, partial(self.open_drawer, page, start), words)
            for name, text, keys, page, start in table
        ] + [Command("verbatim", tr("Read verbatim, or clean"), "Ctrl+Alt+R", self.switch_reading, words)]

    def open_drawer(self, page: str, start: str = "") -> None:
        """Pull the drawer out at a page, at one of its lists."""
        opened = self.pull_out.open(page)
        if start:
            opened.start(start)

    def switch_reading(self) -> None:
        """Show the words verbatim, or clean."""
        self.pull_out.page("cleanup").switch_reading()  # type: ignore[attr-defined]

    def _listening_commands(self) -> list[Command]:
        """Where the caret and the playhead meet."""
        sound = first(self.desk.without_recording, self.desk.without_words)
        selected = first(sound, lambda: "" if self.sheet.selected_words() else tr("Nothing is selected."))
        words = self.desk.without_words
        chosen = first(
            words, lambda: "" if self.sheet.anchor != self.sheet.caret else tr("Nothing is selected.")
        )
        return [
            Command(
                "loop_word", tr("Loop the word"), "Ctrl+Shift+L", partial(self.loop, "word"), sound, ("word",)
            ),
            Command(
                "loop_selection",
                tr("Loop the selection"),
                "Shift+F4",
                partial(self.loop, "selection"),
                selected,
                ("selection",),
            ),
            Command(
                "playhead_here",
                tr("Bring the playhead to the caret"),
                "Ctrl+Shift+Space",
                self.playhead_to_caret,
                words,
                ("word",),
            ),
            Command(
                "caret_there",
                tr("Bring the caret to the playhead"),
                "Ctrl+Alt+Space",
                self.caret_to_playhead,
                words,
            ),
            Command(
                "copy_named",
                tr("Copy with names and times"),
                "Ctrl+Shift+Q",
                partial(self._copy, copy_named),
                chosen,
                ("selection",),
            ),
            Command(
                "copy_quote",
                tr("Copy as a quote with its timecode"),
                "Ctrl+'",
                partial(self._copy, copy_quote),
                chosen,
                ("selection",),
            ),
        ]

    def _copy(self, how: Callable[[TypingSheet], int]) -> None:
        self.desk.say(tr("Copied: {paragraphs}.").format(paragraphs=counted(how(self.sheet), "paragraph")))

    def loop(self, what: str) -> None:
        """Loop the word at the caret, or the selected words; again ends it."""
        if self.desk.player.loop is not None:
            self.desk.listening.end_loop()
            return
        words = [
            w for one in self.editing.chosen() if (w := word_with(self.session.project, one)) is not None
        ]
        if words:
            self.desk.listening.loop(what, (words[0].start_ms, words[-1].end_ms))
            self.desk.player.play()

    def playhead_to_caret(self) -> None:
        """Put the playhead at the word at the caret."""
        found = self.sheet.word_at_caret()
        if found and found[1] >= 0:
            self.desk.player.seek(found[0].words[found[1]].start_ms)

    def caret_to_playhead(self) -> None:
        """Put the caret before the word that is said, and show it."""
        found = word_at(self.session.project, self.desk.player.position)
        if found is not None:
            self.sheet.move_caret(Spot(found[0], self.sheet.turns[found[0]].offsets[found[1]]))

    def _first_turn(self) -> str:
        return "" if self.sheet.caret.turn else tr("There is no turn before this one.")

    def _no_unscripted(self) -> str:
        from dubrel.edits.words.unscripted import KIND  # late: the window opens without it

        reason = reasons.no_notes(self.session.project, KIND)
        return tr("There is no unscripted speech.") if reason else ""

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
        if self.desk.jobs.runs("transcribe", "live", "align"):
            hint = tr("The first words appear here in a moment. You can read while the rest is transcribed.")
            self.sheet.say_when_empty(tr("Transcribing"), hint)
        elif self.session.project.media is None:
            hint = tr("Drop a recording on this window, or open one in Intake.")
            self.sheet.say_when_empty(tr("Nothing on the sheet yet"), hint)
        else:
            self.sheet.say_when_empty(
                tr("Not transcribed yet"), tr("Press Ctrl+T to turn the speech into words.")
            )

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
            self.desk.say(tr("There are no words yet. Transcribe first."))
            return
        at = sheet.word_at_caret()
        word = at[1] if at else -1
        if sheet.anchor == sheet.caret == Spot(0, 0) and step > 0:
            word = -1
        found = next_doubt(sheet.turns, sheet.caret.turn, word, step, self.doubts.threshold)
        if found is None:
            self.desk.say(tr("No doubts are left at this threshold."))
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
            self.session.step(
                lambda project: accept_word(project, turn.id, word.id),
                tr("Accept “{text}”").format(text=word.text),
            )
            self.look(1)

    def proofed(self) -> None:
        """Mark the turn as proofed, or no longer; go to the next one."""
        sheet = self.sheet
        turn = sheet.turns[sheet.caret.turn]
        now = not turn.proofed or turn.reworded
        label = tr("Mark as proofed") if now else tr("Mark as not proofed")
        self.session.step(lambda project: set_proofed(project, turn.id, now), label)
        if now:
            self.rate.add(turn.end_ms - turn.start_ms)
        if now and sheet.caret.turn + 1 < len(sheet.turns):
            sheet.move_caret(Spot(sheet.caret.turn + 1, 0))

    def set_threshold(self, threshold: float) -> None:
        """Show words as doubtful from a value on."""
        self.doubts.set_threshold(threshold)
        self.sheet.threshold = self.desk.doubtful_from = threshold
        self.sheet.lay_out_again()

    def take_in(self) -> None:
        """Go to speech that is not in the script and play it; once more adds it."""
        from dubrel.edits.words.unscripted import (  # late: the window opens without it
            next_unscripted,
            take_in,
        )

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
            self.desk.say(
                tr("Not in the script: “{text}”. {keys} adds it to the text.").format(
                    text=note.text, keys=keys
                )
            )
            return
        self._offered = None
        base = self.session.project
        project, word_id = take_in(base, note.id)
        self.session.apply(project, tr("Add unscripted speech"), base=base)
        turn = turn_of(self.session.project, word_id)
        if turn is not None:
            word = turn.index_of[word_id]
            self.sheet.select_words(turn_place(self.session.project, turn.id), word, word + 1)
