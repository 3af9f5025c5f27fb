"""The recording and its voice brought forward, side by side, mixed in the moment they are played."""

from __future__ import annotations

import logging
import threading
from collections import deque
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.media.forwardtrack import RATE, ForwardTrack
from dubrel.media.levelling import evening_gains, gains_between
from dubrel.media.soundreader import SoundReader

CHANNELS = 2
_BLOCK_S, _AHEAD_S = 0.25, 1.0
_FADE = RATE // 50  # samples in which the amount goes from nothing to all
_EDGE = RATE // 100  # in which the voice comes in where a piece of it begins
_ASIDE = 1e-4  # what goes through the change of speed as sound but is none must not be taken for one
_KNEE = 0.85
_ROWS = 5  # left, right, voice, whether there is a voice, by how many nepers the level is raised


class VoiceMix:
    """Reads ahead in a thread; what is taken is mixed by the amount of that moment.

    So the amount can change while it plays without a gap, and nothing shifts: both sounds went the same way.

    Parameters
    ----------
    path : Path
        The recording.
    track : ForwardTrack
        What there is of its voice; more may come while it plays.
    known : ndarray, shape (n,), int16
        The recording at 16 kHz, see :class:`SoundReader`.

    Raises
    ------
    MediaError
        If the recording has no sound.
    """

    def __init__(self, path: Path, track: ForwardTrack, known: np.ndarray) -> None:
        self._reader = SoundReader(path, seeks=True, known=known)
        self._track = track
        self._amount = self.amount = 0.0  # that of the last sample, and the one that is wished
        self._lock = threading.Condition()
        self._blocks: deque[np.ndarray] = deque()
        self._held = 0  # samples in the blocks
        self._wish: tuple[float, float] | None = None  # from where to read, and how fast
        self._begun = self._ended = False
        self._gains: tuple[int, np.ndarray] = (-1, np.ones(0))
        self._thread: threading.Thread | None = None

    def start(self, ms: float, speed: float) -> None:
        """Read from another time on, at a speed."""
        with self._lock:
            self._wish = (ms, speed)
            self._begun = False
            self._blocks.clear()
            self._held = 0
            self._lock.notify()
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="voice mix", daemon=True)
            self._thread.start()

    @property
    def ready(self) -> bool:
        """Whether there is something to play."""
        return self._begun

    def take(self, count: int) -> np.ndarray:
        """The next samples, shape (n, 2), float32; fewer than asked for where no more is read yet."""
        found = []
        with self._lock:
            count = min(count, self._held)
            left = count
            while left:
                block = self._blocks.popleft()
                if block.shape[1] > left:
                    self._blocks.appendleft(block[:, left:])
                    block = block[:, :left]
                left -= block.shape[1]
                found.append(block)
            self._held -= count
            self._lock.notify()
        if not count:
            return np.zeros((0, CHANNELS), np.float32)
        return self._mixed(np.concatenate(found, axis=1))

    def _mixed(self, rows: np.ndarray) -> np.ndarray:
        count = rows.shape[1]
        steps = np.arange(1, count + 1, dtype=np.float32) / _FADE
        way = np.float32(self.amount - self._amount)
        amounts = self._amount + np.sign(way) * np.minimum(steps, abs(way))
        self._amount = float(amounts[-1])
        there = np.clip(rows[3] / _ASIDE, 0, 1) * amounts
        sound = rows[:2] * (1 - there) + rows[2] * there
        sound = sound * np.exp(rows[4] / _ASIDE * amounts)
        over = np.abs(sound) > _KNEE
        if over.any():  # rounded off: never a harsh edge in an ear
            room = 1 - _KNEE
            sound[over] = np.sign(sound[over]) * (
                _KNEE + room * np.tanh((np.abs(sound[over]) - _KNEE) / room)
            )
        return np.ascontiguousarray(sound.T, np.float32)

    def close(self) -> None:
        """Let the recording go."""
        with self._lock:
            self._ended = True
            self._lock.notify()
        if self._thread is not None:
            self._thread.join()
        self._reader.close()

    # -- reading ahead ----------------------------------------------------------------------

    def _run(self) -> None:
        blocks: Iterator[np.ndarray] = iter(())
        while True:
            with self._lock:
                while not self._ended and self._wish is None and self._held >= _AHEAD_S * RATE:
                    self._lock.wait()
                if self._ended:
                    return
                wish, self._wish = self._wish, None
            if wish is not None:
                blocks = self._read(*wish)
            block = self._next(blocks)
            with self._lock:
                if self._wish is not None or self._ended:
                    continue
                if block is None:
                    if self._held < _AHEAD_S * RATE:
                        self._lock.wait(0.5)
                    continue
                self._blocks.append(block)
                self._held += block.shape[1]
                self._begun = True

    @staticmethod
    def _next(blocks: Iterator[np.ndarray]) -> np.ndarray | None:
        try:
            return next(blocks, None)
        except (MediaError, OSError, ValueError):
            logging.getLogger(__name__).warning("the sound broke off", exc_info=True)
            return None

    def _read(self, ms: float, speed: float) -> Iterator[np.ndarray]:
        """Blocks of shape (5, n) from a time on."""
        at = self._sound_from(max(0, round(ms * RATE / 1000)))
        return at if abs(speed - 1) < 0.01 else _faster(at, speed)

    def _sound_from(self, first: int) -> Iterator[np.ndarray]:
        import soxr

        rate, step = self._reader.rate, round(_BLOCK_S * RATE)
        edge = Fraction(RATE, 10)
        since = int((first - edge) * rate / RATE)  # what resampling needs before the first sample
        stream = soxr.ResampleStream(rate, RATE, CHANNELS, dtype="float32")
        begun, place = Fraction(since * RATE, rate), since
        late = first - round(begun)
        held = np.zeros((CHANNELS, 0), np.float32)
        while True:
            count = round(_BLOCK_S * rate)
            block = self._reader.read(place, place + count)
            place += count
            block = np.repeat(block, CHANNELS, axis=0) if len(block) == 1 else block
            fine = stream.resample_chunk(np.ascontiguousarray(block.T)).T if rate != RATE else block
            drop = min(late, fine.shape[1])
            late -= drop
            held = np.concatenate([held, fine[:, drop:]], axis=1)
            while held.shape[1] >= step:
                yield self._beside(held[:, :step], first)
                held, first = held[:, step:], first + step

    def _beside(self, sound: np.ndarray, first: int) -> np.ndarray:
        """The recording with its voice, and how they are to be mixed."""
        count = sound.shape[1]
        rows = np.zeros((_ROWS, count), np.float32)
        rows[:2] = sound
        rows[2] = self._track.read(first, first + count)
        there = self._track.there(first - _EDGE, first + count + _EDGE).astype(np.float32)
        total = np.concatenate([[0.0], np.cumsum(there)])
        wide = 2 * _EDGE + 1
        rows[3] = np.clip(total[wide:] - total[:-wide] - (wide - _EDGE), 0, _EDGE) / _EDGE * _ASIDE
        rows[4] = np.log(np.maximum(gains_between(self._levels(), first, count, RATE), 1e-3)) * _ASIDE
        return rows

    def _levels(self) -> np.ndarray:
        """By how much the level is raised, anew when there are more pieces."""
        count = self._track.count
        if self._gains[0] != count:
            self._gains = (count, evening_gains(self._track.energies))
        return self._gains[1]


def _faster(blocks: Iterator[np.ndarray], speed: float) -> Iterator[np.ndarray]:
    """The same at another speed and the same pitch; all rows keep together."""
    import av
    from av.filter import Graph

    graph: Any = Graph()
    source = graph.add_abuffer(
        sample_rate=RATE, format="fltp", layout="5.0", time_base=Fraction(1, RATE), name="in"
    )
    tempo, sink = graph.add("atempo", f"{speed:.4f}"), graph.add("abuffersink")
    source.link_to(tempo)
    tempo.link_to(sink)
    graph.configure()
    for block in blocks:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="fltp", layout="5.0")
        frame.sample_rate = RATE
        graph.push(frame)
        while True:
            try:
                yield graph.pull().to_ndarray().reshape(-1, _ROWS).T  # it comes out packed
            except (av.BlockingIOError, av.EOFError):
                break
