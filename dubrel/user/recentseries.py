"""The series that were opened last."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from dubrel.base.catalogue import Message
from dubrel.user.kept import Kept

_MOST = 8


def _understood(value: Any) -> tuple[str, ...]:
    if not isinstance(value, list) or not all(isinstance(one, str) and "\0" not in one for one in value):
        raise TypeError("no list of paths")
    return tuple(value[:_MOST])


RECENT_SERIES = Kept[tuple[str, ...]]("series.json", Message("The list of series"), _understood, list, tuple)
"""Paths of series files, the latest first."""


def remember_series(path: Path) -> None:
    """Put a series at the top.

    Raises
    ------
    DubrelError
        If the list cannot be written.
    """
    name = str(path.resolve())
    RECENT_SERIES.write((name, *(one for one in RECENT_SERIES.read() if one != name))[:_MOST])


def latest_series() -> list[Path]:
    """The series that are still there, the latest first."""
    return [path for one in RECENT_SERIES.read() if (path := Path(one)).is_file()]
