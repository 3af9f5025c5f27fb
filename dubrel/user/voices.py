"""Voices that the user chose to keep: a name and 256 numbers each, in the user's own data folder.

Nothing is kept unless it is asked for, and each can be deleted.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dubrel.base.folders import data_folder
from dubrel.user.kept import keep_json, kept_json

_ALIKE = 0.63
_CLEARLY = 0.08
_LENGTH = 256
_ENCODER = 2  # which prints these are; those of an earlier encoder say nothing


@dataclass(frozen=True)
class KeptVoice:
    """A name and the mean voice print that belongs to it, of length one."""

    name: str
    print_: tuple[float, ...]


def voices_path() -> Path:
    """Where they are kept."""
    return data_folder() / "voices.json"


def kept_voices() -> list[KeptVoice]:
    """All kept voices; none where there is no file or it cannot be read."""
    return kept_json(voices_path(), _understood, "The file of the kept voices") or []


def _understood(kept: dict[str, Any]) -> list[KeptVoice]:
    rows = kept["voices"] if kept["encoder"] == _ENCODER else []
    voices = [KeptVoice(str(row["name"]), tuple(float(one) for one in row["print"])) for row in rows]
    if any(len(one.print_) != _LENGTH for one in voices):
        raise ValueError("a voice print of another length")
    return voices


def keep_voice(name: str, print_: Sequence[float]) -> None:
    """Keep a voice; one of the same name is replaced.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    others = [one for one in kept_voices() if one.name != name]
    _save([*others, KeptVoice(name, tuple(round(float(one), 5) for one in print_))])


def forget_voice(name: str) -> None:
    """Delete a kept voice.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    _save([one for one in kept_voices() if one.name != name])


def _save(voices: Sequence[KeptVoice]) -> None:
    rows = [{"name": one.name, "print": one.print_} for one in voices]
    keep_json(voices_path(), {"encoder": _ENCODER, "voices": rows})


def names_of(prints: Sequence[Sequence[float]], voices: Sequence[KeptVoice]) -> dict[int, str]:
    """Which found voices are kept ones.

    Parameters
    ----------
    prints : sequence of voice prints
        Of the speakers of a recording, each of length one.
    voices : sequence of KeptVoice

    Returns
    -------
    dict of int to str
        Places in ``prints`` to names; each name at most once, and only where it
        is clearly more alike than any other kept voice.
    """
    import numpy as np  # late: the desk starts without it

    if not prints or not voices:
        return {}
    alike = np.asarray(prints, float) @ np.asarray([one.print_ for one in voices], float).T
    found: dict[int, str] = {}
    for place, column in sorted(np.ndindex(alike.shape), key=lambda at: -alike[at]):
        others = np.delete(alike[place], column)
        clear = not len(others) or alike[place, column] - others.max() >= _CLEARLY
        name = voices[column].name
        if alike[place, column] >= _ALIKE and clear and place not in found and name not in found.values():
            found[place] = name
    return found
