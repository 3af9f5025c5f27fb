"""The user's own looks of captions, by name."""

from __future__ import annotations

from typing import Any

from dubrel.base.catalogue import Message, tr
from dubrel.base.errors import DubrelError, FormatError
from dubrel.captions.looks import LOOKS
from dubrel.model import Look
from dubrel.store.lookfile import look_from_json, look_to_json
from dubrel.user.kept import Kept


def _understood(found: Any) -> dict[str, Look]:
    try:
        return dict(look_from_json(row) for row in found)
    except FormatError as error:
        raise ValueError("no looks") from error


OWN = Kept[dict[str, Look]](
    "looks.json",
    Message("The file of your looks"),
    _understood,
    lambda looks: [look_to_json(name, look) for name, look in looks.items()],
    dict,
)
"""Those that a user has kept."""


def all_looks() -> dict[str, Look]:
    """Looks that ship, and the user's own."""
    return LOOKS | {name: look for name, look in OWN.read().items() if name not in LOOKS}


def keep_look(name: str, look: Look) -> None:
    """Keep a look under a name.

    Raises
    ------
    DubrelError
        If it has none, or that of a look that ships.
    """
    if not name.strip():
        raise DubrelError(tr("A look needs a name. Type one."))
    if name in LOOKS:
        raise DubrelError(
            tr("“{name}” ships with Dubrel and stays as it is. Choose another name.").format(name=name)
        )
    OWN.write(OWN.read() | {name: look})


def forget_look(name: str) -> None:
    """Delete one of the user's own looks; tracks that use it keep theirs."""
    OWN.write({one: look for one, look in OWN.read().items() if one != name})


def name_of(look: Look) -> str:
    """What a look is called; empty for one that was made by hand."""
    return next((name for name, one in all_looks().items() if one == look), "")
