"""Voices: tell the speakers apart, name them, assign turns to them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import Message, tr
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
from dubrel.desk.voices.owners import Owners
from dubrel.desk.voices.people import People
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.desk.voices.striplayer import LaneLayer
from dubrel.edits.speakers.voices import shown_name
from dubrel.model import Project, Speaker
from dubrel.project import reasons
from dubrel.project.followspeakers import speakers_followed
from dubrel.project.history import History
from dubrel.project.queries import next_unsure
from dubrel.project.talk import voice_samples

if TYPE_CHECKING:
    from dubrel.desk.voices.speakerpanel import SpeakerPanel


class VoicesRoom(Room):
    """The second pass."""

    id, name = "voices", tr("Voices")
    hints = (
        ("play", tr("play")),
        ("speaker_1", tr("assign")),
        ("next_uncertain", tr("next unsure")),
        ("proofed", tr("proofed, next turn")),
    )
    ahead = (
        "dubrel.desk.voices.dialogs.speakerrow",
        "dubrel.desk.voices.speakerpanel",
    )

    def __init__(self, desk: Desk, sheet: TypingSheet) -> None:
        super().__init__(desk)
        self.sheet, self.session = sheet, desk.session
        self.ask = VoiceQuestions(desk)
        self.diarising = Diarising(desk, self.ask, self.take)
        self.keeping = KnownVoices(desk, self.ask, self.speaker_here)
        self.people = People(desk, sheet, self.ask, self.speaker_here, self.take)
        self.owners = Owners(desk, sheet, self.ask, self.people.known_names, self.take)
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
            return ToDo(Message("{number} unnamed", number=unnamed), done, unnamed)
        if unassigned:
            return ToDo(Message("{number} unassigned", number=unassigned), done, unassigned)
        return ToDo(
            Message("{number} unsure", number=unsure) if unsure else Message("all named"), done, unsure
        )

    def _show_current(self) -> None:
        if self._panel is not None:
            found = self.sheet.word_at_caret()
            self._panel.show_current(found[0].speaker if found else None)

    def commands(self) -> list[Command]:
        """What can be done here."""
        here = first(self.desk.without_words, self._no_speaker_here)
        return [
            *self._finding(here),
            *self.people.commands(here),
            *self.owners.commands(),
            *self.keeping.commands(here),
        ]

    def _finding(self, here: Callable[[], str]) -> list[Command]:
        """Telling apart, playing."""
        words = self.desk.without_words
        tell = first(words, self.desk.without_recording, self.desk.still_transcribing)
        sample, unsure = (
            tr("Play the next sample of the speaker"),
            tr("Go to the next words whose speaker is unsure"),
        )
        return [
            Command(
                "speakers",
                tr("Tell speakers apart"),
                "Ctrl+Shift+V",
                self.diarising.ask_and_tell,
                first(tell, self._all_assigned),
                words=tr("tell apart"),
            ),
            Command("play_speaker", sample, "F4", self.play_sample, here, ("speaker",)),
            Command("next_uncertain", unsure, "F6", self.next_uncertain, first(words, self._none_unsure)),
            Command(
                "split",
                tr("Split this speaker in two by voice"),
                "",
                lambda: self.diarising.split(self.speaker_here()),
                first(here, tell),
                ("speaker",),
            ),
        ]

    def _all_assigned(self) -> str:
        return reasons.all_assigned(self.session.project)

    def _no_speaker_here(self) -> str:
        if self.speaker_here() is not None:
            return ""
        return tr("This turn has no speaker yet; assign it with Alt+1 to Alt+9.")

    def _none_unsure(self) -> str:
        found = next_unsure(self.sheet.turns, 0, -1) if self.sheet.turns else None
        return "" if found else tr("No turn is unsure.")

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
            self.desk.say(tr("{name} says nothing yet.").format(name=name))
            return
        before, nth = self._played
        nth = (nth + 1) % len(samples) if before == speaker.id else 0
        nth = min(number, len(samples)) - 1 if number else nth
        self._played = (speaker.id, nth)
        self.desk.play(*samples[nth])
        self.desk.say(
            tr("{name}: sample {nth} of {samples}").format(name=name, nth=nth + 1, samples=len(samples))
        )

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
        self.desk.say(
            tr("{value:.0%} sure who says “{text}”").format(value=min(word.sure for word in some), text=text)
        )

    # -- assigning ------------------------------------------------------------------

    def take(
        self, change: Callable[[Project], Project], label: str, *, within: History | None = None
    ) -> None:
        """Take a step that changes who speaks; the captions follow."""
        self.session.step(lambda now: speakers_followed(now, change(now)), label, within=within)

    def _open_passages(self, path: Path) -> None:
        """Import an RTTM file: it adds to what is open."""
        self.diarising.take_passages(path)
        self.desk.go(self.id)

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
