"""While nothing is to do after the start, the pages that were not shown yet are made, a step at a time."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from importlib import import_module

from PySide6.QtCore import QObject, QThread, QTimer
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from dubrel.desk.shell.frame.booth import Booth
from dubrel.desk.shell.frame.room import Room
from dubrel.desk.shell.kit.stack import Stack

_FIRST_MS, _LEAST_MS = 1500, 20
_AT_ONCE = 12  # widgets that are dressed in one step
_TIMES = 3  # as long as a step has taken it is rested for: what the user begins meanwhile comes between


class Preparing(QObject):
    """Loads what the pages of rooms need, module by module, and makes each page and panel.

    Parameters
    ----------
    owner : QObject
    rooms : sequence of Room
    pages : Stack
        Where pages stand.
    booth : Booth
        Where panels stand.
    at_rest : callable
        Whether nobody is typing: a page takes longer to make than a key may wait.
    """

    def __init__(
        self,
        owner: QObject,
        rooms: Sequence[Room],
        pages: Stack,
        booth: Booth,
        at_rest: Callable[[], bool],
    ) -> None:
        super().__init__(owner)
        self._at_rest = at_rest
        self._steps = self._all(rooms, pages, booth)
        self._first: Iterator[Callable[[], object]] = iter(())
        self._stopped = False
        self._timer = QTimer(self, singleShot=True, interval=_FIRST_MS)
        self._timer.timeout.connect(self._next)
        self._timer.start()

    def first(self, steps: Iterable[Callable[[], object]]) -> None:
        """Take other steps before those that are left, in place of what came first until now."""
        self._first = iter(steps)
        if not self._stopped:
            self._timer.start(_LEAST_MS)

    def stop(self) -> None:
        """Make nothing more."""
        self._stopped = True
        self._timer.stop()

    @staticmethod
    def _all(rooms: Sequence[Room], pages: Stack, booth: Booth) -> Iterator[Callable[[], object]]:
        for room in rooms:
            for name in room.ahead:
                yield partial(import_module, name)
            yield partial(getattr, room, "page")
            yield partial(pages.add_page, room.page)
            yield from _dressed(room.page)
            yield partial(getattr, room, "panel")
            if room.panel is not None:
                yield partial(booth.add_panel, room.panel)
                yield from _dressed(room.panel)
            for other in room.other_pages():
                yield other
                yield partial(pages.add_page, other())
                yield from _dressed(other())

    def _next(self) -> None:
        waited_for = QThread.currentThread().loopLevel() > 1  # a file that is read, or a dialog
        if waited_for or not self._at_rest():
            self._timer.start(_FIRST_MS)
            return
        step = next(self._first, None) or next(self._steps, None)
        if step is not None:
            begun = time.monotonic()
            step()
            taken_ms = round((time.monotonic() - begun) * 1000)
            self._timer.start(max(_LEAST_MS, _TIMES * taken_ms))


def _dressed(page: QWidget) -> Iterator[Callable[[], object]]:
    """Look up the style of all that stands on a page: else its first frame waits for it."""
    parts = [page, *page.findChildren(QWidget)]
    for at in range(0, len(parts), _AT_ONCE):
        yield partial(_dress, parts[at : at + _AT_ONCE])


def _dress(parts: Sequence[QWidget]) -> None:
    for one in parts:
        if isValid(one):  # a page may have renewed itself
            one.ensurePolished()
