"""Write files so that what was there before survives any failure."""

from __future__ import annotations

import errno
import json
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

from dubrel.errors import DubrelError

_REASONS = {
    errno.ENOSPC: "the disk is full; free some space and try again",
    errno.EDQUOT: "your disk quota is used up; free some space and try again",
    errno.EACCES: "you may not write there; choose another folder",
    errno.EPERM: "you may not write there; choose another folder",
    errno.EROFS: "that disk can only be read; choose another folder",
    errno.ENOENT: "the folder does not exist; choose another one",
    errno.ENOTDIR: "the folder is a file; choose another one",
    errno.EISDIR: "a folder has that name; choose another name",
    errno.ENAMETOOLONG: "the name is too long; choose a shorter one",
}


def write_atomically(
    path: Path, write: Callable[[BinaryIO], object], verify: Callable[[Path], object] | None = None
) -> None:
    """Write a file beside its place, flush it to the disk, verify it, then rename it.

    Parameters
    ----------
    path : Path
    write : callable
        Gets the open temporary file.
    verify : callable, optional
        Gets the path of the temporary file; raises if it does not hold what was meant.

    Raises
    ------
    DubrelError
        If the disk is full, the folder cannot be written and the like; the
        old file is untouched and no temporary file is left.
    """
    import tempfile  # late: starting the desk writes nothing

    temporary: str | None = None
    try:
        handle, temporary = tempfile.mkstemp(prefix=".", suffix=".part" + path.suffix, dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            os.fchmod(file.fileno(), 0o666 & ~_umask())
            write(file)
            file.flush()
            os.fsync(file.fileno())
        if verify is not None:
            verify(Path(temporary))
        os.replace(temporary, path)
    except OSError as error:
        reason = _REASONS.get(error.errno or 0, (error.strerror or "unknown error").lower())
        raise DubrelError(f"“{path}” was not written: {reason}.") from error
    finally:
        if temporary is not None and os.path.exists(temporary):
            os.unlink(temporary)


def write_text(path: Path, text: str, verify: Callable[[Path], object] | None = None) -> None:
    """Write UTF-8 text atomically; see :func:`write_atomically`."""
    write_atomically(path, lambda file: file.write(text.encode("utf-8")), verify)


def keep_json(path: Path, value: Any) -> None:
    """Keep plain values in a file of the user's own, whose folder is made if need be.

    Raises
    ------
    DubrelError
        If it cannot be written.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    write_text(path, json.dumps(value, indent=1))


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
