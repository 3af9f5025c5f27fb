"""Pieces of the voice, made ahead of the playhead in a process of its own, and what is drawn of them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from dubrel.base.catalogue import tr
from dubrel.base.helper import Helper
from dubrel.desk.shell.core.background import Background
from dubrel.desk.shell.core.desk import Desk
from dubrel.media.cache import BLOCK
from dubrel.media.forwardtrack import PIECE, PIECE_S, RATE, ForwardTrack
from dubrel.media.peaks import BLOCKS_A_SECOND, Peaks
from dubrel.media.sound import RATE as KNOWN_RATE
from dubrel.model import Media

AHEAD = 60  # pieces: ten minutes
_LOOK_MS, _DRAW_MS, _FAR_MS = 400, 1500, 12_000
_NEAR = 2  # pieces around the playhead that are drawn at once; others wait until several are there


class Ahead(QObject):
    """Makes what is missing from the playhead on, the next piece first, and keeps a drawing of it.

    Signals
    -------
    failed(str)
        It cannot be made; nothing more is tried.
    drawn(Peaks)
        The trace with the pieces that there are.
    """

    failed = Signal(str)
    drawn = Signal(object)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk = desk
        self._helper = Helper()
        self._made, self._looked = Background(self), Background(self)
        self._media: Media | None = None
        self.track: ForwardTrack | None = None
        self._peaks: Peaks | None = None
        self.shown: set[int] = set()
        self._drawn = QElapsedTimer()
        self._drawn.start()
        self._look = QTimer(self, interval=_LOOK_MS)
        self._look.timeout.connect(self._next)
        self._draw = QTimer(self, interval=_DRAW_MS)
        self._draw.timeout.connect(self._read)
        desk.stopping.append(self.close)

    def begin(self, media: Media, track: ForwardTrack, peaks: Peaks) -> None:
        """Work on a recording; its peaks are drawn over, so they are copies."""
        self.end()
        self._media, self.track, self._peaks, self.shown = media, track, peaks, set()
        self.go_on()

    def go_on(self) -> None:
        """Make what is missing, and show what there is."""
        if self.track is None:
            return
        self._look.start()
        self._draw.start()
        self._next()
        self._read()
        if self.shown:
            self.drawn.emit(self._peaks)

    def rest(self) -> None:
        """Begin nothing more for now; what is being made is kept."""
        self._look.stop()
        self._draw.stop()

    def end(self) -> None:
        """Make nothing more."""
        self.rest()
        self._made.forget()
        self._looked.forget()
        self.track = None

    def close(self) -> None:
        """Let the process go."""
        self.end()
        self._made.close()
        self._looked.close()
        self._helper.close()

    def _next(self) -> None:
        """Have the next piece made that is missing."""
        if self.track is None or self._made.busy:
            return
        here = self.desk.player.position // (1000 * PIECE_S)
        piece = self.track.missing(here, AHEAD)
        if piece is not None:
            from dubrel.jobs.voice.forwarding import make_piece  # late: the window opens without it

            done = self._helper.submit(make_piece, self._media, piece)
            self._made.ask(done, lambda _nothing: self._taken(piece), self._broke)

    def _taken(self, piece: int) -> None:
        if self.track is not None and not self.track.has(piece):  # it went into other files than these
            self.end()
            self.failed.emit(tr("The cache was emptied in the meantime. Bring the voice forward again."))
        elif self._look.isActive():
            self._next()

    def _broke(self, error: Exception) -> None:
        from dubrel.base.errors import DubrelError

        self.end()
        said = tr("The voice cannot be brought forward: the process that does it ended.")
        self.failed.emit(str(error) if isinstance(error, DubrelError) else said)

    # -- what is drawn ----------------------------------------------------------------------

    def _read(self) -> None:
        """Look at the pieces that are new."""
        track = self.track
        if track is None or self._looked.busy:
            return
        new = [one for one in track.made if one not in self.shown]
        here = self.desk.player.position // (1000 * PIECE_S)
        near = any(abs(one - here) <= _NEAR for one in new)
        if new and (near or not self.shown or self._drawn.hasExpired(_FAR_MS)):
            self._drawn.restart()
            self._looked.ask(_reader(track, new), self._put)

    def _put(self, found: list[tuple[int, np.ndarray]]) -> None:
        assert self._peaks is not None
        for piece, pairs in found:
            self._peaks.replaced(piece * PIECE_S * BLOCKS_A_SECOND, pairs)
            self.shown.add(piece)
        self._peaks = self._peaks.shared()  # another one, so that whoever keeps a drawing draws anew
        self.drawn.emit(self._peaks)


def _reader(track: ForwardTrack, pieces: list[int]) -> Callable[[], list[tuple[int, np.ndarray]]]:
    width = BLOCK * RATE // KNOWN_RATE

    def read() -> list[tuple[int, np.ndarray]]:
        found = []
        for piece in pieces:
            sound = track.read(piece * PIECE, (piece + 1) * PIECE).reshape(-1, width)
            pairs = np.stack([sound.min(axis=1), sound.max(axis=1)], axis=1)
            found.append((piece, (pairs * 32767).astype(np.int16)))
        return found

    return read
