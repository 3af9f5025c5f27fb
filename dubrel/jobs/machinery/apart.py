"""What takes seconds of a long project is computed in a process of its own.

Threads share one interpreter: while one of them computes, the interface waits for it at
nearly every call of the library. A short project is done with before a process has begun.
"""

from __future__ import annotations

import pickle
import time
from collections.abc import Callable
from concurrent.futures import CancelledError
from concurrent.futures.process import BrokenProcessPool
from typing import Any, TypeVar

from dubrel.base.helper import Helper
from dubrel.base.value import Value, replace
from dubrel.model import Project

T = TypeVar("T")
LONG = 3000  # words
_TURNS, _CAPTIONS = 8, 100  # that are pickled in one go: the interpreter is held meanwhile
_REST_S = 0.001  # between two pieces, so that whoever waits for the interpreter gets it


class Apart:
    """Computes one thing after the other in a process of its own, which begins with the first."""

    def __init__(self) -> None:
        self._helper, self._ended = Helper(), False

    def compute(self, work: Callable[..., T], project: Project, *args: Any) -> T:
        """Compute something of a project. Called in a thread, which waits for it.

        Parameters
        ----------
        work : callable
            A function of a module; gets the project, or one that says the same, and ``args``.
        """
        if self._ended:
            raise CancelledError
        if project.transcript.word_count < LONG:
            return work(project, *args)
        try:
            return self._helper.submit(_unpacked, work, packed(project), args).result()
        except (BrokenProcessPool, CancelledError):
            if self._ended:  # nobody waits for it
                raise
            self._helper.close()
        return work(project, *args)  # the process was killed: once more, here

    def close(self) -> None:
        """Let the process go; nobody waits for what it computes."""
        self._ended = True
        self._helper.close()


def packed(project: Project) -> list[bytes]:
    """A project in pieces, each of which is pickled in some milliseconds."""
    turns, tracks = project.transcript.turns, project.tracks
    bare = replace(
        project,
        transcript=replace(project.transcript, turns=()),
        tracks=tuple(replace(one, captions=()) for one in tracks),
        index=None,
    )
    lists = [(turns, _TURNS), *((one.captions, _CAPTIONS) for one in tracks)]
    counts = [-(-len(some) // size) for some, size in lists]
    parts = [some[at : at + size] for some, size in lists for at in range(0, len(some), size)]
    return [pickle.dumps((bare, counts), 5), *map(_pickled, parts)]


def _pickled(part: tuple[Value, ...]) -> bytes:
    made = pickle.dumps(part, 5)
    time.sleep(_REST_S)
    return made


def unpacked(pieces: list[bytes]) -> Project:
    """The project of :func:`packed` pieces."""
    bare, counts = pickle.loads(pieces[0])
    rest = iter(pieces[1:])
    turns, *captions = (
        tuple(one for _ in range(count) for one in pickle.loads(next(rest))) for count in counts
    )
    tracks = tuple(replace(track, captions=some) for track, some in zip(bare.tracks, captions, strict=True))
    return replace(bare, transcript=replace(bare.transcript, turns=turns), tracks=tracks)


def _unpacked(work: Callable[..., T], pieces: list[bytes], args: tuple[Any, ...]) -> T:
    return work(unpacked(pieces), *args)
