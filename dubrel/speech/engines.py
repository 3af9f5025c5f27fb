"""Recognisers behind a register: sound in, text out.

An engine is named by a short text: ``builtin``, ``folder:/path/to/a/model`` or
``remote:http://address``. One that listens on this machine is a
:class:`Recogniser`; one elsewhere is a :class:`Service`, which gets the whole
recording once it is paid for.
"""

from __future__ import annotations

from collections.abc import Callable

from dubrel.base.errors import EngineError
from dubrel.speech.recogniser import Recogniser, Service


def _builtin(where: str) -> Recogniser:
    from dubrel.speech.builtin import BuiltinRecogniser

    return BuiltinRecogniser()


def _folder(where: str) -> Recogniser:
    from dubrel.speech.modelfolder import FolderRecogniser

    return FolderRecogniser(where)


def _remote(where: str) -> Service:
    from dubrel.speech.remote import RemoteRecogniser

    return RemoteRecogniser(where)


_REGISTER: dict[str, Callable[[str], Recogniser | Service]] = {
    "builtin": _builtin,
    "folder": _folder,
    "remote": _remote,
}


def engine_named(name: str = "builtin") -> Recogniser | Service:
    """Load an engine.

    Parameters
    ----------
    name : str
        ``KIND`` or ``KIND:WHERE``.

    Raises
    ------
    EngineError
        If there is none with that name, or it cannot be loaded.
    """
    kind, _, where = name.partition(":")
    if kind not in _REGISTER:
        raise EngineError(
            f"There is no recogniser “{name}”; known: builtin, folder:PATH of a model, remote:ADDRESS."
        )
    return _REGISTER[kind](where)
