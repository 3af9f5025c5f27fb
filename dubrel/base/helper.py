"""A process beside this one that stays ready: started at the first need, ended for certain."""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import signal
import threading
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import TypeVar

from dubrel.base.errors import EngineError

T = TypeVar("T")
_TRIES = 2
_NICE = 5
_DIE_WITH_PARENT = 1  # PR_SET_PDEATHSIG


def end_with_parent(parent: int) -> None:
    """Let this process end when its parent does, and let the interface come first.

    Parameters
    ----------
    parent : int
        The parent's process id: if it is gone already, this process ends now.
    """
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    if os.getppid() != parent:
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(_NICE)


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


class EngineProcess:
    """The process in which a native library runs, started anew where it died: never the one that asks.

    Parameters
    ----------
    name : str
        Of the engine, as it begins a sentence.
    instead : str
        What a user can do where it dies again and again.
    """

    def __init__(self, name: str, instead: str) -> None:
        self._helper, self._said = Helper(), f"{name} stopped unexpectedly. {instead}"

    def call(self, work: Callable[..., T], *args: object) -> T:
        """Do something there.

        Raises
        ------
        EngineError
            If it dies of that twice.
        """
        for _ in range(_TRIES):
            try:
                return self._helper.submit(work, *args).result()
            except BrokenProcessPool:
                self._helper.close()
        raise EngineError(self._said)

    def close(self) -> None:
        """Let the process go."""
        self._helper.close()
