"""Second voice prints: slower than the first, and surer whether two stretches are one person.

A residual network (ResNet-34; Wang and others, 2023) that comes in the
recogniser's package, over log mel bands. It takes about a tenth of the time of
the sound, so it hears only a few samples of each voice.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.model import RecognisedWord
from dubrel.speech.sound.mel import RATE, htk_filters
from dubrel.speech.sound.windows import evenly
from dubrel.speech.weights.innermodels import inner_session

_BANDS, _FRAME, _HOP, _POINTS = 80, 400, 160, 512
_LOW_HZ = 20.0
SIZE = 256
_PIECE, _PIECES = 8 * RATE, 2
_RUN, _RUNS = 6, 10
_EMPHASIS = 0.97


class IdentityEncoder:
    """The network; one thread, one per process.

    Raises
    ------
    EngineError
        If it is not there.
    """

    def __init__(self) -> None:
        self._session = inner_session("embedding")

    def print_of(self, samples: np.ndarray) -> np.ndarray:
        """The print of one voice.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono, only this voice; of more than 16 seconds an even part is heard.

        Returns
        -------
        ndarray, shape (256,), float32
            Of length one.
        """
        parts = np.array_split(samples, max(1, len(samples) // _PIECE))
        chosen = evenly(len(parts), _PIECES)
        rows = np.stack([self._log_mels(np.resize(parts[place], _PIECE)) for place in chosen])
        weights = np.ones(rows.shape[:2], np.float32)
        found = self._session.run(None, {"fbank": rows, "weights": weights})[0]
        found /= np.linalg.norm(found, axis=1, keepdims=True) + 1e-8
        mean = found.mean(axis=0)
        return mean / (np.linalg.norm(mean) + 1e-8)

    @staticmethod
    def _log_mels(samples: np.ndarray) -> np.ndarray:
        """Log energy in 80 mel bands, the mean of each taken away, shape (frames, 80)."""
        frames = np.lib.stride_tricks.sliding_window_view(np.asarray(samples, np.float64), _FRAME)[::_HOP]
        frames = frames - frames.mean(axis=1, keepdims=True)
        before = np.concatenate([frames[:, :1], frames[:, :-1]], axis=1)
        power = np.abs(np.fft.rfft((frames - _EMPHASIS * before) * np.hamming(_FRAME), _POINTS)) ** 2
        rows = np.log(np.maximum(power @ htk_filters(_POINTS, _BANDS, _LOW_HZ).T, np.finfo(np.float32).eps))
        return (rows - rows.mean(axis=0)).astype(np.float32)


def person_prints(samples: np.ndarray, words: Sequence[RecognisedWord], labels: np.ndarray) -> np.ndarray:
    """A print of each speaker, from runs of words spread over the recording.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono.
    words : sequence of RecognisedWord
        In order of time.
    labels : ndarray of int, shape (words,)
        The speaker of each word.

    Returns
    -------
    ndarray, shape (speakers, 256), float32
        Of length one each; of length zero for a number that says nothing.
    """
    encoder, rows = IdentityEncoder(), []
    for name in range(int(labels.max()) + 1):
        own = np.flatnonzero(labels == name)
        if not len(own):
            rows.append(np.zeros(SIZE, np.float32))
            continue
        runs = np.array_split(own, -(-len(own) // _RUN))
        chosen = evenly(len(runs), _RUNS)
        spans = [(words[k].start_ms * 16, words[k].end_ms * 16) for run in chosen for k in runs[run]]
        rows.append(encoder.print_of(np.concatenate([np.asarray(samples[a:b]) for a, b in spans])))
    return np.stack(rows)
