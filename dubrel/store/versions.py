"""Earlier saved states inside the project file: bounded, and thinned out with age.

Each is a member ``versions/<UTC time>.json.gz``: the ``project.json`` of then.
Of the last day there is one an hour, before that one a day, and of the last
hour the latest six; never more than twenty.
"""

from __future__ import annotations

import re
import zipfile
import zlib
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.jsontext import MOST_BYTES

_MEMBER = "project.json"
_NAME = re.compile(r"versions/(\d{8}T\d{6}\.\d{6})Z\.json\.gz")
_FORM = "%Y%m%dT%H%M%S.%f"
_MOST, _MOST_BYTES = 20, 64 << 20
_JUST_NOW = 6
_DAMAGED = (
    OSError,
    zipfile.BadZipFile,
    zlib.error,
    KeyError,
    ValueError,
    EOFError,
    NotImplementedError,
    RuntimeError,
)

Version = tuple[str, bytes]  # the member's name and what it holds, packed


def time_of(name: str) -> datetime | None:
    """When a version was saved, in UTC; ``None`` where a name is not a version's."""
    found = _NAME.fullmatch(name)
    try:
        return datetime.strptime(found.group(1), _FORM).replace(tzinfo=UTC) if found else None
    except ValueError:
        return None


def carried_over(path: Path, data: bytes, at: datetime | None = None) -> list[Version]:
    """The versions that a file keeps when it is saved: those in it, and the state that stands in it now.

    Parameters
    ----------
    path : Path
        What is there is read as well as can be; no file has no versions.
    data : bytes
        What is going to be saved; a state like it is not a version of its own.
    at : datetime, optional
        As of when the state that stands in it is kept; else when it was saved.
    """
    try:
        saved = at or datetime.fromtimestamp(path.stat().st_mtime, UTC)
        with zipfile.ZipFile(path) as archive:
            kept = _packed(archive)
            with archive.open(_MEMBER) as member:
                present = member.read(MOST_BYTES + 1)
    except _DAMAGED:
        return []
    import gzip  # late: opening does not need it

    if present != data and len(present) <= MOST_BYTES:
        kept.insert(0, (_free_name(saved, {name for name, _ in kept}), gzip.compress(present, 6, mtime=0)))
    return thinned(kept)


def _packed(archive: zipfile.ZipFile) -> list[Version]:
    """The versions in a file as they are, the latest first; damaged ones are left out."""
    found, size = [], 0
    for name in sorted((one for one in archive.namelist() if time_of(one)), reverse=True):
        try:
            with archive.open(name) as member:
                packed = member.read(MOST_BYTES + 1)
        except _DAMAGED:
            continue
        size += len(packed)
        if size <= _MOST_BYTES and len(packed) <= MOST_BYTES:
            found.append((name, packed))
    return found


def _free_name(saved: datetime, taken: set[str]) -> str:
    while (name := f"versions/{saved.strftime(_FORM)}Z.json.gz") in taken:
        saved += timedelta(microseconds=1)
    return name


def thinned(versions: Sequence[Version], now: datetime | None = None) -> list[Version]:
    """The versions that are worth keeping, the latest first."""
    now = now or datetime.now(UTC)
    kept: list[Version] = []
    spans: set[object] = set()
    just_now = 0
    for name, packed in versions:
        then = time_of(name)
        assert then is not None
        if now - then < timedelta(hours=1):
            just_now += 1
            keep = just_now <= _JUST_NOW
        else:
            span = (then.date(), then.hour) if now - then < timedelta(days=1) else then.date()
            keep = span not in spans
            spans.add(span)
        if keep:
            kept.append((name, packed))
    return kept[:_MOST]


def write_versions(archive: zipfile.ZipFile, versions: Sequence[Version]) -> None:
    """Write versions into a project file, packed as they are."""
    for name, packed in versions:
        archive.writestr(zipfile.ZipInfo(name), packed, zipfile.ZIP_STORED)


def version_names(path: Path) -> list[str]:
    """The versions in a project file, the latest first; none where it cannot be read."""
    try:
        with zipfile.ZipFile(path) as archive:
            return sorted((one for one in archive.namelist() if time_of(one)), reverse=True)
    except _DAMAGED:
        return []


def unpacked(packed: bytes) -> bytes:
    """The ``project.json`` in a version.

    Raises
    ------
    ValueError
        If it is damaged or too large.
    """
    unpacker = zlib.decompressobj(31)
    try:
        data = unpacker.decompress(packed, MOST_BYTES)
    except zlib.error as error:
        raise ValueError(tr("it is damaged")) from error
    if not unpacker.eof:
        raise ValueError(tr("it is too large, or cut off"))
    return data
