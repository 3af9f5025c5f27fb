"""Playing: position, speed, loop, and video frames for the booth."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import Q_ARG, QElapsedTimer, QMetaObject, QObject, Qt, QTimer, QUrl, Signal

if TYPE_CHECKING:
    from PySide6.QtMultimedia import QMediaPlayer, QVideoSink

STEP_MS = 5000
SPEEDS = tuple(percent / 100 for percent in range(50, 205, 5))
_TICK_MS = 33
_OFF_MS = 70  # how far the picture may be from the sound that leads it
_WRONG_MS = 60  # how far the playhead may be from what is heard
_SETTLE_MS = 300  # after a seek the engine still reports where it was


class Leader(Protocol):
    """What plays in place of the recording itself: a cut of it."""

    playing: bool

    def toggle(self) -> None:
        """Play or pause."""

    def pause(self) -> None:
        """Stop and stay."""

    def set_speed(self, speed: float) -> None:
        """Play at another speed."""

    def sought(self, ms: int) -> None:
        """The playhead is wished at a time of the recording."""


class Sound(Protocol):
    """What is heard in place of the recording's own sound: something made of it, in the same time."""

    def start(self, ms: float, speed: float) -> None:
        """Play from a time on."""

    def stop(self) -> None:
        """Be silent."""

    def position(self) -> float:
        """The time of what is heard now."""


class Player(QObject):
    """Plays the recording of the open project.

    The engine is made at the first need, so that the window can show first.
    Between the engine's own reports the position is carried on by a clock, so
    that the spoken word moves in even steps.

    Signals
    -------
    moved(int)
    speed_changed(float)
    state_changed(bool)
    loop_ended()
        The playhead was moved out of the passage that was looped.
    failed(str)
    """

    moved = Signal(int)
    speed_changed = Signal(float)
    state_changed = Signal(bool)
    loop_ended = Signal()
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._engine: QMediaPlayer | None = None
        self._sink: QVideoSink | None = None
        self._source: Path | None = None
        self._position = 0
        self._base = 0
        self._clock = QElapsedTimer()
        self._speed = 1.0
        self._loop: tuple[int, int] | None = None
        self._only: tuple[list[int], list[int]] | None = None
        self._until: int | None = None
        self._paused_at: int | None = None
        self._leader: Leader | None = None
        self._sound: Sound | None = None
        self.track = 0
        self.step_back_ms = 0  # how far playing steps back when it is resumed
        self._tick = QTimer(self, interval=_TICK_MS)
        self._tick.timeout.connect(self._on_tick)

    def set_track(self, number: int) -> None:
        """Hear a sound track of the recording; counted from 0."""
        self.track = number
        engine = self._engine
        if engine is not None and number < len(engine.audioTracks()) and engine.activeAudioTrack() != number:
            engine.setActiveAudioTrack(number)

    def set_source(self, path: Path | None) -> None:
        """Choose the recording; it is loaded when it is first needed."""
        self.follow(None)
        self.pause()
        self.hear(None)
        self._source, self._position, self._loop, self._only = path, 0, None, None
        self._base, self._paused_at, self._until = 0, None, None
        self.moved.emit(0)  # clock and playhead are those of this recording
        if self._engine is not None:
            set_source(self._engine, QUrl.fromLocalFile(str(path)) if path else QUrl())

    def engine(self) -> QMediaPlayer:
        """The media player of Qt, made at the first call."""
        if self._engine is None:
            from PySide6.QtMultimedia import QAudioOutput, QMediaPlayer, QVideoSink

            self._engine = QMediaPlayer(self)
            self._engine.setAudioOutput(QAudioOutput(self))
            self._sink = QVideoSink(self)
            self._engine.setVideoSink(self._sink)
            if hasattr(self._engine, "setPitchCompensation"):
                self._engine.setPitchCompensation(True)
            self._engine.positionChanged.connect(self._on_position)
            self._engine.playbackStateChanged.connect(self._on_state)
            self._engine.mediaStatusChanged.connect(self._on_status)
            self._engine.errorOccurred.connect(lambda _, text: self.failed.emit(text))
            if self._source:
                set_source(self._engine, QUrl.fromLocalFile(str(self._source)))
            self._mute()
        return self._engine

    @property
    def sink(self) -> QVideoSink:
        """Where video frames arrive."""
        self.engine()
        assert self._sink is not None
        return self._sink

    @property
    def position(self) -> int:
        """Where the playhead is, in milliseconds."""
        return self._position

    @property
    def playing(self) -> bool:
        """Whether it plays now."""
        return self._tick.isActive() or (self._leader is not None and self._leader.playing)

    @property
    def speed(self) -> float:
        """Times the natural speed."""
        return self._speed

    def toggle(self) -> None:
        """Play or pause; where it was paused, playing steps back a little."""
        if self._leader is not None:
            self._leader.toggle()
            return
        if self.playing:
            self.pause()
            self._paused_at = self._position
            return
        if self._paused_at == self._position and self.step_back_ms:
            self.seek(self._position - self.step_back_ms)
        self.play()

    def play(self, until: int | None = None) -> None:
        """Play from the playhead, to the end or to a time."""
        if self._source is None:
            return
        self.follow(None)
        engine = self.engine()
        self._until = until
        self._base = self._position
        self._clock.restart()
        engine.setPlaybackRate(self._speed)
        engine.play()
        if self._sound is not None:
            self._sound.start(self._position, self._speed)
        self._tick.start()
        self.state_changed.emit(True)

    def pause(self) -> None:
        """Stop and stay."""
        if self._leader is not None:
            self._leader.pause()
        if self._engine is not None:
            self._engine.pause()
        if self._tick.isActive():
            self._stop()
            self.state_changed.emit(False)

    def _stop(self) -> None:
        self._tick.stop()
        if self._sound is not None:
            self._sound.stop()

    def seek(self, ms: int) -> None:
        """Move the playhead; an end that was set for playing no longer holds, nor a loop that it leaves."""
        if self._leader is not None:
            self._leader.sought(ms)
        self._until = None
        if self._loop is not None and not self._loop[0] <= ms < self._loop[1]:
            self._loop = None
            self.loop_ended.emit()
        self._position = self._base = max(0, ms)
        self._clock.restart()
        if self._engine is not None:
            self._engine.setPosition(self._position)
        self._restart_sound()
        self.moved.emit(self._position)

    def _restart_sound(self) -> None:
        if self._sound is not None and self._tick.isActive():
            self._sound.start(self._position, self._speed)

    def step(self, ms: int) -> None:
        """Move the playhead by some time, forward or back."""
        self.seek(self._position + ms)

    def change_speed(self, step: int) -> None:
        """Choose a higher or lower speed of those that there are."""
        place = min(range(len(SPEEDS)), key=lambda k: abs(SPEEDS[k] - self._speed)) + step
        self.set_speed(SPEEDS[min(max(place, 0), len(SPEEDS) - 1)])

    def set_speed(self, speed: float) -> None:
        """Choose the speed; the pitch stays natural."""
        self._base, self._speed = self._position, speed
        self._clock.restart()
        if self._engine is not None:
            self._engine.setPlaybackRate(speed)
        self._restart_sound()
        if self._leader is not None:
            self._leader.set_speed(speed)
        self.speed_changed.emit(speed)

    def hear(self, sound: Sound | None) -> None:
        """Let something else be heard with the same playhead; with nothing, the recording's own sound."""
        if sound is self._sound:
            return
        if self._sound is not None:
            self._sound.stop()
        self._sound = sound
        self._mute()
        self._base = self._position
        self._clock.restart()
        self._restart_sound()

    def _mute(self) -> None:
        if self._engine is not None:
            self._engine.audioOutput().setMuted(self._leader is not None or self._sound is not None)

    # -- led by something else --------------------------------------------------------------

    def follow(self, leader: Leader | None) -> None:
        """Let something else play, and say where the playhead is; with nothing, play the recording again."""
        if leader is self._leader:
            return
        before, self._leader = self._leader, None
        if before is not None:
            before.pause()
        self._leader = leader
        if leader is not None and self._tick.isActive():
            self._stop()
        self._mute()
        if self._engine is not None and leader is None:
            self._engine.pause()
        self.state_changed.emit(self.playing)

    def show(self, ms: int, playing: bool) -> None:
        """Put the playhead where a leader says; the picture goes along."""
        self._position = self._base = ms
        engine, media = self._engine, self._source
        if engine is not None and media is not None and engine.hasVideo():
            from PySide6.QtMultimedia import QMediaPlayer

            runs = engine.playbackState() == QMediaPlayer.PlaybackState.PlayingState
            if playing and not runs:
                engine.setPlaybackRate(self._speed)
                engine.play()
            elif runs and not playing:
                engine.pause()
            if abs(engine.position() - ms) > (_OFF_MS if playing else 0):
                engine.setPosition(ms)
        self.moved.emit(ms)

    def led(self, playing: bool) -> None:
        """Say that a leader plays now, or no more."""
        if not playing and self._engine is not None:
            self._engine.pause()
        self.state_changed.emit(playing)

    def set_loop(self, span: tuple[int, int] | None) -> None:
        """Play a passage again and again, or no more."""
        self._loop = span

    @property
    def loop(self) -> tuple[int, int] | None:
        """The passage that is played again and again."""
        return self._loop

    def set_only(self, spans: Sequence[tuple[int, int]] | None) -> None:
        """Play only some passages (in order, apart from each other) and skip the rest.

        Without any, all is played again.
        """
        self._only = None if spans is None else ([a for a, _ in spans], [b for _, b in spans])

    def skips_to(self, ms: int) -> int | None:
        """Where to go on from a time that is not to be played; ``None`` where it is."""
        if self._only is None:
            return None
        starts, ends = self._only
        at = bisect_right(starts, ms) - 1
        if at >= 0 and ms < ends[at]:
            return None
        return starts[at + 1] if at + 1 < len(starts) else -1

    def _on_status(self, status: object) -> None:
        """A seek before the recording was loaded is lost; say it again once it is."""
        from PySide6.QtMultimedia import QMediaPlayer

        if status == QMediaPlayer.MediaStatus.LoadedMedia and self._engine is not None and self.track:
            self._engine.setActiveAudioTrack(self.track)
        if status == QMediaPlayer.MediaStatus.LoadedMedia and self._engine is not None and self._position:
            self._engine.setPosition(self._position)
            self._base = self._position
            self._clock.restart()

    def _on_position(self, ms: int) -> None:
        if not self.playing or self._clock.elapsed() < _SETTLE_MS:
            return
        expected = self._base + self._clock.elapsed() * self._speed
        if self._sound is not None:
            if abs(expected - ms) > _OFF_MS and self._engine is not None and self._engine.hasVideo():
                self._base = round(expected)
                self._clock.restart()
                self._engine.setPosition(self._base)  # the picture goes along with what is heard
        elif abs(expected - ms) > _WRONG_MS:
            self._base = ms
            self._clock.restart()

    def _on_state(self, _state: object) -> None:
        if self._engine is not None and self._tick.isActive():
            from PySide6.QtMultimedia import QMediaPlayer

            if self._engine.playbackState() == QMediaPlayer.PlaybackState.StoppedState:
                self._stop()
                self.state_changed.emit(False)

    def _keep_to_sound(self) -> None:
        """Put the clock right by what is heard."""
        if self._sound is None or self._clock.elapsed() < _SETTLE_MS:
            return
        heard = self._sound.position()
        if abs(self._base + self._clock.elapsed() * self._speed - heard) > _WRONG_MS:
            self._base = round(heard)
            self._clock.restart()

    def _on_tick(self) -> None:
        before = self._position
        self._keep_to_sound()
        self._position = round(self._base + self._clock.elapsed() * self._speed)
        skip = self.skips_to(self._position)
        if self._loop and before < self._loop[1] <= self._position:
            self.seek(self._loop[0])
        elif skip is not None and self._until is None:
            if skip < 0:
                self.pause()
            else:
                self.seek(skip)
        elif self._until is not None and self._position >= self._until:
            self._position = self._until
            self._until = None
            self.pause()
        self.moved.emit(self._position)


def stop(engine: QMediaPlayer) -> None:
    """Stop an engine without the interpreter.

    A thread of the library that ends what sounds asks the interpreter whether one of our
    objects wants to know, and holds a lock meanwhile; who keeps the interpreter while it
    waits for that lock waits for ever.
    """
    QMetaObject.invokeMethod(engine, "stop", Qt.ConnectionType.DirectConnection)


def set_source(engine: QMediaPlayer, source: QUrl) -> None:
    """Give an engine another source, or none; without the interpreter, as :func:`stop`."""
    QMetaObject.invokeMethod(engine, "setSource", Qt.ConnectionType.DirectConnection, Q_ARG(QUrl, source))
