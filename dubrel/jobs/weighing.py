"""Weigh translations in a process of its own that stays ready."""

from __future__ import annotations

import multiprocessing
import os
from collections.abc import Sequence
from concurrent.futures import Future, ProcessPoolExecutor

from dubrel.jobs.events import SentencesWeighed
from dubrel.jobs.family import end_with_parent
from dubrel.model import Weighed


class Weigher:
    """Takes pairs and says what was found out; the process starts with the first."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def submit(
        self, pairs: Sequence[tuple[str, str]], source: str, target: str, back: str
    ) -> Future[list[Weighed]]:
        """Weigh originals and translations; see :func:`dubrel.jobs.translating.weigh`."""
        return self._running().submit(weighed, list(pairs), source, target, back)

    def recall(self, pairs: Sequence[tuple[str, str]], source: str, target: str) -> Future[list[Weighed]]:
        """What is known from before."""
        return self._running().submit(known_before, list(pairs), source, target)

    def _running(self) -> ProcessPoolExecutor:
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, context, end_with_parent, (os.getpid(),))
        return self._pool

    def close(self) -> None:
        """Let the process go."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None


def known_before(pairs: list[tuple[str, str]], source: str, target: str) -> list[Weighed]:
    """What was found out earlier."""
    from dubrel.translation.known import recalled  # late: only in the process that weighs

    return recalled(pairs, (source, target))


def weighed(pairs: list[tuple[str, str]], source: str, target: str, back: str) -> list[Weighed]:
    """What was found out, and kept for the next time."""
    from dubrel.jobs.translating import weigh  # late: as above
    from dubrel.translation.known import remember

    found: list[Weighed] = []
    for event in weigh(pairs, source, target, back):
        if isinstance(event, SentencesWeighed):
            found += event.found
            remember(event.found, (source, target))
    return found
