"""Fetch a recording from an address: looked at first, resumed after a break, verified, never unasked."""

from __future__ import annotations

import base64
import hashlib
import ipaddress
import json
import os
import re
import shutil
import socket
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from email.message import Message
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urljoin, urlsplit, urlunsplit

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.jsontext import parse_json
from dubrel.base.value import Value, replace
from dubrel.jobs.addresses.feeds import FeedEpisode, episodes_in, is_feed
from dubrel.jobs.machinery.events import Event, Pace, Written
from dubrel.media.probe import SUFFIXES, probe

_HOPS, _TRIES = 5, 6
_WAITS_S = (0.25, 2.0)  # the first, and how they grow
_SILENCE_S = (10.0, 30.0)
_CHUNK = 1 << 18
_MOST_FEED = 16 << 20
_MOST_BYTES = 64 << 30
_SPARE = 200 << 20  # left free on the disk
_NAME = re.compile(r'[/\\:*?"<>|\x00-\x1f\x7f]')
_PAGES = ("text/html", "application/xhtml+xml")
_TYPES = {
    "audio/mpeg": ".mp3",
    "audio/mp4": ".m4a",
    "audio/x-m4a": ".m4a",
    "audio/ogg": ".ogg",
    "audio/flac": ".flac",
    "audio/wav": ".wav",
    "audio/x-wav": ".wav",
    "video/mp4": ".mp4",
    "video/webm": ".webm",
    "video/quicktime": ".mov",
    "video/x-matroska": ".mkv",
}


class Offered(Value):
    """What stands at an address.

    Attributes
    ----------
    address : str
        Where it really is, after redirections; may hold a password, so it is never shown or kept.
    shown : str
        The same without password and query.
    through : tuple of str
        The hosts that pointed on.
    name : str
        For the file.
    size : int or None
        Bytes, where it is said.
    mark : str
        By which it is known that the same is sent when it is resumed.
    digest : tuple of (str, str)
        Algorithm and hexadecimal value, where they are given.
    near : bool
        Whether it is on this machine or this network.
    episodes : tuple of FeedEpisode
        Of a feed.
    """

    address: str
    shown: str
    through: tuple[str, ...]
    name: str
    size: int | None
    mark: str = ""
    digest: tuple[tuple[str, str], ...] = ()
    near: bool = False
    episodes: tuple[FeedEpisode, ...] = ()


def shown_address(address: str) -> str:
    """An address without what may be secret in it."""
    parts = urlsplit(address)
    host = parts.hostname or ""
    host = f"[{host}]" if ":" in host else host
    port = f":{parts.port}" if parts.port else ""
    return urlunsplit((parts.scheme, host + port, parts.path, "", ""))


def checked(address: str) -> str:
    """An address that can be fetched from.

    Raises
    ------
    MediaError
        If it is none, or of another kind than http and https.
    """
    try:
        parts = urlsplit(address.strip())
        port_is_right = parts.port != 0
    except ValueError:
        parts, port_is_right = urlsplit(""), False
    if parts.scheme and parts.scheme not in ("http", "https") and len(parts.scheme) > 1:
        raise MediaError(
            tr(
                "“{scheme}:” addresses are not opened. Give one that begins with https:// or "
                "http://, or open the file itself."
            ).format(scheme=parts.scheme)
        )
    if not parts.hostname or not port_is_right:
        raise MediaError(tr("That is not an address. One begins with https:// or http://."))
    return address.strip()


def is_near(host: str) -> bool:
    """Whether a host is this machine, or on this network.

    Raises
    ------
    MediaError
        If it cannot be found.
    """
    try:
        found = socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise MediaError(
            tr("“{host}” cannot be found. Check the address and the connection.").format(host=host)
        ) from error
    return any(not ipaddress.ip_address(row[4][0].split("%")[0]).is_global for row in found)  # type: ignore[union-attr]


class _Answer:
    """An answer whose body is still to come, after all redirections."""

    def __init__(self, address: str, headers: dict[str, str], typed: bool = True) -> None:
        import requests

        self._session = requests.Session()
        self._session.auth = lambda request: request  # nothing of the user's own is sent along
        self.through: list[str] = []
        first = urlsplit(address)
        for _ in range(_HOPS + 1):
            host = urlsplit(address).hostname or ""
            self.near = is_near(host)
            if self.near and not typed:
                raise MediaError(
                    tr(
                        "“{address}” is on this machine or this network. Type its address yourself "
                        "to fetch it."
                    ).format(address=shown_address(address))
                )
            self.address = address
            given = (first.username, first.password) if host == first.hostname and first.username else None
            self.body: Any = self._session.get(
                _bare(address),
                headers={"Accept-Encoding": "identity", **headers},
                auth=tuple(unquote(one or "") for one in given) if given else None,  # type: ignore[arg-type]
                stream=True,
                allow_redirects=False,
                timeout=_SILENCE_S,
            )
            if not self.body.is_redirect:
                return
            self.through.append(host)
            address = checked(urljoin(address, self.body.headers["Location"]))
            typed = typed and (self.near or urlsplit(address).hostname == host)
            self.body.close()
        raise MediaError(
            tr("“{address}” redirects without end. Give the address of the file itself.").format(
                address=shown_address(address)
            )
        )

    def close(self) -> None:
        self.body.close()
        self._session.close()


def _bare(address: str) -> str:
    """An address without name and password, which are sent by themselves."""
    parts = urlsplit(address)
    host = parts.netloc.rpartition("@")[2]
    return urlunsplit((parts.scheme, host, parts.path, parts.query, ""))


def _asked(address: str, headers: dict[str, str], typed: bool = True) -> _Answer:
    """An answer; MediaError for every way in which there is none."""
    import requests

    try:
        found = _Answer(address, headers, typed)
    except requests.RequestException as error:
        raise MediaError(
            tr("“{hostname}” does not answer ({name}). Check the address and the connection.").format(
                hostname=urlsplit(address).hostname, name=type(error).__name__
            )
        ) from error
    status = found.body.status_code
    if status >= 400 and status != 416:
        found.close()
        why = {
            401: tr("requires a name and a password"),
            403: tr("refuses it"),
            404: tr("has nothing there"),
        }.get(status)
        host = urlsplit(address).hostname
        raise MediaError(
            tr("“{host}” {why}. Check the address.").format(host=host, why=why or f"answered {status}")
        )
    return found


def look_at(address: str, *, typed: bool = True) -> Offered:
    """What stands at an address; only its beginning is asked for.

    Parameters
    ----------
    typed : bool
        Whether the user typed it: one on this machine or network is refused otherwise.

    Raises
    ------
    MediaError
        If it cannot be reached, or is neither a recording nor a feed.
    """
    import requests

    try:
        return _looked(checked(address), typed)
    except requests.RequestException as error:
        raise MediaError(
            tr("“{address}” broke off ({name}). Try again in a while.").format(
                address=shown_address(address), name=type(error).__name__
            )
        ) from error


def _looked(address: str, typed: bool) -> Offered:
    with closing(_asked(address, {}, typed)) as answer:
        headers = answer.body.headers
        kind = headers.get("Content-Type", "").partition(";")[0].strip().lower()
        head = next(answer.body.iter_content(4096), b"")
        offered = Offered(
            answer.address,
            shown_address(answer.address),
            tuple(answer.through),
            _name(headers, answer.address, kind),
            _length(headers),
            _mark(headers),
            _digests(headers, address),
            answer.near,
        )
        if is_feed(head):
            return replace(offered, episodes=episodes_in(_whole(answer, head), answer.address))
        if kind in ("text/html", "application/xhtml+xml") or head.lstrip()[:15].lower().startswith(
            b"<!doctype html"
        ):
            raise MediaError(
                tr(
                    "“{shown}” is a page, not a recording. Give the address of the recording itself, "
                    "or of a feed."
                ).format(shown=offered.shown)
            )
    if Path(offered.name).suffix.lower() not in SUFFIXES:
        raise MediaError(
            tr("“{shown}” is not a recording ({kind}). Give another.").format(
                shown=offered.shown, kind=kind or tr("nothing says what")
            )
        )
    return offered


def _whole(answer: _Answer, head: bytes) -> bytes:
    data = bytearray(head)
    for piece in answer.body.iter_content(_CHUNK):
        data += piece
        if len(data) > _MOST_FEED:
            raise MediaError(
                tr("The feed “{address}” has no end. Give another address.").format(
                    address=shown_address(answer.address)
                )
            )
    return bytes(data)


def _length(headers: Any) -> int | None:
    text = headers.get("Content-Length", "")
    return int(text) if text.isascii() and text.isdigit() else None


def _mark(headers: Any) -> str:
    """The validator by which a rest is asked for: a strong ETag, or the date of the last change."""
    tag = headers.get("ETag", "")
    return tag if tag and not tag.startswith("W/") else headers.get("Last-Modified", "")


def _digests(headers: Any, address: str) -> tuple[tuple[str, str], ...]:
    """Checksums that are given: by the server (RFC 9530), or behind a # of the address."""
    found = []
    for name, value in re.findall(r"(sha-256|sha-512)=:([A-Za-z0-9+/=]+):", headers.get("Repr-Digest", "")):
        with suppress(ValueError):
            found.append((name.replace("-", ""), base64.b64decode(value, validate=True).hex()))
    said = re.fullmatch(r"(sha256|sha512|md5)=([0-9a-fA-F]+)", urlsplit(address).fragment)
    if said:
        found.append((said[1], said[2].lower()))
    return tuple(found)


def _name(headers: Any, address: str, kind: str) -> str:
    """A name for the file, that no file system refuses."""
    message = Message()
    message["Content-Disposition"] = headers.get("Content-Disposition", "")
    text = message.get_filename() or unquote(Path(urlsplit(address).path).name)
    stem, suffix = os.path.splitext(_NAME.sub("-", text).strip(" ."))
    if suffix.lower() not in SUFFIXES:
        stem, suffix = stem + (suffix if kind in _TYPES else ""), _TYPES.get(kind, suffix)
    return f"{(stem or 'recording').strip(' .')[:120]}{suffix}"


# -- fetching ----------------------------------------------------------------------------------


def part_of(offered: Offered, folder: Path) -> Path:
    """Where what is fetched stands until it is whole: the same each time, so that it goes on there."""
    key = hashlib.sha256(_bare(offered.address).encode()).hexdigest()[:12]
    return folder / f".{Path(offered.name).stem[:60]} {key} unfinished"


def free_name(offered: Offered, folder: Path) -> Path:
    """A name in a folder that is not taken."""
    found, nth = folder / offered.name, 2
    while found.exists():
        found = folder / f"{Path(offered.name).stem} {nth}{Path(offered.name).suffix}"
        nth += 1
    return found


def fetch(offered: Offered, target: Path) -> Iterator[Event]:
    """Fetch what the user agreed to; a break is gone on from, now or the next time.

    Yields
    ------
    Event
        Progress, then a :class:`Written`.

    Raises
    ------
    MediaError
        If it cannot be fetched whole, or is not what it was said to be.
    """
    folder, pace = target.parent, Pace()
    part = part_of(offered, folder)
    note = part.with_name(f"{part.name}.json")
    size = offered.size
    try:
        folder.mkdir(parents=True, exist_ok=True)
        have = _have(part, note, offered)
        _refuse_too_large(size, folder, have)
        note.write_text(json.dumps({"mark": offered.mark, "size": size}), "utf-8")
        for done in _sent(offered, part, have):
            yield pace.at(
                tr("Fetching {name}").format(name=offered.name), min(0.99, done / size) if size else 0.0
            )
        _verify(offered, part)
        part.chmod(0o644)
        os.replace(part, target)
        note.unlink(missing_ok=True)
    except OSError as error:
        raise MediaError(
            tr(
                "“{target}” cannot be written: {strerror}. Free some space, or choose another "
                "folder; it goes on where it stopped."
            ).format(target=target, strerror=cause_of(error))
        ) from error
    try:
        probe(target)
    except MediaError:
        target.unlink(missing_ok=True)
        raise MediaError(
            tr("What “{shown}” sent is not a recording. Nothing was kept; check the address.").format(
                shown=offered.shown
            )
        ) from None
    yield Written(str(target))


def _have(part: Path, note: Path, offered: Offered) -> int:
    """How much of the same is there already."""
    try:
        kept = parse_json(note.read_bytes())
        same = kept["mark"] == offered.mark != "" and kept["size"] == offered.size
        return part.stat().st_size if same else 0
    except (OSError, ValueError, KeyError, TypeError):
        return 0


def _refuse_too_large(size: int | None, folder: Path, have: int) -> None:
    free = shutil.disk_usage(folder).free
    if size is not None and (size > _MOST_BYTES or size - have > free - _SPARE):
        raise MediaError(
            tr(
                "It has {size:.1f} GB, and “{folder}” has {free:.1f} GB left. Free some space, or "
                "choose another folder."
            ).format(size=size / 1000000000.0, folder=folder, free=free / 1000000000.0)
        )


def _sent(offered: Offered, part: Path, have: int) -> Iterator[int]:
    """Take what is sent, with breaks; yields how many bytes are there."""
    import requests

    wait, last = _WAITS_S[0], ""
    for attempt in range(_TRIES):
        if attempt:
            time.sleep(wait)
            wait *= _WAITS_S[1]
        rest = {"Range": f"bytes={have}-"} if have and offered.mark else {}
        rest |= {"If-Range": offered.mark} if rest else {}
        try:
            with closing(_asked(offered.address, rest, True)) as answer:
                if answer.body.status_code == 416:  # there is no more
                    if offered.size in (None, have):
                        return
                    last = tr("it sent less than it said")
                    break
                have = have if answer.body.status_code == 206 and _begins(answer.body, have) else 0
                with part.open("r+b" if part.exists() else "wb") as file:
                    file.truncate(have)
                    file.seek(have)
                    before = have
                    for piece in answer.body.iter_content(_CHUNK):
                        file.write(piece)
                        have += len(piece)
                        if have > (offered.size or _MOST_BYTES):
                            raise _Lied
                        yield have
                if offered.size is None or have == offered.size:
                    return
                last = tr("it broke off after {have:.1f} of {size:.1f} MB").format(
                    have=have / 1e6, size=offered.size / 1e6
                )
                if have > before:
                    wait = _WAITS_S[0]  # it gets on
        except _Lied:
            part.unlink(missing_ok=True)
            raise MediaError(
                tr(
                    "“{shown}” sends more than it said. Nothing was kept; try again, or give another address."
                ).format(shown=offered.shown)
            ) from None
        except requests.RequestException as error:
            last = tr("the connection failed ({error})").format(error=type(error).__name__)
            have = part.stat().st_size if part.exists() else 0
    raise MediaError(
        tr(
            "“{shown}” could not be fetched whole: {last}. What is there is kept; open the address "
            "again and it goes on."
        ).format(shown=offered.shown, last=last)
    )


class _Lied(Exception):
    pass


def _begins(body: Any, have: int) -> bool:
    """Whether a rest begins where the beginning ends."""
    return bool(re.match(rf"bytes {have}-", body.headers.get("Content-Range", "")))


def _verify(offered: Offered, part: Path) -> None:
    if offered.size is not None and part.stat().st_size != offered.size:
        raise MediaError(
            tr("“{shown}” did not send all of it. Open the address again.").format(shown=offered.shown)
        )
    for name, value in offered.digest:
        with part.open("rb") as file:
            if hashlib.file_digest(file, name).hexdigest() != value:
                part.unlink()
                raise MediaError(
                    tr(
                        "What “{shown}” sent has another checksum than was given. Nothing was kept; "
                        "try again."
                    ).format(shown=offered.shown)
                )
