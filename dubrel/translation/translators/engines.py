"""Translators behind a register: sentences in, sentences out. A new one is a file and a row.

A translator is named by a short text: ``builtin``, ``rules``, ``script``,
``folder:/path/to/a/model`` or ``remote:http://address``; ``auto`` is the first
of the built-in ones that knows both languages.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Protocol

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.languages import language_name, main_tag
from dubrel.base.plugins import Register
from dubrel.base.value import Value
from dubrel.translation.translators.directions import BY_RULES, NEURAL


class Translator(Protocol):
    """Translates from one language into one other.

    Attributes
    ----------
    guarded : bool
        Whether terms, numbers and addresses have to be guarded against it.
    """

    guarded: bool

    def translate(self, texts: Sequence[str]) -> list[str]:
        """Each text in the other language, in the same order."""
        ...


class Engine(Value):
    """How a translator is loaded.

    Attributes
    ----------
    load : callable
        What stands behind the colon of its name, and two languages, to a translator.
    label : str
        As it stands in a sentence behind “with”, of one that another package adds.
    knows : callable
        ``(source, target) -> bool``: the languages for which that one is offered.
    """

    load: Callable[[str, str, str], Translator]
    label: str = ""
    knows: Callable[[str, str], bool] = lambda source, target: False


REGISTER = Register(
    "dubrel.translators",
    Engine,
    {
        "builtin": "dubrel.translation.translators.neural:BUILTIN",
        "rules": "dubrel.translation.translators.rules:ENGINE",
        "script": "dubrel.translation.translators.transliteration:ENGINE",
        "folder": "dubrel.translation.translators.neural:FOLDER",
        "remote": "dubrel.translation.translators.remote:ENGINE",
    },
)


def automatic(source: str, target: str) -> str:
    """The name of the built-in translator that knows both languages; empty for none."""
    pair = (main_tag(source), main_tag(target))
    if target.endswith("-Latn") and pair[0] == pair[1]:
        return "script"
    return "builtin" if pair in NEURAL else "rules" if pair in BY_RULES else ""


def translator(name: str, source: str, target: str) -> Translator:
    """Load a translator.

    Parameters
    ----------
    name : str
        ``KIND``, ``KIND:WHERE`` or ``auto``.
    source, target : str
        BCP 47 tags.

    Raises
    ------
    EngineError
        If there is none with that name, or it does not know the languages.
    """
    if name == "auto":
        name = automatic(source, target)
        if not name:
            raise EngineError(
                tr(
                    "Nothing built in translates from {source} into {target}. Add a folder with a "
                    "model, use a service, or translate by hand."
                ).format(source=tr(language_name(source)), target=tr(language_name(target)))
            )
    kind, _, where = name.partition(":")
    if kind not in REGISTER.names:
        known = ", ".join(
            ("builtin", "rules", "script", "folder:PATH of a model", "remote:ADDRESS", *REGISTER.added)
        )
        raise EngineError(
            tr("There is no translator “{name}”; known: {known}.").format(name=name, known=known)
        )
    return REGISTER.load(kind)[0].load(where, source, target)
