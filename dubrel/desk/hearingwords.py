"""Recognisers and settings of a hearing in words."""

from __future__ import annotations

from pathlib import Path

from dubrel.jobs.hearing import Hearing
from dubrel.text import language_name


def engine_label(name: str) -> str:
    """A recogniser's name for the eye."""
    kind, _, where = name.partition(":")
    if kind == "builtin":
        return "Built in, English"
    if kind == "folder":
        return f"Model folder {Path(where).name}"
    return f"Service at {where.split('//')[-1]}"


def hearing_in_words(hearing: Hearing) -> str:
    """Settings in a few words, for a row."""
    builtin = hearing.engine == "builtin"
    language = language_name(hearing.language) if hearing.language and not builtin else ""
    speakers = {"off": "", "auto": "speakers"}.get(hearing.speakers, f"{hearing.speakers} speakers")
    parts = (engine_label(hearing.engine), language, "channels" if hearing.apart else speakers)
    return ", ".join(one for one in parts if one)
