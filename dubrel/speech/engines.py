"""Recognisers behind a register: sound in, text out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from dubrel.errors import EngineError


class Recogniser(Protocol):
    """Hears a chunk of sound."""

    name: str
    languages: tuple[str, ...]

    def hear(self, samples: np.ndarray) -> str:
        """The text of a chunk.

        Parameters
        ----------
        samples : ndarray, shape (n,), float32
            16 kHz, mono, between -1 and 1.
        """
        ...


def _builtin() -> Recogniser:
    from dubrel.speech.builtin import BuiltinRecogniser

    return BuiltinRecogniser()


_REGISTER: dict[str, Callable[[], Recogniser]] = {"builtin": _builtin}


def engine_names() -> list[str]:
    """The names that :func:`recogniser` knows."""
    return list(_REGISTER)


def recogniser(name: str = "builtin") -> Recogniser:
    """Load a recogniser.

    Raises
    ------
    EngineError
        If there is none with that name.
    """
    if name not in _REGISTER:
        raise EngineError(f"There is no recogniser “{name}”; known: {', '.join(_REGISTER)}.")
    return _REGISTER[name]()
