"""A voice: each word is whistled, the longer the word, the longer the tone. Offered for Esperanto."""

from __future__ import annotations

import numpy as np

from dubrel.base.languages import main_tag
from dubrel.speech.speaking.engines import Said, SpeakingEngine

_RATE, _LETTER_S, _REST_S = 16_000, 0.06, 0.05


class Whistle:
    """Knows when each word is said, so nothing has to be aligned."""

    def say(self, text: str, language: str) -> Said:
        """Whistle a text."""
        parts, times, at = [], [], 0.0
        for nth, word in enumerate(text.split()):
            length = _LETTER_S * len(word)
            time = np.arange(round(length * _RATE)) / _RATE
            rest = np.zeros(round(_REST_S * _RATE))
            parts += [0.3 * np.sin(2 * np.pi * (700 + 80 * (nth % 5)) * time), rest]
            times.append((at, at + length))
            at += length + _REST_S
        return Said(np.concatenate(parts).astype(np.float32), _RATE, tuple(times))


ENGINE = SpeakingEngine(
    lambda where: Whistle(), "the whistle", lambda where, language: main_tag(language) == "eo"
)
