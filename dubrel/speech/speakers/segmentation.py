"""Who speaks in ten seconds of sound, frame by frame, up to three people at once.

A segmentation model (Plaquet and Bredin, 2023) that comes in the recogniser's
package. It tells how many speak at a time, but not who they are from one window
to the next.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from dubrel.speech.sound.windows import window
from dubrel.speech.weights.innermodels import inner_session

RATE = 16_000
WINDOW = 10 * RATE
FRAMES, VOICES = 589, 3
_FIRST, _STEP = 495, 270  # samples: the middle of the first frame, from frame to frame
_BATCH = 8


class Segmenter:
    """The model; one thread, one per process.

    Raises
    ------
    EngineError
        If it is not there.
    """

    def __init__(self) -> None:
        self._session = inner_session("segmentation")

    def activity(self, samples: np.ndarray, starts: np.ndarray) -> Iterator[np.ndarray]:
        """Which voices speak in each frame of some windows of ten seconds.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono.
        starts : ndarray of int, shape (m,)
            First sample of each window; sound that is missing at the end is silence.

        Yields
        ------
        ndarray of bool, shape (up to 8, 589, 3)
            The three voices have no order; a voice is the same only within a window.
        """
        for first in range(0, len(starts), _BATCH):
            some = starts[first : first + _BATCH]
            sound = np.stack([window(samples, start, WINDOW)[None] for start in some])
            yield self._session.run(None, {self._session.get_inputs()[0].name: sound})[0] > 0.5


def frame_times_ms() -> np.ndarray:
    """The middle of each frame in its window, in milliseconds."""
    return (_FIRST + _STEP * np.arange(FRAMES)) / (RATE / 1000)
