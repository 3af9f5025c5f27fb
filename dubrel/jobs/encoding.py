"""Encode sentences in a process of its own that stays ready, and keep what was encoded for the next time."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Future
from hashlib import blake2b
from pathlib import Path

import numpy as np

from dubrel.base.folders import cache_root
from dubrel.base.helper import Helper
from dubrel.finding.encoder import vectors_of


class SentenceEncoder:
    """Takes texts and gives vectors back; the process starts with the first."""

    def __init__(self) -> None:
        self._helper = Helper()

    def submit(self, texts: Sequence[str]) -> Future[np.ndarray]:
        """Encode texts; shape (n, 512)."""
        return self._helper.submit(vectors_of, list(texts))

    def close(self) -> None:
        """Let the process go."""
        self._helper.close()


def index_path(project_path: str) -> Path:
    """Where the vectors of a project's sentences are kept."""
    name = blake2b(project_path.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
    return cache_root() / "meaning" / f"{name}.npz"
