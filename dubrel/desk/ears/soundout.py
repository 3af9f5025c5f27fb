"""Where mixed sound goes: the device of the desk, or, where there is none, away in its own time."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QIODevice, QObject, QTimer

from dubrel.desk.ears.voicemix import CHANNELS, VoiceMix
from dubrel.media.forwardtrack import RATE

if TYPE_CHECKING:
    from PySide6.QtMultimedia import QAudioSink

_FRAME = 4 * CHANNELS  # bytes
_BUFFER_S = 0.12  # what is played before a changed amount is heard
_TICK_MS = 15


class SoundOut(QObject):
    """Plays a mix as the sound of :class:`~dubrel.desk.shell.core.player.Player`, and knows what is heard.

    Parameters
    ----------
    mix : VoiceMix
        Closed with this.
    """

    def __init__(self, mix: VoiceMix, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.mix = mix
        self._sink = self._made_sink()
        self._device: QIODevice | None = None
        self._from, self._speed, self.given = 0.0, 1.0, 0
        self._since = QElapsedTimer()
        self._owed = 0.0
        self.tick = QTimer(self, interval=_TICK_MS)
        self.tick.timeout.connect(self._give)

    def _made_sink(self) -> QAudioSink | None:
        from PySide6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices

        device, wished = QMediaDevices.defaultAudioOutput(), QAudioFormat()
        wished.setSampleRate(RATE)
        wished.setChannelCount(CHANNELS)
        wished.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if device.isNull() or not device.isFormatSupported(wished):
            return None
        sink = QAudioSink(device, wished, self)
        sink.setBufferSize(round(_BUFFER_S * RATE) * _FRAME)
        return sink

    def start(self, ms: float, speed: float) -> None:
        """Play from a time on."""
        self.stop()
        self._from, self._speed, self.given, self._owed = ms, speed, 0, 0.0
        self.mix.start(ms, speed)
        if self._sink is not None:
            self._device = self._sink.start()
        self._since.restart()
        self.tick.start()

    def stop(self) -> None:
        """Be silent at once."""
        self.tick.stop()
        if self._sink is not None:
            self._sink.reset()
            self._device = None

    def position(self) -> float:
        """The time of what is heard now, in milliseconds."""
        waiting = 0
        if self._sink is not None and self._device is not None:
            waiting = (self._sink.bufferSize() - self._sink.bytesFree()) // _FRAME
        return self._from + max(0, self.given - waiting) * 1000 / RATE * self._speed

    def set_amount(self, amount: float) -> None:
        """How far the voice is brought forward, 0 to 1, from the next sample on."""
        self.mix.amount = amount

    def _give(self) -> None:
        """Hand over as much as there is room for."""
        if self._sink is None:
            self._owed += self._since.restart() * RATE / 1000
            if not self.mix.ready:
                self._owed = 0.0  # nothing was read yet: its time has not begun
            found = len(self.mix.take(int(self._owed)))
            self._owed -= found
            self.given += found
            return
        free = self._sink.bytesFree() // _FRAME
        if self._device is not None and free:
            block = self.mix.take(free)
            if len(block):
                self._device.write(block.tobytes())
                self.given += len(block)

    def close(self) -> None:
        """Let the recording go."""
        self.stop()
        self.mix.close()
