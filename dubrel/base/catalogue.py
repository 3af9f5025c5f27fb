"""The texts of the interface in the user's language: a catalogue for each, in the files of GNU gettext.

The texts in the code are English and are the keys. What Dubrel writes into files
is never translated, nor is its command line: others read both.
"""

from __future__ import annotations

import gettext
import os
from collections.abc import Container
from pathlib import Path
from typing import Any

LANGUAGES = {"en": "English", "pt": "Português", "es": "Español"}
"""What the interface can be in; all but English still want a native reader."""
_FOLDER = Path(__file__).parent.parent / "assets" / "locale"
_VARIABLE = "DUBREL_LANGUAGE"  # so that processes of ours speak what the window speaks


def speak(language: str) -> None:
    """From now on texts are in a language, here and in the processes that are started.

    Texts of modules are looked up when these are loaded: call it before.

    Parameters
    ----------
    language : str
        One of ``LANGUAGES``; what is unknown is English.
    """
    os.environ[_VARIABLE] = language
    _now[0] = _catalogue(language)


def spoken() -> str:
    """The language of the interface."""
    return os.environ.get(_VARIABLE, "en")


def desktop_language() -> str:
    """The first language of the desktop that there is a catalogue of, by the rules of gettext."""
    found = ""
    for name in ("LC_ALL", "LC_MESSAGES", "LANG"):
        if os.environ.get(name):
            found = os.environ[name]
            break
    if found.partition(".")[0] in ("C", "POSIX", ""):
        return "en"
    wished = [*os.environ.get("LANGUAGE", "").split(":"), found]
    codes = (one.partition("_")[0].partition(".")[0].lower() for one in wished)
    return next((code for code in codes if code in LANGUAGES), "en")


def tr(text: str) -> str:
    """A text in the language of the interface.

    Examples
    --------
    >>> tr("Find a command")
    'Find a command'
    """
    return _now[0].gettext(text) if text else ""


def counted(count: int, one: str, many: str = "", **values: object) -> str:
    """A number with its noun, in the number that the language has for it; other values have names in braces.

    Examples
    --------
    >>> counted(1, "turn"), counted(12_000, "turn")
    ('1 turn', '12,000 turns')
    """
    said = _now[0].ngettext("{n} " + one, "{n} " + (many or one + "s"), count)
    return said.format(n=f"{count:,}", **values)


class Message(str):
    """A message in English, for files and the command line, that the interface can say in its own language.

    Parameters
    ----------
    pattern : str
        As it stands in the catalogue, with names in braces.
    plural : str, optional
        The pattern for any other count than one.
    count : int, optional
    values
        What stands for the names; other messages, too.

    Examples
    --------
    >>> said = Message("{lines}, {most} at most", lines=amount(3, "line"), most=2)
    >>> said, told(said)
    ('3 lines, 2 at most', '3 lines, 2 at most')
    """

    def __new__(cls, pattern: str, plural: str = "", count: int = 1, /, **values: object) -> Message:
        """The message in English."""
        chosen = plural if plural and count != 1 else pattern
        made = super().__new__(cls, _filled(chosen, values))
        made._said, made._values = (pattern, plural, count), values
        return made

    def __getnewargs_ex__(self) -> tuple[tuple[str, str, int], dict[str, object]]:
        """What it is made of again in another process."""
        return self._said, self._values

    def here(self) -> str:
        """The message in the language of the interface."""
        pattern, plural, count = self._said
        values = {name: told(one) if isinstance(one, str) else one for name, one in self._values.items()}
        return _filled(_now[0].ngettext(pattern, plural, count) if plural else tr(pattern), values)

    def parts(self) -> list[Any]:
        """What it is made of, as it can stand in a JSON file."""
        values = self._values.items()
        return [
            *self._said,
            {name: one.parts() if isinstance(one, Message) else one for name, one in values},
        ]

    @classmethod
    def of_parts(cls, parts: Any) -> str:
        """A message as it stands in a JSON file, or a text that is none.

        Raises
        ------
        ValueError
            If it is neither.
        """
        if isinstance(parts, str):
            return parts
        try:
            pattern, plural, count, values = parts
            inner = {name: one for name, one in values.items() if isinstance(one, list)}
            values |= {name: cls.of_parts(one) for name, one in inner.items()}
            return cls(str(pattern), str(plural), int(count), **values)
        except (TypeError, AttributeError, ValueError, KeyError, IndexError) as error:
            raise ValueError("no message") from error

    _said: tuple[str, str, int]
    _values: dict[str, object]


def _filled(pattern: str, values: dict[str, Any]) -> str:
    return pattern.format(**values) if values else pattern  # the name of a language may have braces


def amount(count: int, one: str, many: str = "") -> Message:
    """A number with its noun, as a part of a ``Message``."""
    return Message("{n} " + one, "{n} " + (many or one + "s"), count, n=f"{count:,}")


def told(text: str) -> str:
    """A text in the language of the interface, where it is a ``Message``; otherwise as it is."""
    return text.here() if isinstance(text, Message) else text


def shipped(name: str, among: Container[str]) -> str:
    """The name of a style, a look or a kit: translated where it ships, as the user wrote it otherwise."""
    return tr(name) if name in among else name


def _catalogue(language: str) -> gettext.NullTranslations:
    if language == "en" or language not in LANGUAGES:
        return gettext.NullTranslations()
    return gettext.translation("dubrel", _FOLDER, [language], fallback=True)


_now = [_catalogue(os.environ.get(_VARIABLE, "en"))]
