"""The texts of the interface in the user's language: a catalogue for each, in the files of GNU gettext.

The texts in the code are English and are the keys. What Dubrel writes into files
is never translated, nor is its command line: others read both.
"""

from __future__ import annotations

import gettext
import os
from pathlib import Path

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


def counted(count: int, one: str, many: str = "") -> str:
    """A number with its noun, in the number that the language has for it.

    Examples
    --------
    >>> counted(1, "turn"), counted(12_000, "turn")
    ('1 turn', '12,000 turns')
    """
    said = _now[0].ngettext("{n} " + one, "{n} " + (many or one + "s"), count)
    return said.format(n=f"{count:,}")


def _catalogue(language: str) -> gettext.NullTranslations:
    if language == "en" or language not in LANGUAGES:
        return gettext.NullTranslations()
    return gettext.translation("dubrel", _FOLDER, [language], fallback=True)


_now = [_catalogue(os.environ.get(_VARIABLE, "en"))]
