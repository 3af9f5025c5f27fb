"""Pictures of the cameras at the playhead, decoded in a thread, the one that is shown first."""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Mapping
from fractions import Fraction
from threading import Condition, Thread
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from dubrel.base.value import Value
from dubrel.desk.shell.core.background import load_qt

_WIDE = 480  # pixels
_TAKE_MS = 25
_AGAIN_S = 5.0  # a film that could not be opened is tried again after so long
_AHEAD_S = 2.0  # what lies further ahead is sought: a picture nearby is better than one that comes late


class Wish(Value):
    """A picture that is wished for: of which film, at which of its times in milliseconds."""

    path: str
    ms: float


class CameraFeed(QObject):
    """Decodes what was wished for last.

    Signals
    -------
    came(int, QImage)
        The picture of a camera, by its id.
    """

    came = Signal(int, QImage)

    def __init__(self, owner: QObject) -> None:
        super().__init__(owner)
        self._lock = Condition()
        self._wishes: dict[int, Wish] = {}
        self._served: dict[int, Wish] = {}
        self._first, self._ended = 0, False
        self._made: dict[int, tuple[Wish, Any]] = {}
        self._thread: Thread | None = None
        self._timer = QTimer(self, interval=_TAKE_MS)
        self._timer.timeout.connect(self._take)

    def wish(self, wishes: Mapping[int, Wish], first: int) -> None:
        """Wish for pictures by the ids of their cameras; earlier wishes are forgotten."""
        if not wishes and self._thread is None:
            return
        with self._lock:
            self._wishes, self._first = dict(wishes), first
            self._lock.notify()
        if self._thread is None:
            load_qt()
            self._thread = Thread(target=self._work, name="cameras", daemon=True)
            self._thread.start()
        self._timer.start()

    def stop(self) -> None:
        """End for good."""
        self._timer.stop()
        with self._lock:
            self._ended = True
            self._wishes = {}
            self._lock.notify()
        if self._thread is not None:
            self._thread.join(5)

    def _take(self) -> None:
        """Give out what has come."""
        with self._lock:
            made, self._made = self._made, {}
            paths = {camera: wish.path for camera, wish in self._wishes.items()}
            idle = self._next() is None
        for camera, (wish, rows) in made.items():
            if rows is not None and paths.get(camera) == wish.path:  # else it was of another project
                high, wide, _ = rows.shape
                self.came.emit(
                    camera, QImage(rows.data, wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()
                )
        if idle and not made:
            self._timer.stop()

    def _next(self) -> tuple[int, Wish] | None:
        """The camera whose turn it is: the one that is shown, then whoever waits longest."""
        waiting = [one for one, wish in self._wishes.items() if self._served.get(one) != wish]
        if not waiting:
            return None
        order = list(self._served)
        waiting.sort(key=lambda one: (one != self._first, order.index(one) if one in order else -1))
        return waiting[0], self._wishes[waiting[0]]

    def _work(self) -> None:
        readers: dict[str, _Reader] = {}
        broken: dict[str, float] = {}  # films that could not be opened, and when
        while True:
            with self._lock:
                while not self._ended and self._next() is None:
                    self._lock.wait()
                if self._ended:
                    break
                found = self._next()
                paths = {wish.path for wish in self._wishes.values()}
            assert found is not None
            camera, wish = found
            for path in set(readers) - paths:
                readers.pop(path).close()
            rows = None
            try:
                if time.monotonic() - broken.get(wish.path, -_AGAIN_S) >= _AGAIN_S:
                    if wish.path not in readers:
                        readers[wish.path] = _Reader(wish.path)
                    rows = readers[wish.path].at(wish.ms)
            except Exception as error:  # noqa: BLE001 - a film that cannot be decoded shows nothing
                broken[wish.path] = time.monotonic()
                logging.warning("no picture of %s: %s", wish.path, error)
            with self._lock:
                self._served.pop(camera, None)
                self._served[camera] = wish
                self._made[camera] = (wish, rows)
        for reader in readers.values():
            reader.close()


class _Reader:
    """Small pictures of one film."""

    def __init__(self, path: str) -> None:
        import av

        from dubrel.media.probe import origin_s  # late: in the thread that needs it

        self._film = av.open(path)
        self._stream = self._film.streams.video[0]
        self._stream.thread_type = "AUTO"
        self._zero = float(origin_s(self._film))
        self._half = float(1 / Fraction(self._stream.average_rate or 25) / 2)
        self._frames: Any = None
        self._held: Any = None
        self._last: Any = None
        self._at = -1.0
        self._rows: tuple[Any, Any] | None = None

    def at(self, ms: float) -> Any:
        """The picture at a time of the film as an array of shape (high, wide, 3); nothing outside of it."""
        wanted = max(0.0, ms / 1000)
        if self._frames is None or wanted < self._at - self._half or wanted > self._at + _AHEAD_S:
            self._film.seek(max(0, round((wanted + self._zero) * 1_000_000)), backward=True)
            self._frames, self._held, self._last = self._film.decode(self._stream), None, None
        while True:
            frame = self._held if self._held is not None else next(self._frames, None)
            self._held = None
            if frame is None or frame.pts is None:
                if frame is None:
                    break
                continue
            moment = float(frame.pts * frame.time_base) - self._zero
            if moment > wanted + self._half and self._last is not None:
                self._held = frame
                break
            self._last, self._at = frame, moment
            if moment > wanted - self._half:
                break
        return self._small(self._last) if self._last is not None else None

    def _small(self, frame: Any) -> Any:
        import numpy as np

        from dubrel.film.reshaping import turns_of  # late: as above

        if self._rows is None or self._rows[0] is not frame:
            wide = min(_WIDE, frame.width) // 4 * 4
            high = max(2, round(frame.height * wide / frame.width) // 2 * 2)
            rows = frame.reformat(wide, high, format="rgb24").to_ndarray()
            self._rows = (frame, np.ascontiguousarray(np.rot90(rows, turns_of(frame))))
        return self._rows[1]

    def close(self) -> None:
        """Let the film go."""
        with contextlib.suppress(Exception):
            self._film.close()
