"""Align a few words in a process of their own that stays ready."""

from __future__ import annotations

from concurrent.futures import Future
from functools import lru_cache
from pathlib import Path

import numpy as np

from dubrel.base.helper import Helper
from dubrel.edits.words.typedtimes import Run
from dubrel.media.sound import passage, samples_in
from dubrel.model import RecognisedWord
from dubrel.speech.align.aligners import Aligner, aligner_for


class Realigner:
    """Takes runs of words and gives their times back; the process starts with the first."""

    def __init__(self) -> None:
        self._helper = Helper()

    def submit(self, path: Path, language: str, run: Run) -> Future[list[RecognisedWord]]:
        """Align a run with the samples (16 kHz, int16) in a file."""
        return self._helper.submit(_align, str(path), language, run)

    def close(self) -> None:
        """Let the process go."""
        self._helper.close()


@lru_cache(maxsize=2)
def _aligner(language: str) -> Aligner:
    return aligner_for(language)


def _align(path: str, language: str, run: Run) -> list[RecognisedWord]:
    sound = np.array(passage(samples_in(Path(path)), run.start_ms, run.end_ms))
    return _aligner(language).align(sound, list(run.texts), run.start_ms)
