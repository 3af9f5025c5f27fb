"""Days and clocks as the language of the interface writes them."""

from __future__ import annotations

import time

from PySide6.QtCore import QDateTime, QLocale

from dubrel.base.catalogue import spoken, tr

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


def clock_or_day(seconds: float) -> str:
    """A time of today as a clock, an earlier one as a date."""
    then, now = time.localtime(seconds), time.localtime()
    same = then[:3] == now[:3]
    return time.strftime("%H:%M", then) if same else dated(seconds, tr("'on' d MMMM yyyy"))
