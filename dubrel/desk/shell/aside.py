"""Do something short beside the interface and wait for it without blocking the interface."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

from PySide6.QtCore import QEventLoop, QTimer

T = TypeVar("T")
_waited = ThreadPoolExecutor(2, thread_name_prefix="beside")  # what the user waits for
_slow = ThreadPoolExecutor(2, thread_name_prefix="aside")  # what may take its time: nothing waits behind it


def beside(work: Callable[[], T]) -> T:
    """Run something in a thread; painting goes on, the user's input waits.

    Returns
    -------
    object
        What ``work`` returns; what it raises is raised here.
    """
    load_qt()
    future = _waited.submit(work)
    loop = QEventLoop()
    timer = QTimer(interval=4)
    timer.timeout.connect(lambda: loop.quit() if future.done() else None)
    timer.start()
    if not future.done():
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
    return future.result()


def aside(work: Callable[[], T]) -> Future[T]:
    """Run something in a thread and go on; its result is asked for later, if at all."""
    load_qt()
    return _slow.submit(work)


def load_qt() -> None:
    """Load the last module of Qt on the interface's thread, before another thread loads libraries.

    While it is loaded it holds the loader's lock and wants the interpreter's; a
    thread that imports an extension holds the interpreter's and wants the
    loader's: both would stand still for good.
    """
    import PySide6.QtMultimedia  # noqa: F401


def load_early() -> None:
    """Load in a thread what the first recording, and each pass when it is first shown, will need."""

    def load() -> None:
        from dubrel.base.unfinished import clean_up

        clean_up()
        import av  # noqa: F401
        import soxr  # noqa: F401

        import dubrel.jobs.runner
        import dubrel.jobs.survey
        import dubrel.release.kits
        import dubrel.translation.checks  # noqa: F401

    aside(load)
