"""The folder for what can be computed again, kept under a limit."""

from __future__ import annotations

import contextlib
import errno
import os
import re
import shutil
import time
from pathlib import Path

from dubrel.base.catalogue import tr
from dubrel.base.errors import MediaError
from dubrel.base.files import cause_of, private_folder
from dubrel.base.folders import cache_root
from dubrel.media.fingerprint import cache_key
from dubrel.model import Media

_SOUND, PEAKS = "sound-16k.i16", "peaks-16.npy"
LIMIT_BYTES = 6 << 30
_DAY_S = 86_400
BLOCK = 40  # samples in one column of the peaks
_SHAPE = re.compile(rb"'descr': '<i2', 'fortran_order': False, 'shape': \((\d+), 2\)")


def cache_folder(media: Media) -> Path:
    """The folder for the recording that really stands at a path, made if need be.

    What a project says of its recording is never taken for it: the key is what
    the disk says of the file.

    Raises
    ------
    MediaError
        If the recording is not there, or the folder cannot be made.
    """
    return _folder(_key(media))


def _key(media: Media) -> str:
    try:
        key = cache_key(Path(media.path))
        return key + ("-" + "+".join(map(str, media.sound)) if media.sound else "")
    except (OSError, ValueError) as error:
        raise MediaError(
            tr("“{path}” is not there. Find the recording first.").format(path=media.path)
        ) from error


def sound_path(media: Media) -> Path:
    """Where the samples of a recording are kept."""
    return cache_folder(media) / _SOUND


def track_path(media: Media, track: int) -> Path:
    """Where the samples of one channel or track are kept, without what came from the others."""
    return cache_folder(media) / f"track-{track}-16k.i16"


def peaks_path(media: Media) -> Path:
    """Where the peaks of a recording are kept."""
    return cache_folder(media) / PEAKS


def peaks_at(recording: Path) -> Path | None:
    """The peaks of a recording by its own path; ``None`` where it has not been read yet."""
    try:
        found = cache_root() / cache_key(recording) / PEAKS
        return found if _rows(found) > 0 else None
    except (OSError, ValueError):
        return None


def survey_path(media: Media) -> Path:
    """Where what a look over a recording found is kept."""
    return cache_folder(media) / "survey.json"


def clip_sound_path(media: Media) -> Path:
    """Where what a recording sounds like is kept: its pitch, and laughter and the like."""
    return cache_folder(media) / "clips.npz"


def forward_path(media: Media) -> Path:
    """Where what the speech enhancer made of a recording is kept."""
    return cache_folder(media) / "forward-48k.i16"


def spoken_folder(name: str) -> Path:
    """A folder for what was spoken, by what it depends on; see :func:`cache_folder`."""
    return _folder(f"spoken-{name}")


def _folder(name: str) -> Path:
    folder = cache_root() / name
    try:
        private_folder(cache_root())
        private_folder(folder)
        os.utime(folder)
    except OSError as error:
        raise _unwritable(error) from error
    return folder


def _unwritable(error: OSError) -> MediaError:
    full = error.errno in (errno.ENOSPC, errno.EDQUOT)
    why = cause_of(error)
    what = (
        tr("Free some space, or name another folder in DUBREL_CACHE.")
        if full
        else tr("Allow writing to it, or name another folder in DUBREL_CACHE.")
    )
    said = tr("The cache “{folder}” cannot be written: {why}.").format(folder=cache_root(), why=why)
    return MediaError(f"{said} {what}")


def has_clip_sound(media: Media) -> bool:
    """Whether what a recording sounds like is in the cache."""
    try:
        return (cache_root() / _key(media) / "clips.npz").is_file()
    except MediaError:
        return False


def is_read(media: Media) -> bool:
    """Whether the samples and the peaks are in the cache, whole."""
    try:
        folder = cache_root() / _key(media)
    except MediaError:
        return False
    try:
        count = (folder / _SOUND).stat().st_size
        return count > 0 and count % 2 == 0 and _rows(folder / PEAKS) == -(-count // 2 // BLOCK)
    except OSError:
        return False


def _rows(path: Path) -> int:
    """How many rows of two 16-bit numbers an array file has whole; -1 where it is damaged."""
    with path.open("rb") as file:
        head = file.read(10)
        if head[:8] != b"\x93NUMPY\x01\x00":
            return -1
        length = int.from_bytes(head[8:], "little")
        found = _SHAPE.search(file.read(length))
    rows = int(found[1]) if found else -1
    return rows if path.stat().st_size == len(head) + length + 4 * rows else -1


def forget_reading(media: Media) -> None:
    """Remove what was made of the sound of a recording that is read anew.

    The sound itself is replaced once the new one is whole: another process may have read it just now.
    """
    for file in cache_folder(media).glob("*"):
        if ".part" not in file.name and file.name not in (_SOUND, PEAKS) and file.is_file():
            file.unlink(missing_ok=True)


def trim_cache(keep: Path, limit: int = LIMIT_BYTES) -> None:
    """Remove the longest unused recordings' folders until the cache is under its limit.

    What a job left half-written a day ago goes as well.
    """
    for part in cache_root().glob("*/*.part*"):
        with contextlib.suppress(OSError):
            if time.time() - part.stat().st_mtime > _DAY_S:
                part.unlink()
    sizes = {one: _size(one) for one in cache_root().glob("*") if one.is_dir()}
    total = sum(size for _, size in sizes.values())
    for folder, (_, size) in sorted(sizes.items(), key=lambda one: one[1][0]):
        if total <= limit or folder == keep:
            continue
        shutil.rmtree(folder, ignore_errors=True)
        total -= size


def _size(folder: Path) -> tuple[float, int]:
    """When a folder was used last, and its bytes; another process may remove it meanwhile."""
    try:
        return folder.stat().st_mtime, sum(file.stat().st_size for file in folder.glob("*"))
    except OSError:
        return 0.0, 0


def cache_size() -> int:
    """Bytes in the cache."""
    return sum(_size(folder)[1] for folder in cache_root().glob("*") if folder.is_dir())


def empty_cache(keep: Media | None = None) -> None:
    """Remove what can be computed again, but for the recording that is open."""
    kept = cache_folder(keep) if keep is not None and is_read(keep) else None
    for folder in cache_root().glob("*"):
        if folder.is_dir() and folder != kept:
            shutil.rmtree(folder, ignore_errors=True)
