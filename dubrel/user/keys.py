"""Keys of services: in the system's keyring, and nowhere else on the disk.

Where there is no keyring a key is held until the application ends.
"""

from __future__ import annotations

import hashlib
import os

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError

_SERVICE = "dubrel"


def _held(address: str) -> str:
    """The variable in which a key is held for this process and those that it starts."""
    return f"DUBREL_KEY_{hashlib.sha256(address.encode()).hexdigest()[:16]}"


def key_for(address: str) -> str:
    """The key of a service; empty where it has none."""
    if held := os.environ.get(_held(address)):
        return held
    try:
        import keyring

        return keyring.get_password(_SERVICE, address) or ""
    except Exception:  # noqa: BLE001 - no keyring, or one that is locked
        return ""


def keep_key(address: str, key: str) -> None:
    """Keep a key; an empty one takes it out.

    Raises
    ------
    DubrelError
        If it cannot be one, or there is no keyring: it is held until the application ends then.
    """
    if not key.isascii() or not key.isprintable() or " " in key:
        raise DubrelError(
            tr("That cannot be a key: it contains a space or an unusual character. Copy it again.")
        )
    os.environ.pop(_held(address), None)
    try:
        import keyring
        from keyring.errors import PasswordDeleteError

        if key:
            keyring.set_password(_SERVICE, address, key)
            return
        try:
            keyring.delete_password(_SERVICE, address)
        except PasswordDeleteError:  # there was none
            return
    except Exception as error:
        if key:
            os.environ[_held(address)] = key
            raise DubrelError(
                tr(
                    "This system has no keyring, so the key is kept only until Dubrel ends. Give it "
                    "again next"
                    " time."
                )
            ) from error
