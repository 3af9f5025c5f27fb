"""What is heard over time: speech, music, other sound.

A trained classifier of 521 classes (a mobile convolutional network for audio
events; Howard et al., 2017, for its form) whose data lie in an installed
package. The data are opened as data; none of the package's code is run.
"""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError

RATE = 16_000
STEP_MS = 480
_PACKAGE, _ARCHIVE = "sead", "data/YamNet_w8a8.onnx.zip"
_WINDOW, _HOP, _POINTS, _BANDS = 400, 160, 512, 64
_LOW_HZ, _HIGH_HZ = 125.0, 7500.0
_FRAMES, _FRAME_STEP = 96, 48
_SPEECH, _MUSIC = slice(0, 7), (*range(24, 32), *range(132, 277))
_BATCH_MS = 60_000
_NO_SPEECH, _SOME_MUSIC = 0.15, 0.15


class SoundClassifier:
    """Scores of speech and music for every 0.48 s.

    Raises
    ------
    EngineError
        If its data are not installed.
    """

    def __init__(self) -> None:
        import onnxruntime

        from dubrel.speech.weights.onnxfile import quantisation

        model, data = _model()
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = options.inter_op_num_threads = 1
        options.log_severity_level = 4
        options.add_external_initializers_from_files_in_memory(["model.data"], [data], [len(data)])
        self._session: Any = onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])
        self._in, self._out = (_scale(*quantisation(model, one)) for one in ("audio", "class_scores"))

    def scores(self, samples: np.ndarray) -> np.ndarray:
        """How sure it is of each class.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono.

        Returns
        -------
        ndarray, shape (n // 7680, 521), float32
            0 to 1, for every 0.48 s.
        """
        patches = _patches(samples)
        scale, zero = self._in
        bytes_ = np.clip(np.rint(patches / scale + zero), 0, 255).astype(np.uint8)
        rows = [self._session.run(None, {"audio": one[None, None]})[0][0] for one in bytes_]
        scale, zero = self._out
        logits = (np.array(rows, np.float32).reshape(-1, 521) - zero) * scale
        return 1 / (1 + np.exp(-np.clip(logits, -30, 30)))

    def speech_and_music(self, samples: np.ndarray) -> np.ndarray:
        """The best score of speech and that of music, shape (steps, 2)."""
        scores = self.scores(samples)
        return np.stack([scores[:, _SPEECH].max(axis=1), scores[:, _MUSIC].max(axis=1)], axis=1)

    def is_music(self, samples: np.ndarray) -> bool:
        """Whether there is music in a passage and nobody to be heard in it."""
        speech, music = self.speech_and_music(samples).mean(axis=0)
        return bool(speech <= _NO_SPEECH and music >= _SOME_MUSIC)

    def over(self, samples: np.ndarray) -> Iterator[np.ndarray]:
        """:meth:`speech_and_music` of a long recording, a minute at a time."""
        block = _BATCH_MS // STEP_MS * STEP_MS * RATE // 1000
        for start in range(0, len(samples), block):
            yield self.speech_and_music(np.array(samples[start : start + block + _HOP * _FRAMES]))[
                : block * 1000 // RATE // STEP_MS
            ]


def _model() -> tuple[bytes, bytes]:
    spec = find_spec(_PACKAGE)
    path = Path(spec.origin).parent / _ARCHIVE if spec and spec.origin else None
    if path is None or not path.is_file():
        raise EngineError(
            tr("The sound classes are not installed: the package “sead” is missing. Run ./run again.")
        )
    with zipfile.ZipFile(path) as archive:
        names = {Path(name).name: name for name in archive.namelist()}
        return archive.read(names["model.onnx"]), archive.read(names["model.data"])


def _scale(scale: bytes, zero: bytes) -> tuple[float, int]:
    return float(np.frombuffer(scale, "<f4")[0]), zero[0] if zero else 0


@lru_cache(maxsize=1)
def _filters() -> np.ndarray:
    """Triangles of height one between the bands' middles on the HTK mel scale, shape (257, 64)."""
    edges = np.linspace(_mel(_LOW_HZ), _mel(_HIGH_HZ), _BANDS + 2)[:, None]
    places = _mel(np.fft.rfftfreq(_POINTS, 1 / RATE))
    rising = (places - edges[:-2]) / (edges[1:-1] - edges[:-2])
    falling = (edges[2:] - places) / (edges[2:] - edges[1:-1])
    return np.maximum(0, np.minimum(rising, falling)).T.astype(np.float32)


def _mel(hertz: Any) -> Any:
    return 1127 * np.log1p(np.asarray(hertz) / 700)


def _patches(samples: np.ndarray) -> np.ndarray:
    """Log-mel pictures of 0.96 s, one every 0.48 s, shape (steps, 96, 64)."""
    sound = samples.astype(np.float32) / 32768
    short = _HOP * (_FRAMES - 1) + _WINDOW - len(sound)
    sound = np.pad(sound, (0, max(0, short)))
    frames = np.lib.stride_tricks.sliding_window_view(sound, _WINDOW)[::_HOP]
    window = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(_WINDOW) / _WINDOW)
    power = np.abs(np.fft.rfft(frames * window.astype(np.float32), _POINTS, axis=1))
    bands = np.log(power.astype(np.float32) @ _filters() + 1e-6)
    starts = range(0, len(bands) - _FRAMES + 1, _FRAME_STEP)
    return np.stack([bands[start : start + _FRAMES] for start in starts])
