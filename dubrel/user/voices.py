"""Voices that the user chose to keep: a name and 256 numbers each, in the user's own data folder.

Nothing is kept unless it is asked for, and each can be deleted.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from dubrel.base.catalogue import Message
from dubrel.base.value import Value
from dubrel.user.kept import Kept

_ALIKE = 0.63
_CLEARLY = 0.08
_LENGTH = 256
_ENCODER = 2  # which prints these are; those of an earlier encoder say nothing


class KeptVoice(Value):
    """A name and the mean voice print that belongs to it, of length one."""

    name: str
    print_: tuple[float, ...]


def _understood(kept: dict[str, Any]) -> list[KeptVoice]:
    rows = kept["voices"] if kept["encoder"] == _ENCODER else []
    voices = [KeptVoice(str(row["name"]), tuple(float(one) for one in row["print"])) for row in rows]
    if any(len(one.print_) != _LENGTH for one in voices):
        raise ValueError("a voice print of another length")
    return voices


def _plain(voices: list[KeptVoice]) -> dict[str, Any]:
    return {"encoder": _ENCODER, "voices": [{"name": one.name, "print": one.print_} for one in voices]}


VOICES = Kept[list[KeptVoice]](
    "voices.json", Message("The file of the kept voices"), _understood, _plain, list
)


def keep_voice(name: str, print_: Sequence[float]) -> None:
    """Keep a voice; one of the same name is replaced.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    others = [one for one in VOICES.read() if one.name != name]
    VOICES.write([*others, KeptVoice(name, tuple(round(float(one), 5) for one in print_))])


def forget_voice(name: str) -> None:
    """Delete a kept voice.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    VOICES.write([one for one in VOICES.read() if one.name != name])


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
