"""Hear a translation, or the words themselves, spoken in place: over the recording, at their times."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QToolButton

from dubrel.base.catalogue import counted, tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_name
from dubrel.base.value import replace
from dubrel.desk.ears.questions import EarsQuestions
from dubrel.desk.ears.wishes import SpokenWishes
from dubrel.desk.shell.core.background import Background, beside
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk, first
from dubrel.desk.shell.kit.guard import tell
from dubrel.edits.translation.track import translated_tracks
from dubrel.model import CaptionTrack
from dubrel.project.changes import Change
from dubrel.user.settings import SETTINGS

if TYPE_CHECKING:
    from dubrel.desk.ears.soundout import SoundOut
    from dubrel.desk.ears.voicemix import VoiceMix
    from dubrel.film.order import Speaking
    from dubrel.jobs.machinery.events import Event
    from dubrel.model import Media
    from dubrel.speech.speaking.fitting import Placed

_REST_MS = 1500  # after the last change, before what changed is spoken anew


class Spoken(QObject):
    """Whether something is spoken while one listens, and how.

    Parameters
    ----------
    desk : Desk
    open_track : callable
        The translation that is worked on, if any.
    alone : callable
        Called before it is heard: nothing else is heard in place of the recording.
    """

    def __init__(
        self, desk: Desk, open_track: Callable[[], CaptionTrack | None], alone: Callable[[], object]
    ) -> None:
        super().__init__(desk)
        self.desk, self.session, self.player = desk, desk.session, desk.player
        self.ask = EarsQuestions(desk)
        self.wishes = SpokenWishes()
        self.lines: tuple[Placed, ...] = ()
        self._open_track, self._alone = open_track, alone
        self.speaking_now: Speaking | None = None  # what the lines are of
        self._path = ""
        self._original = False  # whether that was chosen, though there is a translation
        self.output: SoundOut | None = None
        self.button = QToolButton()
        self.button.setText(tr("Spoken"))
        self.button.setCheckable(True)
        self.button.setToolTip(tr("Play the translation, or the words themselves, spoken at their times"))
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.button.clicked.connect(self._pressed)
        self._asking = Background(self, until=desk.session.opened, newest=True)
        self._making = Background(self, until=desk.session.opened, newest=True)
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self._speak_again)
        self.session.opened.connect(self._opened)
        self.session.changed.connect(self._on_changed)
        desk.stopping += [self._asking.close, self._making.close, self.turn_off, self._rest.stop]

    def commands(self) -> list[Command]:
        """What can be done."""
        ready = first(self.desk.without_recording, self.desk.without_words, self.desk.still_transcribing)
        return [
            Command(
                "hear_spoken",
                tr("Play the translation spoken, or the recording again"),
                "Shift+F12",
                self.toggle,
                ready,
                words=tr("voice speech read aloud dub"),
            ),
            Command(
                "set_spoken", tr("Set how the translation is spoken"), "", self.set, ready, words="speak"
            ),
            Command("add_voice_folder", tr("Add a folder with a voice"), "", self.add_folder),
            Command("add_voice_service", tr("Add a voice service"), "", self.add_service),
            Command("remove_voice", tr("Remove a voice"), "", self.remove, self._none_added),
        ]

    def _none_added(self) -> str:
        return "" if SETTINGS.read().voices else tr("No voice has been added.")

    def _pressed(self) -> None:
        self.button.setChecked(self.on)
        self.desk.commands.run("hear_spoken")

    @property
    def on(self) -> bool:
        """Whether something is spoken, or will be."""
        return self.button.isChecked()

    @on.setter
    def on(self, on: bool) -> None:
        self.button.setChecked(on)

    # -- on and off -------------------------------------------------------------------------

    def toggle(self) -> None:
        """Hear it spoken, or the recording again."""
        if self.on:
            self.turn_off()
            self.desk.say(tr("The recording plays as it is."))
            return
        track = self._track()
        self.wishes = replace(self.wishes, track=track.id if track else 0)
        self._begin()

    def turn_off(self) -> None:
        """Hear the recording again."""
        self.on = False
        self._rest.stop()
        self.desk.jobs.cancel("speak")
        self._leave_out()

    def _track(self) -> CaptionTrack | None:
        """The translation that is open, the one that was chosen, or the first; nothing for the original."""
        if self._original:
            return None
        project, found = self.session.project, self._open_track()
        if found is None:
            found = project.track(self.wishes.track)
        if found is None or found.spoken:
            found = next(iter(translated_tracks(project)), None)
        return found

    def _begin(self) -> None:
        """Speak what is wished, and be heard once that is done."""
        if self._may_send(self.wishes.voice):
            self.on = True
            self._asking.ask(self._order(), self._ordered, self._broke)

    def _ordered(self, speaking: Speaking) -> None:
        """What is to be spoken is known."""
        if not self.on:
            return
        if not speaking.lines:
            self.on = False
            self.desk.say(tr("There is nothing to speak yet. Translate it first."))
            return
        if speaking == self.speaking_now and Path(self._path).is_file():
            self._hear(self._path)
            return
        self.desk.say(
            tr("{language} is being spoken; it plays once that is done.").format(
                language=tr(language_name(speaking.language))
            )
        )
        self._start(speaking)

    def _order(self) -> Callable[[], Speaking]:
        """Finds out what is to be spoken, beside the interface."""
        wishes, project = self.wishes, self.session.project

        def work() -> Speaking:
            from dubrel.release.spokenlines import speaking_by_memory  # late: the window opens without it

            values = {"voice": wishes.voice, "spoken": wishes.by}
            found = speaking_by_memory(project, project.track(wishes.track), values)
            return replace(found, fastest=wishes.fastest, under_db=wishes.under)

        return work

    def _may_send(self, voice: str) -> bool:
        """Whether texts may go to a voice; to one elsewhere only with consent."""
        kind, _, address = voice.partition(":")
        if kind != "remote":
            return True
        from dubrel.base.http_client import unsafe
        from dubrel.speech.speaking.voice_service import consent_name  # late: as above

        settings, name = SETTINGS.read(), consent_name(address)
        if name in settings.consented:
            return True
        warning = unsafe(address)
        question = (
            tr("What is spoken is sent to {address}, word by word. {warning}")
            .format(address=address, warning=warning)
            .strip()
        )
        if not self.desk.ask.yes(question, tr("Send it")):
            return False
        SETTINGS.write(SETTINGS.read().with_consent(name))
        return True

    def _start(self, speaking: Speaking) -> None:
        self.desk.jobs.start("speak", speaking, take=partial(self._take, speaking), ended=self._ended)

    def _take(self, speaking: Speaking, event: Event) -> None:
        from dubrel.jobs.machinery.events import LinesSpoken  # late: as above

        if isinstance(event, LinesSpoken):
            self.lines, self.speaking_now, self._path = event.lines, speaking, event.path
            self._tell()
            if self.on:
                self._hear(event.path)

    def _ended(self, whole: bool) -> None:
        if not whole and self.output is None:
            self.on = False

    def _tell(self) -> None:
        over = sum(1 for one in self.lines if one.over_ms)
        where = tr("“Set how the translation is spoken” lists what is too long.")
        extra = (
            tr(" {lines} too long for the time: {where}").format(lines=counted(over, "line"), where=where)
            if over
            else ""
        )
        self.desk.say(
            tr("{lines} spoken.{extra}").format(lines=counted(len(self.lines), "line"), extra=extra)
        )

    def _hear(self, path: str) -> None:
        recording, speaking = self.session.recording, self.speaking_now
        if recording is None or speaking is None:
            return
        spans = [(one.start_ms, one.end_ms) for one in self.lines if not one.why_not]
        self._making.ask(partial(_made, recording, path, spans, speaking), self._have, self._broke)

    def _have(self, mix: VoiceMix) -> None:
        from dubrel.desk.ears.soundout import SoundOut  # late: as above

        if not self.on:
            mix.close()
            return
        self._leave_out()
        self._alone()
        self.output = SoundOut(mix, self)
        self.output.set_amount(1.0)
        self.player.hear(self.output)

    def _broke(self, error: Exception) -> None:
        tell(error)
        self.turn_off()

    def _leave_out(self) -> None:
        if self.output is not None:
            out, self.output = self.output, None
            self.player.hear(None)
            out.close()
            out.deleteLater()

    # -- what changes meanwhile -------------------------------------------------------------

    def _opened(self) -> None:
        self.turn_off()
        self.lines, self.speaking_now, self._path = (), None, ""
        self.wishes, self._original = replace(self.wishes, track=0), False

    def _on_changed(self, change: Change) -> None:
        """What changed is spoken anew once the hands rest."""
        if not self.on:
            return
        media = change.new.media
        if media is None or (self.wishes.track and change.new.track(self.wishes.track) is None):
            self.turn_off()
        elif change.turns or change.captions or change.tracks or change.speakers or media != change.old.media:
            self._rest.start()

    def _speak_again(self) -> None:
        if not self.on:
            return
        if self.desk.jobs.runs("speak", "transcribe", "live", "align"):
            self._rest.start()
            return
        self._asking.ask(self._order(), self._ordered_again, self._broke)

    def _ordered_again(self, speaking: Speaking) -> None:
        if self.on and speaking != self.speaking_now and speaking.lines:
            self._start(speaking)

    # -- how --------------------------------------------------------------------------------

    def set(self) -> None:
        """Ask how it is spoken; what became of each line is shown."""
        history = self.session.history
        track = self._track()
        wishes = replace(self.wishes, track=track.id if track else 0)
        answer = self.ask.spoken(wishes, self._languages(), self._voices(), self.lines)
        if answer is None or self.session.history is not history:
            return
        act, self.wishes, line = answer
        self._original = self.wishes.track == 0
        if act == "go":
            self._go_to(line)
        else:
            self.on = False
            self._begin()

    def _languages(self) -> list[tuple[int, str]]:
        tracks = translated_tracks(self.session.project)
        return [
            (0, tr("the original")),
            *(
                (one.id, tr("the {language}").format(language=tr(language_name(one.language))))
                for one in tracks
            ),
        ]

    def _voices(self) -> list[tuple[str, str]]:
        from dubrel.release.spokenlines import VOICE_LABELS  # late: as above
        from dubrel.speech.speaking.engines import REGISTER

        built_in = list(VOICE_LABELS.items())
        added = []
        for name in REGISTER.added:
            with suppress(DubrelError):  # said at the start
                added.append((name, REGISTER.load(name)[0].label))
        own = [(name, f"“{Path(name.partition(':')[2]).name}”") for name in SETTINGS.read().voices]
        return [*built_in, *added, *own]

    def _go_to(self, line: int) -> None:
        found = next((one for one in self.lines if one.id == line), None)
        if found is not None:
            self.player.seek(found.start_ms)
            self.desk.go("translation" if self.wishes.track else "captions")

    def add_folder(self) -> None:
        """Add a folder with a voice."""
        where = self.ask.voice_folder()
        if where:
            from dubrel.speech.speaking.voice_folder import language_of  # late: as above

            name = tr(language_name(language_of(where)))
            self._add(f"folder:{where}")
            self.desk.say(tr("“{name}” speaks {name2}.").format(name=Path(where).name, name2=name))

    def add_service(self) -> None:
        """Add a voice service."""
        given = self.ask.voice_address()
        if given is None:
            return
        from dubrel.base.http_client import checked_address
        from dubrel.user.keys import keep_key  # late: as above

        address = checked_address(given[0])
        if given[1]:
            beside(partial(keep_key, address, given[1]))
        self._add(f"remote:{address}")
        self.desk.say(
            tr("The voice service {address} was added. Nothing is sent there before you agree.").format(
                address=address
            )
        )

    def _add(self, name: str) -> None:
        settings = SETTINGS.read()
        if name not in settings.voices:
            SETTINGS.write(replace(settings, voices=(*settings.voices, name)))

    def remove(self) -> None:
        """Take a voice off the list; nothing on the disk is touched."""
        names = list(SETTINGS.read().voices)
        name = self.desk.ask.one_of(tr("Remove a voice"), tr("Which one"), names, tr("Remove"))
        if name:
            settings = SETTINGS.read()
            SETTINGS.write(replace(settings, voices=tuple(one for one in settings.voices if one != name)))
            self.wishes = replace(
                self.wishes, voice="auto" if self.wishes.voice == name else self.wishes.voice
            )


def _made(recording: Media, path: str, spans: list[tuple[int, int]], speaking: Speaking) -> VoiceMix:
    """What is mixed as it plays; opened beside the interface."""
    from dubrel.desk.ears.voicemix import SpokenOver, VoiceMix  # late: the window opens without it
    from dubrel.jobs.voice.speaking import voice_samples
    from dubrel.media.cache import is_read, sound_path
    from dubrel.media.sound import samples_in

    over = SpokenOver(voice_samples(path), spans, speaking.under_db, speaking.fade_ms)
    if not recording.has_audio:
        return VoiceMix(None, None, over)
    known = samples_in(sound_path(recording)) if is_read(recording) else None
    return VoiceMix(Path(recording.path), known, over, recording.sound)
