"""The machines that work on a series: the address of their scheduler, and the files of TLS."""

from __future__ import annotations

from typing import Any

from dubrel.base.catalogue import Message
from dubrel.base.value import Value, asdict
from dubrel.user.kept import Kept


class Chosen(Value):
    """Where a series is run.

    Attributes
    ----------
    scheduler : str
        Its address; empty for this machine alone.
    ca, cert, key : str
        Files of TLS (PEM); empty for none.
    in_the_clear : bool
        Whether a connection to another machine may go without them.
    """

    scheduler: str = ""
    ca: str = ""
    cert: str = ""
    key: str = ""
    in_the_clear: bool = False


def _understood(value: dict[str, Any]) -> Chosen:
    texts = {name: value.get(name, "") for name in ("scheduler", "ca", "cert", "key")}
    if not all(isinstance(one, str) for one in texts.values()):
        raise TypeError("a text is none")
    return Chosen(**texts, in_the_clear=value.get("in_the_clear") is True)


MACHINES = Kept[Chosen]("machines.json", Message("The list of machines"), _understood, asdict, Chosen)
