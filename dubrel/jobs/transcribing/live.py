"""Transcribe a recording while it is being made."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.jobs.machinery.events import Event, Progress, Recognised
from dubrel.jobs.transcribing.transcribe import settled_until
from dubrel.media.growingwave import HEADER_BYTES, live_mark
from dubrel.media.sound import RATE
from dubrel.model.choices import Choices
from dubrel.speech.recognise.chunk_seams import Joins
from dubrel.speech.recognise.listener import Listener
from dubrel.speech.sound.activity import FRAME, FRAME_MS, Chunk, Detector, cut_chunks, frame_loudness

_WAIT_S = 0.25
_STEP = 20  # frames that must have come in before it is worth looking
_WARM = 64
_LEAST, _MOST = 40, 400  # frames: a cut not before, a cut in any case after


def transcribe_live(path: str, rate: int, choices: Choices) -> Iterator[Event]:
    """Transcribe a WAV file that grows, until its mark is gone and all of it is transcribed.

    Parameters
    ----------
    path : str
        Mono, 16-bit; see :class:`dubrel.media.growingwave.GrowingWave`.
    rate : int
        Its sample rate.
    choices : Choices

    Yields
    ------
    Event
        Words a moment after they were said.
    """
    listener = Listener(choices.engine, choices.language)
    yield Progress(tr("Recording"), 0.0)
    tail, ear, joins = _Tail(Path(path), rate), _Ear(), Joins(choices.language, hold=False)
    ended = False
    while not ended:
        ended = not live_mark(Path(path)).exists()
        ear.take(tail.read(ended), ended)
        for chunk in ear.chunks(ended):
            [found] = listener.listen(ear.samples, [ear.within(chunk)])
            words = joins.take(tuple(word.later(ear.origin_ms) for word in found.words))
            if words:
                yield Recognised(words)
        ear.forget()
        if not ended:
            time.sleep(_WAIT_S)
    yield Progress(tr("Recording"), 1.0)


class _Tail:
    """What has come into a growing file since the last time, at 16 kHz."""

    def __init__(self, path: Path, rate: int) -> None:
        import soxr

        self._file = path.open("rb")
        self._file.seek(HEADER_BYTES)
        self._resampler = soxr.ResampleStream(rate, RATE, 1, dtype="int16", quality="MQ")
        self._odd = b""

    def read(self, last: bool) -> np.ndarray:
        data = self._odd + self._file.read()
        self._odd = data[len(data) // 2 * 2 :]
        samples = np.frombuffer(data[: len(data) // 2 * 2], "<i2")
        return self._resampler.resample_chunk(samples, last=last)


class _Ear:
    """The sound that is not settled yet, and where in it somebody speaks."""

    def __init__(self) -> None:
        self.samples = np.zeros(0, np.int16)
        self._likely = np.zeros(0, np.float32)
        self._origin = 0  # frames forgotten
        self._heard = 0  # frames that are settled, from the origin
        self._detector = Detector()

    def take(self, new: np.ndarray, last: bool) -> None:
        """Add sound and look where somebody speaks in it; the last piece is looked at to its end."""
        self.samples = np.concatenate([self.samples, new])
        if last:
            self.samples = np.pad(self.samples, (0, -len(self.samples) % FRAME))
        known, whole = len(self._likely), len(self.samples) // FRAME
        if whole - known >= (1 if last else _STEP):
            before = min(known, _WARM)
            sound = self.samples[(known - before) * FRAME : whole * FRAME].astype(np.float32) / 32768
            self._likely = np.concatenate([self._likely, self._detector.detect(sound, before, 1)])

    def chunks(self, ended: bool) -> list[Chunk]:
        """Passages that are settled: up to the last sure pause, or to a forced cut."""
        likely = self._likely[self._heard :]
        cut = len(likely) if ended else settled_until(likely, _LEAST)
        if not ended and not cut and len(likely) > _MOST:
            cut = _MOST * 3 // 4 + int(np.argmin(likely[_MOST * 3 // 4 : _MOST]))
        if not cut:
            return []
        sound = self.samples[self._heard * FRAME : (self._heard + cut) * FRAME]
        shift = (self._origin + self._heard) * FRAME_MS
        self._heard += cut
        found = cut_chunks(likely[:cut], frame_loudness(sound)[:cut])
        return [Chunk(one.start_ms + shift, one.end_ms + shift) for one in found]

    def within(self, chunk: Chunk) -> Chunk:
        """A chunk in the time of ``samples``."""
        return Chunk(chunk.start_ms - self.origin_ms, chunk.end_ms - self.origin_ms)

    @property
    def origin_ms(self) -> int:
        """Where in the recording ``samples`` begins."""
        return self._origin * FRAME_MS

    def forget(self) -> None:
        """Let go of what is settled, but for what warms the detector up."""
        gone = max(0, self._heard - _WARM)
        self.samples = self.samples[gone * FRAME :]
        self._likely = self._likely[gone:]
        self._heard -= gone
        self._origin += gone
