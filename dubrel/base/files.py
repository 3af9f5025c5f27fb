"""Write files so that what was there before survives any failure."""

from __future__ import annotations

import contextlib
import errno
import os
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from dubrel.base.catalogue import Message, told, tr
from dubrel.base.errors import DubrelError
from dubrel.base.unfinished import noted

_REASONS = {
    errno.ENOSPC: Message("the disk is full; free some space and try again"),
    errno.EDQUOT: Message("your disk quota is used up; free some space and try again"),
    errno.EACCES: Message("you have no permission to write there; choose another folder"),
    errno.EPERM: Message("you have no permission to write there; choose another folder"),
    errno.EROFS: Message("that disk is read-only; choose another folder"),
    errno.ENOENT: Message("the folder does not exist; choose another one"),
    errno.ENOTDIR: Message("the folder is a file; choose another one"),
    errno.EISDIR: Message("a folder has that name; choose another name"),
    errno.EIO: Message("the disk is faulty; choose another one"),
    errno.ENAMETOOLONG: Message("the name is too long; choose a shorter one"),
}
_CAUSES = {
    errno.ENOSPC: Message("the disk is full"),
    errno.EDQUOT: Message("your disk quota is used up"),
    errno.EACCES: Message("you have no permission"),
    errno.EPERM: Message("you have no permission"),
    errno.EROFS: Message("that disk is read-only"),
    errno.ENOENT: Message("it is not there"),
    errno.ENOTDIR: Message("a folder of its path is a file"),
    errno.EISDIR: Message("it is a folder"),
    errno.EIO: Message("the disk is faulty"),
    errno.ENAMETOOLONG: Message("its name is too long"),
    errno.ELOOP: Message("its links lead round in a circle"),
}
_LONG_SUFFIX = 32


def cause_of(error: BaseException) -> str:
    """Why the system refused something, as a part of a sentence: “the disk is full”.

    Examples
    --------
    >>> cause_of(OSError(errno.ENOSPC, "No space left on device"))
    'the disk is full'
    >>> cause_of(ValueError("no such rate"))
    'no such rate'
    """
    known = _CAUSES.get(getattr(error, "errno", None) or 0)
    if known is not None:
        return told(known)
    said = getattr(error, "strerror", None)
    return str(said).lower() if said else str(error).rstrip(".") or type(error).__name__


def write_atomically(
    path: Path,
    write: Callable[[BinaryIO], object],
    verify: Callable[[Path], object] | None = None,
    *,
    private: bool = False,
    through_link: bool = True,
) -> None:
    """Write a file beside its place, flush it to the disk, verify it, then rename it.

    A symbolic link stays one: what it points to is replaced. An existing file
    keeps its mode. Where the process is killed the temporary file is removed at
    the next start.

    Parameters
    ----------
    path : Path
    write : callable
        Gets the open temporary file.
    verify : callable, optional
        Gets the path of the temporary file; raises if it does not hold what was meant.
    private : bool
        Only the user may read it.
    through_link : bool
        False where the name was not chosen by the user: a link of that name is
        replaced, and what it points to stays.

    Raises
    ------
    DubrelError
        If the disk is full, the folder cannot be written and the like; the
        old file is untouched and no temporary file is left.
    """
    try:
        target = _target(path, through_link)
        handle, temporary = _temporary(target)
        with noted(Path(temporary)):
            try:
                with os.fdopen(handle, "wb") as file:
                    os.fchmod(file.fileno(), 0o600 if private else _mode(target))
                    write(file)
                    file.flush()
                    os.fsync(file.fileno())
                if verify is not None:
                    verify(Path(temporary))
                os.replace(temporary, target)
            finally:
                Path(temporary).unlink(missing_ok=True)
        _sync_folder(target.parent)
    except OSError as error:
        raise DubrelError(
            tr("“{path}” was not written: {error}.").format(path=path, error=_reason(error))
        ) from error


def _target(path: Path, through_link: bool = True) -> Path:
    """The file itself behind a link; devices and the like are refused."""
    if path.is_symlink() and not through_link:
        return path
    target = path.resolve() if path.is_symlink() else path
    if target.exists() and not target.is_file() and not target.is_dir():
        raise DubrelError(tr("“{path}” is a device, not a file. Choose another name.").format(path=path))
    if target.is_file() and not os.access(target, os.W_OK):
        raise DubrelError(
            tr("“{path}” is read-only. Choose another name, or allow writing to it.").format(path=path)
        )
    return target


def _temporary(target: Path) -> tuple[int, str]:
    import tempfile  # late: starting the desk writes nothing

    suffix = ".part" + target.suffix if len(target.suffix) < _LONG_SUFFIX else ".part"
    return tempfile.mkstemp(prefix=".", suffix=suffix, dir=target.parent)


def _mode(target: Path) -> int:
    try:
        return target.stat().st_mode & 0o777
    except FileNotFoundError:
        mask = os.umask(0)
        os.umask(mask)
        return 0o666 & ~mask


def _sync_folder(folder: Path) -> None:
    """Let the new name be on the disk too; some disks cannot, and the file is whole anyway."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _reason(error: OSError) -> str:
    found = _REASONS.get(error.errno or 0)
    return told(found) if found is not None else cause_of(error)


def try_writing(path: Path) -> None:
    """Try out whether a file can be written, before hours of work and not after.

    Raises
    ------
    DubrelError
        If it cannot.
    """
    try:
        target = _target(path)
        if target.is_dir():
            raise IsADirectoryError(errno.EISDIR, "Is a directory")
        handle, temporary = _temporary(target)
        os.close(handle)
        os.unlink(temporary)
    except OSError as error:
        raise DubrelError(
            tr("“{path}” cannot be written: {error}.").format(path=path, error=_reason(error))
        ) from error


def write_text(
    path: Path, text: str, verify: Callable[[Path], object] | None = None, *, private: bool = False
) -> None:
    """Write UTF-8 text atomically and compare what is on the disk with it; see :func:`write_atomically`."""
    data = text.encode("utf-8")

    def compare(temporary: Path) -> None:
        if temporary.read_bytes() != data:
            raise DubrelError(
                tr("“{path}” does not hold what was written. Check the disk and try again.").format(path=path)
            )
        if verify is not None:
            verify(temporary)

    write_atomically(path, lambda file: file.write(data), compare, private=private)


def private_folder(path: Path) -> Path:
    """A folder that only the user may look into, made if need be.

    One that is there already is closed to others only where it is Dubrel's own:
    the user may have named any folder.
    """
    for one in reversed([path, *path.parents]):  # mkdir closes none of the folders that it makes on the way
        if not one.exists():
            one.mkdir(exist_ok=True, mode=0o700)
    if "dubrel" in path.parts[-2:] and path.stat().st_mode & 0o077:
        with contextlib.suppress(PermissionError):
            path.chmod(0o700)
    return path
