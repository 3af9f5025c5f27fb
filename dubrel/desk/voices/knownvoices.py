"""Keep voices for other recordings, by the user's own choice, and forget them again."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.core.job_slots import Running
from dubrel.desk.voices.questions import VoiceQuestions
from dubrel.model import Speaker

if TYPE_CHECKING:
    from dubrel.jobs.machinery.events import Event

_LEAST_MS = 10_000


class KnownVoices:
    """The commands on kept voices.

    Parameters
    ----------
    speaker_here : callable
        The speaker that is meant, or ``None``.
    """

    def __init__(self, desk: Desk, ask: VoiceQuestions, speaker_here: Callable[[], Speaker | None]) -> None:
        self.desk, self.ask, self.speaker_here = desk, ask, speaker_here

    def commands(self, no_speaker: Callable[[], str]) -> list[Command]:
        """What can be done with kept voices."""
        ready = first(self.desk.without_recording, self.desk.still_transcribing, no_speaker)
        text = tr("Keep the voice of this speaker for other recordings")
        return [
            Command("keep_voice", text, "", self.keep, ready, ("speaker",)),
            Command("forget_voice", tr("Forget a kept voice"), "", self.forget, self._none_kept),
        ]

    def _none_kept(self) -> str:
        from dubrel.user.voices import VOICES  # late: the window opens without it

        return "" if VOICES.read() else tr("No voice is kept.")

    def keep(self) -> None:
        """Ask, then make a voice print of the speaker and keep it on this machine."""
        from dubrel.user.voices import VOICES  # late: the window opens without it

        desk, speaker = self.desk, self.speaker_here()
        if speaker is None:
            return
        if not speaker.name:
            desk.say(tr("Name the speaker first: a voice is kept under a name."))
            return
        from dubrel.jobs.diarising import Asked, question_of_speaker

        asked = question_of_speaker(desk.session.project, speaker.id)
        if sum(word.end_ms - word.start_ms for word in asked.words) < _LEAST_MS:
            desk.say(
                tr("{name} says too little here: ten seconds of speech are needed.").format(name=speaker.name)
            )
            return
        text = tr(
            "Keep a voice print of {name}? It is 256 numbers from which the voice is "
            "recognised in other recordings; it stays on this machine, in {path}. "
            "Ask the person first."
        ).format(name=speaker.name, path=VOICES.path)
        if desk.ask.yes(text, tr("Keep")):
            fixed = dict.fromkeys(range(len(asked.words)), 0)
            wanted = Asked(asked.words, asked.ids, fixed=fixed, prints=True)
            desk.jobs.start_on_recording("speakers", wanted, 1, 1, result=partial(self._take, speaker))

    def _take(self, speaker: Speaker, event: Event, running: Running) -> None:
        from dubrel.jobs.machinery.events import SpeakersFound  # late: the window opens without it
        from dubrel.user.voices import keep_voice  # late: the window opens without it

        if not isinstance(event, SpeakersFound):
            return
        try:
            keep_voice(speaker.name, event.prints[0])
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.say(
            tr("The voice of {name} is kept. “Forget a kept voice” deletes it.").format(name=speaker.name)
        )

    def forget(self) -> None:
        """Choose a kept voice and delete it."""
        from dubrel.user.voices import VOICES, forget_voice  # late: the window opens without it

        name = self.ask.kept_voice([one.name for one in VOICES.read()])
        if name is None:
            return
        try:
            forget_voice(name)
        except DubrelError as error:
            self.desk.say(str(error))
            return
        self.desk.say(tr("The voice of {name} is forgotten.").format(name=name))
