"""The questions of Voices."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.asking import ask_number, ask_which
from dubrel.desk.shell.core.desk import Desk
from dubrel.edits.words.paragraphs import USUAL_WORDS
from dubrel.model import Project, Speaker

if TYPE_CHECKING:
    from dubrel.edits.speakers.proposals import Proposal


class VoiceQuestions:
    """Asks for names, numbers and consent."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.host = desk, desk.host

    def speaker_facts(self, speaker: Speaker, names: list[str]) -> tuple[str, str] | None:
        """A speaker's name and role; ``names`` are those given earlier and of kept voices."""
        from dubrel.desk.voices.dialogs.voices import SpeakerDialog

        dialog = SpeakerDialog(speaker, names, self.host)
        return dialog.facts() if dialog.exec() and dialog.facts()[0] else None

    def proposals(
        self,
        present: Project,
        proposed: Project,
        changes: list[Proposal],
        play: Callable[[Proposal], None],
    ) -> list[Proposal]:
        """Which of the changes of speakers the user accepts."""
        from dubrel.desk.voices.dialogs.voices import ProposalDialog

        dialog = ProposalDialog(present, proposed, changes, play, self.host)
        return dialog.chosen() if dialog.exec() else []

    def split(self, project: Project, both: tuple[str, str], play: Callable[[int, int], None]) -> bool:
        """Whether a speaker is to be parted in two voices."""
        from dubrel.desk.voices.dialogs.voices import SplitDialog

        return bool(SplitDialog(project, both, play, self.host).exec())

    def paragraph_length(self) -> int | None:
        """About how many words a paragraph should have."""
        question = tr("About how many words each")
        return ask_number(
            self.host, tr("Paragraphs"), question, tr("Set paragraphs"), USUAL_WORDS, (10, 500), 10
        )

    def kept_voice(self, names: list[str]) -> str | None:
        """A kept voice to forget."""
        return ask_which(
            self.host, tr("Kept voices"), tr("Forget the voice of"), tr("Forget the voice"), names
        )

    def speaker_count(self) -> str | None:
        """How many people speak: ``auto``, a number, or bounds."""
        from dubrel.desk.voices.dialogs.voices import CountDialog

        turns = self.desk.session.project.transcript.turns
        dialog = CountDialog(sum(turn.confirmed for turn in turns), self.host)
        return dialog.wanted() if dialog.exec() else None

    def speaker(self, question: str, choices: list[Speaker]) -> Speaker | None:
        """One of some speakers."""
        from dubrel.desk.voices.dialogs.person import PersonDialog

        dialog = PersonDialog(question, choices, self.desk.session, self.desk.theme, self.host)
        return dialog.chosen() if dialog.exec() else None
