"""Tell speakers apart: ask how many, take what is found, change by change as the user likes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.job_slots import Running
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.edits.speakers.voices import rename_speaker, shown_name
from dubrel.model import Project, Speaker

if TYPE_CHECKING:
    from dubrel.edits.speakers.proposals import Proposal
    from dubrel.jobs.machinery.events import Event

_OF_ANOTHER = 0.6
ALL: list[Proposal] = []  # every change, whatever it is by now
_CHANGED = tr("The speakers were changed in the meantime. Tell them apart again.")


class Diarising:
    """Runs the job and takes its results.

    Parameters
    ----------
    take : callable
        Takes a step that changes who speaks: a verb, what it is called, and the
        history that it belongs to.
    """

    def __init__(self, desk: Desk, ask: VoiceQuestions, take: Callable[..., None]) -> None:
        self.desk, self.ask, self.take, self.session = desk, ask, take, desk.session
        desk.transcribed.connect(self.tell)

    def ask_and_tell(self) -> None:
        """Ask how many people speak, and tell their voices apart."""
        wanted = self.ask.speaker_count()
        if wanted is not None:
            self.tell(wanted)

    def tell(self, wanted: str, span: tuple[int, int] | None = None) -> None:
        """Tell the voices apart into a number of speakers; assigned turns help."""
        from dubrel.jobs.diarising import (  # late: starting the desk needs none of them
            question,
            question_between,
            speaker_bounds,
        )

        try:
            bounds = speaker_bounds(wanted)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        project = self.session.project
        asked = (
            question_between(project, *span)
            if span is not None
            else question(project, prints=bool(self.desk.known_voices()))
        )
        self.desk.jobs.start_on_recording("speakers", asked, *bounds, result=self.take_found)

    def take_found(self, event: Event, running: Running) -> None:
        """Apply what was found; where there are speakers already, change by change as the user likes."""
        from dubrel.edits.speakers.assigning import found_taken  # late: the window opens without it
        from dubrel.edits.speakers.proposals import take_proposals  # late: the window opens without it
        from dubrel.jobs.machinery.events import SpeakersFound  # late: the window opens without it

        present = self.session.project
        if not isinstance(event, SpeakersFound) or not present.transcript.turns:
            return
        if present.transcript.speakers != running.project.transcript.speakers:
            self.desk.say(_CHANGED)
            return
        found, numbers = found_taken(present, event.words, event.labels, event.certainty, event.also)
        prints = {numbers[one]: row for one, row in enumerate(event.prints) if one in numbers}
        people = len({turn.speaker for turn in found.transcript.turns})
        count = tr("1 voice was") if people == 1 else tr("{people} voices were").format(people=people)
        history = self.session.history
        chosen = self._chosen(
            present, found, event.too_many or tr("{count} found; no turn would change.").format(count=count)
        )
        if chosen is None:
            return
        names = self._kept_names(found, prints)

        def take(now: Project) -> Project:
            _refuse_if_changed(present, now)
            if chosen is not ALL:
                return _named(take_proposals(now, found, chosen), names)
            made, _ = found_taken(now, event.words, event.labels, event.certainty, event.also)
            ours = [one.id for one in found.transcript.speakers]
            theirs = [one.id for one in made.transcript.speakers]
            ids = dict(zip(ours, theirs))  # new speakers have other ids where words arrived meanwhile
            return _named(made, {ids[one]: name for one, name in names.items()})

        self.take(take, tr("Tell speakers apart"), within=history)
        self.desk.say(
            event.too_many
            or tr("{count} found. F2 names one, Alt+1 to Alt+9 assign a turn.").format(count=count)
        )

    def _chosen(self, present: Project, proposed: Project, unchanged: str) -> list[Proposal] | None:
        """What of the proposals the user accepts, or ``ALL``; ``None`` for nothing.

        Where nothing would change, ``unchanged`` is said.
        """
        from dubrel.edits.speakers.proposals import proposals  # late: the window opens without it

        changes = proposals(present, proposed)
        if not changes:
            self.desk.say(unchanged)
            return None
        if not present.transcript.speakers:
            return ALL
        chosen = self.ask.proposals(present, proposed, changes, self._play)
        return ALL if len(chosen) == len(changes) else chosen or None

    def _play(self, proposal: Proposal) -> None:
        self.desk.play(proposal.start_ms, proposal.end_ms)

    def _kept_names(self, project: Project, prints: dict[int, tuple[float, ...]]) -> dict[str, str]:
        """The names of kept voices for speakers who have none, by their ids, if the user wants them."""
        from dubrel.user.voices import names_of

        kept, speakers = self.desk.known_voices(), project.transcript.speakers
        nameless = [one for one in prints if one < len(speakers) and not speakers[one].name]
        if not kept or not nameless:
            return {}
        taken = {one.name for one in speakers}
        found = names_of([prints[one] for one in nameless], [one for one in kept if one.name not in taken])
        shown = ", ".join(
            tr("speaker {nameless} is {name}").format(nameless=nameless[k] + 1, name=name)
            for k, name in found.items()
        )
        if found and self.desk.ask.yes(
            tr("Kept voices were recognised: {shown}. Use these names?").format(shown=shown), tr("Use them")
        ):
            return {speakers[nameless[k]].id: name for k, name in found.items()}
        return {}

    def take_passages(self, path: Path) -> None:
        """Assign the words of the open transcript to those who speak by an RTTM file.

        Raises
        ------
        DubrelError
            If it cannot be read, or there is no transcript.
        """
        from dubrel.edits.speakers.assigning import (  # late: the window opens without it
            follow_passages,
            share_covered,
        )
        from dubrel.edits.speakers.proposals import take_proposals  # late: the window opens without it

        present, history = self.session.project, self.session.history
        if not present.transcript.turns:
            raise DubrelError(
                tr("“{name}” says who speaks, not what. Open the transcript of the recording first.").format(
                    name=path.name
                )
            )
        from dubrel.formats.words.rttm import read_passages  # late: starting the desk does not need it

        found, warnings = read_passages(path)
        share = share_covered(present, found)
        question = tr(
            "“{name}” seems to belong to another recording: only {share:.0%} of the "
            "words are spoken where it has a speaker. Use it anyway?"
        ).format(name=path.name, share=share)
        if share < _OF_ANOTHER and not self.desk.ask.yes(question, tr("Use it")):
            return
        proposed = follow_passages(present, found)
        chosen = self._chosen(
            present,
            proposed,
            tr("“{name}” agrees with the turns; nothing would change.").format(name=path.name),
        )
        if chosen is not None:

            def take(now: Project) -> Project:
                _refuse_if_changed(present, now)
                return follow_passages(now, found) if chosen is ALL else take_proposals(now, proposed, chosen)

            self.take(take, tr("Import {name}").format(name=path.name), within=history)
            if warnings:
                self.desk.say(" ".join(warnings))

    # -- one speaker in two -----------------------------------------------------------

    def split(self, speaker: Speaker | None) -> None:
        """Tell two voices apart in what one speaker is said to say."""
        from dubrel.jobs.diarising import question_of_speaker

        if speaker is None:
            return
        asked = question_of_speaker(self.session.project, speaker.id)
        if len(asked.words) < 2:
            self.desk.say(
                tr("{project} says too little to be split.").format(
                    project=shown_name(self.session.project, speaker.id)
                )
            )
            return
        self.desk.jobs.start_on_recording("speakers", asked, 2, 2, result=partial(self._take_split, speaker))

    def _take_split(self, speaker: Speaker, event: Event, running: Running) -> None:
        from dubrel.edits.speakers.assigning import split_speaker  # late: the window opens without it
        from dubrel.jobs.machinery.events import SpeakersFound  # late: the window opens without it

        present = self.session.project
        if not isinstance(event, SpeakersFound):
            return
        if present.transcript.speakers != running.project.transcript.speakers:
            self.desk.say(_CHANGED)
            return
        others = {one for one, label in zip(event.words, event.labels) if label == 1}
        if not others:
            self.desk.say(
                tr("{present} sounds like a single voice.").format(present=shown_name(present, speaker.id))
            )
            return
        project, other = split_speaker(present, speaker.id, others)
        history = self.session.history
        if self.ask.split(project, (speaker.id, other), self.desk.play):

            def take(now: Project) -> Project:
                _refuse_if_changed(present, now)
                return split_speaker(now, speaker.id, others)[0]

            self.take(take, tr("Split a speaker"), within=history)


def _refuse_if_changed(asked: Project, now: Project) -> None:
    """Say why nothing is taken where the speakers are others than those that were asked about."""
    if now.transcript.speakers != asked.transcript.speakers:
        raise DubrelError(_CHANGED)


def _named(project: Project, names: Mapping[str, str]) -> Project:
    for speaker, name in names.items():
        project = rename_speaker(project, speaker, name)
    return project
