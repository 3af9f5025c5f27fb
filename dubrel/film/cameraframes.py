"""The frames of a cut from the films of several cameras, all in one size."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from fractions import Fraction
from typing import Any

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.film.framereader import FrameReader
from dubrel.film.order import FilmShot
from dubrel.film.reshaping import Shape, black, copied, fitted, turns_of

_NEAR_S = 3.0  # cameras take turns: what lies further ahead is sought
_MOST_OPEN = 12


class CameraFrames:
    """Frames at a steady rate, from whichever camera is shown.

    Parameters
    ----------
    size : tuple of int
        Width and height of what is made; pictures of another shape stand on black.
    length : int
        Frames of what is made; black after the last shot.
    """

    def __init__(
        self, shots: Sequence[FilmShot], rate: Fraction, size: tuple[int, int], length: int = 0
    ) -> None:
        self._shots, self._rate, self._size, self._length = shots, rate, size, length
        self._films: dict[str, tuple[ExitStack, FrameReader]] = {}
        self._shapes: dict[str, Shape] = {}

    def frames(self) -> Iterator[tuple[int, Any]]:
        """The number of each frame in the cut, and the frame; black where there is none."""
        at = 0
        for shot in self._shots:
            for nth in range(at, shot.at):
                yield nth, black(*self._size)
            at = shot.at
            for nth, frame in enumerate(self._of(shot), shot.at):
                yield nth, frame
                at = nth + 1
            for nth in range(at, shot.until):  # the film ends before
                yield nth, black(*self._size)
            at = max(at, shot.until)
        for nth in range(at, self._length):
            yield nth, black(*self._size)

    def _of(self, shot: FilmShot) -> Iterator[Any]:
        if not shot.path:
            return
        times = [
            max(Fraction(0), shot.start_s + shot.pace * nth / self._rate)
            for nth in range(shot.until - shot.at)
        ]
        before, made = None, None
        for frame in self._reader(shot.path).at_times(times):
            if frame is before:
                yield copied(made)  # what is drawn on the one must not be on the other
                continue
            if made is not None:
                yield made
            shape = self._shapes.setdefault(shot.path, Shape(frame, turns_of(frame)))
            before, made = frame, fitted(shape.frame(frame, None), *self._size)
        if made is not None:
            yield made

    def _reader(self, path: str) -> FrameReader:
        import av

        if path not in self._films:
            while len(self._films) >= _MOST_OPEN:
                stack, _ = self._films.pop(next(iter(self._films)))
                stack.close()
            stack = ExitStack()
            try:
                film = stack.enter_context(av.open(path))
            except (av.FFmpegError, OSError) as error:
                raise MediaError(
                    tr("“{path}” cannot be read. Find the film of that camera first.").format(path=path)
                ) from error
            if not film.streams.video:
                stack.close()
                raise MediaError(
                    tr("“{path}” has no picture. Choose another camera there.").format(path=path)
                )
            self._films[path] = (stack, FrameReader(film, self._rate, _NEAR_S))
        return self._films[path][1]

    def close(self) -> None:
        """Let the films go."""
        for stack, _ in self._films.values():
            stack.close()
        self._films.clear()
