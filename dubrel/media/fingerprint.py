"""Which recording a file is: at once by what the disk says of it, for good by all its bytes."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of
from dubrel.base.value import replace
from dubrel.media.standin import stands_in_for
from dubrel.model import Media

_BLOCK = 1 << 20
_SAMPLE = 1 << 16


def cache_key(path: Path) -> str:
    """What tells this file from every other and from itself before a change; costs one look at the disk.

    Raises
    ------
    OSError
        If it is not there.
    """
    found = os.stat(path)
    seen = (found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns)
    return "-".join(f"{one:x}" for one in seen)


def content_digest(path: Path, stop: Callable[[], bool] = lambda: False) -> str:
    """A digest of the whole content; empty where it was stopped.

    Raises
    ------
    MediaError
        If the file cannot be read.
    """
    import hashlib  # late: starting the desk does not need it

    digest = hashlib.blake2b(digest_size=32)
    try:
        with path.open("rb", buffering=0) as file:
            while block := file.read(_BLOCK):
                if stop():
                    return ""
                digest.update(block)
    except OSError as error:
        raise MediaError(
            tr("“{path}” cannot be read: {strerror}. Check that it is still there.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    return digest.hexdigest()


def sampled_digest(path: Path) -> str:
    """The digest that projects of earlier versions hold: of size, head, middle and tail.

    Raises
    ------
    OSError
        If the file cannot be read.
    """
    import hashlib  # late: as above

    size = path.stat().st_size
    digest = hashlib.sha256(str(size).encode())
    with path.open("rb") as file:
        for at in (0, max(0, size // 2 - _SAMPLE // 2), max(0, size - _SAMPLE)):
            file.seek(at)
            digest.update(file.read(_SAMPLE))
    return digest.hexdigest()[:32]


def is_same_recording(media: Media, path: Path, stop: Callable[[], bool] = lambda: False) -> bool:
    """Whether a file is the recording that a project was made with, as far as it can be told.

    What stands in for it counts as the recording. A project that knows no digest yet has nothing to
    compare but the size.

    Raises
    ------
    MediaError
        If the file cannot be read.
    """
    if media.fingerprint and stands_in_for(path) == media.fingerprint:
        return True
    try:
        size = path.stat().st_size
        if media.size and media.size != size:
            return False
        if len(media.fingerprint) == 32:
            return sampled_digest(path) == media.fingerprint
    except OSError as error:
        raise MediaError(
            tr("“{path}” cannot be read: {strerror}. Check that it is still there.").format(
                path=path, strerror=cause_of(error)
            )
        ) from error
    return not media.fingerprint or content_digest(path, stop) == media.fingerprint


def seen(media: Media, path: Path, stop: Callable[[], bool] = lambda: False) -> Media:
    """The recording with the digest, the size and the time of change that its file has now."""
    found = path.stat()
    digest = content_digest(path, stop)
    return replace(media, fingerprint=digest, size=found.st_size, changed_ns=found.st_mtime_ns)


def full_recording(media: Media, near: Path, stop: Callable[[], bool] = lambda: False) -> Path | None:
    """The recording that a stand-in is of, in its folder or the one above; ``None`` where it is not there.

    Parameters
    ----------
    near : Path
        The stand-in.
    """
    for folder in (near.parent, near.parent.parent):
        try:
            found = [one for one in folder.iterdir() if one != near and _has_size(one, media.size)]
        except OSError:
            continue
        for one in found:
            try:
                if content_digest(one, stop) == media.fingerprint:
                    return one
            except MediaError:
                continue
    return None


def _has_size(path: Path, size: int) -> bool:
    try:
        return path.is_file() and path.stat().st_size == size
    except OSError:
        return False
