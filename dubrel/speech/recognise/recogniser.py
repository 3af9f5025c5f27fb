"""What a recogniser is: the protocol that every engine keeps, and what it gives."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, Protocol, runtime_checkable

from dubrel.base.value import Value

if TYPE_CHECKING:
    import numpy as np


class RecognisedToken(Value):
    """A word as a recogniser wrote it, and how sure it was of its parts.

    Attributes
    ----------
    text : str
    worst : float
        Log probability of its least probable part.
    total : float
        Log probability of all its parts.
    margin : float
        How far the least sure part stood above the next best one, in log probability.
    """

    text: str
    worst: float = 0.0
    total: float = 0.0
    margin: float = 10.0


class Passage(Value):
    """Text that a service heard between two times."""

    start_ms: int
    end_ms: int
    text: str


class Recogniser(Protocol):
    """Transcribes chunks of sound on this machine."""

    languages: tuple[str, ...]

    def hear(self, chunks: Sequence[np.ndarray]) -> list[list[RecognisedToken]]:
        """The words of several chunks.

        Parameters
        ----------
        chunks : sequence of ndarray, shape (n,), float32
            16 kHz, mono, between -1 and 1.
        """
        ...


@runtime_checkable
class Service(Protocol):
    """Transcribes a whole recording somewhere else."""

    address: str

    def price(self, duration_ms: int) -> str:
        """What transcribing will cost, for the eye."""
        ...

    def hear_recording(self, samples: np.ndarray, key: str) -> Iterator[float | str | Passage]:
        """Fractions done, what it waits for in words, and at the end the text.

        Parameters
        ----------
        samples : ndarray, shape (n,), int16
            16 kHz, mono.
        key : str
            Names the recording: work that was begun for it is gone on with.
        """
        ...


class Engine(Value):
    """How a recogniser is loaded.

    Attributes
    ----------
    load : callable
        What stands behind the colon of its name, to a recogniser.
    label : str
        For the eye, of one that another package adds.
    languages : tuple of str
        Those it knows; none where the user says which.
    check : callable, optional
        Raises an :class:`EngineError` where what stands behind the colon is surely of no use; nothing is
        loaded for it.
    """

    load: Callable[[str], Recogniser | Service]
    label: str = ""
    languages: tuple[str, ...] = ()
    check: Callable[[str], object] | None = None
