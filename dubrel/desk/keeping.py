"""Keep voices for other recordings, by the user's own choice, and forget them again."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from dubrel.errors import DubrelError
from dubrel.keptvoices import forget_voice, keep_voice, kept_voices, voices_path

if TYPE_CHECKING:
    from dubrel.desk.window import MainWindow
    from dubrel.jobs.events import SpeakersFound
    from dubrel.model import Speaker

_LEAST_MS = 10_000


class KeepingOperations:
    """The actions on kept voices, each one method."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window

    def rows(self) -> list[tuple[str, str, str, Callable[[], object]]]:
        """Names, texts and first keys of the commands."""
        return [
            ("keep_voice", "Keep this speaker's voice for other recordings", "", self.keep),
            ("forget_voice", "Forget a kept voice", "", self.forget),
        ]

    def keep(self) -> None:
        """Ask, then make a voice print of the speaker and keep it on this machine."""
        window = self.window
        speaker = window.operations.voices.speaker_here()
        if speaker is None or window.session.media_path is None:
            return
        if not speaker.name:
            window.say("Name the speaker first: a voice is kept under a name.")
            return
        from dubrel.jobs.speakers import Asked, words_of_speaker

        _, words = words_of_speaker(window.session.project, speaker.id)
        if sum(word.end_ms - word.start_ms for word in words) < _LEAST_MS:
            window.say(f"{speaker.name} says too little here: a voice needs ten seconds of speech.")
            return
        question = (
            f"Keep 256 numbers that tell the voice of {speaker.name} from others? They stay on this machine, in "
            f"{voices_path()}, and propose the name in other recordings. Ask the person first."
        )
        if window.dialogs.yes(question):
            asked = Asked(words, fixed=dict.fromkeys(range(len(words)), 0), prints=True)
            window.work.tell_apart(asked, (1, 1), partial(self._take, speaker))

    def _take(self, speaker: Speaker, found: SpeakersFound) -> None:
        try:
            keep_voice(speaker.name, found.prints[0])
        except DubrelError as error:
            self.window.say(str(error))
            return
        self.window.say(f"The voice of {speaker.name} is kept. “Forget a kept voice” deletes it.")

    def forget(self) -> None:
        """Choose a kept voice and delete it."""
        names = [one.name for one in kept_voices()]
        if not names:
            self.window.say("No voice is kept.")
            return
        name = self.window.dialogs.kept_voice(names)
        if name is not None:
            try:
                forget_voice(name)
            except DubrelError as error:
                self.window.say(str(error))
                return
            self.window.say(f"The voice of {name} is forgotten.")
