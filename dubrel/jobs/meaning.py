"""Encode sentences in a process of its own that stays ready, and keep what was encoded for the next time."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from hashlib import blake2b
from pathlib import Path

import numpy as np

from dubrel.finding.encoder import vectors_of
from dubrel.jobs.family import end_with_parent
from dubrel.media.cache import cache_root


class SentenceEncoder:
    """Takes texts and gives vectors back; the process starts with the first."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def submit(self, texts: Sequence[str]) -> Future[np.ndarray]:
        """Encode texts; shape (n, 512)."""
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, context, end_with_parent, (os.getpid(),))
        return self._pool.submit(vectors_of, list(texts))

    def close(self) -> None:
        """Let the process go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None


def index_path(project_path: str) -> Path:
    """Where the vectors of a project's sentences are kept."""
    name = blake2b(project_path.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
    return cache_root() / "meaning" / f"{name}.npz"
