"""Who may read what goes over the line: nobody but the machines, where certificates are given."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.http_client import is_here
from dubrel.base.value import Value


class Certificates(Value):
    """Files of TLS.

    Attributes
    ----------
    ca, cert, key : str
        Of the authority, of this machine, and its key (PEM).
    """

    ca: str
    cert: str
    key: str


def security_of(certificates: Certificates | None) -> Any:
    """The settings of the scheduler's own security; ``None`` for a connection in the clear."""
    if certificates is None:
        return None
    from distributed.security import Security

    files = {"ca_file": certificates.ca}
    for role in ("client", "worker", "scheduler"):
        files |= {f"{role}_cert": certificates.cert, f"{role}_key": certificates.key}
    return Security(require_encryption=True, **{f"tls_{name}": path for name, path in files.items()})


def refuse_in_the_clear(
    scheduler: str, certificates: Certificates | None, allowed: bool, advice: str = ""
) -> None:
    """Refuse a connection to another machine that everybody could read.

    Parameters
    ----------
    scheduler : str
    certificates : Certificates, optional
    allowed : bool
        Whether the user wants it anyway.
    advice : str, optional
        What to do about it; else what to write on the command line.

    Raises
    ------
    DubrelError
        If the address is none, or beyond this machine without certificates.
    """
    parts = urlsplit(scheduler if "://" in scheduler else f"tcp://{scheduler}")
    try:
        host, port = parts.hostname, parts.port
    except ValueError:
        host, port = None, None
    if not host or not port or parts.scheme not in ("tcp", "tls"):
        raise DubrelError(
            tr("“{scheduler}” is not the address of a scheduler. Write it as tcp://HOST:PORT.").format(
                scheduler=scheduler
            )
        )
    if (
        certificates is None
        and not allowed
        and not is_here(scheduler if "://" in scheduler else f"tcp://{scheduler}")
    ):
        wrong = tr(
            "“{scheduler}” is another machine, and without certificates anybody on the way can read what is"
            " sent."
        )
        do = advice or tr("Give --tls-ca, --tls-cert and --tls-key, or allow it with --in-the-clear.")
        raise DubrelError(f"{wrong.format(scheduler=scheduler)} {do}")
