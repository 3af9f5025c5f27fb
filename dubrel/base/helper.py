"""A process beside this one that stays ready: started at the first need, ended for certain."""

from __future__ import annotations

import multiprocessing
import os
import threading
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from typing import TypeVar

from dubrel.base.family import end_with_parent

T = TypeVar("T")


class Helper:
    """Does one thing after the other in a process of its own."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None
        self._of = 0

    def submit(self, work: Callable[..., T], *args: object) -> Future[T]:
        """Do something there; ``work`` and its arguments are sent over."""
        with self._lock:
            if self._pool is None or self._of != os.getpid():  # a fork has no use for its parent's
                context = multiprocessing.get_context("spawn")
                self._pool = ProcessPoolExecutor(1, context, end_with_parent, (os.getpid(),))
                self._of = os.getpid()
            return self._pool.submit(work, *args)

    def close(self) -> None:
        """Let the process go; the next need starts another one.

        It is killed: told to end while it is still starting it may wait for work for
        ever, and whoever ends would wait for it.
        """
        with self._lock:
            pool, self._pool = self._pool, None
        if pool is not None and self._of == os.getpid():
            processes = list((pool._processes or {}).values())
            pool.shutdown(wait=False, cancel_futures=True)
            for one in processes:
                one.kill()
