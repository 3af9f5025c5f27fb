"""What the commands of Voices do: find the speakers, and put right who speaks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.desk.sheet.wording import Spot
from dubrel.edits.captionvoices import speakers_followed
from dubrel.edits.speakers import (
    assign_speakers,
    carried_labels,
    give_words,
    matched_labels,
    merge_speakers,
    move_boundary,
    remove_speaker,
    swap_speakers,
    turns_that_differ,
)
from dubrel.edits.voices import add_speaker, give_turn, rename_speaker
from dubrel.errors import DubrelError
from dubrel.model import Project, Speaker

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.jobs.events import SpeakersFound

_UNCERTAIN = 0.85
_LEAD_MS = 300


class VoiceOperations:
    """The actions of Voices, each one method."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window

    @property
    def _session(self):
        return self.window.session

    def rows(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        """Names, texts and first keys of the commands."""
        rows: list[tuple[str, str, str, Callable[[], object]]] = [
            ("speakers", "Find the speakers", "Ctrl+Shift+V", self.find),
            ("rename", "Rename the speaker", "F2", self.rename),
            ("next_uncertain", "Next turn whose speaker is unsure", "F6", self.next_uncertain),
            ("boundary_back", "Turn begins a word earlier", "Alt+Left", lambda: self.boundary(-1)),
            ("boundary_on", "Turn begins a word later", "Alt+Right", lambda: self.boundary(1)),
            ("swap_here", "Swap two speakers from this turn on", "", lambda: self.swap(here=True)),
            ("swap", "Swap two speakers everywhere", "", lambda: self.swap(here=False)),
            ("merge", "Merge this speaker into another", "", self.merge),
            ("remove_speaker", "Remove this speaker", "", self.remove),
        ]
        for number in range(1, 10):
            text = f"Give the turn, or the selected words, to speaker {number}"
            rows.append((f"speaker_{number}", text, f"Alt+{number}", partial(self.give, number)))
        return rows

    # -- finding ----------------------------------------------------------------

    def find(self) -> None:
        """Tell the voices of the recording apart."""
        session = self._session
        if session.media_path is None or not session.project.transcript.turns:
            self.window.say("Speakers are found in a recording that has been heard. Transcribe it first.")
            return
        wanted = self.window.dialogs.speaker_count()
        if wanted is None:
            return
        from dubrel.jobs.speakers import speaker_bounds  # late: starting the desk does not need it

        try:
            self.window.work.find_speakers(*speaker_bounds(wanted))
        except DubrelError as error:
            self.window.say(str(error))

    def take_found(self, found: SpeakersFound) -> None:
        """Show how many turns would change, and take in what was found."""
        session, asked = self._session, self.window.work.asked_project
        if session.project.transcript.speakers != asked.transcript.speakers:
            self.window.say("The speakers were changed while voices were told apart. Find them again.")
            return
        taught = any(turn.confirmed for turn in asked.transcript.turns)
        labels, certainty = carried_labels(asked, session.project, found.labels, found.certainty)
        labels = labels if taught else matched_labels(session.project, labels)
        project = assign_speakers(session.project, labels, certainty)
        changed = turns_that_differ(session.project, project)
        people = len({turn.speaker for turn in project.transcript.turns})
        question = f"{people} voices were found. {changed} of {len(project.transcript.turns)} turns would change. Take that in?"
        if not changed:
            self.window.say(f"{people} voices were found; no turn would change.")
        elif not session.project.transcript.speakers or self.window.dialogs.yes(question):
            session.apply(project, "Find the speakers")
            self.window.work.set_captions(self.window.findings.style, step=True)
            self.window.say(
                f"{people} voices were found. F2 names one, Alt+1 to Alt+9 give a turn to another."
            )

    def next_uncertain(self) -> None:
        """Go to the next turn whose speaker the machine is unsure of, and play it."""
        sheet = self.window.sheet
        turns, here = sheet.turns, sheet.caret.turn
        for step in range(1, len(turns) + 1):
            place = (here + step) % len(turns)
            if not turns[place].confirmed and turns[place].certainty < _UNCERTAIN:
                sheet.move_caret(Spot(place, 0))
                self.window.player.seek(max(0, turns[place].start_ms - _LEAD_MS))
                self.window.player.play(until=turns[place].end_ms + _LEAD_MS)
                return
        self.window.say("No turn is unsure.")

    def _take(self, project: Project, label: str) -> None:
        """Take a step that changes who speaks; the captions follow."""
        session = self._session
        session.apply(speakers_followed(session.project, project, self.window.findings.style), label)

    # -- putting right ------------------------------------------------------------

    def give(self, number: int) -> None:
        """Give the selected words or the turn at the caret to a speaker; a new number asks for a name."""
        sheet, session = self.window.sheet, self._session
        if not sheet.turns:
            return
        project, speakers = session.project, session.project.transcript.speakers
        if number <= len(speakers):
            speaker = speakers[number - 1].id
        else:
            name = self.window.dialogs.speaker_name("")
            if name is None:
                return
            project, speaker = add_speaker(project, name)
        turn = sheet.turns[sheet.caret.turn]
        chosen = sheet.selected_words()
        if len(chosen) == 1:
            _, first, stop = chosen[0]
            self._take(give_words(project, turn.id, first, stop, speaker), "Give words")
        else:
            self._take(give_turn(project, turn.id, speaker), "Give a turn")

    def boundary(self, words: int) -> None:
        """Move the beginning of the turn at the caret by a word."""
        sheet, session = self.window.sheet, self._session
        if sheet.turns:
            turn = sheet.turns[sheet.caret.turn]
            self._take(move_boundary(session.project, turn.id, words), "Move a turn's beginning")
            sheet.move_caret(Spot(sheet.caret.turn, 0))

    def _speaker_here(self) -> Speaker | None:
        turns = self.window.sheet.turns
        found = (
            self._session.project.transcript.speaker(turns[self.window.sheet.caret.turn].speaker)
            if turns
            else None
        )
        if found is None:
            self.window.say("This turn has no speaker yet; give it one with Alt+1 to Alt+9.")
        return found

    def rename(self) -> None:
        """Rename the speaker of the turn at the caret."""
        speaker = self._speaker_here()
        name = self.window.dialogs.speaker_name(speaker.name) if speaker is not None else None
        if speaker is not None and name:
            self._session.apply(rename_speaker(self._session.project, speaker.id, name), "Rename a speaker")

    def _with_other(self, change: Callable[[Project, str, str], Project], question: str, label: str) -> None:
        speaker = self._speaker_here()
        if speaker is None:
            return
        others = [one for one in self._session.project.transcript.speakers if one.id != speaker.id]
        if not others:
            self.window.say("There is no other speaker.")
            return
        other = self.window.dialogs.speaker(question.format(speaker.name or "this speaker"), others)
        if other is not None:
            self._take(change(self._session.project, speaker.id, other.id), label)

    def swap(self, *, here: bool) -> None:
        """Let the speaker of this turn and another change places."""
        turn = (
            self.window.sheet.turns[self.window.sheet.caret.turn].id
            if here and self.window.sheet.turns
            else None
        )
        self._with_other(
            lambda project, one, other: swap_speakers(project, one, other, turn),
            "Swap {} with",
            "Swap speakers",
        )

    def merge(self) -> None:
        """Give all turns of this speaker to another."""
        self._with_other(merge_speakers, "Merge {} into", "Merge speakers")

    def remove(self) -> None:
        """Remove the speaker of this turn."""
        speaker = self._speaker_here()
        if speaker is not None:
            self._take(remove_speaker(self._session.project, speaker.id), "Remove a speaker")
