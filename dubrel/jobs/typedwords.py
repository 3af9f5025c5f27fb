"""Align a few words in a process of their own that stays ready."""

from __future__ import annotations

import multiprocessing
import os
from concurrent.futures import Future, ProcessPoolExecutor
from functools import lru_cache
from pathlib import Path

import numpy as np

from dubrel.edits.typedtimes import Run
from dubrel.jobs.family import end_with_parent
from dubrel.media.sound import passage, samples_in
from dubrel.model import HeardWord
from dubrel.speech.aligners import Aligner, aligner_for


class Realigner:
    """Takes runs of words and gives their times back; the process starts with the first."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def submit(self, path: Path, language: str, run: Run) -> Future[list[HeardWord]]:
        """Align a run with the samples (16 kHz, int16) in a file."""
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, context, end_with_parent, (os.getpid(),))
        return self._pool.submit(_align, str(path), language, run)

    def close(self) -> None:
        """Let the process go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None


@lru_cache(maxsize=2)
def _aligner(language: str) -> Aligner:
    return aligner_for(language)


def _align(path: str, language: str, run: Run) -> list[HeardWord]:
    sound = np.array(passage(samples_in(Path(path)), run.start_ms, run.end_ms))
    return _aligner(language).align(sound, list(run.texts), run.start_ms)
