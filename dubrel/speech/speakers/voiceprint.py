"""Voice prints: 256 numbers that say whose voice a moment of sound is.

The speaker encoder that comes in the package ``Resemblyzer`` (generalised
end-to-end loss; Wan and others, 2018) in NumPy: three recurrent layers of 256
over 160 frames of 40 mel bands.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.speech.sound.mel import mel_filters
from dubrel.speech.sound.windows import window
from dubrel.speech.weights.torchfile import read_tensors

RATE = 16_000
FRAMES = 160  # of 10 ms in one window
_HOP, _WINDOW, _MELS = 160, 400, 40
_LAYERS, _SIZE = 3, 256
_BATCH = 96
_TARGET_RMS = 10 ** (-30 / 20)
SIZE = _SIZE


class VoiceEncoder:
    """The encoder; one per process.

    Raises
    ------
    EngineError
        If its weights are not there.
    """

    def __init__(self) -> None:
        found = find_spec("resemblyzer")
        if found is None or not found.origin:
            raise EngineError(tr("The speaker encoder is missing. Run ./run once to set Dubrel up again."))
        tensors = read_tensors(Path(found.origin).parent / "pretrained.pt")
        self._inner, self._back, self._bias = [], [], []
        for layer in range(_LAYERS):
            self._inner.append(np.ascontiguousarray(tensors[f"lstm.weight_ih_l{layer}"].T))
            self._back.append(np.ascontiguousarray(tensors[f"lstm.weight_hh_l{layer}"].T))
            self._bias.append(tensors[f"lstm.bias_ih_l{layer}"] + tensors[f"lstm.bias_hh_l{layer}"])
        self._last, self._last_bias = np.ascontiguousarray(tensors["linear.weight"].T), tensors["linear.bias"]

    def prints(self, samples: np.ndarray, starts: np.ndarray) -> Iterator[np.ndarray]:
        """Voice prints of windows of 1.6 seconds.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono.
        starts : ndarray of int, shape (m,)
            First sample of each window; sound that is missing at the end is silence.

        Yields
        ------
        ndarray, shape (up to 96, 256), float32
            Of length one each.
        """
        for first in range(0, len(starts), _BATCH):
            yield self._encode(
                np.stack([_mels(_loudened(samples, at)) for at in starts[first : first + _BATCH]])
            )

    def _encode(self, mels: np.ndarray) -> np.ndarray:
        rows = mels.astype(np.float32)  # (batch, time, band)
        for inner, back, bias in zip(self._inner, self._back, self._bias):
            rows = _recurrent(rows, inner, back, bias)
        found = np.maximum(0, rows[:, -1] @ self._last + self._last_bias)
        return found / (np.linalg.norm(found, axis=1, keepdims=True) + 1e-8)


def _recurrent(rows: np.ndarray, inner: np.ndarray, back: np.ndarray, bias: np.ndarray) -> np.ndarray:
    """One layer of long short-term memory over a batch."""
    batch, steps, width = rows.shape
    driven = (rows.reshape(-1, width) @ inner + bias).reshape(batch, steps, 4 * _SIZE)
    hidden = np.zeros((batch, _SIZE), np.float32)
    cell = np.zeros((batch, _SIZE), np.float32)
    found = np.empty((batch, steps, _SIZE), np.float32)
    for step in range(steps):
        gates = driven[:, step] + hidden @ back
        opening = _sigmoid(gates[:, : 2 * _SIZE])
        cell = opening[:, _SIZE:] * cell + opening[:, :_SIZE] * np.tanh(gates[:, 2 * _SIZE : 3 * _SIZE])
        hidden = _sigmoid(gates[:, 3 * _SIZE :]) * np.tanh(cell)
        found[:, step] = hidden
    return found


def _sigmoid(values: np.ndarray) -> np.ndarray:
    return 0.5 * (np.tanh(0.5 * values) + 1)


def _loudened(samples: np.ndarray, start: int) -> np.ndarray:
    """A window at an even loudness, with what the frames at its ends need around it."""
    sound = window(samples, start, FRAMES * _HOP)
    loud = float(np.sqrt(np.mean(sound**2)))
    return sound * max(1.0, _TARGET_RMS / max(loud, 1e-5))


def _mels(sound: np.ndarray) -> np.ndarray:
    """Power in 40 mel bands, shape (160, 40)."""
    padded = np.pad(sound, _WINDOW // 2)
    frames = np.lib.stride_tricks.sliding_window_view(padded, _WINDOW)[::_HOP][:FRAMES]
    power = np.abs(np.fft.rfft(frames * _hann(), axis=1)) ** 2
    return (power @ mel_filters(_WINDOW, _MELS).T).astype(np.float32)


@lru_cache(maxsize=1)
def _hann() -> np.ndarray:
    return (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(_WINDOW) / _WINDOW)).astype(np.float32)
