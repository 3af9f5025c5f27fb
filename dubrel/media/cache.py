"""The folder for what can be computed again, kept under a limit."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from platformdirs import user_cache_dir

from dubrel.model import Media

LIMIT_BYTES = 6 << 30


def cache_root() -> Path:
    """The cache folder; ``DUBREL_CACHE`` names another one."""
    return Path(os.environ.get("DUBREL_CACHE") or user_cache_dir("dubrel"))


def cache_folder(fingerprint: str) -> Path:
    """The folder for one recording, made if need be."""
    folder = cache_root() / fingerprint
    folder.mkdir(parents=True, exist_ok=True)
    os.utime(folder)
    return folder


def sound_path(media: Media) -> Path:
    """Where the samples of a recording are kept."""
    return cache_folder(media.fingerprint) / "sound-16k.i16"


def track_path(media: Media, track: int) -> Path:
    """Where the samples of one channel or track are kept, without what came from the others."""
    return cache_folder(media.fingerprint) / f"track-{track}-16k.i16"


def peaks_path(media: Media) -> Path:
    """Where the peaks of a recording are kept."""
    return cache_folder(media.fingerprint) / "peaks-16.npy"


def survey_path(media: Media) -> Path:
    """Where what a look over a recording found is kept."""
    return cache_folder(media.fingerprint) / "survey.json"


def is_read(media: Media) -> bool:
    """Whether the samples and the peaks are in the cache."""
    return sound_path(media).is_file() and peaks_path(media).is_file()


def trim_cache(keep: str, limit: int = LIMIT_BYTES) -> None:
    """Remove the longest unused recordings' folders until the cache is under its limit."""
    folders = sorted(
        (one for one in cache_root().glob("*") if one.is_dir()), key=lambda one: one.stat().st_mtime
    )
    sizes = {one: sum(file.stat().st_size for file in one.glob("*")) for one in folders}
    total = sum(sizes.values())
    for folder in folders:
        if total <= limit or folder.name == keep:
            continue
        shutil.rmtree(folder, ignore_errors=True)
        total -= sizes[folder]


def cache_size() -> int:
    """Bytes in the cache."""
    return sum(file.stat().st_size for file in cache_root().rglob("*") if file.is_file())


def empty_cache(keep: str = "") -> None:
    """Remove what can be computed again, but for the recording that is open.

    Parameters
    ----------
    keep : str
        Its fingerprint.
    """
    for folder in cache_root().glob("*"):
        if folder.is_dir() and folder.name != keep:
            shutil.rmtree(folder, ignore_errors=True)
