"""Playing a cut: its own sound through a player of its own; playhead and picture follow."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, QUrl, Signal

from dubrel.desk.cut.cutdevice import CutDevice
from dubrel.desk.shell.core.desk import Desk
from dubrel.desk.shell.core.player import set_source, stop
from dubrel.model import Cut
from dubrel.project.timeline import Timeline, timeline

if TYPE_CHECKING:
    from PySide6.QtMultimedia import QMediaPlayer

_TICK_MS, _SETTLE_MS, _OFF_MS = 33, 300, 60
AROUND_MS = 1000


class CutPlayer(QObject):
    """Plays a cut as it will sound.

    Signals
    -------
    moved(int)
        The time in the cut.
    failed(str)
    """

    moved = Signal(int)
    failed = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk, self.player = desk, desk.player
        self.playing = False
        self.position = 0
        self._engine: QMediaPlayer | None = None
        self._device: CutDevice | None = None
        self._of: tuple[object, ...] = ()
        self._clock = timeline(Cut(0, "", ()), None)
        self._until: int | None = None
        self._base = 0
        self._ready = False  # whether the engine has the sound: what it says before is not true
        self._since = QElapsedTimer()
        self._tick = QTimer(self, interval=_TICK_MS)
        self._tick.timeout.connect(self._on_tick)
        desk.session.opened.connect(self.forget)
        desk.stopping.append(self.forget)

    def forget(self) -> None:
        """Let the recording go."""
        self.pause()
        self.player.follow(None)
        if self._engine is not None:
            stop(self._engine)
            set_source(self._engine, QUrl())
        if self._device is not None:
            self._device.end()
        self._device, self._of = None, ()

    def load(self, cut: Cut) -> Timeline | None:
        """Get a cut of the open project ready; its timeline, or nothing without its recording."""
        project, path = self.desk.session.project, self.desk.session.media_path
        if path is None or project.media is None or not project.media.has_audio or not cut.passages:
            return None
        of = (cut.passages, path, project.media.sound)
        if self._of != of:
            from PySide6.QtMultimedia import QAudioOutput, QMediaPlayer

            from dubrel.release.cutfiles import parts_of  # late: the window opens without it

            self.forget()
            if self._engine is None:
                self._engine = QMediaPlayer(self)
                self._engine.setAudioOutput(QAudioOutput(self))
                if hasattr(self._engine, "setPitchCompensation"):
                    self._engine.setPitchCompensation(True)
                self._engine.errorOccurred.connect(lambda _, text: self.failed.emit(text))
                self._engine.mediaStatusChanged.connect(self._on_status)
            self._device = CutDevice(path, parts_of(cut, project.frame_rate), project.media.sound, self)
            self._ready = False
            self._engine.setSourceDevice(self._device, QUrl("cut.wav"))
            self._of, self._clock = of, timeline(cut, project.frame_rate)
        return self._clock

    def play(self, cut: Cut, from_ms: int, until_ms: int | None = None) -> bool:
        """Play a cut from one of its times, to its end or to another one; whether it can be played."""
        clock = self.load(cut)
        if clock is None or self._engine is None:
            return False
        self.player.pause()
        self.player.follow(self)
        self._seek(max(0, min(from_ms, clock.length_ms)))
        self._until = min(until_ms or clock.length_ms, clock.length_ms)
        self._start()
        return True

    def _start(self) -> None:
        assert self._engine is not None
        self._engine.setPlaybackRate(self.player.speed)
        self._engine.play()
        self._base = self.position
        self._since.restart()
        self.playing = True
        self._tick.start()
        if self.desk.session.project.media and self.desk.session.project.media.has_video:
            self.player.engine().audioOutput().setMuted(True)
        self.player.led(True)

    def _seek(self, ms: int) -> None:
        self.position = self._base = ms
        self._since.restart()
        if self._engine is not None:
            self._engine.setPosition(ms)
        self._show()

    def _show(self) -> None:
        self.player.show(self._clock.source(self.position), self.playing)
        self.moved.emit(self.position)

    def toggle(self) -> None:
        """Play or pause; after its end, the recording plays from there."""
        if self.playing:
            self.pause()
        elif self._until is not None and self.position < self._until and self._engine is not None:
            self._start()
        else:
            self.player.follow(None)
            self.player.toggle()

    def pause(self) -> None:
        """Stop and stay."""
        if not self.playing:
            return
        self.playing = False
        self._tick.stop()
        if self._engine is not None:
            self._engine.pause()
        self.player.led(False)

    def set_speed(self, speed: float) -> None:
        """Play at another speed."""
        self._base = self.position
        self._since.restart()
        if self._engine is not None:
            self._engine.setPlaybackRate(speed)

    def sought(self, ms: int) -> None:
        """Go on where a time of the recording plays; where it does not, the recording is played again."""
        if self.playing and self._clock.plays(ms):
            self.position = self._base = self._clock.placed(ms)
            self._since.restart()
            if self._engine is not None:
                self._engine.setPosition(self.position)
            self._until = self._clock.length_ms
            return
        self.player.follow(None)

    def _on_status(self, status: object) -> None:
        """A seek before the sound was there is lost; say it again once it is."""
        from PySide6.QtMultimedia import QMediaPlayer

        known = (
            QMediaPlayer.MediaStatus.LoadedMedia,
            QMediaPlayer.MediaStatus.BufferedMedia,
            QMediaPlayer.MediaStatus.EndOfMedia,
        )
        if status in known and not self._ready and self._engine is not None:
            self._ready = True
            if self.position:
                self._engine.setPosition(self.position)
            self._base = self.position
            self._since.restart()

    def _on_tick(self) -> None:
        assert self._engine is not None
        if not self._ready:
            self._since.restart()
        now = round(self._base + self._since.elapsed() * self.player.speed)
        if self._since.elapsed() > _SETTLE_MS and abs(now - self._engine.position()) > _OFF_MS:
            now = self._base = self._engine.position()
            self._since.restart()
        self.position = now
        loop = self.player.loop
        if loop is not None and self._clock.source(now) >= loop[1] > self._clock.source(now - _TICK_MS - 1):
            self._seek(self._clock.placed(loop[0]))
            return
        if self._until is not None and now >= self._until:
            self.position = self._until
            self._show()
            self.pause()
            return
        self._show()
