"""Aligners by language: the register. A new one is one file and a line here."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from dubrel.base.errors import EngineError
from dubrel.model import RecognisedWord
from dubrel.speech.align.by_length import SpreadAligner
from dubrel.speech.align.english import EnglishAligner
from dubrel.speech.align.synthalign import SynthesisAligner
from dubrel.speech.align.synthesis import speaks


class Aligner(Protocol):
    """Lines words up with sound."""

    def align(self, samples: np.ndarray, words: list[str], start_ms: int) -> list[RecognisedWord]:
        """Give every word its time; see :class:`EnglishAligner`."""
        ...


def aligner_for(language: str) -> Aligner:
    """The best aligner that there is for a language: by model, by synthesis, or none."""
    if language.split("-")[0] in ("", "en"):
        return EnglishAligner()
    try:
        return SynthesisAligner(language) if speaks(language) else SpreadAligner()
    except EngineError:
        return SpreadAligner()
