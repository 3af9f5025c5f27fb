"""Recognisers, and how a recording is to be transcribed, in words."""

from __future__ import annotations

from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.languages import language_in_name, language_name
from dubrel.model.choices import Choices


def engine_label(name: str) -> str:
    """A recogniser's name for the eye."""
    from dubrel.speech.recognise.engines import engine  # late: the window opens without it

    kind, _, where = name.partition(":")
    if kind == "builtin":
        return tr("Built in, English")
    if kind == "folder":
        return tr("Model folder {name}").format(name=Path(where).name)
    if kind != "remote":
        try:
            return engine(name).label or name
        except DubrelError:
            return name
    return tr("Service at {split}").format(split=where.split("//")[-1])


def added_engines() -> list[str]:
    """The recognisers of other packages that can be used."""
    from dubrel.speech.recognise.engines import REGISTER, engine  # late: the window opens without it

    found = []
    for name in REGISTER.added:
        try:
            engine(name)
        except DubrelError:  # said at the start
            continue
        found.append(name)
    return found


def own_language(name: str) -> str:
    """The one language that a recogniser knows; empty where the user says it."""
    from dubrel.speech.recognise.engines import REGISTER, engine  # late: the window opens without it

    kind, _, where = name.partition(":")
    if kind == "builtin":
        return "en"
    if kind == "folder":
        return language_in_name(Path(where).name)
    known = engine(name).languages if kind in REGISTER.added else ()
    return known[0] if len(known) == 1 else ""


def choices_in_words(choices: Choices) -> str:
    """Settings in a few words, for a row."""
    builtin = choices.engine == "builtin"
    language = tr(language_name(choices.language)) if choices.language and not builtin else ""
    speakers = {"off": "", "auto": "speakers"}.get(choices.speakers, f"{choices.speakers} speakers")
    kit = tr("then “{kit}”").format(kit=choices.kit) if choices.kit else ""
    parts = (engine_label(choices.engine), language, "channels" if choices.apart else speakers, kit)
    return ", ".join(one for one in parts if one)
