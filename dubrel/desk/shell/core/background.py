"""What runs beside the interface: asked for, and its result taken on the interface's thread."""

from __future__ import annotations

import logging
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Generic, TypeVar

from PySide6.QtCore import QEventLoop, QObject, QTimer, SignalInstance
from PySide6.QtWidgets import QApplication

T = TypeVar("T")
_POLL_MS = 15
_waited = ThreadPoolExecutor(2, thread_name_prefix="beside")  # what the user waits for
_unasked = ThreadPoolExecutor(2, thread_name_prefix="aside")  # what nobody waits for
_slow = ThreadPoolExecutor(1, thread_name_prefix="slow")  # what takes seconds where a project is long


class Background(QObject):
    """Work of one part of the desk, in a thread of its own: nothing stands behind what another part asked.

    Parameters
    ----------
    owner : QObject, optional
        It ends with it.
    until : SignalInstance, optional
        What was asked is forgotten when it is emitted: another project is opened, say.
    newest : bool
        What is asked replaces what was asked before: only the last result is taken.
    slow : bool
        It computes for seconds where a project is long: only one such thing is done at a time, in turn with
        those of other parts. What it computes of the project it has computed by :meth:`Desk.apart`: threads
        share one interpreter, and with each of them a key waits longer.
    """

    def __init__(
        self,
        owner: QObject | None = None,
        *,
        until: SignalInstance | None = None,
        newest: bool = False,
        slow: bool = False,
    ) -> None:
        super().__init__(owner)
        self._newest, self._slow = newest, slow
        self._asked: list[_Asked] = []
        self._pool: ThreadPoolExecutor | None = None
        self._generation = 0
        self._poll = QTimer(self, interval=_POLL_MS)
        self._poll.timeout.connect(self._take)
        if until is not None:
            until.connect(self.forget)

    @property
    def busy(self) -> bool:
        """Whether a result is still waited for."""
        return bool(self._asked)

    def ask(
        self,
        work: Callable[[], T] | Future[T],
        then: Callable[[T], object],
        failed: Callable[[Exception], object] | None = None,
    ) -> None:
        """Have something done, and its result taken.

        Parameters
        ----------
        work : callable or Future
            What is called in a thread, or what a process of its own does already.
        then : callable
            Gets what it returns, on the interface's thread, unless it is forgotten meanwhile.
        failed : callable, optional
            Gets what it raised; without it that is logged.
        """
        if self._newest:
            self.forget()
        future = work if isinstance(work, Future) else self._submit(work)
        self._asked.append(_Asked(future, then, failed or _log))
        self._poll.start()

    def _submit(self, work: Callable[[], T]) -> Future[T]:
        load_qt()
        if self._slow:
            return _slow.submit(work)
        if self._pool is None:
            self._pool = ThreadPoolExecutor(1, thread_name_prefix="background")
        return self._pool.submit(work)

    def outdated(self) -> Callable[[], bool]:
        """Tells, asked from any thread, whether what is asked for now was forgotten."""
        generation = self._generation + self._newest
        return lambda: generation != self._generation

    def forget(self) -> None:
        """Take no result of what was asked so far; what has not begun is not begun."""
        self._generation += 1
        for one in self._asked:
            one.future.cancel()
        self._asked.clear()
        self._poll.stop()

    def close(self) -> None:
        """Forget everything, and let the thread end."""
        self.forget()
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _take(self) -> None:
        for one in [one for one in self._asked if one.future.done()]:
            if one not in self._asked:  # forgotten by what came before it
                continue
            self._asked.remove(one)
            if one.future.cancelled():
                continue
            error = one.future.exception()
            if error is None:
                one.then(one.future.result())
            elif isinstance(error, Exception):
                one.failed(error)
        if not self._asked:
            self._poll.stop()


class _Asked(Generic[T]):
    """What is waited for, and who gets it."""

    def __init__(
        self, future: Future[T], then: Callable[[T], object], failed: Callable[[Exception], object]
    ) -> None:
        self.future, self.then, self.failed = future, then, failed


def _log(error: BaseException) -> None:
    logging.error("work in the background failed", exc_info=error)


def beside(work: Callable[[], T]) -> T:
    """Run something in a thread: painting goes on, the user waits. At once before anything is painted.

    Returns
    -------
    object
        What ``work`` returns; what it raises is raised here.
    """
    if not any(window.isVisible() for window in QApplication.topLevelWidgets()):
        return work()
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
    """Run something in a thread and go on: nobody waits for it. What it raises is logged too."""
    load_qt()
    future = _unasked.submit(work)
    future.add_done_callback(lambda done: _log(error) if (error := done.exception()) else None)
    return future


def load_qt() -> None:
    """Load the last module of Qt on the interface's thread, before another thread loads libraries.

    While it is loaded it holds the loader's lock and wants the interpreter's; a
    thread that imports an extension holds the interpreter's and wants the
    loader's: both would stand still for good.
    """
    import PySide6.QtMultimedia  # noqa: F401


def load_early() -> Future[None]:
    """Load in a thread what the first recording, and each pass when it is first shown, will need."""

    def load() -> None:
        from dubrel.base.unfinished import clean_up

        clean_up()
        import av  # noqa: F401
        import soxr  # noqa: F401

        import dubrel.jobs.machinery.runner
        import dubrel.jobs.survey
        import dubrel.release.kits
        import dubrel.translation.checks  # noqa: F401
        from dubrel.captions.places import Place
        from dubrel.film.drawing import draw_caption
        from dubrel.film.fontfiles import families
        from dubrel.model import Look

        families()
        draw_caption(("x",), Look(), Place(), 160, 90)  # the first takes twenty times as long as the next

    return aside(load)
