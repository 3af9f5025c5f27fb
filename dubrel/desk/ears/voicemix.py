"""The recording and another voice beside it, mixed in the moment they are played."""

from __future__ import annotations

import logging
import threading
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.errors import MediaError
from dubrel.film.soundtracks.spokensound import Spans, ducking, kept, spoken_part
from dubrel.media.forwardtrack import RATE, ForwardTrack
from dubrel.media.levelling import evening_gains, gains_between
from dubrel.media.soundreader import SoundReader

CHANNELS = 2
_BLOCK_S, _AHEAD_S = 0.25, 1.0
_FADE = RATE // 50  # samples in which the amount goes from nothing to all
_EDGE = RATE // 100  # in which the voice comes in where a piece of it begins
_ASIDE = 1e-4  # what goes through the change of speed as sound but is none must not be taken for one
_KNEE = 0.85
_ROWS = 5  # left, right, and what stands beside
Beside = Callable[[int, int], np.ndarray]
"""From one sample to another: the other voice, how much of the recording stays with it (0 to 1), and by how
many nepers both are raised, shape (3, n)."""


class VoiceMix:
    """Reads ahead in a thread; what is taken is mixed by the amount of that moment.

    So the amount can change while it plays without a gap, and nothing shifts: both sounds went the same way.

    Parameters
    ----------
    path : Path or None
        The recording; ``None`` for one without sound.
    known : ndarray, shape (n,), int16, optional
        The recording at 16 kHz, see :class:`SoundReader`.
    beside : callable
        The other voice; asked in the thread.
    tracks : sequence of int
        The sound tracks of the recording that are mixed.
    """

    def __init__(
        self, path: Path | None, known: np.ndarray | None, beside: Beside, tracks: Sequence[int] = ()
    ) -> None:
        self._reader = SoundReader(path, tracks=tracks, seeks=True, known=known) if path is not None else None
        self._beside = beside
        self.reached = self.amount = 0.0  # that of the last sample, and the one that is wished
        self._lock = threading.Condition()
        self._blocks: deque[np.ndarray] = deque()
        self._held = 0  # samples in the blocks
        self._wish: tuple[float, float] | None = None  # from where to read, and how fast
        self._begun = self._ended = False
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
        way = np.float32(self.amount - self.reached)
        amounts = self.reached + np.sign(way) * np.minimum(steps, abs(way))
        self.reached = float(amounts[-1])
        stays = 1 - amounts * (1 - np.clip(rows[3] / _ASIDE, 0, 1))
        sound = rows[:2] * stays + rows[2] * amounts
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
        if self._reader is not None:
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

        rate, step = self._reader.rate if self._reader else RATE, round(_BLOCK_S * RATE)
        edge = Fraction(RATE, 10)
        since = int((first - edge) * rate / RATE)  # what resampling needs before the first sample
        stream = soxr.ResampleStream(rate, RATE, CHANNELS, dtype="float32")
        begun, place = Fraction(since * RATE, rate), since
        late = first - round(begun)
        held = np.zeros((CHANNELS, 0), np.float32)
        while True:
            count = round(_BLOCK_S * rate)
            block = self._reader.read(place, place + count) if self._reader else np.zeros((2, count))
            place += count
            block = np.repeat(block, CHANNELS, axis=0) if len(block) == 1 else block
            fine = stream.resample_chunk(np.ascontiguousarray(block.T)).T if rate != RATE else block
            drop = min(late, fine.shape[1])
            late -= drop
            held = np.concatenate([held, fine[:, drop:]], axis=1)
            while held.shape[1] >= step:
                rows = np.concatenate([held[:, :step], self._beside(first, first + step)])
                rows[3:] *= _ASIDE
                yield rows.astype(np.float32)
                held, first = held[:, step:], first + step


class BroughtForward:
    """The voice of the recording as the enhancer gives it, where there is a piece of it; the level evened.

    Parameters
    ----------
    track : ForwardTrack
        More pieces may come while it plays.
    """

    def __init__(self, track: ForwardTrack) -> None:
        self._track = track
        self._gains: tuple[int, np.ndarray] = (-1, np.ones(0))

    def __call__(self, first: int, after: int) -> np.ndarray:
        """See :data:`Beside`."""
        there = self._track.there(first - _EDGE, after + _EDGE).astype(np.float32)
        total = np.concatenate([[0.0], np.cumsum(there)])
        wide = 2 * _EDGE + 1
        share = np.clip(total[wide:] - total[:-wide] - (wide - _EDGE), 0, _EDGE) / _EDGE
        level = gains_between(self._levels(), first, after - first, RATE)
        return np.stack([self._track.read(first, after) * share, 1 - share, np.log(np.maximum(level, 1e-3))])

    def _levels(self) -> np.ndarray:
        """By how much the level is raised, anew when there are more pieces."""
        count = self._track.count
        if self._gains[0] != count:
            self._gains = (count, evening_gains(self._track.energies))
        return self._gains[1]


class SpokenOver:
    """Lines that are spoken, and the recording that goes down meanwhile.

    Parameters
    ----------
    voice : ndarray, shape (n,), int16
        At 48 kHz.
    spans : sequence of (int, int)
    under_db : float or None
        By how much it goes down; ``None`` for the voice alone.
    fade_ms : int
    """

    def __init__(self, voice: np.ndarray, spans: Spans, under_db: float | None, fade_ms: int) -> None:
        self._voice, self._alone = voice, under_db is None
        self._times, self._levels = ducking(spans, under_db or 0.0, fade_ms)

    def __call__(self, first: int, after: int) -> np.ndarray:
        """See :data:`Beside`."""
        stays = kept(self._times, self._levels, first, after) * (not self._alone)
        return np.stack([spoken_part(self._voice, first, after), stays, np.zeros(after - first)])


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
