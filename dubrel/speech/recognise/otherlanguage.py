"""Whether what the built-in recogniser writes was English at all: told by its own doubt.

No light package that names the language of a sound was found, so nothing is named. Of speech in another
language the recogniser makes English words that it mostly doubts itself; how often that is right is measured
by ``benchmarks/foreign.py``.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dubrel.model import RecognisedWord

_WORDS, _LAST = 40, 200
"""So many are waited for, nothing is said of fewer; after so many it was English."""
_DOUBT = 0.45
_CLEAR_DB = 18.0
"""How far speech must stand out from what is between: noise makes English doubtful too."""


class OtherLanguage:
    """Listens to the beginning of what is transcribed.

    Parameters
    ----------
    samples : ndarray, shape (n,), int16
        16 kHz, mono: from where it is transcribed.
    """

    def __init__(self, samples: np.ndarray) -> None:
        self._samples = samples
        self._doubts: list[float] = []
        self._until = 0
        self._over = False

    def hear(self, words: Sequence[RecognisedWord]) -> bool:
        """Take words; whether it is said now, once, that this is no English."""
        if self._over or not words:
            return False
        self._doubts += [one.doubt for one in words]
        self._until = max(self._until, words[-1].end_ms)
        other = len(self._doubts) >= _WORDS and float(np.mean(self._doubts)) > _DOUBT and self._is_clear()
        self._over = other or len(self._doubts) > _LAST
        return other

    def _is_clear(self) -> bool:
        """Whether speech stands well above what is between words."""
        part = self._samples[: round(self._until * 16)].astype(np.float64)
        frames = part[: len(part) // 320 * 320].reshape(-1, 320)
        levels = 10 * np.log10((frames**2).mean(axis=1) + 1)
        return len(levels) > 0 and float(np.percentile(levels, 90) - np.percentile(levels, 5)) > _CLEAR_DB
