"""Recognisers behind a register: sound in, text out.

An engine is named by a short text: ``builtin``, ``folder:/path/to/a/model`` or
``remote:http://address``. One that listens on this machine is a
:class:`Recogniser`; one elsewhere is a :class:`Service`, which gets the whole
recording once it is paid for.
"""

from __future__ import annotations

from collections.abc import Sequence

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import UNKNOWN, language_name, usual_tag
from dubrel.base.plugins import Register
from dubrel.speech.recognise.recogniser import Engine, Recogniser, Service

REGISTER = Register(
    "dubrel.recognisers",
    Engine,
    {
        "builtin": "dubrel.speech.recognise.builtin:ENGINE",
        "folder": "dubrel.speech.recognise.modelfolder:ENGINE",
        "remote": "dubrel.speech.recognise.remote:ENGINE",
    },
)


def engine(name: str) -> Engine:
    """The engine of a name, not loaded yet.

    Raises
    ------
    EngineError
        If there is none with that name.
    """
    kind = name.partition(":")[0]
    if kind not in REGISTER.names:
        known = ", ".join(("builtin", "folder:PATH of a model", "remote:ADDRESS", *REGISTER.added))
        raise EngineError(
            tr("There is no recogniser “{name}”; known: {known}.").format(name=name, known=known)
        )
    return REGISTER.load(kind)[0]


def check_engine(name: str, language: str = "") -> None:
    """Refuse an engine that cannot be used, before a recording of hours is read for it.

    Raises
    ------
    EngineError
        If there is none with that name, what it names is surely of no use, or it knows other languages.
    """
    found = engine(name)
    check_language(name, found.languages, language)
    if found.check is not None:
        found.check(name.partition(":")[2])


def check_language(name: str, known: Sequence[str], language: str) -> None:
    """Refuse an engine that knows other languages than the one that is spoken.

    Raises
    ------
    EngineError
    """
    if known and usual_tag(language) not in ("", UNKNOWN, *known):
        raise EngineError(
            tr(
                "The recogniser “{name}” knows {known}, not {language}. Choose another one, "
                "or align a script."
            ).format(
                name=name,
                known=", ".join(tr(language_name(one)) for one in known),
                language=tr(language_name(language)),
            )
        )


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
    return engine(name).load(name.partition(":")[2])
