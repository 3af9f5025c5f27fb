"""The speakers of a project by hand: named, swapped, merged, removed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from dubrel.base.catalogue import tr
from dubrel.desk.sheet.typing import TypingSheet
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.edits.speakers.voices import rename_speaker, shown_name
from dubrel.model import Project, Speaker
from dubrel.project import reasons


class People:
    """The commands on speakers.

    Parameters
    ----------
    speaker_here : callable
        The speaker that is meant, or ``None``.
    take : callable
        Takes a step that changes who speaks.
    """

    def __init__(
        self,
        desk: Desk,
        sheet: TypingSheet,
        ask: VoiceQuestions,
        speaker_here: Callable[[], Speaker | None],
        take: Callable[..., None],
    ) -> None:
        self.desk, self.sheet, self.session = desk, sheet, desk.session
        self.ask, self.speaker_here, self.take = ask, speaker_here, take

    def commands(self, here: Callable[[], str]) -> list[Command]:
        """Names, and who is who."""
        two, on = first(here, lambda: reasons.no_speakers(self.session.project, 2)), ("speaker",)
        swap_here = partial(self.swap, here=True)
        everywhere = partial(self.swap, here=False)
        return [
            Command("rename", tr("Name the speaker"), "F2", self.rename, here, ("speaker", "turn")),
            Command("swap_here", tr("Swap two speakers from this turn on"), "Alt+X", swap_here, two, on),
            Command("swap", tr("Swap two speakers everywhere"), "Ctrl+Shift+X", everywhere, two, on),
            Command("merge", tr("Merge this speaker into another"), "Alt+M", self.merge, two, on),
            Command("remove_speaker", tr("Remove this speaker"), "", self.remove, here, on),
        ]

    def known_names(self) -> list[str]:
        """Names given earlier in the project, and those of kept voices, that no speaker has now."""
        taken = {one.name for one in self.session.project.transcript.speakers}
        earlier = [one.name for value in self.session.history.earlier() for one in value.transcript.speakers]
        names = dict.fromkeys([*earlier, *(one.name for one in self.desk.known_voices())])
        return [one for one in names if one and one not in taken]

    def rename(self) -> None:
        """Name the speaker, and say what the person does."""
        speaker, history = self.speaker_here(), self.session.history
        wanted = self.ask.speaker_facts(speaker, self.known_names()) if speaker else None
        if speaker is not None and wanted is not None:
            self.session.step(
                lambda project: rename_speaker(project, speaker.id, *wanted),
                tr("Name a speaker"),
                within=history,
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
            tr("Swap {} with"),
            tr("Swap speakers"),
        )

    def merge(self) -> None:
        """Assign all turns of this speaker to another."""
        from dubrel.edits.speakers.assigning import merge_speakers  # late: the window opens without it

        self._with_other(merge_speakers, tr("Merge {} into"), tr("Merge speakers"))

    def remove(self) -> None:
        """Remove the speaker."""
        from dubrel.edits.speakers.assigning import remove_speaker  # late: the window opens without it

        speaker = self.speaker_here()
        if speaker is not None:
            self.take(lambda project: remove_speaker(project, speaker.id), tr("Remove a speaker"))
