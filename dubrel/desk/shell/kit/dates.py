"""Days and clocks as the language of the interface writes them."""

from __future__ import annotations

from PySide6.QtCore import QDateTime, QLocale

from dubrel.base.catalogue import spoken

_LOCALES = {"en": "en_GB", "pt": "pt_BR"}


def dated(seconds: float, form: str) -> str:
    """A moment in local time.

    Parameters
    ----------
    seconds : float
        Since 1970, in UTC.
    form : str
        As Qt writes it, translated: ``tr("dddd d MMMM, HH:mm")``.

    Examples
    --------
    >>> dated(1_700_000_000, "MMMM yyyy")
    'November 2023'
    """
    language = spoken()
    return QLocale(_LOCALES.get(language, language)).toString(
        QDateTime.fromSecsSinceEpoch(int(seconds)), form
    )
