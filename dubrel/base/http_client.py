"""Requests to a service elsewhere: bounded in time and size, tried again where the line fails.

An answer has a whole minute and at most 64 MB; redirections are not followed,
so nothing goes anywhere but to the address that the user agreed to.
"""

from __future__ import annotations

import http.client
import ipaddress
import socket
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any, TypeVar
from urllib.parse import urlsplit

from dubrel.base.catalogue import tr
from dubrel.base.errors import EngineError
from dubrel.base.jsontext import parse_json

_TRIES = 6
_FIRST_WAIT_S, _GROWTH, _LONGEST_WAIT_S = 0.25, 2.0, 60.0
_SILENCE_S, _WHOLE_S = 20.0, 60.0
_MOST_BYTES = 64 << 20
_AGAIN = (408, 429)
T = TypeVar("T")


def checked_address(address: str) -> str:
    """An address of a service as it is used.

    Raises
    ------
    EngineError
        If it is none, or holds a name or a key.
    """
    try:
        parts = urlsplit(address)
        port = parts.port
        sound = parts.scheme in ("http", "https") and bool(parts.hostname) and port != 0
        plain = address.isascii() and address.isprintable() and " " not in address
    except ValueError:
        sound = plain = False
        parts = urlsplit("")
    if not sound or not plain:
        raise EngineError(
            tr(
                "“{address}” is not the address of a service. An address begins with http:// or https://."
            ).format(address=address)
        )
    if parts.username is not None or parts.password is not None or parts.query or parts.fragment:
        raise EngineError(
            tr(
                "The address of a service must not contain a user name, a key or a question mark. "
                "Enter the key by itself."
            )
        )
    return address.rstrip("/")


def is_here(address: str) -> bool:
    """Whether an address is on this machine."""
    host = urlsplit(address).hostname or ""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def unsafe(address: str) -> str:
    """What to say of an address on the way to which anybody could listen; empty where nobody can."""
    if address.startswith("https://") or is_here(address):
        return ""
    return tr("The address begins with http://, so others on the way could read or listen along.")


class Line:
    """Requests to one address.

    Parameters
    ----------
    address : str
        See :func:`checked_address`.
    key : str
        Sent as a bearer token; never part of an address, a message or the log.
    """

    def __init__(self, address: str, key: str = "") -> None:
        self.address, self._key = address, key

    def ask(
        self,
        method: str,
        path: str,
        read: Callable[[Any], T],
        body: bytes | None = None,
        headers: dict[str, str] | None = None,
    ) -> T:
        """One request, tried again where the service or the line fails.

        Raises
        ------
        EngineError
            If it refuses, or fails for good.
        """
        wait, wished_s, reason = _FIRST_WAIT_S, 0.0, ""
        for attempt in range(_TRIES):
            if attempt:
                time.sleep(max(wait, wished_s))
                wait *= _GROWTH
            try:
                status, data, later = self._once(method, path, body, headers or {})
                wished_s = _seconds_of(later)
                if status < 300:
                    return read(parse_json(data) if data else {})
                if status < 500 and status not in _AGAIN:
                    raise EngineError(self._refused(status))
                reason = f"it answered {status}"
            except (OSError, http.client.HTTPException) as error:
                reason = tr("the connection failed ({error})").format(error=_said(error))
            except (ValueError, KeyError, TypeError, AttributeError, OverflowError):
                reason = tr("its answer could not be read")
        raise EngineError(
            tr(
                "The service at {address} cannot be used: {reason}, {tries} times. What was sent is "
                "kept there; start again to go on."
            ).format(address=self.address, reason=reason, tries=_TRIES)
        )

    def _refused(self, status: int) -> str:
        if status == 402:
            return tr(
                "The service at {address} says that your credit is used up (402). Top it up there, or "
                "use another one."
            ).format(address=self.address)
        if status in (401, 403):
            return tr(
                "The service at {address} does not accept the key ({status}). Enter the key again."
            ).format(address=self.address, status=status)
        if 300 <= status < 400:
            return tr(
                "The service at {address} points to another address ({status}). Enter that address yourself."
            ).format(address=self.address, status=status)
        return tr("The service at {address} refused ({status}). Check the address.").format(
            address=self.address, status=status
        )

    def _once(
        self, method: str, path: str, body: bytes | None, headers: dict[str, str]
    ) -> tuple[int, bytes, str]:
        """Status, body, and when the service wishes to be asked again."""
        parts = urlsplit(self.address)
        secure = parts.scheme == "https"
        made = http.client.HTTPSConnection if secure else http.client.HTTPConnection
        connection = made(parts.hostname or "", parts.port, timeout=_SILENCE_S)
        deadline = threading.Timer(_WHOLE_S, _hang_up, (connection,))
        deadline.daemon = True
        deadline.start()
        try:
            if self._key:
                headers = {**headers, "Authorization": f"Bearer {self._key}"}
            connection.request(method, parts.path.rstrip("/") + path, body, headers)
            answer = connection.getresponse()
            data = answer.read(_MOST_BYTES + 1)
            if len(data) > _MOST_BYTES:
                raise EngineError(
                    tr("The service at {address} sends an answer without end. Use another one.").format(
                        address=self.address
                    )
                )
            if answer.length:
                raise http.client.IncompleteRead(data)
            return answer.status, data, answer.headers.get("Retry-After", "")
        finally:
            deadline.cancel()
            connection.close()


def _seconds_of(later: str) -> float:
    """How long a service wishes to be left alone: a time or seconds, a minute at the most."""
    if not later:
        return 0.0
    from urllib3.exceptions import InvalidHeader  # late: few services say it
    from urllib3.util import Retry

    try:
        return min(Retry().parse_retry_after(later), _LONGEST_WAIT_S)
    except (InvalidHeader, ValueError, OverflowError):
        return 0.0


def _hang_up(connection: http.client.HTTPConnection) -> None:
    with suppress(OSError, AttributeError):
        connection.sock.shutdown(socket.SHUT_RDWR)


def _said(error: Exception) -> str:
    return str(getattr(error, "strerror", None) or type(error).__name__)
