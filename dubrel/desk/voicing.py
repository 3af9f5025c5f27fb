"""What the commands of Voices do: find the speakers, and put right who speaks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.desk.following import word_at
from dubrel.desk.sheet.wording import Spot
from dubrel.edits.captionvoices import speakers_followed
from dubrel.edits.paragraphs import set_paragraphs
from dubrel.edits.proposals import Proposal, proposals, take_proposals
from dubrel.edits.speakers import (
    assign_speakers,
    carried,
    follow_stretches,
    give_words,
    matched_numbers,
    merge_speakers,
    move_boundary,
    remove_speaker,
    share_covered,
    split_speaker,
    swap_speakers,
)
from dubrel.edits.talk import unsure_runs, voice_samples
from dubrel.edits.voices import add_speaker, give_turn, rename_speaker, shown_name
from dubrel.errors import DubrelError
from dubrel.formats.rttm import read_stretches
from dubrel.model import Project, Speaker, Turn

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.jobs.events import SpeakersFound

_LEAD_MS = 300
_OF_ANOTHER = 0.6


class VoiceOperations:
    """The actions of Voices, each one method."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self._heard: tuple[str, int] = ("", 0)

    @property
    def _session(self):
        return self.window.session

    def rows(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        """Names, texts and first keys of the commands."""
        rows: list[tuple[str, str, str, Callable[[], object]]] = [
            ("speakers", "Find the speakers", "Ctrl+Shift+V", self.find),
            ("rename", "Name the speaker", "F2", self.rename),
            ("hear_speaker", "Hear the speaker: next sample", "F4", self.hear_sample),
            ("next_uncertain", "Next words whose speaker is unsure", "F6", self.next_uncertain),
            ("boundary_back", "Turn begins a word earlier", "Alt+Left", lambda: self.boundary(-1)),
            ("boundary_on", "Turn begins a word later", "Alt+Right", lambda: self.boundary(1)),
            ("swap_here", "Swap two speakers from this turn on", "Alt+X", lambda: self.swap(here=True)),
            ("swap", "Swap two speakers everywhere", "Alt+Shift+X", lambda: self.swap(here=False)),
            ("merge", "Merge this speaker into another", "Alt+M", self.merge),
            ("split", "Split this speaker in two by voice", "", self.split),
            ("remove_speaker", "Remove this speaker", "", self.remove),
            ("paragraphs", "Break long turns into paragraphs", "Alt+P", self.paragraphs),
        ]
        for number in range(1, 10):
            text = f"Give the turn, or the selected words, to speaker {number}"
            rows.append((f"speaker_{number}", text, f"Alt+{number}", partial(self.give, number)))
        text = "Give the turn, or the selected words, to a speaker from the list"
        rows.append(("speaker_other", text, "Alt+0", self.give_other))
        return rows

    # -- finding ----------------------------------------------------------------

    def find(self) -> None:
        """Ask how many people speak, and tell the voices of the recording apart."""
        session = self._session
        if session.media_path is None or not session.project.transcript.turns:
            self.window.say("Speakers are found in a recording that has been heard. Transcribe it first.")
            return
        if all(turn.confirmed for turn in session.project.transcript.turns):
            self.window.say("You have given every turn yourself: nothing is left to be found.")
            return
        wanted = self.window.dialogs.speaker_count() if self.window.work.may_start() else None
        if wanted is not None:
            self.find_as(wanted)

    def find_as(self, wanted: str) -> None:
        """Tell the voices apart into a number of speakers; confirmed turns teach."""
        from dubrel.jobs.speakers import question, speaker_bounds  # late: starting the desk does not need it

        if not self._session.project.transcript.turns:
            return
        try:
            bounds = speaker_bounds(wanted)
        except DubrelError as error:
            self.window.say(str(error))
            return
        from dubrel.keptvoices import kept_voices

        asked = question(self._session.project, prints=bool(kept_voices()))
        self.window.work.tell_apart(asked, bounds, self.take_found)

    def take_found(self, found: SpeakersFound) -> None:
        """Take in what was found; where speakers are known already, change by change as the user likes."""
        session, asked = self._session, self.window.work.asked_project
        present = session.project
        if present.transcript.speakers != asked.transcript.speakers:
            self.window.say("The speakers were changed while voices were told apart. Find them again.")
            return
        labels, certainty = carried(asked, present, found.labels), carried(asked, present, found.certainty)
        also = carried(asked, present, found.also)
        numbers = matched_numbers(asked, found.labels)
        labels, also = [numbers[one] for one in labels], [numbers.get(one, -1) for one in also]
        prints = {numbers[one]: row for one, row in enumerate(found.prints) if one in numbers}
        project = assign_speakers(present, labels, certainty, also)
        people = len({turn.speaker for turn in project.transcript.turns})
        unchanged = found.too_many or f"{people} voices were found; no turn would change."
        taken = self._chosen(present, project, unchanged)
        if taken is None:
            return
        session.apply(self._with_kept_names(taken, prints), "Find the speakers")
        self.window.work.set_captions(self.window.findings.style, step=True)
        told = f"{people} voices were found. F2 names one, Alt+1 to Alt+9 give a turn to another."
        self.window.say(found.too_many or told)

    def _chosen(self, present: Project, proposed: Project, unchanged: str) -> Project | None:
        """What is proposed, or the part of it that the user takes; ``None`` for nothing.

        Where nothing would change, ``unchanged`` is said.
        """
        changes = proposals(present, proposed)
        if not changes:
            self.window.say(unchanged)
            return None
        if not present.transcript.speakers:
            return proposed
        chosen = self.window.dialogs.proposals(present, proposed, changes, self._hear)
        if len(chosen) == len(changes):
            return proposed
        return take_proposals(present, proposed, chosen) if chosen else None

    def _with_kept_names(self, project: Project, prints: dict[int, tuple[float, ...]]) -> Project:
        """Propose the names of kept voices for speakers who have none."""
        from dubrel.keptvoices import kept_voices, names_of

        kept, speakers = kept_voices(), project.transcript.speakers
        nameless = [one for one in prints if one < len(speakers) and not speakers[one].name]
        if not kept or not nameless:
            return project
        taken = {one.name for one in speakers}
        free = [one for one in kept if one.name not in taken]
        found = names_of([prints[one] for one in nameless], free)
        shown = ", ".join(f"speaker {nameless[k] + 1} is {name}" for k, name in found.items())
        if found and self.window.dialogs.yes(f"By voices kept before: {shown}. Take these names?"):
            for k, name in found.items():
                project = rename_speaker(project, speakers[nameless[k]].id, name)
        return project

    def _hear(self, proposal: Proposal) -> None:
        self.hear(proposal.start_ms, proposal.end_ms)

    def hear(self, start_ms: int, end_ms: int) -> None:
        """Play a stretch with a little before and after."""
        self.window.player.seek(max(0, start_ms - _LEAD_MS))
        self.window.player.play(until=end_ms + _LEAD_MS)

    def hear_sample(self, number: int = 0) -> None:
        """Play a sample of a speaker by its number (from 1), or the next one."""
        speaker = self.speaker_here()
        if speaker is None:
            return
        samples = voice_samples(self._session.project, speaker.id)
        if not samples:
            self.window.say(f"{shown_name(self._session.project, speaker.id)} says nothing yet.")
            return
        before, nth = self._heard
        nth = (nth + 1) % len(samples) if before == speaker.id else 0
        nth = min(number, len(samples)) - 1 if number else nth
        self._heard = (speaker.id, nth)
        self.hear(*samples[nth])
        self.window.say(
            f"{shown_name(self._session.project, speaker.id)}: sample {nth + 1} of {len(samples)}"
        )

    def take_stretches(self, path: Path) -> None:
        """Give the words of the open transcript to those who speak by an RTTM file.

        Raises
        ------
        DubrelError
            If it cannot be read, or there is no transcript.
        """
        present = self._session.project
        if not present.transcript.turns:
            raise DubrelError(
                f"“{path.name}” says who speaks, not what. Open the recording's transcript first."
            )
        found, warnings = read_stretches(path)
        share = share_covered(present, found)
        question = (
            f"“{path.name}” seems to be of another recording: only {share:.0%} of the words are said while "
            "somebody speaks by it. Use it all the same?"
        )
        if share < _OF_ANOTHER and not self.window.dialogs.yes(question):
            return
        proposed = follow_stretches(present, found)
        taken = self._chosen(present, proposed, f"“{path.name}” says the same as the turns.")
        if taken is None:
            return
        self._take(taken, f"Take in {path.name}")
        self.window.show_pass(1)
        if warnings:
            self.window.say(" ".join(warnings))

    def next_uncertain(self) -> None:
        """Go to the next words whose speaker the machine is unsure of, and play them.

        They are selected where the rest of the turn is sure, so that a key gives just them.
        """
        sheet = self.window.sheet
        found = sheet.word_at_caret()
        if found is None:
            return
        turns, here = sheet.turns, sheet.caret.turn
        later = [(here, run) for run in unsure_runs(found[0]) if run[0] > found[1]]
        around = (place % len(turns) for place in range(here + 1, here + len(turns) + 1))
        wanted = next(
            chain(later, ((place, run) for place in around for run in unsure_runs(turns[place]))), None
        )
        if wanted is None:
            self.window.say("No turn is unsure.")
            return
        place, (first, stop) = wanted
        words = turns[place].words
        if stop - first == len(words):
            sheet.move_caret(Spot(place, 0))
        else:
            sheet.select_words(place, first, stop)
        self.hear(words[first].start_ms, words[stop - 1].end_ms)
        text = " ".join(word.text for word in words[first:stop])
        self.window.say(f"{min(word.sure for word in words[first:stop]):.0%} sure who says “{text}”")

    # -- putting right ------------------------------------------------------------

    def _take(self, project: Project, label: str) -> None:
        """Take a step that changes who speaks; the captions follow."""
        session = self._session
        session.apply(speakers_followed(session.project, project), label)

    def give(self, number: int) -> None:
        """Give the selected words or the turn at the caret to a speaker; a new number asks for a name."""
        project = self._session.project
        speakers = project.transcript.speakers
        if not self.window.sheet.turns:
            return
        if number <= len(speakers):
            self._give(project, speakers[number - 1].id)
        elif wanted := self.window.dialogs.speaker_facts(Speaker(""), self._known_names()):
            self._give(*add_speaker(project, *wanted))

    def give_other(self) -> None:
        """Give the selected words or the turn at the caret to a speaker chosen from all."""
        project = self._session.project
        if not self.window.sheet.turns or not project.transcript.speakers:
            return
        speaker = self.window.dialogs.speaker("Give to", list(project.transcript.speakers))
        if speaker is not None:
            self._give(project, speaker.id)

    def _give(self, project: Project, speaker: str) -> None:
        sheet = self.window.sheet
        chosen = sheet.selected_words()
        if not chosen:
            self._take(give_turn(project, self._turn_meant().id, speaker), "Give a turn")
            return
        for place, first, stop in reversed(chosen):  # from the end: places before stay true
            project = give_words(project, sheet.turns[place].id, first, stop, speaker)
        self._take(project, "Give words")

    def _turn_meant(self) -> Turn:
        """The turn at the caret; while another one plays, that one."""
        sheet, player = self.window.sheet, self.window.player
        turn = sheet.turns[sheet.caret.turn]
        near = turn.start_ms - _LEAD_MS <= player.position <= turn.end_ms + _LEAD_MS
        if not player.playing or near:
            return turn
        found = word_at(self._session.project, player.position)
        return sheet.turns[found[0]] if found else turn

    def boundary(self, words: int) -> None:
        """Move the beginning of the turn at the caret by a word."""
        sheet, session = self.window.sheet, self._session
        if sheet.turns:
            turn = sheet.turns[sheet.caret.turn]
            self._take(move_boundary(session.project, turn.id, words), "Move a turn's beginning")
            sheet.move_caret(Spot(sheet.caret.turn, 0))

    def speaker_here(self) -> Speaker | None:
        """The speaker chosen in the booth's list, or else the one of the turn at the caret."""
        chosen = self.window.booth.chosen_speaker()
        if chosen is not None:
            return chosen
        turns = self.window.sheet.turns
        found = (
            self._session.project.transcript.speaker(turns[self.window.sheet.caret.turn].speaker)
            if turns
            else None
        )
        if found is None:
            self.window.say("This turn has no speaker yet; give it one with Alt+1 to Alt+9.")
        return found

    def _known_names(self) -> list[str]:
        """Names given earlier in the project, and those of kept voices, that no speaker has now."""
        from dubrel.keptvoices import kept_voices

        taken = {one.name for one in self._session.project.transcript.speakers}
        earlier = [
            one.name for value in self._session.history.values_since(0) for one in value.transcript.speakers
        ]
        names = dict.fromkeys([*earlier, *(one.name for one in kept_voices())])
        return [one for one in names if one and one not in taken]

    def rename(self) -> None:
        """Name the speaker of the turn at the caret, and say what the person does."""
        speaker = self.speaker_here()
        wanted = self.window.dialogs.speaker_facts(speaker, self._known_names()) if speaker else None
        if speaker is not None and wanted is not None:
            name, role = wanted
            project = rename_speaker(self._session.project, speaker.id, name, role)
            self._session.apply(project, "Name a speaker")

    def _with_other(self, change: Callable[[Project, str, str], Project], question: str, label: str) -> None:
        speaker = self.speaker_here()
        if speaker is None:
            return
        others = [one for one in self._session.project.transcript.speakers if one.id != speaker.id]
        if not others:
            self.window.say("There is no other speaker.")
            return
        other = self.window.dialogs.speaker(
            question.format(shown_name(self._session.project, speaker.id)), others
        )
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
        speaker = self.speaker_here()
        if speaker is not None:
            self._take(remove_speaker(self._session.project, speaker.id), "Remove a speaker")

    # -- by voice -------------------------------------------------------------------

    def split(self) -> None:
        """Tell two voices apart in what one speaker is said to say."""
        speaker = self.speaker_here()
        if speaker is None or self._session.media_path is None:
            return
        from dubrel.jobs.speakers import Asked, words_of_speaker

        ids, words = words_of_speaker(self._session.project, speaker.id)
        if len(words) < 2:
            self.window.say(f"{shown_name(self._session.project, speaker.id)} says too little to be split.")
            return
        self.window.work.tell_apart(Asked(words), (2, 2), partial(self._take_split, speaker, ids))

    def _take_split(self, speaker: Speaker, ids: list[int], found: SpeakersFound) -> None:
        session = self._session
        if session.project.transcript.speakers != self.window.work.asked_project.transcript.speakers:
            self.window.say("The speakers were changed while voices were told apart. Split again.")
            return
        others = {one for one, label in zip(ids, found.labels) if label == 1}
        if not others:
            self.window.say(f"{shown_name(self._session.project, speaker.id)} seems to be one voice.")
            return
        project, other = split_speaker(session.project, speaker.id, others)
        if self.window.dialogs.split(project, (speaker.id, other), self.hear):
            self._take(project, "Split a speaker")

    def paragraphs(self) -> None:
        """Break long turns at sentence ends into paragraphs of about so many words."""
        count = self.window.dialogs.paragraph_length()
        if count is not None:
            project = set_paragraphs(self._session.project, count)
            if project is self._session.project:
                self.window.say("The paragraphs are so already.")
            else:
                self._take(project, "Set paragraphs")
