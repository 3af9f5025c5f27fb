"""Tell speakers apart: ask how many, take what is found, change by change as the user likes."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from dubrel.desk.shell.desk import Desk
from dubrel.desk.shell.lanes import Running
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.edits.proposals import Proposal, proposals, take_proposals
from dubrel.edits.speakers import follow_passages, found_taken, share_covered, split_speaker
from dubrel.edits.voices import rename_speaker, shown_name
from dubrel.errors import DubrelError
from dubrel.jobs.events import Event, SpeakersFound
from dubrel.model import Project, Speaker

_OF_ANOTHER = 0.6
_CHANGED = "The speakers were changed in the meantime. Tell them apart again."


class Telling:
    """Runs the job and takes its results.

    Parameters
    ----------
    take : callable
        Takes a step that changes who speaks.
    """

    def __init__(self, desk: Desk, ask: VoiceQuestions, take: Callable[[Project, str], None]) -> None:
        self.desk, self.ask, self.take, self.session = desk, ask, take, desk.session
        desk.transcribed.connect(self.tell)

    def ask_and_tell(self) -> None:
        """Ask how many people speak, and tell their voices apart."""
        wanted = self.ask.speaker_count()
        if wanted is not None:
            self.tell(wanted)

    def tell(self, wanted: str) -> None:
        """Tell the voices apart into a number of speakers; assigned turns help."""
        from dubrel.jobs.tellapart import question, speaker_bounds  # late: starting the desk needs neither
        from dubrel.keptvoices import kept_voices

        try:
            bounds = speaker_bounds(wanted)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        asked = question(self.session.project, prints=bool(kept_voices()))
        self.desk.lanes.start_on_recording("speakers", asked, *bounds, result=self._found)

    def _found(self, event: Event, running: Running) -> None:
        """Take in what was found; where there are speakers already, change by change as the user likes."""
        present = self.session.project
        if not isinstance(event, SpeakersFound) or not present.transcript.turns:
            return
        if present.transcript.speakers != running.project.transcript.speakers:
            self.desk.say(_CHANGED)
            return
        found, numbers = found_taken(present, event.words, event.labels, event.certainty, event.also)
        prints = {numbers[one]: row for one, row in enumerate(event.prints) if one in numbers}
        people = len({turn.speaker for turn in found.transcript.turns})
        count = "1 voice was" if people == 1 else f"{people} voices were"
        taken = self._chosen(present, found, event.too_many or f"{count} found; no turn would change.")
        if taken is None:
            return
        self.take(self._with_kept_names(taken, prints), "Tell speakers apart")
        self.desk.say(event.too_many or f"{count} found. F2 names one, Alt+1 to Alt+9 assign a turn.")

    def _chosen(self, present: Project, proposed: Project, unchanged: str) -> Project | None:
        """What is proposed, or the part of it that the user accepts; ``None`` for nothing.

        Where nothing would change, ``unchanged`` is said.
        """
        changes = proposals(present, proposed)
        if not changes:
            self.desk.say(unchanged)
            return None
        if not present.transcript.speakers:
            return proposed
        chosen = self.ask.proposals(present, proposed, changes, self._play)
        if len(chosen) == len(changes):
            return proposed
        return take_proposals(present, proposed, chosen) if chosen else None

    def _play(self, proposal: Proposal) -> None:
        self.desk.play(proposal.start_ms, proposal.end_ms)

    def _with_kept_names(self, project: Project, prints: dict[int, tuple[float, ...]]) -> Project:
        """Propose the names of kept voices for speakers who have none."""
        from dubrel.keptvoices import kept_voices, names_of

        kept, speakers = kept_voices(), project.transcript.speakers
        nameless = [one for one in prints if one < len(speakers) and not speakers[one].name]
        if not kept or not nameless:
            return project
        taken = {one.name for one in speakers}
        found = names_of([prints[one] for one in nameless], [one for one in kept if one.name not in taken])
        shown = ", ".join(f"speaker {nameless[k] + 1} is {name}" for k, name in found.items())
        if found and self.desk.ask.yes(f"Kept voices were recognised: {shown}. Use these names?", "Use them"):
            for k, name in found.items():
                project = rename_speaker(project, speakers[nameless[k]].id, name)
        return project

    def take_passages(self, path: Path) -> None:
        """Assign the words of the open transcript to those who speak by an RTTM file.

        Raises
        ------
        DubrelError
            If it cannot be read, or there is no transcript.
        """
        present = self.session.project
        if not present.transcript.turns:
            raise DubrelError(
                f"“{path.name}” says who speaks, not what. Open the transcript of the recording first."
            )
        from dubrel.formats.rttm import read_passages  # late: starting the desk does not need it

        found, warnings = read_passages(path)
        share = share_covered(present, found)
        question = (
            f"“{path.name}” seems to belong to another recording: only {share:.0%} of the words are spoken "
            "where it has a speaker. Use it all the same?"
        )
        if share < _OF_ANOTHER and not self.desk.ask.yes(question, "Use it"):
            return
        proposed = follow_passages(present, found)
        taken = self._chosen(present, proposed, f"“{path.name}” agrees with the turns; nothing would change.")
        if taken is not None:
            self.take(taken, f"Import {path.name}")
            if warnings:
                self.desk.say(" ".join(warnings))

    # -- one speaker in two -----------------------------------------------------------

    def split(self, speaker: Speaker | None) -> None:
        """Tell two voices apart in what one speaker is said to say."""
        from dubrel.jobs.tellapart import question_of_speaker

        if speaker is None:
            return
        asked = question_of_speaker(self.session.project, speaker.id)
        if len(asked.words) < 2:
            self.desk.say(f"{shown_name(self.session.project, speaker.id)} says too little to be split.")
            return
        self.desk.lanes.start_on_recording("speakers", asked, 2, 2, result=partial(self._take_split, speaker))

    def _take_split(self, speaker: Speaker, event: Event, running: Running) -> None:
        present = self.session.project
        if not isinstance(event, SpeakersFound):
            return
        if present.transcript.speakers != running.project.transcript.speakers:
            self.desk.say(_CHANGED)
            return
        others = {one for one, label in zip(event.words, event.labels) if label == 1}
        if not others:
            self.desk.say(f"{shown_name(present, speaker.id)} sounds like a single voice.")
            return
        project, other = split_speaker(present, speaker.id, others)
        if self.ask.split(project, (speaker.id, other), self.desk.play):
            self.take(project, "Split a speaker")
