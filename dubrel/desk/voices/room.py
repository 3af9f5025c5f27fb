"""Voices: tell the speakers apart, name them, assign turns to them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.desk.sheet.spots import Spot
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.todo import ToDo
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.theme import Theme
from dubrel.desk.voices.counts import VoiceCounts
from dubrel.desk.voices.diarising import Diarising
from dubrel.desk.voices.knownvoices import KnownVoices
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.desk.voices.striplayer import LaneLayer
from dubrel.edits.speakers.voices import add_speaker, give_turn, rename_speaker, shown_name
from dubrel.edits.words.paragraphs import set_paragraphs
from dubrel.model import Project, Speaker, Turn
from dubrel.project import reasons
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.history import History
from dubrel.project.queries import next_unsure, word_at
from dubrel.project.talk import voice_samples

_NEAR_MS = 300

if TYPE_CHECKING:
    from dubrel.desk.voices.speakerpanel import SpeakerPanel


class VoicesRoom(Room):
    """The second pass."""

    id, name = "voices", "Voices"
    hints = (
        ("play", "play"),
        ("speaker_1", "assign"),
        ("next_uncertain", "next unsure"),
        ("proofed", "proofed, next turn"),
    )
    ahead = (
        "dubrel.desk.voices.dialogs.speakerrow",
        "dubrel.desk.voices.speakerpanel",
    )

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        super().__init__(desk)
        self.sheet, self.session = sheet, desk.session
        self.ask = VoiceQuestions(desk)
        self.telling = Diarising(desk, self.ask, self.take)
        self.keeping = KnownVoices(desk, self.ask, self.speaker_here)
        self.state = VoiceCounts(self.session)
        self._panel: SpeakerPanel | None = None
        self._layer = LaneLayer(
            desk, lambda turn, word: sheet.move_caret(Spot(turn, sheet.turns[turn].offsets[word]))
        )
        self._played: tuple[str, int] = ("", 0)
        desk.openers[".rttm"] = self._open_passages
        sheet.caret_moved.connect(self._show_current)
        self.session.changed.connect(lambda _change: self._show_current())

    @property
    def page(self) -> TypingSheet:
        """The sheet of turns."""
        return self.sheet

    @property
    def panel(self) -> SpeakerPanel:
        """The list of speakers."""
        if self._panel is None:
            from dubrel.desk.voices.speakerpanel import SpeakerPanel  # late: the window opens without it

            made = self._panel = SpeakerPanel(self.session, self.desk.theme, self.desk.menu_on)
            made.wanted.connect(lambda name: self.desk.commands.run(name))
            made.sample_wanted.connect(self.play_sample)
            made.left.connect(self.sheet.setFocus)
        return self._panel

    @property
    def layer(self) -> LaneLayer:
        """A lane for each speaker."""
        return self._layer

    def enter(self) -> None:
        """Mark the words whose speaker is not sure."""
        self.sheet.show_voices(True)
        self._show_current()

    def leave(self) -> None:
        """Mark them no longer."""
        self.sheet.show_voices(False)

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        if self._panel is not None:
            self._panel.set_theme(theme)

    def todo(self) -> ToDo:
        """The first thing that is still to do."""
        project = self.session.project
        if not project.transcript.turns:
            return ToDo()
        unnamed, unassigned, unsure, done = self.state.to_do()
        if unnamed:
            return ToDo(f"{unnamed} unnamed", done, unnamed)
        if unassigned:
            return ToDo(f"{unassigned} unassigned", done, unassigned)
        return ToDo(f"{unsure} unsure" if unsure else "all named", done, unsure)

    def _show_current(self) -> None:
        if self._panel is not None:
            found = self.sheet.word_at_caret()
            self._panel.show_current(found[0].speaker if found else None)

    def commands(self) -> list[Command]:
        """What can be done here."""
        here = first(self.desk.without_words, self._no_speaker_here)
        return [*self._finding(here), *self._speakers(here), *self._turns(), *self.keeping.commands(here)]

    def _finding(self, here: Callable[[], str]) -> list[Command]:
        """Telling apart, playing."""
        words = self.desk.without_words
        tell = first(words, self.desk.without_recording, self.desk.still_transcribing)
        sample, unsure = "Play the next sample of the speaker", "Go to the next words whose speaker is unsure"
        return [
            Command(
                "speakers",
                "Tell speakers apart",
                "Ctrl+Shift+V",
                self.telling.ask_and_tell,
                first(tell, self._all_assigned),
                words="tell apart",
            ),
            Command("play_speaker", sample, "F4", self.play_sample, here, ("speaker",)),
            Command("next_uncertain", unsure, "F6", self.next_uncertain, first(words, self._none_unsure)),
            Command(
                "split",
                "Split this speaker in two by voice",
                "",
                lambda: self.telling.split(self.speaker_here()),
                first(here, tell),
                ("speaker",),
            ),
        ]

    def _speakers(self, here: Callable[[], str]) -> list[Command]:
        """Names, and who is who."""
        two, on = first(here, partial(self._no_speakers, 2)), ("speaker",)
        swap_here = partial(self.swap, here=True)
        everywhere = partial(self.swap, here=False)
        return [
            Command("rename", "Name the speaker", "F2", self.rename, here, ("speaker", "turn")),
            Command("swap_here", "Swap two speakers from this turn on", "Alt+X", swap_here, two, on),
            Command("swap", "Swap two speakers everywhere", "Alt+Shift+X", everywhere, two, on),
            Command("merge", "Merge this speaker into another", "Alt+M", self.merge, two, on),
            Command("remove_speaker", "Remove this speaker", "", self.remove, here, on),
        ]

    def _turns(self) -> list[Command]:
        """Who says what."""
        words = self.desk.without_words
        later, earlier = partial(self.boundary, 1), partial(self.boundary, -1)
        second, on = first(words, self._first_turn), ("turn",)
        what = "Assign the turn, or the selected words, to"
        numbered = [
            Command(f"speaker_{k}", f"{what} speaker {k}", f"Alt+{k}", partial(self.give, k), words)
            for k in range(1, 10)
        ]
        one = first(words, partial(self._no_speakers, 1))
        places = ("turn", "selection", "word")
        return [
            *numbered,
            Command("speaker_other", f"{what} a speaker", "Alt+0", self.give_other, one, places),
            Command("boundary_back", "Start the turn one word earlier", "Alt+Left", earlier, second, on),
            Command("boundary_on", "Start the turn one word later", "Alt+Right", later, second, on),
            Command(
                "paragraphs",
                "Break long turns into paragraphs",
                "Alt+P",
                self.paragraphs,
                words,
                words="set the length",
            ),
        ]

    def _no_speakers(self, least: int) -> str:
        return reasons.no_speakers(self.session.project, least)

    def _all_assigned(self) -> str:
        return reasons.all_assigned(self.session.project)

    def _no_speaker_here(self) -> str:
        if self.speaker_here() is not None:
            return ""
        return "This turn has no speaker yet; assign it with Alt+1 to Alt+9."

    def _first_turn(self) -> str:
        return "" if self.sheet.caret.turn else "There is no turn before the first one."

    def _none_unsure(self) -> str:
        found = next_unsure(self.sheet.turns, 0, -1) if self.sheet.turns else None
        return "" if found else "No turn is unsure."

    def look(self, step: int) -> None:
        """Go to the next words whose speaker is unsure."""
        self.desk.commands.run("next_uncertain")

    # -- playing ------------------------------------------------------------------

    def play_sample(self, number: int = 0) -> None:
        """Play a sample of the speaker by its number (from 1), or the next one."""
        speaker = self.speaker_here()
        if speaker is None:
            return
        name = shown_name(self.session.project, speaker.id)
        samples = voice_samples(self.session.project, speaker.id)
        if not samples:
            self.desk.say(f"{name} says nothing yet.")
            return
        before, nth = self._played
        nth = (nth + 1) % len(samples) if before == speaker.id else 0
        nth = min(number, len(samples)) - 1 if number else nth
        self._played = (speaker.id, nth)
        self.desk.play(*samples[nth])
        self.desk.say(f"{name}: sample {nth + 1} of {len(samples)}")

    def next_uncertain(self) -> None:
        """Go to the next words whose speaker the machine is unsure of, and play them.

        They are selected where the rest of the turn is sure, so that a key assigns only them.
        """
        sheet, at = self.sheet, self.sheet.word_at_caret()
        found = next_unsure(sheet.turns, sheet.caret.turn, at[1]) if at else None
        if found is None:
            return
        place, start, stop = found
        words = sheet.turns[place].words
        if stop - start == len(words):
            sheet.move_caret(Spot(place, 0))
        else:
            sheet.select_words(place, start, stop)
        some = words[start:stop]
        self.desk.play(some[0].start_ms, some[-1].end_ms)
        text = " ".join(word.text for word in some)
        self.desk.say(f"{min(word.sure for word in some):.0%} sure who says “{text}”")

    # -- assigning ------------------------------------------------------------------

    def take(
        self, change: Callable[[Project], Project], label: str, *, within: History | None = None
    ) -> None:
        """Take a step that changes who speaks; the captions follow."""
        self.session.step(lambda now: speakers_followed(now, change(now)), label, within=within)

    def _open_passages(self, path: Path) -> None:
        """Import an RTTM file: it adds to what is open."""
        self.telling.take_passages(path)
        self.desk.go(self.id)

    def give(self, number: int) -> None:
        """Assign the selected words or the turn to a speaker; a new number asks for a name."""
        speakers, meant, history = (
            self.session.project.transcript.speakers,
            self._meant(),
            self.session.history,
        )
        if number <= len(speakers):
            speaker = speakers[number - 1].id
            self._give(meant, lambda project: (project, speaker), history)
        elif wanted := self.ask.speaker_facts(Speaker(""), self._known_names()):
            self._give(meant, lambda project: add_speaker(project, *wanted), history)

    def give_other(self) -> None:
        """Assign the selected words or the turn to a speaker chosen from all."""
        meant, history = self._meant(), self.session.history
        speaker = self.ask.speaker("Assign to", list(self.session.project.transcript.speakers))
        if speaker is not None:
            self._give(meant, lambda project: (project, speaker.id), history)

    def _meant(self) -> tuple[int, list[int]]:
        """What is to be assigned, by ids: a turn, or some words where there are any."""
        turns = self.sheet.turns
        words = [one.id for place, a, b in self.sheet.selected_words() for one in turns[place].words[a:b]]
        return (0, words) if words else (self._turn_meant().id, [])

    def _give(
        self,
        meant: tuple[int, list[int]],
        speaker: Callable[[Project], tuple[Project, str]],
        history: History,
    ) -> None:
        from dubrel.edits.speakers.assigning import give_these  # late: the window opens without it

        turn, words = meant

        def given(project: Project) -> Project:
            project, who = speaker(project)
            return give_these(project, words, who) if words else give_turn(project, turn, who)

        self.take(given, "Assign words" if words else "Assign a turn", within=history)

    def _turn_meant(self) -> Turn:
        """The turn at the caret; while another one plays, that one."""
        sheet, player = self.sheet, self.desk.player
        turn = sheet.turns[sheet.caret.turn]
        near = turn.start_ms - _NEAR_MS <= player.position <= turn.end_ms + _NEAR_MS
        if not player.playing or near:
            return turn
        found = word_at(self.session.project, player.position)
        return sheet.turns[found[0]] if found else turn

    def boundary(self, words: int) -> None:
        """Move the beginning of the turn at the caret by a word."""
        from dubrel.edits.speakers.assigning import move_boundary  # late: the window opens without it

        turn = self.sheet.turns[self.sheet.caret.turn]
        project = self.session.project
        if move_boundary(project, turn.id, words) is project:
            self.desk.say("A turn keeps at least one word.")
            return
        self.take(lambda now: move_boundary(now, turn.id, words), "Move the start of a turn")
        self.sheet.move_caret(Spot(self._place_of(turn), 0))

    def _place_of(self, turn: Turn) -> int:
        return next((k for k, one in enumerate(self.sheet.turns) if one.id == turn.id), 0)

    # -- speakers -------------------------------------------------------------------

    def speaker_here(self) -> Speaker | None:
        """The speaker chosen in the booth's list, or else the one of the turn at the caret."""
        chosen = self._panel.chosen() if self._panel is not None else None
        if chosen is not None:
            return chosen
        turns = self.sheet.turns
        return (
            self.session.project.transcript.speaker(turns[self.sheet.caret.turn].speaker) if turns else None
        )

    def _known_names(self) -> list[str]:
        """Names given earlier in the project, and those of kept voices, that no speaker has now."""
        from dubrel.user.voices import VOICES

        taken = {one.name for one in self.session.project.transcript.speakers}
        earlier = [one.name for value in self.session.history.earlier() for one in value.transcript.speakers]
        names = dict.fromkeys([*earlier, *(one.name for one in VOICES.read())])
        return [one for one in names if one and one not in taken]

    def rename(self) -> None:
        """Name the speaker, and say what the person does."""
        speaker, history = self.speaker_here(), self.session.history
        wanted = self.ask.speaker_facts(speaker, self._known_names()) if speaker else None
        if speaker is not None and wanted is not None:
            self.session.step(
                lambda project: rename_speaker(project, speaker.id, *wanted), "Name a speaker", within=history
            )

    def _with_other(self, change: Callable[[Project, str, str], Project], question: str, label: str) -> None:
        speaker, project, history = self.speaker_here(), self.session.project, self.session.history
        if speaker is None:
            return
        others = [one for one in project.transcript.speakers if one.id != speaker.id]
        other = self.ask.speaker(question.format(shown_name(project, speaker.id)), others)
        if other is not None:
            self.take(lambda now: change(now, speaker.id, other.id), label, within=history)

    def swap(self, *, here: bool) -> None:
        """Let the speaker of this turn and another change places."""
        from dubrel.edits.speakers.assigning import swap_speakers  # late: the window opens without it

        turn = self.sheet.turns[self.sheet.caret.turn].id if here else None
        self._with_other(
            lambda project, one, other: swap_speakers(project, one, other, turn),
            "Swap {} with",
            "Swap speakers",
        )

    def merge(self) -> None:
        """Assign all turns of this speaker to another."""
        from dubrel.edits.speakers.assigning import merge_speakers  # late: the window opens without it

        self._with_other(merge_speakers, "Merge {} into", "Merge speakers")

    def remove(self) -> None:
        """Remove the speaker."""
        from dubrel.edits.speakers.assigning import remove_speaker  # late: the window opens without it

        speaker = self.speaker_here()
        if speaker is not None:
            self.take(lambda project: remove_speaker(project, speaker.id), "Remove a speaker")

    def paragraphs(self) -> None:
        """Break long turns at sentence ends into paragraphs of about so many words."""
        history = self.session.history
        count = self.ask.paragraph_length()
        if count is None:
            return
        before = self.session.project
        self.take(lambda project: set_paragraphs(project, count), "Set paragraphs", within=history)
        if self.session.project is before:
            self.desk.say("The paragraphs already have that length.")
