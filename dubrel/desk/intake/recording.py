"""Record: a microphone or its stand-in, a level meter, the file that grows, the text that appears."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QIODevice, QObject, QProcess, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.timecode import format_length
from dubrel.desk.shell.kit.guard import guarded
from dubrel.desk.shell.kit.scale import fixed
from dubrel.desk.shell.kit.theme import Space, Theme
from dubrel.desk.shell.kit.widgets import ACCESS, button, label
from dubrel.media.growingwave import GrowingWave, live_mark

RATE = 48_000
_FULL = 32768
_FALL = 0.86


class Microphone(QObject):
    """A microphone of this machine.

    Signals
    -------
    heard(bytes)
        48 kHz, mono, 16-bit.
    ended(str)
        The device went away; why.
    """

    heard = Signal(bytes)
    ended = Signal(str)

    def __init__(self, number: int, parent: QObject) -> None:
        super().__init__(parent)
        from PySide6.QtMultimedia import QAudioFormat, QAudioSource, QMediaDevices, QtAudio

        form = QAudioFormat()
        form.setSampleRate(RATE)
        form.setChannelCount(1)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._source = QAudioSource(QMediaDevices.audioInputs()[number], form, self)
        self._stopped = QtAudio.State.StoppedState
        self._source.stateChanged.connect(self._on_state)
        self._stream: QIODevice | None = None

    def start(self) -> None:
        """Begin to listen."""
        stream = self._stream = self._source.start()
        if stream is not None:
            stream.readyRead.connect(lambda: self.heard.emit(bytes(stream.readAll().data())))

    def stop(self) -> None:
        """End quietly."""
        self._source.blockSignals(True)
        self._source.stop()

    def _on_state(self, state: object) -> None:
        if state == self._stopped:
            self.ended.emit(tr("the microphone was disconnected"))


class StandInMicrophone(QObject):
    """The stand-in where there is no microphone: a process that plays a file as if live."""

    heard = Signal(bytes)
    ended = Signal(str)

    def __init__(self, path: Path, parent: QObject, *options: str) -> None:
        super().__init__(parent)
        self._process = QProcess(self)
        self._arguments = ["-m", "dubrel.standins.microphone", str(path), *options]
        self._process.readyReadStandardOutput.connect(
            lambda: self.heard.emit(bytes(self._process.readAllStandardOutput().data()))
        )
        self._process.finished.connect(lambda _code: self.ended.emit(tr("the microphone was disconnected")))

    def start(self) -> None:
        """Begin to play."""
        self._process.start(sys.executable, self._arguments)

    def stop(self) -> None:
        """End quietly."""
        self._process.blockSignals(True)
        self._process.kill()
        self._process.waitForFinished(1000)


def microphones() -> list[str]:
    """The microphones of this machine, by name."""
    from PySide6.QtMultimedia import QMediaDevices

    return [one.description() for one in QMediaDevices.audioInputs()]


class Recorder(QObject):
    """Writes what a source records to a file as it comes.

    Signals
    -------
    level(float)
        Peak of what just came in, 0 to 1.
    stopped(str)
        It ended, by the user (nothing is said) or by a fault.
    """

    level = Signal(float)
    stopped = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._wave: GrowingWave | None = None
        self._source: Microphone | StandInMicrophone | None = None
        self._odd = b""

    @property
    def running(self) -> bool:
        """Whether it records."""
        return self._wave is not None

    @property
    def length_ms(self) -> int:
        """How much has been recorded."""
        return self._wave.length_ms if self._wave is not None else 0

    def start(self, path: Path, source: Microphone | StandInMicrophone) -> None:
        """Begin.

        Raises
        ------
        DubrelError
            If the file cannot be made.
        """
        self._wave = GrowingWave(path, RATE)
        live_mark(path).touch()
        self._source, self._odd = source, b""
        source.heard.connect(self._on_heard)
        source.ended.connect(self.stop)
        source.start()

    def stop(self, why: str = "") -> None:
        """End; the file is whole."""
        wave, source = self._wave, self._source
        if wave is None or source is None:
            return
        self._wave = self._source = None
        source.stop()
        source.deleteLater()
        wave.close()
        live_mark(wave.path).unlink(missing_ok=True)
        self.stopped.emit(
            tr("The recording ended: {why}. What was recorded is kept.").format(why=why) if why else ""
        )

    def _on_heard(self, data: bytes) -> None:
        if self._wave is None:
            return
        import numpy as np

        data = self._odd + data
        whole = len(data) // 2 * 2
        data, self._odd = data[:whole], data[whole:]
        try:
            self._wave.add(data)
        except DubrelError as error:
            self.stop()
            self.stopped.emit(str(error))
            return
        samples = np.frombuffer(data, "<i2")
        if len(samples):
            self.level.emit(float(np.abs(samples.astype(np.int32)).max()) / _FULL)


@guarded
class LevelMeter(QWidget):
    """How loud it is, in decibels from -60 to 0; the last sixth is amber."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme, self.value = theme, 0.0
        fixed(self.setFixedHeight, 10)
        fixed(self.setMinimumWidth, 160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setProperty(ACCESS, "drawn")
        self.setAccessibleName(tr("Level"))

    def show_level(self, value: float) -> None:
        """Rise at once, fall slowly."""
        self.value = max(value, self.value * _FALL)
        self.update()

    def described(self) -> str:
        """How loud it is, for a screen reader."""
        return f"{60 * self.share - 60:.0f} dB"

    @property
    def share(self) -> float:
        """How much of the meter is filled."""
        from math import log10

        return min(1.0, max(0.0, 1 + 20 * log10(max(self.value, 1e-6)) / 60))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the bar."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.theme.colour("hairline"))
        filled, warn = self.width() * self.share, self.width() * 5 / 6
        painter.fillRect(QRectF(0, 0, min(filled, warn), self.height()), self.theme.colour("action"))
        if filled > warn:
            painter.fillRect(QRectF(warn, 0, filled - warn, self.height()), self.theme.colour("look"))
        painter.end()


class RecordBar(QWidget):
    """The bar under the header while a recording goes on."""

    def __init__(self, recorder: Recorder, theme: Theme) -> None:
        super().__init__()
        self.recorder = recorder
        row = QHBoxLayout(self)
        row.setContentsMargins(Space.EDGE, Space.HAIR, Space.WIDE, Space.HAIR)
        row.setSpacing(Space.WIDE)
        self.text = label("", "live")
        fixed(self.text.setMinimumWidth, 150)
        self.meter = LevelMeter(theme)
        self.stop = button(tr("Stop recording"), primary=True)
        row.addWidget(self.text)
        row.addWidget(self.meter, 1, Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(self.stop)
        self._clock = QTimer(self, interval=200)
        self._clock.timeout.connect(self._tick)
        recorder.level.connect(self.meter.show_level)
        recorder.stopped.connect(lambda _why: self.show_running(False))
        self.stop.clicked.connect(lambda: recorder.stop())
        self.setVisible(False)

    def show_running(self, running: bool) -> None:
        """Appear or go."""
        self.setVisible(running)
        if running:
            self._clock.start()
            self._tick()
        else:
            self._clock.stop()

    def set_theme(self, theme: Theme) -> None:
        """Change the colours."""
        self.meter.theme = theme
        self.meter.update()

    def _tick(self) -> None:
        self.text.setText(
            tr("●  Recording  {length_ms}").format(length_ms=format_length(self.recorder.length_ms))
        )
        self.meter.show_level(0.0)
