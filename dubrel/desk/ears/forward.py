"""Bring the voice forward while one listens: a key, and a slider from nothing to all."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QHBoxLayout, QSlider, QToolButton, QWidget

from dubrel.base.catalogue import tr
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.commands import Command
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.kit.guard import tell
from dubrel.desk.shell.kit.theme import Space
from dubrel.model import Media
from dubrel.project.changes import Change

if TYPE_CHECKING:
    from dubrel.desk.ears.ahead import Ahead
    from dubrel.desk.ears.soundout import SoundOut
    from dubrel.desk.ears.voicemix import VoiceMix
    from dubrel.media.forwardtrack import ForwardTrack
    from dubrel.media.peaks import Peaks

_STEP = 25  # percent
_AS_IT_IS = tr("The recording plays as it is. Bring the voice forward first.")


class Forward(QObject):
    """Whether the voice is brought forward, and how far."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.alone: Callable[[], object] = lambda: None  # nothing else is heard in place of the recording
        self.desk, self.session, self.player = desk, desk.session, desk.player
        self.on = False
        self.output: SoundOut | None = None
        self.ahead: Ahead | None = None
        self.mixed: tuple[str, tuple[int, ...]] = ("", ())  # of the recording that is mixed
        self._making = Background(self, until=desk.session.opened, newest=True)
        self._make_row()
        self.session.opened.connect(self.turn_off)
        self.session.changed.connect(self._on_changed)
        self.session.sound_ready.connect(self._begin)
        desk.stopping += [self._making.close, self.turn_off]

    def _make_row(self) -> None:
        self.row = QWidget()
        line = QHBoxLayout(self.row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(Space.NEAR)
        self.button, self.slider = QToolButton(), QSlider(Qt.Orientation.Horizontal)
        self.button.setText(tr("Voice forward"))
        self.button.setCheckable(True)
        self.button.setToolTip(tr("Take noise and room back, and even the level, while you listen"))
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.slider.setRange(_STEP, 100)
        self.slider.setValue(100)
        self.slider.setPageStep(_STEP)
        self.slider.setAccessibleName(tr("How far the voice is brought forward"))
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        line.addWidget(self.button)
        line.addWidget(self.slider, 1)
        self.button.clicked.connect(lambda: self.desk.commands.run("voice_forward"))
        self.slider.valueChanged.connect(self._slid)
        self._show()
        self.desk.controls.append(self.row)

    def commands(self) -> list[Command]:
        """What can be done."""
        more, less = (
            lambda step=step: self.slider.setValue(self.slider.value() + step) for step in (_STEP, -_STEP)
        )
        return [
            Command(
                "voice_forward",
                tr("Bring the voice forward, or play the recording as it is"),
                "F12",
                self.toggle,
                self.desk.without_sound,
                ("strip",),
                tr("noise hum denoise loud"),
            ),
            Command("voice_more", tr("Bring the voice further forward"), "", more, self._why_not_level),
            Command("voice_less", tr("Bring the voice less far forward"), "", less, self._why_not_level),
        ]

    def _why_not_level(self) -> str:
        return self.desk.without_sound() or ("" if self.on else _AS_IT_IS)

    def _has_sound(self) -> bool:
        media = self.session.project.media
        return media is not None and media.has_audio

    # -- on and off -------------------------------------------------------------------------

    def toggle(self) -> None:
        """Bring the voice forward, or hear the recording as it is."""
        self.on = not self.on
        self._show()
        if not self.on:
            self._set_amount()
            if self.ahead is not None:
                self.ahead.rest()
            self.session.draw(None)
            self.desk.say(tr("The recording plays as it is."))
            return
        if self.output is None and self.session.peaks is None:
            if not self.desk.jobs.runs("read"):
                self.desk.jobs.start_on_recording("read", ended=lambda _whole: self.session.load_peaks())
            self.desk.say(tr("The sound is read first; then the voice comes forward."))
            return
        self._begin()
        if self.on:
            self.desk.say(tr("The voice comes forward as soon as it is there, from the playhead on."))

    def _begin(self) -> None:
        """Get ready to play both; once it is, only the amount changes."""
        recording, peaks = self.session.recording, self.session.peaks
        if not self.on or recording is None or peaks is None or self.session.media_path is None:
            return
        if self.output is None or self.mixed != (recording.path, recording.sound):
            self._making.ask(partial(_made, recording, peaks), partial(self._have, recording), self._broke)
            return
        if self.ahead is not None:
            self.ahead.go_on()
        self._set_amount()

    def _have(self, recording: Media, made: tuple[ForwardTrack, VoiceMix, Peaks]) -> None:
        """The sound that is mixed is there: play it from the same instant, unless it is no longer wanted."""
        from dubrel.desk.ears.ahead import Ahead  # late: the window opens without them
        from dubrel.desk.ears.soundout import SoundOut

        track, mix, peaks = made
        if not self.on or self.session.recording != recording or self.session.peaks is None:
            mix.close()
            return
        self._leave_out()
        self.alone()
        self.output, self.mixed = SoundOut(mix, self), (recording.path, recording.sound)
        if self.ahead is None:
            self.ahead = Ahead(self.desk)
            self.ahead.failed.connect(self._stop)
            self.ahead.drawn.connect(self._draw)
        self.ahead.begin(recording, track, peaks)
        self._set_amount()
        self.player.hear(self.output)

    def _broke(self, error: Exception) -> None:
        tell(error)
        self.turn_off()

    def _set_amount(self) -> None:
        if self.output is not None:
            self.output.set_amount(self.slider.value() / 100 if self.on else 0.0)

    def _slid(self) -> None:
        self._set_amount()
        self._show()

    def _draw(self, peaks: Peaks) -> None:
        """Show the trace of what is heard."""
        if self.on:
            self.session.draw(peaks)

    def _stop(self, why: str) -> None:
        self.turn_off()
        self.desk.say(why)

    def _show(self) -> None:
        self.button.setChecked(self.on)
        self.slider.setEnabled(self.on)
        self.slider.setToolTip(tr("{percent} % forward").format(percent=self.slider.value()))

    def _on_changed(self, change: Change) -> None:
        """Another recording took the place of this one: it has a voice of its own."""
        recording = self.session.recording
        if self.output is not None and (recording is None or (recording.path, recording.sound) != self.mixed):
            self._leave_out()
            self._begin()
        self.row.setEnabled(self._has_sound())

    def _leave_out(self) -> None:
        if self.ahead is not None:
            self.ahead.end()
        if self.output is not None:
            out, self.output = self.output, None
            self.player.hear(None)
            out.close()
            out.deleteLater()
        self.session.draw(None)

    def turn_off(self) -> None:
        """Hear the recording as it is."""
        self.on = False
        self._leave_out()
        self._show()


def _made(recording: Media, peaks: Peaks) -> tuple[ForwardTrack, VoiceMix, Peaks]:
    """What is mixed as it plays; opened beside the interface."""
    from dubrel.desk.ears.voicemix import BroughtForward, VoiceMix  # late: the window opens without it
    from dubrel.media.cache import sound_path
    from dubrel.media.forwardtrack import ForwardTrack
    from dubrel.media.sound import samples_in

    track = ForwardTrack(recording)
    known = samples_in(sound_path(recording))
    mix = VoiceMix(Path(recording.path), known, BroughtForward(track), recording.sound)
    return track, mix, peaks.copied()
