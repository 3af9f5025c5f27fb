"""Recognisers, and how a recording is to be transcribed, in words."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.text import language_name
from dubrel.jobs.choices import Choices


def engine_label(name: str) -> str:
    """A recogniser's name for the eye."""
    kind, _, where = name.partition(":")
    if kind == "builtin":
        return "Built in, English"
    if kind == "folder":
        return f"Model folder {Path(where).name}"
    return f"Service at {where.split('//')[-1]}"


def choices_in_words(choices: Choices) -> str:
    """Settings in a few words, for a row."""
    builtin = choices.engine == "builtin"
    language = language_name(choices.language) if choices.language and not builtin else ""
    speakers = {"off": "", "auto": "speakers"}.get(choices.speakers, f"{choices.speakers} speakers")
    kit = f"then “{choices.kit}”" if choices.kit else ""
    parts = (engine_label(choices.engine), language, "channels" if choices.apart else speakers, kit)
    return ", ".join(one for one in parts if one)
