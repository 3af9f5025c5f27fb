"""The demo: recordings and projects that ship, copied to where the user may change them."""

from __future__ import annotations

import shutil
from pathlib import Path

import dubrel
from dubrel.base.catalogue import tr
from dubrel.base.errors import DubrelError
from dubrel.base.files import cause_of
from dubrel.base.folders import data_folder

NAMES = ("slow-water-7.dubrel", "slow-water-7.opus", "heron-film.dubrel", "heron-film.mp4")


def demo_project() -> Path:
    """A copy of the demo project in the user's own data folder, with its recordings.

    Raises
    ------
    DubrelError
        If the demo is not there, or there is no room for it.
    """
    folder, source = data_folder() / "demo", demo_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name in NAMES:
            target = folder / name
            if not target.exists() or target.stat().st_mtime < (source / name).stat().st_mtime:
                shutil.copy2(source / name, target)
    except OSError as error:
        raise DubrelError(
            tr("The demo cannot be copied to “{folder}”: {strerror}. Free some space and try again.").format(
                folder=folder, strerror=cause_of(error)
            )
        ) from error
    return folder / NAMES[0]


def demo_folder() -> Path:
    """Where the demo media are: beside the package in a checkout."""
    found = Path(dubrel.__file__).parent.parent / "demo"
    if not (found / NAMES[0]).is_file():
        raise DubrelError(
            tr("The demo project is not in “{found}”. Run dubrel from its own folder.").format(found=found)
        )
    return found
