"""Sound descriptions in Captions: proposed from the sound, played, accepted or skipped."""

from __future__ import annotations

from dubrel.base.catalogue import counted, tr
from dubrel.desk.captions.editing import CaptionEditing
from dubrel.desk.captions.questions import CaptionQuestions
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first


class Sounds:
    """Asks the sound classes for sound descriptions."""

    def __init__(self, desk: Desk, ask: CaptionQuestions, editing: CaptionEditing) -> None:
        self.desk, self.session, self.ask, self.editing = desk, desk.session, ask, editing

    def commands(self) -> list[Command]:
        """Propose sound descriptions."""
        why_not = first(self.desk.without_sound, self.desk.without_captions)
        return [Command("sounds", tr("Propose sound descriptions"), "Alt+D", self.find, why_not)]

    def find(self) -> None:
        """Listen for sounds in the background."""
        self.desk.say(tr("Listening for sounds; you can keep working."))
        self.desk.jobs.start_on_recording("sounds", result=self._show)

    def _show(self, event: object, _running: object) -> None:
        from dubrel.edits.captions.soundcaptions import (  # late: the window opens without it
            proposals,
            with_sounds,
        )
        from dubrel.jobs.machinery.events import SoundsFound

        if not isinstance(event, SoundsFound):
            return
        found = proposals(self.session.project, event.spots)
        if not found:
            self.desk.say(tr("No sound stands out where there is room for a caption."))
            return
        history = self.session.history
        chosen = self.ask.sounds(found)
        if chosen:
            self.editing.step(
                lambda project: with_sounds(project, chosen), tr("Add sound descriptions"), within=history
            )
            self.desk.say(
                tr("Added: {descriptions}.").format(descriptions=counted(len(chosen), "sound description"))
            )
